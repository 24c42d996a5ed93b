"""A thread by a link: what an outside contact reads and writes in it, without an account (handbook §11).

Nothing else of the project is there for them, and of the thread what they were added to. They act as themselves: the
link is mailed to them alone, and the trail says that they came by it.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.once import Once
from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.letters.sight import Sight
from nod.core.letters.states import Deed, Part, State, check, may
from nod.core.trail.entries import Subject
from nod.services.acts.answers import Answered, Command, Who, people_by_id
from nod.services.acts.context import Act, Context, check_version
from nod.services.acts.once import take_key
from nod.services.acts.tries import key_of, take_one
from nod.services.attachments.attachments import (
    MOST,
    Attachment,
    attach,
    attached_to,
    count_unsaid,
    forget_added,
    hang_on,
    keep_added,
    send_attached,
)
from nod.services.files.files_to_send import FileToSend
from nod.services.files.new_files import store_file
from nod.services.letters.kind import LETTER, MESSAGE
from nod.services.letters.letter_rows import all_parties, kind_of_row, part_in, parties_of
from nod.services.letters.thread import LetterParty, MessageShown, show_messages, show_parties
from nod.services.letters.writing import Party, Said, add_to_thread
from nod.services.links.rooms import LinkRoom, link_room
from nod.services.links.visits import Guest, guest_of
from nod.store.ids import new_id
from nod.store.tables import LetterMessageRow, LetterRow, PersonRow

LONGEST_TEXT = 40_000
_MOST_DOWNLOADS, _MOST_ADDED, _MOST_WRITTEN = 600, 200, 60


def _names(session: Session, row: Any, person_id: str) -> bool:
    """Whoever is, or was, in it: what was there for them stays so. Not with their company."""
    return row.began_by == person_id or any(
        each.kind == "person" and each.party_id == person_id for each in all_parties(session, row.id)
    )


def _nothing(_act: Act, _row: Any, _name: str, _text: str) -> None:
    pass


link_room(LinkRoom(LETTER.code, ("look", "comment"), lambda seat, row: False, _names, _nothing))
"""Links to it go to the contacts who are in it, with the mail, and to nobody else."""


class GuestLetter(Answered):
    """A thread as a contact reads it. `wanted`: an answer is wanted of them, by `due_on`. `may_write`: in it now."""

    id: str
    version: int
    project: str
    number: str
    kind_words: str
    subject: str
    state: str
    guest: str
    began_by: Who
    wanted: bool
    due_on: date | None
    proposed: str
    cost_effect: str
    time_effect: str
    messages: list[MessageShown]
    parties: list[LetterParty]
    may_write: bool


@dataclass(frozen=True)
class PartInLetter:
    """A guest who may look at it, and their place in it. `now`: they are in it still."""

    guest: Guest
    row: LetterRow
    part: Part
    now: bool
    sights: Sequence[Sight]

    def sees(self, message: LetterMessageRow) -> bool:
        return self.part.began or any(each.sees(message.place) for each in self.sights)


def part_of(context: Context, session: Session, secret: str) -> PartInLetter:
    """Raises NotFound for a visit to anything else, or when it is over. Asked anew at every act."""
    guest = guest_of(context, session, secret)
    person_id = guest.link.person_id
    if guest.kind.code != LETTER.code or person_id is None:
        raise NotFound
    row = guest.row
    company_id = session.get_one(PersonRow, person_id).company_id
    part = part_in(session, row, person_id, company_id)
    mine = [each for each in all_parties(session, row.id) if each.kind == "person" and each.party_id == person_id]
    sights = [Sight(each.first_place, each.last_place) for each in mine]
    now = part.began or any(each.last_place is None for each in mine)
    return PartInLetter(guest, row, part, now, sights)


def read_letter(context: Context, secret: str) -> GuestLetter:
    with context.database.read() as session:
        part = part_of(context, session, secret)
        row, project = part.row, part.guest.project
        wanted = row.state == State.WANTED.value and row.asked_id == part.guest.link.person_id
        first = any(each.first <= 1 for each in part.sights) or part.part.began
        return GuestLetter(
            id=row.id, version=row.version, project=f"{project.number} {project.name}", number=row.number,
            kind_words=kind_of_row(project, row).words, subject=row.subject, state=row.state, guest=part.guest.name,
            began_by=people_by_id(session, {row.began_by})[row.began_by], wanted=wanted,
            due_on=row.due_on if wanted else None, proposed=row.proposed if first else "",
            cost_effect=row.cost_effect if first else "", time_effect=row.time_effect if first else "",
            messages=show_messages(session, None, row, _seen(session, part)),
            parties=show_parties(session, row.project_id, parties_of(session, row.id)) if part.now else [],
            may_write=part.now and "comment" in part.guest.link.allows and may(State(row.state), part.part, Deed.WRITE),
        )  # fmt: skip


def _seen(session: Session, part: PartInLetter) -> list[LetterMessageRow]:
    query = select(LetterMessageRow).where(LetterMessageRow.letter_id == part.row.id, LetterMessageRow.place > 0)
    return [each for each in session.scalars(query.order_by(LetterMessageRow.place)) if part.sees(each)]


def add_file(context: Context, secret: str, name: str, chunks: Iterable[bytes]) -> Attachment:
    """For what the guest is about to write. Raises NotAllowed or RuleBroken where they may not."""
    with context.database.write() as session:
        part = part_of(context, session, secret)
        _check_writes(part)
        take_one(session, key_of("guest file", part.guest.link.id), _MOST_ADDED, part.guest.act.at)
    blob = store_file(context, name, chunks)
    with context.database.write() as session:
        part = part_of(context, session, secret)
        _check_writes(part)
        if count_unsaid(part.guest.act, Subject(LETTER.code, part.row.id)) >= MOST:
            raise RuleBroken("too_many_files", f"Up to {MOST} files are attached at once.")
        return keep_added(part.guest.act, LETTER, part.row, name, blob)


def _check_writes(part: PartInLetter) -> None:
    part.guest.need("comment")
    check(State(part.row.state), part.part if part.now else Part(), Deed.WRITE)


def remove_file(context: Context, secret: str, attachment_id: str) -> None:
    """One that they added and have not sent yet. Raises NotFound for any other."""
    with context.database.write() as session:
        part = part_of(context, session, secret)
        forget_added(part.guest.act, LETTER, part.row, attachment_id)


def download_file(context: Context, secret: str, attachment_id: str) -> FileToSend:
    """A file of a message that is there for them. An entry of the trail."""
    with context.database.write() as session:
        part = part_of(context, session, secret)
        take_one(session, key_of("guest download", part.guest.link.id), _MOST_DOWNLOADS, part.guest.act.at)
        row = attached_to(session, attachment_id, {each.id for each in _seen(session, part)})
        return send_attached(part.guest.act, row, LETTER.name(part.row))


class GuestWrites(Command):
    """`is_answer`: the answer that was asked for, of whom it was asked. `files` are those they have added."""

    version: int
    text: str = Field(max_length=LONGEST_TEXT)
    files: list[str] = Field(default_factory=list, max_length=MOST)
    is_answer: bool = False


def write(context: Context, secret: str, command: GuestWrites, once: Once | None = None) -> None:
    """To all who are in the thread. Raises NotAllowed, RuleBroken, or Stale where something was written meanwhile."""
    with context.database.write() as session:
        part = part_of(context, session, secret)
        act, row = part.guest.act, part.row
        if once:
            take_key(session, part.guest.visit_id, once, act.at)
        _check_writes(part)
        take_one(session, key_of("guest writes", part.guest.link.id), _MOST_WRITTEN, act.at)
        if command.is_answer:
            check(State(row.state), part.part, Deed.ANSWER)
            check_version(command.version, row.version, row.number)
        text = command.text.strip()
        if not text and not command.files:
            raise RuleBroken("text_missing", "Write something first.")
        message = LetterMessageRow(
            id=new_id(), project_id=row.project_id, letter_id=row.id, place=0, author_id=act.actor.person_id,
            author_name=act.actor.name, author_company=act.actor.company_code, author_email="", way="link",
            subject=row.subject, text=text, page="", folds=[], mail_id="", to=[], written_at=act.at, begun={},
            version=1,
        )  # fmt: skip
        session.add(message)
        session.flush()
        files = attach(act, Subject(LETTER.code, row.id), message.id, command.files)
        hang_on(act, MESSAGE, message, message.id)
        given: dict[Party, str] = {(each.kind, each.party_id): each.how for each in parties_of(session, row.id)}
        add_to_thread(act, part.guest.project, row, message, given, Said(command.is_answer, files=files))
