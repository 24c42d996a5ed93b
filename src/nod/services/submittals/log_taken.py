"""The log of submittals taken away as XLSX or CSV, as it is narrowed and sorted, as far as the viewer sees it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from typing import Literal
from zoneinfo import ZoneInfo

from sqlalchemy import select

from nod.core.submittals.columns import LABELS
from nod.core.trail.entries import FactKind
from nod.formats.files.spreadsheet import Value
from nod.services.acts.context import Context
from nod.services.acts.seats import Actor
from nod.services.files.tables_out import Exported, LogAsked, log_out
from nod.services.submittals.log import AskedSubmittals, SubmittalLine, list_submittals
from nod.store.dialects.sqlite import one_of
from nod.store.tables import PersonRow, SubmittalRow

_PAGE = 200
_HEADS = (
    ("Number", 100), ("Revision", 60), ("Title", 280), ("Kind", 110), ("Section", 80), ("Responsible", 180),
    ("With", 160), ("Since", 130), ("Due", 90), ("State", 100), ("Verdict", 60), ("Required on site", 110),
    ("Latest send-in", 100), ("Forecast on site", 110), ("Delivered", 90), ("Float, working days", 120),
)  # fmt: skip
"""And their widths in pixels."""
_DETAILS = (
    "paragraph", "approver", "lead", "lead_in", "review_days", "rounds", "preparation", "planned_on", "description",
    "reference", "category", "location", "milestone",
)  # fmt: skip
"""The further columns, so that the log that was taken can be taken in again (`core.submittals.columns`)."""


def take_log(context: Context, actor: Actor, asked: AskedSubmittals, form: Literal["xlsx", "csv"]) -> Exported:
    """Raises RuleBroken for more than goes into one file."""
    total = list_submittals(context, actor, replace(asked, limit=1)).total
    log = LogAsked(asked.project_id, "submittals", FactKind.SUBMITTAL_LOG_TAKEN, total, form)

    def rows(zone: ZoneInfo) -> Iterator[list[Value]]:
        for start in range(0, total, _PAGE):
            lines = list_submittals(context, actor, replace(asked, start=start, limit=_PAGE)).lines
            details = _details(context, [line.id for line in lines])
            for line in lines:
                yield [*_cells(line, zone), *details[line.id]]

    heads = (*_HEADS, *((LABELS[each], 110) for each in _DETAILS))
    return log_out(context, actor, log, heads, rows)


def _details(context: Context, ids: Sequence[str]) -> dict[str, list[Value]]:
    """Of lines that the viewer has been shown."""
    plain = [each for each in _DETAILS if each != "approver"]
    with context.database.read() as session:
        columns = [getattr(SubmittalRow, each) for each in plain]
        query = select(SubmittalRow.id, PersonRow.name, *columns).outerjoin(
            PersonRow, PersonRow.id == SubmittalRow.approver_id
        )
        found = {}
        for id, approver, *values in session.execute(query.where(one_of(SubmittalRow.id, list(ids)))):
            by_name = dict(zip(plain, values, strict=True)) | {"approver": approver}
            found[id] = [by_name[each] for each in _DETAILS]
        return found


def _cells(line: SubmittalLine, zone: ZoneInfo) -> list[Value]:
    standing = line.standing
    since = standing.since_at.astimezone(zone) if standing.since_at else None
    return [
        line.number, line.revision, line.title, line.kind_words, line.section, f"{line.company} {line.company_name}",
        standing.with_whom, since, standing.due_on, line.state, line.verdict, line.required_on, line.latest_on,
        line.forecast_on, line.delivered_on, line.float_days,
    ]  # fmt: skip
