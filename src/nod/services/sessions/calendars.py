"""The time of a session as a calendar file (RFC 5545)."""

from __future__ import annotations

from nod.formats.files.calendar_file import write_meeting
from nod.services.acts.answers import people_by_id
from nod.services.acts.context import Context
from nod.services.acts.seats import Actor
from nod.services.sessions.invitations import meeting_of
from nod.services.sessions.session_rows import enter


def calendar_file(context: Context, actor: Actor, session_id: str) -> tuple[bytes, str]:
    """And its name."""
    with context.database.read() as session:
        entered = enter(session, actor, session_id)
        row = entered.row
        host = people_by_id(session, {row.host_id})[row.host_id]
        return write_meeting(meeting_of(context, entered.seat.project, row, host.name)), f"{row.number}.ics"
