"""The log of sessions taken away as XLSX or CSV, as far as the viewer may know of them."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import Literal
from zoneinfo import ZoneInfo

from nod.core.trail.entries import FactKind
from nod.formats.files.spreadsheet import Value
from nod.services.acts.answers import named
from nod.services.acts.context import Context
from nod.services.acts.seats import Actor
from nod.services.files.tables_out import Exported, LogAsked, log_out
from nod.services.sessions.sessions_view import AskedSessions, SessionLine, list_sessions

_PAGE = 200
_HEADS = (
    ("Number", 80), ("Name", 260), ("State", 70), ("Host", 180), ("Opens", 130), ("Closes", 130), ("Closed", 130),
    ("Sheets", 60), ("Invited", 60), ("Came", 60), ("Marks", 60), ("Open marks", 80),
)  # fmt: skip
"""And their widths in pixels."""


def take_log(context: Context, actor: Actor, asked: AskedSessions, form: Literal["xlsx", "csv"]) -> Exported:
    """Raises RuleBroken for more than goes into one file."""
    total = list_sessions(context, actor, replace(asked, limit=1)).total
    log = LogAsked(asked.project_id, "sessions", FactKind.SESSION_LOG_TAKEN, total, form)

    def rows(zone: ZoneInfo) -> Iterator[list[Value]]:
        for start in range(0, total, _PAGE):
            for line in list_sessions(context, actor, replace(asked, start=start, limit=_PAGE)).lines:
                yield _cells(line, zone)

    return log_out(context, actor, log, _HEADS, rows)


def _cells(line: SessionLine, zone: ZoneInfo) -> list[Value]:
    opens, closes = line.opens_at.astimezone(zone), line.closes_at.astimezone(zone)
    closed = line.closed_at.astimezone(zone) if line.closed_at else None
    return [
        line.number, line.name, line.state, named(line.host), opens, closes, closed, line.sheets, line.invited,
        line.came, line.marks, line.open_marks,
    ]  # fmt: skip
