"""Who is told of a mark: its author of answers, those whom it names, and the one for whom it is (handbook §6)."""

from __future__ import annotations

from nod.core.access.audiences import for_folders
from nod.core.marks import marks as rules
from nod.core.trail.entries import Subject
from nod.services.acts.answers import people_by_id
from nod.services.acts.context import Act
from nod.services.notices.notices import Notice, tell_person
from nod.services.things.things import who_sees
from nod.store.tables import DocumentRow, MarkRow, ProjectRow, ReplyRow


def tell_of_mark(act: Act, document: DocumentRow, row: MarkRow) -> None:
    """What is in ink. Everybody once, however often the mark is changed afterwards."""
    _tell_named(act, document, row, row.text, row.id)
    if row.meant_for:
        _tell(act, document, row, "mention", row.meant_for, "has a mark for you", row.text, f"meant:{row.id}")


def tell_of_reply(act: Act, document: DocumentRow, row: MarkRow, reply: ReplyRow) -> None:
    _tell(act, document, row, "answer", row.author_id, "answered your mark", reply.text, f"answer:{reply.id}")
    _tell_named(act, document, row, reply.text, reply.id)


def _tell_named(act: Act, document: DocumentRow, row: MarkRow, text: str, about: str) -> None:
    """Only among those who see the sheet."""
    if "@" not in text:
        return
    people = people_by_id(act.session, set(who_sees(act.session, document.project_id, for_folders(document.folder_id))))
    for person in rules.mentioned(text, {each: who.name for each, who in people.items()}):
        _tell(act, document, row, "mention", person, "named you in a mark", text, f"mention:{about}")


def _tell(
    act: Act, document: DocumentRow, row: MarkRow, kind: str, person_id: str, did: str, text: str, key: str
) -> None:
    project = act.session.get_one(ProjectRow, document.project_id)
    subject = f"{project.number}: {act.actor.name} {did} on {document.number}"
    lines = [f"{act.actor.name} {did} on {document.number} {document.title}:", "", text or f"A {row.kind}, no text."]
    link = f"/sheet/{row.revision_id}?page={row.page}&mark={row.id}"
    tell_person(
        act,
        project,
        kind,
        person_id,
        Notice(f"{key}:{person_id}", subject, lines, link, [Subject("document", document.id)]),
    )
