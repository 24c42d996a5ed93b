"""Open marks of the revision before, carried forward to a new one, one by one or all (handbook §6)."""

from __future__ import annotations

from dataclasses import asdict, dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session, aliased

from nod.core.access.levels import Level
from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.compare.laid import FOUND
from nod.core.marks import carried_marks
from nod.core.marks.marks import MarkState
from nod.core.sheet.geometry import Point
from nod.core.trail.entries import FactKind
from nod.services.access.visibility import see_revision
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Context, acting
from nod.services.acts.seats import Actor, Seat
from nod.services.compare.laid_over import SheetSide, compared, side_of, title_block
from nod.services.compare.revision_changes import revision_before
from nod.services.marks.live_marks import tell
from nod.services.marks.mark_rows import is_read_by, marks_with_threads, shape_of
from nod.services.marks.marks import content_of, record
from nod.services.marks.marks_view import Mark, show_marks
from nod.services.marks.scales import points_per_mm
from nod.services.press.press import Press
from nod.services.sheet.title_blocks import box_of
from nod.store.ids import new_id
from nod.store.tables import MarkRow, PageRow, RevisionRow, ThreadRow


class Carriable(Answered):
    """An open mark of the revision before; whether the drawing under it has changed since."""

    mark: Mark
    touched: bool


class CarryList(Answered):
    """`from_revision` is empty for a first revision. `pages_gone`: marks on pages that the new file does not have."""

    from_revision: str
    marks: list[Carriable]
    pages_gone: int


class CarryMarks(Command):
    marks: list[str]


@dataclass(frozen=True)
class _Placed:
    points: list[Point]
    touched: bool


def list_carriable(context: Context, press: Press, actor: Actor, revision_id: str) -> CarryList:
    with context.database.read() as session:
        revision, _, seat = see_revision(session, actor, revision_id)
        before = revision_before(session, revision)
        rows = _open_marks(session, seat, before, revision_id) if before else []
        if before is None or not rows:
            return CarryList(from_revision=before.code if before else "", marks=[], pages_gone=0)
        shown = {mark.id: mark for mark in show_marks(session, actor, rows)}
    placed = _placed(context, press, actor, before.id, revision_id, rows)
    found = [Carriable(mark=shown[row.id], touched=placed[row.id].touched) for row in rows if row.id in placed]
    return CarryList(from_revision=before.code, marks=found, pages_gone=len(rows) - len(found))


def _open_marks(session: Session, seat: Seat, before: RevisionRow, revision_id: str) -> list[MarkRow]:
    """Ink that is for the seat, open and has not been carried to this revision yet."""
    other = aliased(MarkRow)
    carried = select(other.id).where(other.carried_from == MarkRow.id, other.revision_id == revision_id)
    query = marks_with_threads().where(
        MarkRow.revision_id == before.id, MarkRow.removed_at.is_(None), ThreadRow.shared_at.is_not(None),
        ThreadRow.state == MarkState.OPEN, ~carried.exists(), is_read_by(seat),
    )  # fmt: skip
    return list(session.scalars(query.order_by(MarkRow.page, MarkRow.rank, MarkRow.seq)))


def _placed(
    context: Context, press: Press, actor: Actor, before_id: str, after_id: str, rows: list[MarkRow]
) -> dict[str, _Placed]:
    """By mark, where it comes to lie. Comparing takes seconds for a large sheet, so it is done outside of any act."""
    found: dict[str, _Placed] = {}
    for page in {row.page for row in rows}:
        with context.database.read() as session:
            after = session.get_one(RevisionRow, after_id)
            if session.get(PageRow, (after.sha256, page)) is None:
                continue
            sides = tuple(side_of(session, actor, each, page) for each in (before_id, after_id))
            left_out = title_block(session, sides[1])
        answer = compared(context, press, (sides[0].leaf, sides[1].leaf), left_out, FOUND, after_id)
        for row in rows:
            if row.page == page:
                found[row.id] = _lay(row, sides[0], sides[1], answer["compared"])
    return found


def _lay(row: MarkRow, before: SheetSide, after: SheetSide, answer: dict[str, list[list[float]]]) -> _Placed:
    (a, c, e), (b, d, f) = answer["moved"]
    old, new = box_of(before.page).to_view(), box_of(after.page).to_view()
    scales = points_per_mm(before.page), points_per_mm(after.page)
    way = carried_marks.way(old, new, ((a, c, e), (b, d, f)), *scales)
    shape = shape_of(row)
    points = [way.apply(point) for point in shape.points]
    seen_mm = [(x / scales[1], y / scales[1]) for x, y in (new.apply(point) for point in points)]
    changes = [tuple(each["box"]) for each in answer["changes"]]  # type: ignore[call-overload]
    return _Placed(points, carried_marks.is_touched(carried_marks.under(shape.kind, seen_mm), changes))


def carry_marks(context: Context, press: Press, actor: Actor, revision_id: str, command: CarryMarks) -> list[Mark]:
    """Each keeps its author, its thread and its first place. Raises NotFound for one that cannot be carried here."""
    with context.database.read() as session:
        revision, _, seat = see_revision(session, actor, revision_id, Level.MARK)
        if not command.marks:
            raise RuleBroken("nothing_chosen", "Choose the marks that are to come along.")
        before = revision_before(session, revision)
        rows = _open_marks(session, seat, before, revision_id) if before else []
    wanted = [row for row in rows if row.id in set(command.marks)]
    if before is None or len(wanted) < len(set(command.marks)):
        raise NotFound(revision_id)
    placed = _placed(context, press, actor, before.id, revision_id, wanted)
    with acting(context, actor) as act:
        revision, document, seat = see_revision(act.session, actor, revision_id, Level.MARK)
        still = {row.id: row for row in _open_marks(act.session, seat, before, revision_id)}
        if any(row.id not in still or row.id not in placed for row in wanted):
            raise NotFound(revision_id)
        taken = set(act.session.scalars(select(MarkRow.pin_number).where(MarkRow.revision_id == revision_id)))
        made = []
        for old in (still[row.id] for row in wanted):
            made.append(_carried(old, revision_id, placed[old.id], taken))
        act.session.add_all(made)
        act.session.flush()
        for row in made:
            said = {**content_of(row), "from": before.code, "touched": row.touched}
            record(act, document, row, FactKind.MARK_CARRIED, after=said)
        return tell(act, document, made, made)


def _carried(old: MarkRow, revision_id: str, placed: _Placed, taken: set[int | None]) -> MarkRow:
    number = old.pin_number
    if number is not None:
        number = number if number not in taken else max(each or 0 for each in taken) + 1
        taken.add(number)
    shape = shape_of(old)
    return MarkRow(
        id=new_id(), thread=old.thread, document_id=old.document_id, revision_id=revision_id, page=old.page,
        kind=shape.kind.value, points=[list(point) for point in placed.points], rings=list(shape.rings),
        aim_pt=old.aim_pt, look=asdict(shape.look), rank=old.rank, locked=False, label=old.label,
        discipline=old.discipline, pin_number=number, carried_from=old.id, touched=placed.touched,
        changed_at=old.changed_at, version=1,
    )  # fmt: skip
