"""What happened in a session, for who comes late or reads it afterwards: as far as they read it (handbook §7)."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime
from typing import Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.marks.marks import MarkState
from nod.services.acts.answers import Answered, people_by_id
from nod.services.acts.context import Context
from nod.services.acts.seats import Actor
from nod.services.marks.kind import THREAD
from nod.services.sessions.session_rows import Entered, enter
from nod.services.threads.said import author_ids, author_of, reply_rows
from nod.store.tables import DocumentRow, MarkRow, RevisionRow, SessionVisitRow, ThreadRow

MOST = 500


class Happening(Answered):
    """`did` is what somebody did; `text` what they said with it. Where it was on a sheet, it says where."""

    at: datetime
    did: Literal["marked", "answered", "set", "came"]
    name: str
    company: str
    text: str
    state: str
    revision_id: str
    sheet: str
    mark_id: str
    page: int


class Happenings(Answered):
    """The newest first, at most 500; `more` where there were others before."""

    happened: list[Happening]
    more: bool


def read_happenings(context: Context, actor: Actor, session_id: str) -> Happenings:
    with context.database.read() as session:
        entered = enter(session, actor, session_id)
        found = [*_came(session, session_id), *_said(session, entered)]
        found.sort(key=lambda each: (each.at, each.mark_id), reverse=True)
        return Happenings(happened=found[:MOST], more=len(found) > MOST)


def _came(session: Session, session_id: str) -> Iterator[Happening]:
    for row in session.scalars(select(SessionVisitRow).where(SessionVisitRow.session_id == session_id)):
        yield Happening(
            at=row.came_at, did="came", name=row.name, company=row.company, text="", state="", revision_id="",
            sheet="", mark_id="", page=0,
        )  # fmt: skip


def _said(session: Session, entered: Entered) -> Iterator[Happening]:
    query = (
        select(ThreadRow, MarkRow, RevisionRow.code, DocumentRow.number)
        .join(MarkRow, MarkRow.id == ThreadRow.id)
        .join(RevisionRow, RevisionRow.id == MarkRow.revision_id)
        .join(DocumentRow, DocumentRow.id == MarkRow.document_id)
        .where(
            ThreadRow.session_id == entered.row.id, ThreadRow.shared_at.is_not(None), MarkRow.removed_at.is_(None),
            THREAD.seen(entered.seat),
        )
        .order_by(ThreadRow.seq.desc())
        .limit(MOST)
    )  # fmt: skip
    rows = session.execute(query).all()
    replies = reply_rows(session, [thread.id for thread, *_ in rows])
    threads = [thread for thread, *_ in rows]
    people = people_by_id(session, author_ids([*threads, *replies]) | {each.state_by for each in threads} - {""})
    of = {thread.id: (mark, f"{number} {code}") for thread, mark, code, number in rows}

    def happening(thread_id: str, at: datetime, did: str, who: tuple[str, str], text: str, state: str) -> Happening:
        mark, sheet = of[thread_id]
        return Happening(
            at=at, did=did, name=who[0], company=who[1], text=text[:300], state=state,
            revision_id=mark.revision_id, sheet=sheet, mark_id=mark.id, page=mark.page,
        )  # fmt: skip

    for thread in threads:
        author = author_of(thread, people)
        said_at = thread.shared_at or thread.said_at
        yield happening(thread.id, said_at, "marked", (author.name, author.company), thread.text, "")
        if thread.state != MarkState.OPEN.value and thread.state_at and thread.state_by in people:
            who = people[thread.state_by]
            yield happening(thread.id, thread.state_at, "set", (who.name, who.company), thread.text, thread.state)
    for reply in replies:
        author = author_of(reply, people)
        yield happening(reply.thread_id, reply.at, "answered", (author.name, author.company), reply.text, "")
