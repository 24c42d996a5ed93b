"""Drafts: a letter, or something to be written in a thread, kept on the server as it is typed, for its author alone."""

from __future__ import annotations

from datetime import date, datetime
from typing import Literal

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import NotFound
from nod.core.letters.kinds import kind_named, usual_kind
from nod.core.letters.states import Deed, State
from nod.core.trail.entries import Subject
from nod.formats.mail.cleaned import clean
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting, check_version
from nod.services.acts.seats import Actor, Seat
from nod.services.attachments.attachments import MOST, Attachment, forget_added, unsaid_on
from nod.services.letters.kind import LETTER, MESSAGE
from nod.services.letters.letter_rows import enter, letter_kinds, parties_of
from nod.services.things.things import Thing, see_thing, things_of
from nod.store.ids import new_id
from nod.store.tables import LetterMessageRow, LetterRow

LONGEST_SUBJECT, LONGEST_PAGE, LONGEST_EFFECT, LONGEST_LINE = 200, 400_000, 4000, 120
MOST_PARTIES, MOST_REFERENCES = 200, 50


class PartyGiven(Command):
    """A person of the project, outside contacts with them, or a company with its people."""

    kind: Literal["person", "company"]
    id: str = Field(max_length=LONGEST_LINE)


class ContactGiven(Command):
    """Somebody outside who is not in the project yet: made a contact as the letter is sent."""

    name: str = Field(max_length=LONGEST_LINE)
    email: str = Field(max_length=LONGEST_LINE)
    company_id: str = Field(max_length=LONGEST_LINE)
    how: Literal["to", "copied"] = "to"


class ReferenceGiven(Command):
    kind: str = Field(max_length=LONGEST_LINE)
    target: str = Field(max_length=LONGEST_LINE)


class LetterWritten(Command):
    """All that a draft has. `page` is HTML of paragraphs, lists, links and tables; anything else in it is left out.

    `to` and `copied` are all who are in the thread from this message on. `asked_id` is of whom an answer is wanted,
    empty for nobody, by `due_on`. `all_of_it`: who is new in the thread sees what was written before, too. `is_answer`:
    this is the answer that was asked for. `files` are attachments that were added to the draft.
    """

    kind: str = Field(default="", max_length=LONGEST_LINE)
    subject: str = Field(default="", max_length=LONGEST_SUBJECT)
    page: str = Field(default="", max_length=LONGEST_PAGE)
    to: list[PartyGiven] = Field(default_factory=list, max_length=MOST_PARTIES)
    copied: list[PartyGiven] = Field(default_factory=list, max_length=MOST_PARTIES)
    contacts: list[ContactGiven] = Field(default_factory=list, max_length=20)
    asked_id: str = Field(default="", max_length=LONGEST_LINE)
    due_on: date | None = Field(default=None, strict=False)
    proposed: str = Field(default="", max_length=LONGEST_EFFECT)
    cost_effect: str = Field(default="", max_length=LONGEST_EFFECT)
    time_effect: str = Field(default="", max_length=LONGEST_EFFECT)
    private: bool = False
    all_of_it: bool = False
    is_answer: bool = False
    files: list[str] = Field(default_factory=list, max_length=MOST)
    references: list[ReferenceGiven] = Field(default_factory=list, max_length=MOST_REFERENCES)


class BeginLetter(Command):
    """A new thread; `about` are things that it is to speak of."""

    project_id: str
    kind: str = Field(default="", max_length=LONGEST_LINE)
    about: list[ReferenceGiven] = Field(default_factory=list, max_length=MOST_REFERENCES)


class LetterBegun(Answered):
    letter_id: str
    message_id: str


class KeepLetterDraft(Command):
    version: int
    written: LetterWritten


class LetterDraftVersion(Command):
    version: int


class LetterDraftKept(Answered):
    version: int


class LetterDraft(Answered):
    """As it was left. `letter_id` is its thread, which is a draft itself where `is_new`. `saved_at`: when it was kept.

    `files` are those added to it, `references` what it speaks of. `may_answer`: whether its author may give the answer
    that is wanted in the thread. `began_with` are those who were in the thread as it was begun.
    """

    id: str
    version: int
    letter_id: str
    number: str
    is_new: bool
    written: LetterWritten
    files: list[Attachment]
    references: list[Thing]
    began_with: list[PartyGiven]
    saved_at: datetime
    may_answer: bool
    may_add_contacts: bool
    may_set_private: bool


class LetterDraftLine(Answered):
    """One of one's own drafts, as it is found again."""

    id: str
    letter_id: str
    number: str
    subject: str
    saved_at: datetime


def begin_letter(context: Context, actor: Actor, command: BeginLetter) -> LetterBegun:
    """Raises NotAllowed without the tool, NotFound for something that it is to speak of and that is not there."""
    with acting(context, actor) as act:
        seat = act.enter(command.project_id, tool=LETTER.tool)
        kinds = letter_kinds(seat.project)
        kind = kind_named(kinds, command.kind) if command.kind else usual_kind(kinds)
        check_references(act.session, seat, command.about)
        row = LetterRow(
            id=new_id(), project_id=seat.project.id, kind=kind.code, state=State.DRAFT.value, number="", subject="",
            began_by=actor.person_id, company_id=actor.company_id, made_at=act.at, last_at=act.at, private=False,
            answer_id="", proposed="", cost_effect="", time_effect="", version=1,
        )  # fmt: skip
        act.session.add(row)
        act.session.flush()
        begun = LetterWritten(kind=kind.code, references=list(command.about))
        message = _put(act, row, begun)
        return LetterBegun(letter_id=row.id, message_id=message.id)


def begin_reply(context: Context, actor: Actor, letter_id: str) -> LetterBegun:
    """The draft that one has there already, or a new one, to all who are in it."""
    with acting(context, actor) as act:
        entered = enter(act.session, actor, letter_id)
        entered.check(Deed.WRITE)
        row = entered.row
        mine = select(LetterMessageRow).where(
            LetterMessageRow.letter_id == row.id, LetterMessageRow.place == 0,
            LetterMessageRow.author_id == actor.person_id,
        )  # fmt: skip
        message = act.session.scalars(mine).first()
        if message is None:
            begun = _reply_to(act.session, row, entered.may(Deed.ANSWER))
            message = _put(act, row, begun)
            message.to = [{**each.model_dump(), "how": "to"} for each in begun.to]
            message.to += [{**each.model_dump(), "how": "copied"} for each in begun.copied]
        return LetterBegun(letter_id=row.id, message_id=message.id)


def _reply_to(session: Session, row: LetterRow, may_answer: bool) -> LetterWritten:
    parties = parties_of(session, row.id)

    def of(how: str) -> list[PartyGiven]:
        return [
            PartyGiven(kind="company" if each.kind == "company" else "person", id=each.party_id)
            for each in parties
            if each.how == how
        ]

    wanted = may_answer and row.state == State.WANTED.value
    return LetterWritten(kind=row.kind, subject=row.subject, to=of("to"), copied=of("copied"), is_answer=wanted)


def _put(act: Act, row: LetterRow, begun: LetterWritten) -> LetterMessageRow:
    message = LetterMessageRow(
        id=new_id(), project_id=row.project_id, letter_id=row.id, place=0, author_id=act.actor.person_id,
        author_name=act.actor.name, author_company=act.actor.company_code, way="person", subject=begun.subject,
        written_at=act.at, begun=begun.model_dump(mode="json"), folds=[], to=[], text="", page="", mail_id="",
        version=1,
    )  # fmt: skip
    act.session.add(message)
    act.session.flush()
    return message


def own_draft(session: Session, actor: Actor, message_id: str) -> tuple[LetterMessageRow, LetterRow, Seat]:
    """Raises NotFound for anything but a draft of one's own."""
    message, seat = see_thing(session, actor, MESSAGE, message_id)
    if message.sent_at is not None or message.author_id != actor.private_id:
        raise NotFound(message_id)
    return message, session.get_one(LetterRow, message.letter_id), seat


def read_draft(context: Context, actor: Actor, message_id: str) -> LetterDraft:
    with context.database.read() as session:
        message, row, seat = own_draft(session, actor, message_id)
        return show_draft(session, actor, message, row, seat)


def show_draft(session: Session, actor: Actor, message: LetterMessageRow, row: LetterRow, seat: Seat) -> LetterDraft:
    written = written_in(message)
    there = things_of(session, seat, {(each.kind, each.target) for each in written.references})
    entered = enter(session, actor, row.id)
    return LetterDraft(
        id=message.id, version=message.version, letter_id=row.id, number=row.number,
        is_new=row.state == State.DRAFT.value, written=written,
        files=unsaid_on(session, Subject(MESSAGE.code, message.id), actor.person_id),
        references=[there[key] for each in written.references if (key := (each.kind, each.target)) in there],
        began_with=[PartyGiven(kind=each["kind"], id=each["id"]) for each in message.to],
        saved_at=message.written_at, may_answer=entered.may(Deed.ANSWER), may_add_contacts=seat.runs,
        may_set_private=row.state == State.DRAFT.value,
    )  # fmt: skip


def written_in(message: LetterMessageRow) -> LetterWritten:
    return LetterWritten.model_validate(message.begun, strict=False)


def keep_draft(context: Context, actor: Actor, message_id: str, command: KeepLetterDraft) -> LetterDraftKept:
    """As it is now, whatever is still missing. Raises Stale where it was kept from another window since."""
    with acting(context, actor) as act:
        message, row, seat = own_draft(act.session, actor, message_id)
        check_version(command.version, message.version, message.subject)
        keep_written(act, message, row, command.written)
        check_references(act.session, seat, command.written.references)
        return LetterDraftKept(version=message.version)


def keep_written(act: Act, message: LetterMessageRow, row: LetterRow, written: LetterWritten) -> None:
    kept = written.model_copy(update={"page": clean(written.page), "subject": " ".join(written.subject.split())})
    message.begun = kept.model_dump(mode="json")
    message.subject, message.written_at = kept.subject, act.at
    message.version += 1
    if row.state == State.DRAFT.value:
        row.subject, row.last_at = kept.subject, act.at


def check_references(session: Session, seat: Seat, given: list[ReferenceGiven]) -> None:
    """Raises NotFound for what is not there for the seat."""
    asked = {(each.kind, each.target) for each in given}
    missing = asked - set(things_of(session, seat, asked))
    if missing:
        raise NotFound(sorted(missing)[0][1])


def drop_draft(context: Context, actor: Actor, message_id: str, command: LetterDraftVersion) -> None:
    """It is gone, with what was added to it; a thread that was never sent goes with it. The trail has nothing of it."""
    with acting(context, actor) as act:
        message, row, _ = own_draft(act.session, actor, message_id)
        check_version(command.version, message.version, message.subject)
        forget_unsaid_of(act, message)
        act.session.delete(message)
        act.session.flush()
        if row.state == State.DRAFT.value:
            act.session.delete(row)


def forget_unsaid_of(act: Act, message: LetterMessageRow) -> None:
    for each in unsaid_on(act.session, Subject(MESSAGE.code, message.id), act.actor.person_id):
        forget_added(act, MESSAGE, message, each.id)


def own_drafts(session: Session, actor: Actor, project_id: str) -> list[LetterDraftLine]:
    """The latest first."""
    query = (
        select(LetterMessageRow, LetterRow.number)
        .join(LetterRow, LetterRow.id == LetterMessageRow.letter_id)
        .where(
            LetterMessageRow.author_id == actor.private_id, LetterMessageRow.place == 0,
            LetterMessageRow.project_id == project_id, LetterMessageRow.sent_at.is_(None),
        )
        .order_by(LetterMessageRow.written_at.desc())
    )  # fmt: skip
    return [
        LetterDraftLine(id=row.id, letter_id=row.letter_id, number=number, subject=row.subject, saved_at=row.written_at)
        for row, number in session.execute(query.limit(100))
    ]
