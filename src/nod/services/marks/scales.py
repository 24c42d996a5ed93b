"""Scales of a sheet: stated, taken from two places, or the file's own; what marks measure by them (handbook §6)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field, Strict
from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.marks import lengths, measures, scales
from nod.core.marks.lengths import Units
from nod.core.marks.marks import MEASURES, MarkKind
from nod.core.marks.measures import Calibration
from nod.core.marks.scales import Box, Scale
from nod.core.sheet.sheet_sizes import MM_PER_INCH, POINTS_PER_INCH
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.formats.intake.pdf_measures import FileScale
from nod.services.access.visibility import see_revision
from nod.services.acts.answers import Answered, Command, Who, people_by_id
from nod.services.acts.context import Act, Context, acting
from nod.services.acts.seats import Actor
from nod.services.marks.mark_rows import shape_of
from nod.store.ids import new_id
from nod.store.tables import DocumentRow, MarkRow, PageRow, ProjectRow, RevisionRow, ScaleRow

Pair = Annotated[tuple[float, float], Strict(False)]
Corners = Annotated[tuple[float, float, float, float], Strict(False)]
_FILE = "file"


class SetScale(Command):
    """`ratio` like `1:100`; or two `points` with their `distance` in words and `aim_pt`, a screen pixel in points.

    `box` in points of user space for a region, left out for the whole page.
    """

    page: int = Field(ge=0)
    box: Corners | None = None
    ratio: str = ""
    points: list[Pair] = Field(default_factory=list)
    distance: str = ""
    aim_pt: float = Field(default=0.0, ge=0, le=1000)


class ShownScale(Answered):
    """`how` is stated, points or file. `mm_per_pt` is None where the file's scale is of no use; `warning` says why,

    or that it is more than 2 % from what the title block says.
    """

    id: str
    page: int
    box: tuple[float, float, float, float] | None
    how: Literal["stated", "points", "file"]
    said: str
    ratio: str
    mm_per_pt: float | None
    share: float
    warning: str
    set_by: Who | None
    set_at: datetime | None


class SheetScales(Answered):
    """`units` are the project's, `title_block` what the register says of the scale."""

    units: Literal["metric", "imperial"]
    title_block: str
    scales: list[ShownScale]
    may_set: bool


class MeasuredShown(Answered):
    """`value` in mm, mm² or degrees. `words` like `12.34 m ± 0.02 m`, `more` what else follows from it.

    `on_paper`: nothing is calibrated there, so it is millimetres of the sheet.
    """

    words: str
    value: float | None
    spread: float
    power: int
    on_paper: bool
    more: str = ""
    mm_per_pt: float | None = None
    imperial: bool = False


def list_scales(context: Context, actor: Actor, revision_id: str) -> SheetScales:
    with context.database.read() as session:
        revision, document, seat = see_revision(session, actor, revision_id, let_in=True)
        rows = _rows(session, revision_id)
        pages = _pages(session, revision)
        people = people_by_id(session, {row.set_by for row in rows})
        units = units_of(seat.project)
        stated = lengths.read_ratio(document.scale)
        own = [_shown(row, pages[row.page], people, stated) for row in rows if row.page in pages]
        may_set = seat.at(document.folder_id) >= Level.MARK and actor.looker is None
        files = [each for page in pages.values() for each in _of_file(page, stated)]
        return SheetScales(units=units, title_block=document.scale, scales=[*files, *own], may_set=may_set)


def units_of(project: ProjectRow) -> Units:
    return "imperial" if project.profile.get("units") == "imperial" else "metric"


def _rows(session: Session, revision_id: str) -> list[ScaleRow]:
    query = select(ScaleRow).where(ScaleRow.revision_id == revision_id, ScaleRow.removed_at.is_(None))
    return list(session.scalars(query.order_by(ScaleRow.set_at)))


def pages_of(session: Session, revision: RevisionRow) -> list[PageRow]:
    query = select(PageRow).where(PageRow.sha256 == revision.sha256).order_by(PageRow.place)
    return list(session.scalars(query))


def _pages(session: Session, revision: RevisionRow) -> dict[int, PageRow]:
    return {row.place: row for row in pages_of(session, revision)}


def points_per_mm(page: PageRow) -> float:
    return POINTS_PER_INCH / MM_PER_INCH / page.user_unit


def _shown(row: ScaleRow, page: PageRow, people: dict[str, Who], stated: float | None) -> ShownScale:
    ratio = row.mm_per_pt * points_per_mm(page)
    return ShownScale(
        id=row.id, page=row.page, box=(row.box[0], row.box[1], row.box[2], row.box[3]) if row.box else None,
        how="stated" if row.how == "stated" else "points", said=row.said, ratio=lengths.ratio_in_words(ratio),
        mm_per_pt=row.mm_per_pt, share=row.share, warning=_warning(ratio, stated), set_by=people.get(row.set_by),
        set_at=row.set_at,
    )  # fmt: skip


def _warning(ratio: float, stated: float | None) -> str:
    off = scales.apart(ratio, stated)
    if off is None or stated is None:
        return ""
    way = "more" if off > 0 else "less"
    return f"{100 * abs(off):.1f} % {way} than the title block says ({lengths.ratio_in_words(stated)})."


def _of_file(page: PageRow, stated: float | None) -> list[ShownScale]:
    shown = []
    for place, each in enumerate(_file_scales(page)):
        ratio = each.mm_per_pt * points_per_mm(page) if each.mm_per_pt else None
        shown.append(
            ShownScale(
                id=f"file-{page.place}-{place}", page=page.place, box=each.box, how="file", said=each.name,
                ratio=lengths.ratio_in_words(ratio) if ratio else "", mm_per_pt=each.mm_per_pt, share=0.0,
                warning=each.trouble or (_warning(ratio, stated) if ratio else ""), set_by=None, set_at=None,
            )
        )  # fmt: skip
    return shown


def _file_scales(page: PageRow) -> list[FileScale]:
    """Of the file's own measure dictionaries. Pages read by earlier versions know no regions, only ratios."""
    kept = page.contents.get("file_scales")
    if kept is not None:
        return [FileScale(**{**each, "box": tuple(each["box"])}) for each in kept]
    ratios = page.contents.get("scales") or []
    whole = (page.left, page.bottom, page.right, page.top)
    return [FileScale(whole, ratios[0] / points_per_mm(page))] if len(ratios) == 1 else []


def set_scale(context: Context, actor: Actor, revision_id: str, command: SetScale) -> None:
    """Calibrates a page or a region of it for everybody; a scale set before for the same place is replaced."""
    with acting(context, actor) as act:
        revision, document, seat = see_revision(act.session, actor, revision_id, Level.MARK)
        page = _pages(act.session, revision).get(command.page)
        if page is None:
            raise RuleBroken("page_missing", f"The sheet has no page {command.page + 1}.", document.number)
        calibration, how, said = _calibration(command, page, units_of(seat.project))
        box = scales.check_region(command.box) if command.box else None
        for row in _rows(act.session, revision_id):
            if row.page == command.page and (tuple(row.box) if row.box else None) == box:
                row.removed_at = act.at
        new = ScaleRow(
            id=new_id(), revision_id=revision_id, page=command.page, box=list(box) if box else None, how=how,
            said=said, mm_per_pt=calibration.mm_per_pt, share=calibration.share, set_by=actor.person_id, set_at=act.at,
        )  # fmt: skip
        act.session.add(new)
        record_scale(act, document, new, FactKind.SCALE_SET, page)


def _calibration(command: SetScale, page: PageRow, units: Units) -> tuple[Calibration, str, str]:
    if command.ratio.strip():
        ratio = lengths.read_ratio(command.ratio)
        if ratio is None:
            raise RuleBroken("scale_unfit", f"“{command.ratio[:40]}” is no scale. Write it like 1:100.")
        return measures.by_ratio(ratio, points_per_mm(page)), "stated", lengths.ratio_in_words(ratio)
    if len(command.points) != 2:
        raise RuleBroken("scale_unfit", "Say the scale, or show two places and say how far apart they are.")
    first, second = command.points
    real = lengths.read_length(command.distance, units)
    return measures.by_two_points(first, second, real, command.aim_pt), "points", " ".join(command.distance.split())


def record_scale(act: Act, document: DocumentRow, row: ScaleRow, kind: FactKind, page: PageRow) -> None:
    ratio = lengths.ratio_in_words(row.mm_per_pt * points_per_mm(page))
    said = {"page": row.page + 1, "scale": ratio, "from": row.said, "region": row.box}
    side = {key: value for key, value in said.items() if value is not None}
    fact = Fact(
        kind, Subject("document", document.id), f"scale of {document.number} {document.revision}",
        (Subject("revision", row.revision_id),), before=side if kind == FactKind.SCALE_REMOVED else {},
        after=side if kind == FactKind.SCALE_SET else {},
    )  # fmt: skip
    act.record(document.project_id, fact)
    act.tell(document.project_id, "marks", row.revision_id, {document.folder_id})


def remove_scale(context: Context, actor: Actor, revision_id: str, scale_id: str) -> None:
    """What was measured there is told in millimetres of paper again, or by the scale around it."""
    with acting(context, actor) as act:
        revision, document, _ = see_revision(act.session, actor, revision_id, Level.MARK)
        row = act.session.get(ScaleRow, scale_id)
        if row is None or row.revision_id != revision_id or row.removed_at:
            raise NotFound(scale_id)
        row.removed_at = act.at
        record_scale(act, document, row, FactKind.SCALE_REMOVED, _pages(act.session, revision)[row.page])


@dataclass(frozen=True)
class Measurer:
    """What a revision's marks are measured with."""

    units: Units
    by_page: dict[int, list[Scale]]
    paper: dict[int, Calibration]

    def check(self, row: MarkRow) -> None:
        """Raises RuleBroken for a measure that has no one right value."""
        shape = shape_of(row)
        kind, points = shape.kind, list(shape.points)
        measures.check_measurable(kind, points, list(shape.rings))
        if kind in MEASURES and kind is not MarkKind.ANGLE:
            scales.scale_of(points, self.by_page.get(row.page, []))

    def of(self, row: MarkRow) -> MeasuredShown | None:
        """None for marks that measure nothing."""
        shape = shape_of(row)
        kind, points = shape.kind, list(shape.points)
        if kind not in MEASURES:
            return None
        try:
            scale = None if kind is MarkKind.ANGLE else scales.scale_of(points, self.by_page.get(row.page, []))
        except RuleBroken as across:
            return MeasuredShown(
                words="scales differ", value=None, spread=0, power=0, on_paper=False, more=across.words
            )
        calibration = scale.calibration if scale else self.paper.get(row.page, Calibration(1.0))
        found = measures.measure(kind, points, list(shape.rings), calibration, row.aim_pt)
        on_paper = scale is None and kind is not MarkKind.ANGLE
        return MeasuredShown(
            words=lengths.in_words(found, self.units, paper=on_paper), value=found.value, spread=found.spread,
            power=found.power, on_paper=on_paper, more=self._more(kind, row, calibration, paper=on_paper),
            mm_per_pt=scale.calibration.mm_per_pt if scale else None, imperial=self.units == "imperial",
        ) if found else None  # fmt: skip

    def _more(self, kind: MarkKind, row: MarkRow, calibration: Calibration, *, paper: bool) -> str:
        if kind is not MarkKind.AREA:
            return ""
        shape = shape_of(row)
        around = measures.perimeter(list(shape.points), list(shape.rings), calibration, row.aim_pt)
        return f"around it {lengths.in_words(around, self.units, paper=paper)}"


def measurer_for(session: Session, revision: RevisionRow, units: Units, rows: Sequence[MarkRow]) -> Measurer:
    """Asks for pages and scales only where something is measured."""
    pages = _pages(session, revision) if any(row.kind in MEASURES for row in rows) else {}
    by_page: dict[int, list[Scale]] = {}
    for page in pages.values():
        for each in _file_scales(page):
            if each.mm_per_pt:
                by_page.setdefault(page.place, []).append(Scale(_FILE, each.box, Calibration(each.mm_per_pt)))
    if pages:
        for row in _rows(session, revision.id):
            scale = Scale(row.id, _box(row), Calibration(row.mm_per_pt, row.share))
            by_page.setdefault(row.page, []).append(scale)
    paper = {page.place: Calibration(1 / points_per_mm(page)) for page in pages.values()}
    return Measurer(units, by_page, paper)


def _box(row: ScaleRow) -> Box | None:
    return (row.box[0], row.box[1], row.box[2], row.box[3]) if row.box else None
