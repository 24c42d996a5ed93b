"""Who is told of a mark: its author of answers, those whom it names, and the one for whom it is (handbook §6)."""

from __future__ import annotations

from nod.core.threads.threads import Way
from nod.core.trail.entries import Subject
from nod.services.acts.context import Act
from nod.services.marks.mark_rows import audience_of_mark
from nod.services.marks.readers import SESSION_GROUP
from nod.services.threads.thread_notices import Place, tell_named, tell_of_saying, tell_talkers
from nod.store.tables import DocumentRow, MarkRow, ProjectRow, ReplyRow

_NAMED = "named you in a mark"


def tell_of_mark(act: Act, document: DocumentRow, row: MarkRow) -> None:
    """What is in ink. Everybody once, however often the mark is changed afterwards."""
    place, thread = _place(act, document, row), row.thread
    tell_named(act, place, thread.text, _NAMED, f"mention:{row.id}")
    if thread.meant_for:
        text = thread.text or f"A {row.kind}, no text."
        tell_of_saying(act, place, "mention", thread.meant_for, "has a mark for you", text, f"meant:{row.id}")


def tell_of_reply(act: Act, document: DocumentRow, row: MarkRow, reply: ReplyRow) -> None:
    place, thread = _place(act, document, row), row.thread
    author = thread.author_id if thread.way == Way.PERSON and thread.author_id else ""
    if author:
        key, why = f"answer:{reply.id}", "you made the mark"
        tell_of_saying(act, place, "answer", author, "answered your mark", reply.text, key, why=why)
    tell_named(act, place, reply.text, _NAMED, f"mention:{reply.id}")
    tell_talkers(act, place, thread, reply, "answered a mark that you have answered", [author])


def _place(act: Act, document: DocumentRow, row: MarkRow) -> Place:
    met = row.thread.session_id
    met_in, in_room = (Subject(SESSION_GROUP, met), f"&session={met}") if met else (None, "")
    return Place(
        act.session.get_one(ProjectRow, document.project_id), Subject("document", document.id),
        audience_of_mark(act.session, document, row.thread), document.number, f"{document.number} {document.title}",
        f"/sheet/{row.revision_id}?page={row.page}&mark={row.id}{in_room}", met_in,
    )  # fmt: skip
