"""What has been measured on a sheet, with totals by label, on the screen and as a table (handbook §6)."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

from nod.core.marks import lengths
from nod.core.marks.lengths import MM_PER_FOOT, Units
from nod.core.marks.marks import MarkKind
from nod.core.marks.measures import Measured
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.formats.files.spreadsheet import Value
from nod.services.access.visibility import see_revision
from nod.services.acts.answers import Answered
from nod.services.acts.context import Context, acting
from nod.services.acts.seats import Actor
from nod.services.files.tables_out import Exported, table_out
from nod.services.marks.marks_view import Mark, list_marks
from nod.services.marks.scales import units_of
from nod.services.register.documents import sendable_name

_HEADS = ("Kind", "Label", "Text", "Page", "Value", "Unit", "±", "In words", "Author", "Company")
_WIDTHS = (90, 140, 260, 50, 90, 60, 80, 160, 140, 70)


class MeasureTotal(Answered):
    """All measures of one kind under one label. `words` are empty where some lie on an uncalibrated part."""

    label: str
    kind: str
    count: int
    words: str
    uncalibrated: int


class MeasureTotals(Answered):
    totals: list[MeasureTotal]


@dataclass(frozen=True)
class _Line:
    mark: Mark
    measured: Measured
    on_paper: bool


def list_measures(context: Context, actor: Actor, revision_id: str) -> MeasureTotals:
    """Of all measures that the actor sees: ink, and their own pencil."""
    with context.database.read() as session:
        units = units_of(see_revision(session, actor, revision_id, let_in=True)[2].project)
    return MeasureTotals(totals=list(_totals(_lines(list_marks(context, actor, revision_id)), units)))


def _lines(marks: Sequence[Mark]) -> list[_Line]:
    found = []
    for mark in marks:
        if mark.kind == "count":
            found.append(_Line(mark, Measured(float(len(mark.points)), 0, 0), on_paper=False))
        elif mark.measured and mark.measured.value is not None:
            shown = mark.measured
            found.append(_Line(mark, Measured(mark.measured.value, shown.spread, shown.power), shown.on_paper))
    return found


def _totals(lines: Sequence[_Line], units: Units) -> Iterable[MeasureTotal]:
    groups: dict[tuple[str, str], list[_Line]] = {}
    for line in lines:
        groups.setdefault((line.mark.label, line.mark.kind), []).append(line)
    for (label, kind), group in sorted(groups.items()):
        bare = sum(line.on_paper for line in group)
        words = "" if bare else _sum_in_words(kind, [line.measured for line in group], units)
        yield MeasureTotal(label=label, kind=kind, count=len(group), words=words, uncalibrated=bare)


def _sum_in_words(kind: str, all_measured: Sequence[Measured], units: Units) -> str:
    """Nothing for angles, which have no sum that means something."""
    if kind == MarkKind.ANGLE:
        return ""
    value = sum(each.value for each in all_measured)
    if kind == MarkKind.COUNT:
        return f"{value:.0f}"
    # Measures on one sheet share their scale, so their uncertainties are added up, not squared.
    spread = sum(each.spread for each in all_measured)
    return lengths.in_words(Measured(value, spread, all_measured[0].power), units)


def export_measures(context: Context, actor: Actor, revision_id: str, form: Literal["xlsx", "csv"]) -> Exported:
    """Every measure in ink that everybody reads, and the totals by label below. Recorded as every download is."""
    lines = _lines([mark for mark in list_marks(context, actor, revision_id) if mark.inked_at and not mark.readers])
    with acting(context, actor) as act:
        revision, document, seat = see_revision(act.session, actor, revision_id)
        units = units_of(seat.project)
        after = {"measures": len(lines), "as": form}
        fact = Fact(
            FactKind.MARKS_EXPORTED, Subject("document", document.id), f"{document.number} {revision.code}",
            (Subject("revision", revision_id),), after=after,
        )  # fmt: skip
        act.record(document.project_id, fact)
        stem = sendable_name(document.number, revision.code, revision.status, "x").removesuffix(".x")
    rows = [*(_row(line, units) for line in lines), *_total_rows(lines, units)]
    return table_out(context, f"{stem}_measures", form, list(zip(_HEADS, _WIDTHS, strict=True)), rows)


def _row(line: _Line, units: Units) -> list[Value]:
    size, unit = _unit(line, units)
    mark, measured = line.mark, line.measured
    words = mark.measured.words if mark.measured else f"{measured.value:.0f}"
    return [
        mark.kind.capitalize(), mark.label, mark.text, mark.page + 1, round(measured.value / size, 6), unit,
        round(2 * measured.spread / size, 6), words, mark.author.name, mark.author.company,
    ]  # fmt: skip


def _unit(line: _Line, units: Units) -> tuple[float, str]:
    """What a value is divided by for the table, and the unit it is in then."""
    if line.measured.power == 0:
        return 1.0, "pieces" if line.mark.kind == "count" else "°"
    square = line.measured.power == 2
    if line.on_paper:
        return 1.0, "mm² on paper" if square else "mm on paper"
    size, unit = (1000.0, "m") if units == "metric" else (MM_PER_FOOT, "ft")
    return (size**2, f"{unit}²") if square else (size, unit)


def _total_rows(lines: Sequence[_Line], units: Units) -> Iterable[list[Value]]:
    for total in _totals(lines, units):
        words = total.words or (f"{total.uncalibrated} without a scale" if total.uncalibrated else "")
        yield [f"Total {total.kind}", total.label, f"{total.count} measured", None, None, "", None, words, "", ""]
