"""Marking in a session: what is drawn is said there, in ink at once or in pencil (handbook §7)."""

from __future__ import annotations

from pydantic import Field
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.acts.refusals import NotFound
from nod.core.marks.readers import EVERYBODY, for_group
from nod.core.sessions.sessions import Deed
from nod.services.access.visibility import see_revision
from nod.services.acts.answers import Command
from nod.services.acts.context import Context, acting
from nod.services.acts.seats import Actor
from nod.services.marks.live_marks import tell
from nod.services.marks.mark_threads import ink
from nod.services.marks.marks import NewMark, put_marks
from nod.services.marks.marks_view import Mark
from nod.services.marks.readers import group_for
from nod.services.sessions.session_rows import enter
from nod.store.tables import SessionSheetRow


class DrawInSession(Command):
    """In ink for its readers, as `InkMarks` names them, or in pencil."""

    marks: list[NewMark] = Field(min_length=1)
    ink: bool = True
    readers: str = EVERYBODY
    group: str = ""


def need_sheet(session: Session, session_id: str, revision_id: str) -> None:
    """Raises NotFound for a revision that is not in the session, or not any more."""
    sheet = session.get(SessionSheetRow, (session_id, revision_id))
    if sheet is None or sheet.left_at is not None:
        raise NotFound(revision_id)


def draw_in_session(
    context: Context, actor: Actor, session_id: str, revision_id: str, command: DrawInSession
) -> list[Mark]:
    with acting(context, actor) as act:
        entered = enter(act.session, actor, session_id)
        need_sheet(act.session, session_id, revision_id)
        entered.check(Deed.MARK)
        revision, document, _ = see_revision(act.session, actor, revision_id, Level.MARK, let_in=True)
        rows = put_marks(act, document, revision, command.marks, session_id)
        if command.ink:
            readers = for_group(group_for(act.session, actor, revision_id, command.readers, command.group))
            ink(act, document, rows, readers)
        return tell(act, document, rows, rows)
