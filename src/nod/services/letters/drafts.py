"""Drafts: a letter, or something to be written in a thread, kept on the server as it is typed, for its author alone."""

from __future__ import annotations

from datetime import date, datetime

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import NotFound
from nod.core.letters.checking import check_untouched
from nod.core.letters.kinds import kind_named, usual_kind
from nod.core.letters.states import Deed, State
from nod.core.trail.entries import Subject
from nod.formats.mail.cleaned import clean
from nod.services.acts.answers import Answered, Command, Who, people_by_id
from nod.services.acts.context import Act, Context, acting, check_version
from nod.services.acts.seats import Actor, Seat
from nod.services.attachments.attachments import Attachment, forget_added, unsaid_on
from nod.services.letters.bars import keep_bar
from nod.services.letters.kind import LETTER, MESSAGE
from nod.services.letters.letter_rows import enter, letter_kinds, parties_of
from nod.services.letters.written import (
    LONGEST_LINE,
    MOST_REFERENCES,
    LetterWritten,
    PartyGiven,
    ReferenceGiven,
    written_in,
)
from nod.services.open_work.open_work import set_open_work
from nod.services.things.things import Thing, see_thing, things_of
from nod.store.ids import new_id
from nod.store.tables import LetterMessageRow, LetterRow, PersonRow


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
    """`saved_at` is when it was kept. Of a notice, `bar_on` is the last day in time, counted from the day that stands
    in it now.
    """

    version: int
    saved_at: datetime
    bar_on: date | None


class LetterDraft(Answered):
    """As it was left. `letter_id` is its thread, which is a draft itself where `is_new`. `saved_at`: when it was kept.

    `files` are those added to it, `references` what it speaks of. `may_answer`: whether its author may give the answer
    that is wanted in the thread. `began_with` are those who were in the thread as it was begun. `author` wrote it;
    `mine` where that is the viewer: another looks at it before it goes, and changes nothing. `check_state` is empty,
    `asked` while it is with `checker`, or `returned` with `check_note`. Of a notice, `bar_on` is the last day in time.
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
    may_put_in_paper: bool
    may_set_private: bool
    mine: bool
    author: Who
    checker: Who | None
    check_state: str
    check_note: str
    bar_on: date | None


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
    message, row, seat = any_draft(session, actor, message_id)
    if message.author_id != actor.private_id:
        raise NotFound(message_id)
    return message, row, seat


def any_draft(session: Session, actor: Actor, message_id: str) -> tuple[LetterMessageRow, LetterRow, Seat]:
    """One's own, or one that one looks at before it goes. Raises NotFound for any other."""
    message, seat = see_thing(session, actor, MESSAGE, message_id)
    if message.sent_at is not None or actor.private_id not in (message.author_id, message.checker_id):
        raise NotFound(message_id)
    return message, session.get_one(LetterRow, message.letter_id), seat


def read_draft(context: Context, actor: Actor, message_id: str) -> LetterDraft:
    with context.database.read() as session:
        message, row, seat = any_draft(session, actor, message_id)
        return show_draft(session, actor, message, row, seat)


def show_draft(session: Session, actor: Actor, message: LetterMessageRow, row: LetterRow, seat: Seat) -> LetterDraft:
    written = written_in(message)
    there = things_of(session, seat, {(each.kind, each.target) for each in written.references})
    mine = message.author_id == actor.person_id
    author_id = message.author_id or ""
    people = people_by_id(session, {author_id, message.checker_id or ""} - {""})
    return LetterDraft(
        id=message.id, version=message.version, letter_id=row.id, number=row.number, is_new=row.state ==
        State.DRAFT.value, written=written, files=unsaid_on(session, Subject(MESSAGE.code, message.id), author_id),
        references=[there[key] for each in written.references if (key := (each.kind, each.target)) in there],
        began_with=[PartyGiven(kind=each["kind"], id=each["id"]) for each in message.to], saved_at=message.written_at,
        may_answer=mine and enter(session, actor, row.id).may(Deed.ANSWER), may_add_contacts=seat.runs,
        may_put_in_paper=seat.runs, may_set_private=row.state == State.DRAFT.value, mine=mine, author=people[author_id],
        checker=people.get(message.checker_id or ""), check_state=message.check_state, check_note=message.check_note,
        bar_on=row.bar_on, )  # fmt: skip


def keep_draft(context: Context, actor: Actor, message_id: str, command: KeepLetterDraft) -> LetterDraftKept:
    """As it is now, whatever is still missing. Raises Stale where it was kept from another window since."""
    with acting(context, actor) as act:
        message, row, seat = own_draft(act.session, actor, message_id)
        check_version(command.version, message.version, message.subject)
        _check_not_away(act.session, message)
        keep_written(act, message, row, command.written)
        check_references(act.session, seat, command.written.references)
        if row.state == State.DRAFT.value:
            keep_bar(act, seat.project, row, command.written)
        return LetterDraftKept(version=message.version, saved_at=message.written_at, bar_on=row.bar_on)


def keep_written(act: Act, message: LetterMessageRow, row: LetterRow, written: LetterWritten) -> None:
    kept = written.model_copy(update={"page": clean(written.page), "subject": " ".join(written.subject.split())})
    message.begun = kept.model_dump(mode="json")
    message.subject, message.written_at = kept.subject, act.at
    message.version += 1
    if row.state == State.DRAFT.value:
        row.subject, row.last_at = kept.subject, act.at


def _check_not_away(session: Session, message: LetterMessageRow) -> None:
    checker = session.get(PersonRow, message.checker_id) if message.checker_id else None
    check_untouched(message.check_state, checker.name if checker else "")


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
        _check_not_away(act.session, message)
        forget_unsaid_of(act, message, actor.person_id)
        set_open_work(act.session, row.project_id, Subject(MESSAGE.code, message.id), [])
        act.session.delete(message)
        act.session.flush()
        if row.state == State.DRAFT.value:
            set_open_work(act.session, row.project_id, Subject(LETTER.code, row.id), [])
            act.session.delete(row)


def forget_unsaid_of(act: Act, message: LetterMessageRow, person_id: str) -> None:
    for each in unsaid_on(act.session, Subject(MESSAGE.code, message.id), person_id):
        forget_added(act, MESSAGE, message, each.id, by=person_id)


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
