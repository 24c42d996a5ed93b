"""One thread as somebody reads it: what was written in it, who is in it, what they may do (handbook §11)."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.letters.bars import days_to_spare
from nod.core.letters.states import State
from nod.services.acts.answers import Answered, Command, Who, people_by_id
from nod.services.acts.context import Context, acting
from nod.services.acts.late import LateBy
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.services.attachments.attachments import Attachment, attachments_of
from nod.services.letters.kind import LETTER, MESSAGE
from nod.services.letters.letter_list import LetterLine, letter_lines
from nod.services.letters.letter_rows import enter, letter_kinds, parties_of
from nod.services.things.things import Thing, things_of
from nod.store.tables import (
    CompanyRow,
    LetterMessageRow,
    LetterPartyRow,
    LetterReferenceRow,
    LetterRow,
    LetterSeenRow,
    MembershipRow,
    PersonRow,
)


class LetterParty(Answered):
    """A person or a company in the thread; `how` is `to` or `copied`. `contact`: somebody outside."""

    kind: str
    id: str
    name: str
    company: str
    how: str
    contact: bool


class MessageShown(Answered):
    """`page` is clean HTML, empty where `text` is all; `folds` are what of the text is quoted or a signature.

    `written_at` is when it was written, as its mail says if it was forwarded by `forwarded_by`; `sent_at` when it came
    into the thread. `mail` is the mail it came in, empty for none. `is_answer`: the one that was asked for. `own_ref`
    is the reference of who wrote it, `other_ref` that of whom it is written to. Of a letter on paper, `way` is `paper`,
    `dated_on` the day it bears, `received_on` when it came. `signatory` has signed it; `looked_at_by` let it go, as far
    as that is for the viewer. `served_how` and `served_on` say how a notice was served, `spare_days` before its time
    bar.
    """

    id: str
    place: int
    author: Who | None
    author_name: str
    author_email: str
    author_company: str
    way: str
    forwarded_by: Who | None
    subject: str
    text: str
    page: str
    folds: list[list[int]]
    mail: str
    to: list[LetterParty]
    written_at: datetime
    sent_at: datetime
    is_answer: bool
    own_ref: str
    other_ref: str
    dated_on: date | None
    received_on: date | None
    signatory: str
    looked_at_by: Who | None
    served_how: str
    served_on: date | None
    spare_days: int | None
    files: list[Attachment]
    references: list[Thing]


class LetterShown(Answered):
    """The earlier messages first. `from_here`: what was written before the first of them is not there for the viewer.
    Of a notice, `aware_on` is when one became aware of its matter, `bar_on` the last day in time.

    `draft_id`: what the viewer has begun to write in it. `seen_place`: up to where they had read before.
    """

    line: LetterLine
    messages: list[MessageShown]
    from_here: bool
    parties: list[LetterParty]
    asked: Who | None
    due_on: date | None
    asks: bool
    proposed: str
    cost_effect: str
    time_effect: str
    aware_on: date | None
    bar_on: date | None
    draft_id: str
    seen_place: int
    about: list[Thing]


class SeenUpTo(Command):
    place: int = Field(ge=0)


def read_letter(context: Context, actor: Actor, letter_id: str) -> LetterShown:
    """Raises NotFound for one that is not there for this person, also for a draft: that is read as one."""
    with context.database.read() as session:
        entered = enter(session, actor, letter_id)
        row, seat = entered.row, entered.seat
        late_by = LateBy(session, seat.project, context.clock.now())
        (line,) = letter_lines(session, seat, actor, [row], late_by)
        messages = messages_seen(session, seat, row)
        shown = show_messages(session, seat, row, messages)
        kind = {each.code: each for each in letter_kinds(seat.project)}.get(row.kind)
        asked = people_by_id(session, {row.asked_id}) if row.asked_id else {}
        question = row if messages and messages[0].place == 1 else None
        return LetterShown(
            line=line, messages=shown, from_here=bool(messages) and messages[0].place > 1,
            parties=show_parties(session, row.project_id, parties_of(session, row.id)),
            asked=asked.get(row.asked_id or ""), due_on=row.due_on, asks=kind is not None and kind.asks,
            proposed=question.proposed if question else "", cost_effect=question.cost_effect if question else "",
            time_effect=question.time_effect if question else "", aware_on=row.aware_on, bar_on=row.bar_on,
            draft_id=_draft_id(session, actor, row), seen_place=_seen_place(session, actor, row),
            about=list({each.target: each for one in shown for each in one.references}.values()),
        )  # fmt: skip


def messages_seen(session: Session, seat: Seat, row: LetterRow) -> list[LetterMessageRow]:
    """What was sent in a thread and is there for the seat, the earlier first."""
    query = select(LetterMessageRow).where(
        LetterMessageRow.letter_id == row.id, LetterMessageRow.place > 0, MESSAGE.seen(seat)
    )
    return list(session.scalars(query.order_by(LetterMessageRow.place)))


def show_messages(
    session: Session, seat: Seat | None, row: LetterRow, messages: Sequence[LetterMessageRow]
) -> list[MessageShown]:
    """Without a seat, for a guest, nothing of what they speak of."""
    ids = [each.id for each in messages]
    named = {id for each in messages for id in (each.author_id, each.forwarded_by, each.checker_id) if id}
    people, files = people_by_id(session, named), attachments_of(session, ids)
    about = _references(session, seat, ids) if seat else {}
    own_company = session.get(CompanyRow, seat.eyes.company_id) if seat else None
    own = own_company.code if own_company else ""
    return [
        MessageShown(
            id=each.id, place=each.place, author=people.get(each.author_id or ""), author_name=each.author_name,
            author_email=each.author_email, author_company=each.author_company, way=each.way,
            forwarded_by=people.get(each.forwarded_by or ""), subject=each.subject, text=each.text, page=each.page,
            folds=each.folds, mail=each.mail_id, to=[LetterParty(**to, contact=False) for to in each.to],
            written_at=each.written_at, sent_at=each.sent_at or each.written_at, is_answer=row.answer_id == each.id,
            own_ref=each.own_ref, other_ref=each.other_ref, dated_on=each.dated_on, received_on=each.received_on,
            signatory=each.signatory, looked_at_by=_looked_at_by(own, each, people), served_how=each.served_how,
            served_on=each.served_on,
            spare_days=days_to_spare(row.bar_on, each.served_on) if row.bar_on and each.served_on else None,
            files=files.get(each.id, []), references=about.get(each.id, []),
        )
        for each in messages
    ]  # fmt: skip


def _looked_at_by(own_company: str, message: LetterMessageRow, people: dict[str, Who]) -> Who | None:
    """For the company of whoever wrote it: how it came about is nobody else's."""
    theirs = message.author_company == own_company and own_company != ""
    return people.get(message.checker_id or "") if theirs else None


def _references(session: Session, seat: Seat, ids: list[str]) -> dict[str, list[Thing]]:
    """By message, what it speaks of and is there for the seat."""
    rows = list(session.scalars(select(LetterReferenceRow).where(LetterReferenceRow.message_id.in_(ids))))
    there = things_of(session, seat, {(each.kind, each.target) for each in rows})
    found: dict[str, list[Thing]] = {}
    for each in rows:
        if thing := there.get((each.kind, each.target)):
            found.setdefault(each.message_id, []).append(thing)
    return found


def show_parties(session: Session, project_id: str, rows: Sequence[LetterPartyRow]) -> list[LetterParty]:
    found = []
    for each in rows:
        if each.kind == "company":
            company, name = session.get_one(CompanyRow, each.party_id), ""
            contact = False
        else:
            person = session.get_one(PersonRow, each.party_id)
            company, name = session.get_one(CompanyRow, person.company_id), person.name
            member = session.get(MembershipRow, (project_id, person.id))
            contact = member is not None and member.state == "contact"
        found.append(
            LetterParty(
                kind=each.kind, id=each.party_id, name=name or company.name, company=company.code, how=each.how,
                contact=contact,
            )
        )  # fmt: skip
    return found


def _draft_id(session: Session, actor: Actor, row: LetterRow) -> str:
    query = select(LetterMessageRow.id).where(
        LetterMessageRow.letter_id == row.id, LetterMessageRow.place == 0,
        LetterMessageRow.author_id == actor.private_id,
    )  # fmt: skip
    return session.scalars(query).first() or ""


def _seen_place(session: Session, actor: Actor, row: LetterRow) -> int:
    seen = session.get(LetterSeenRow, (row.id, actor.person_id))
    return seen.place if seen else 0


def note_seen(context: Context, actor: Actor, letter_id: str, command: SeenUpTo) -> None:
    """One has read it up to there; not back."""
    with acting(context, actor) as act:
        entered = enter(act.session, actor, letter_id)
        row = entered.row
        there = messages_seen(act.session, entered.seat, row)
        place = min(command.place, there[-1].place if there else 0)
        seen = act.session.get(LetterSeenRow, (row.id, actor.person_id))
        if seen is None:
            act.session.add(LetterSeenRow(letter_id=row.id, person_id=actor.person_id, place=place))
        elif seen.place < place:
            seen.place = place


class LetterAbout(Answered):
    """A thread that speaks of a thing."""

    id: str
    number: str
    subject: str
    state: str
    kind_words: str
    last_at: datetime


class LettersAbout(Answered):
    """The latest first, at most 100."""

    letters: list[LetterAbout]


def letters_about(context: Context, actor: Actor, project_id: str, kind: str, target: str) -> LettersAbout:
    """The threads in which a message that is there for this person speaks of a thing."""
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        if LETTER.tool not in seat.tools or (kind, target) not in things_of(session, seat, {(kind, target)}):
            return LettersAbout(letters=[])
        of = (
            select(LetterMessageRow.letter_id)
            .join(LetterReferenceRow, LetterReferenceRow.message_id == LetterMessageRow.id)
            .where(LetterReferenceRow.target == target, LetterReferenceRow.kind == kind, MESSAGE.seen(seat))
        )
        query = select(LetterRow).where(LetterRow.id.in_(of), LetterRow.project_id == project_id, LETTER.seen(seat))
        kinds = {each.code: each.words for each in letter_kinds(seat.project)}
        rows = session.scalars(
            query.where(LetterRow.state != State.DRAFT.value).order_by(LetterRow.last_at.desc()).limit(100)
        )
        return LettersAbout(
            letters=[
                LetterAbout(
                    id=row.id, number=row.number, subject=row.subject, state=row.state,
                    kind_words=kinds.get(row.kind, row.kind), last_at=row.last_at,
                )
                for row in rows
            ]
        )  # fmt: skip
