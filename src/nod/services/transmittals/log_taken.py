"""The log of transmittals taken away as XLSX or CSV: a line for each recipient, as far as the viewer may know."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from datetime import datetime
from typing import Literal
from zoneinfo import ZoneInfo

from sqlalchemy import select

from nod.core.trail.entries import FactKind
from nod.formats.files.spreadsheet import Value
from nod.services.acts.answers import named
from nod.services.acts.context import Context
from nod.services.acts.seats import Actor, take_seat
from nod.services.files.tables_out import Exported, LogAsked, log_out
from nod.services.transmittals.log import AskedLog, list_log
from nod.services.transmittals.receipts import RecipientShown, receipts_of
from nod.services.transmittals.transmittals_view import TransmittalLine, sees_receipts
from nod.store.dialects.sqlite import one_of
from nod.store.tables import TransmittalRow

_PAGE = 500
_HEADS = (
    ("Number", 90), ("Purpose", 120), ("Sent by", 180), ("Sent", 130), ("Documents", 70), ("Answer wanted by", 100),
    ("Recipient", 180), ("Copied", 60), ("Mailed", 130), ("Opened", 130), ("Downloaded", 130),
    ("Files one by one", 80), ("Acknowledged", 130), ("By", 60), ("Note", 260), ("Mail came back", 130), ("Why", 200),
    ("Link", 90), ("Void", 50),
)  # fmt: skip
"""And their widths in pixels."""


def take_log(context: Context, actor: Actor, asked: AskedLog, form: Literal["xlsx", "csv"]) -> Exported:
    """Raises RuleBroken for more than goes into one file."""
    total = list_log(context, actor, replace(asked, limit=1)).total
    log = LogAsked(asked.project_id, "transmittals", FactKind.TRANSMITTAL_LOG_TAKEN, total, form)
    return log_out(context, actor, log, _HEADS, lambda zone: _rows(context, actor, asked, zone, total))


def _rows(context: Context, actor: Actor, asked: AskedLog, zone: ZoneInfo, total: int) -> Iterator[list[Value]]:
    for start in range(0, total, _PAGE):
        lines = list_log(context, actor, replace(asked, start=start, limit=_PAGE)).lines
        with context.database.read() as session:
            seat = take_seat(session, actor, asked.project_id)
            rows = select(TransmittalRow).where(one_of(TransmittalRow.id, [each.id for each in lines]))
            whose = {
                row.id: None if sees_receipts(row, actor, seat) else actor.company_id for row in session.scalars(rows)
            }
            receipts = receipts_of(session, whose, context.clock.now())
        for line in lines:
            for recipient in receipts[line.id]:
                yield _cells(line, recipient, zone)


def _cells(line: TransmittalLine, to: RecipientShown, zone: ZoneInfo) -> list[Value]:
    def local(at: datetime | None) -> datetime | None:
        return at.astimezone(zone) if at else None

    return [
        line.number, line.purpose, named(line.sent_by), local(line.sent_at), line.documents, line.answer_wanted_on,
        named(to.who), "yes" if to.copied else None, local(to.mailed_at), local(to.opened_at),
        local(to.downloaded_at), len(to.files_taken) or None, local(to.acknowledged_at), to.acknowledged_how or None,
        to.acknowledged_note or None, local(to.bounced_at), to.bounced_why or None, to.link_closed or None,
        "yes" if line.void else None,
    ]  # fmt: skip
