"""Marks as things: the thread, wherever it lies. Ink is there for its readers, pencil for its author."""

from __future__ import annotations

from typing import Any

from sqlalchemy import Select, select
from sqlalchemy.orm import Session

from nod.services.acts.seats import Seat
from nod.services.marks.readers import (
    companies_of_thread,
    guests_of_thread,
    is_between_those_who_meet,
    is_for_everybody,
    is_for_those_who_run,
    people_of_thread,
)
from nod.services.things.audiences import AudienceOf
from nod.services.things.kinds import ThingKind, thing_kind
from nod.store.asides import aside, asides
from nod.store.dialects.sqlite import WordIndex, words_in
from nod.store.register_query import plain_words
from nod.store.tables import DocumentRow, ThreadRow

_LONGEST = 80
MARK_THREAD = "mark"
"""The kind of threads that have places on sheets."""


def _folder(thread_id: Any) -> Select[Any]:
    thread, document = asides("marks_folder", ThreadRow, DocumentRow)
    query = select(document.folder_id).join(thread, thread.on_id == document.id)
    return query.where(thread.id == thread_id, thread.kind == MARK_THREAD, ~is_between_those_who_meet(thread.id))


def _author(thread_id: Any) -> Select[Any]:
    thread = aside("marks_author", ThreadRow)
    here = (thread.id == thread_id, thread.kind == MARK_THREAD, thread.author_id.is_not(None))
    return select(thread.author_id).where(*here)


def _find(session: Session, seat: Seat, words: str, most: int) -> list[ThreadRow]:
    """By what is said in them, the newest first."""
    if not plain_words(words):
        return []
    index, seq, match = words_in(WordIndex.THREADS, plain_words(words))
    query = select(ThreadRow).select_from(index).join(ThreadRow, ThreadRow.seq == seq)
    here = (ThreadRow.project_id == seat.project.id, ThreadRow.kind == MARK_THREAD, THREAD.seen(seat))
    return list(session.scalars(query.where(match, *here).order_by(ThreadRow.said_at.desc()).limit(most)))


THREAD: ThingKind[ThreadRow] = thing_kind(
    ThingKind(
        code="thread",
        words="mark",
        plural="marks",
        row=ThreadRow,
        audience=AudienceOf(
            folders=(_folder,),
            people=(_author, people_of_thread, guests_of_thread),
            companies=(companies_of_thread,),
            is_open=is_for_everybody,
            leads=is_for_those_who_run,
            stewards=is_for_those_who_run,
        ),
        number=lambda row: "",
        title=lambda row: row.text[:_LONGEST] or "a mark without words",
        address=lambda row: f"/marks/{row.id}",
        named_by=(ThreadRow.text,),
        listed=(ThreadRow.id, ThreadRow.text),
        newest=ThreadRow.said_at,
        topic="marks",
        find=_find,
        part_of="document",
        placed=True,
        has_talk=False,
    )
)
