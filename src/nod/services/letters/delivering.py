"""Telling those in a thread of a message: by mail with its words and files, members in Nod too (handbook §11)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.letters.mailed import ANSWER_WORD
from nod.core.letters.states import State
from nod.core.threads.threads import unfolded
from nod.core.trail.entries import Subject
from nod.services.acts.context import Act
from nod.services.letters.kind import LETTER
from nod.services.letters.letter_rows import kind_of_row, named, parties_of, people_in
from nod.services.links.part_links import link_for
from nod.services.mail.mails import About, Enclosure, write_mail
from nod.services.notices.notices import Notice, tell_person
from nod.store.tables import (
    AttachmentRow,
    BlobRow,
    LetterMessageRow,
    LetterRow,
    MembershipRow,
    PersonRow,
    ProjectRow,
)

MOST_MAILED_BYTES = 10_000_000
"""Files that are larger together are at the link: common practice, as many servers refuse mails of 20 to 25 MB, and a
mail's files grow by a third on the way."""


@dataclass(frozen=True)
class Delivery:
    """A message that has taken its place; `reached` are addresses that have it already."""

    project: ProjectRow
    row: LetterRow
    message: LetterMessageRow
    files: Sequence[dict[str, str]]
    is_answer: bool
    reached: set[str]


def readers_of(session: Session, row: LetterRow) -> list[str]:
    """Ids of all who are in it now, whoever began it too."""
    parties = [(each.kind, each.party_id) for each in parties_of(session, row.id)]
    return list(dict.fromkeys([*people_in(session, row.project_id, parties), row.began_by]))


def deliver(act: Act, sent: Delivery) -> None:
    """To everybody in the thread but its author."""
    session, row = act.session, sent.row
    enclosed, beyond = _enclosures(session, sent.message.id)
    for person_id in readers_of(session, row):
        person = session.get_one(PersonRow, person_id)
        if person_id in (act.actor.person_id, sent.message.author_id) or person.email in sent.reached:
            continue
        _tell(act, sent, person, enclosed, beyond)


def _tell(act: Act, sent: Delivery, person: PersonRow, enclosed: list[Enclosure], beyond: list[str]) -> None:
    row, project = sent.row, sent.project
    asked = row.state == State.WANTED.value and row.asked_id == person.id
    key = f"letter:{sent.message.id}:{person.id}"
    subject = f"{project.number}: {named(row)}"
    words = unfolded(sent.message.text, sent.message.folds) or sent.message.text or "No words, but files."
    lines = [*_head(sent), "", words, *_facts(act.session, sent, beyond)]
    if asked:
        lines += ["", f"To give the answer by mail, begin yours with {ANSWER_WORD} in a line of its own."]
    thing = Subject(LETTER.code, row.id)
    member = act.session.get(MembershipRow, (project.id, person.id))
    if member is not None and member.state == "contact" and person.state == "active":
        link = link_for(act, project.id, thing, row.began_by, person.id, "comment")
        text = [*lines, "", "Answer this mail, or open it here without a sign-in:", "{link}"]
        write_mail(
            act, key, person.id, subject, text, link, about=About(project, thing, by_hand=True), enclosed=enclosed
        )
        return
    kind = "letter_mine" if asked else "letter"
    link_path = f"/letters/{row.id}?message={sent.message.id}"
    notice = Notice(
        key, subject, [*lines, "", "Answer this mail, or open it:"], link_path, [thing], enclosed=enclosed, by_hand=True
    )
    tell_person(act, project, kind, person.id, notice)


def _head(sent: Delivery) -> list[str]:
    message = sent.message
    who = f"{message.author_name} ({message.author_company})" if message.author_company else message.author_name
    if message.way == "paper":
        return [f"A letter on paper from {who}, of {_day(message.dated_on)}, came on {_day(message.received_on)}:"]
    return [f"{who} {'gives the answer' if sent.is_answer else 'writes'}:"]


def _day(day: date | None) -> str:
    return f"{day:%-d %B %Y}" if day else ""


def _facts(session: Session, sent: Delivery, beyond: list[str]) -> list[str]:
    row = sent.row
    asked = session.get(PersonRow, row.asked_id) if row.asked_id else None
    wanted = row.state == State.WANTED.value and asked is not None
    by = f" by {row.due_on:%a %-d %B %Y}" if row.due_on else ""
    told = [
        ("Number", row.number),
        ("Our reference", sent.message.own_ref),
        ("Your reference", sent.message.other_ref),
        ("Kind", kind_of_row(sent.project, row).words),
        ("Answer wanted", f"from {asked.name}{by}" if wanted and asked else ""),
        ("Proposed answer", row.proposed if sent.message.place == 1 else ""),
        ("Effect on cost", row.cost_effect if sent.message.place == 1 else ""),
        ("Effect on time", row.time_effect if sent.message.place == 1 else ""),
        ("To", _names(sent.message, "to")),
        ("Copied", _names(sent.message, "copied")),
        ("Signed", sent.message.signatory),
        ("Served", f"{sent.message.served_how}, {_day(sent.message.served_on)}" if sent.message.served_on else ""),
        ("Files at the link", ", ".join(beyond)),
    ]
    return ["", *(f"{label}: {words}" for label, words in told if words)]


def _names(message: LetterMessageRow, how: str) -> str:
    return ", ".join(f"{each['name']} ({each['company']})" for each in message.to if each["how"] == how)


def _enclosures(session: Session, message_id: str) -> tuple[list[Enclosure], list[str]]:
    """Files that go along, and the names of those that are too large for that."""
    query = (
        select(AttachmentRow, BlobRow)
        .join(BlobRow, BlobRow.sha256 == AttachmentRow.sha256)
        .where(AttachmentRow.reply_id == message_id)
        .order_by(BlobRow.size_bytes)
    )
    enclosed, beyond, size = [], [], 0
    for row, blob in session.execute(query):
        size += blob.size_bytes
        if size > MOST_MAILED_BYTES:
            beyond.append(row.name)
        else:
            enclosed.append(Enclosure(blob.sha256, row.name, blob.media_type))
    return enclosed, beyond
