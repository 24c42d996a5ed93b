"""Letters and their messages as things: for those in the thread; leads and controllers too, unless it is private.

A message is a thing of its own, as somebody who was added to a thread on the way may see a part of it only: what
hangs on it, its files and its words in the search, is there for whoever sees that message.
"""

from __future__ import annotations

from typing import Any

from sqlalchemy import ColumnElement, Select, and_, case, exists, func, or_, select, union_all
from sqlalchemy.orm import Session

from nod.core.access.audiences import Eyes
from nod.core.letters.checking import Check
from nod.core.letters.states import State
from nod.services.acts.seats import Seat
from nod.services.things.audiences import AudienceOf
from nod.services.things.kinds import ThingKind, thing_kind
from nod.store.asides import aside, asides
from nod.store.dialects.sqlite import WordIndex, words_in
from nod.store.register_query import plain_words
from nod.store.tables import (
    CompanyRow,
    LetterMessageRow,
    LetterPartyRow,
    LetterRow,
    OpenWorkHolderRow,
    OpenWorkRow,
)

SERVE_CODE = "letter_serve"
"""The work that a notice makes until it is served."""


def _began(letter_id: Any) -> Select[Any]:
    row = aside("letters_began", LetterRow)
    return select(row.began_by).where(row.id == letter_id)


def _people(letter_id: Any) -> Select[Any]:
    party = aside("letters_people", LetterPartyRow)
    return select(party.party_id).where(party.letter_id == letter_id, party.kind == "person")


def _serving(letter_id: Any) -> Select[Any]:
    """Those who see to it that a notice is served: that there is one, not its words."""
    holder, work = asides("letters_serving", OpenWorkHolderRow, OpenWorkRow)
    held = select(holder.holder_id).join(work, work.id == holder.work_id)
    return held.where(work.thing_id == letter_id, work.thing_kind == "letter", work.kind == SERVE_CODE)


def _companies(letter_id: Any) -> Select[Any]:
    party, company = asides("letters_companies", LetterPartyRow, CompanyRow)
    now = select(func.coalesce(company.merged_into, company.id)).join(party, party.party_id == company.id)
    return now.where(party.letter_id == letter_id, party.kind == "company")


def _not_private(letter_id: Any) -> ColumnElement[bool]:
    if letter_id is LetterRow.id:
        # The row at hand is the one that is asked about: of very many, it is not looked up again.
        return and_(~LetterRow.private, LetterRow.state != State.DRAFT.value)
    row = aside("letters_not_private", LetterRow)
    return exists().where(row.id == letter_id, ~row.private, row.state != State.DRAFT.value)


def _named_in(eyes: Eyes, *, whole: bool = False) -> Select[Any]:
    """What `_began`, `_people`, `_serving` and `_companies` say, from the side of whoever looks; `whole` are those of
    which they see all that was sent.
    """
    row, party, company, holder, work = asides(
        "letters_named", LetterRow, LetterPartyRow, CompanyRow, OpenWorkHolderRow, OpenWorkRow
    )
    began = select(row.id).where(row.began_by == eyes.person_id)
    person = select(party.letter_id).where(party.party_id == eyes.person_id, party.kind == "person")
    theirs = select(company.id).where(func.coalesce(company.merged_into, company.id) == eyes.company_id)
    through = select(party.letter_id).where(party.party_id.in_(theirs), party.kind == "company")
    if whole:
        always = (party.first_place <= 1, party.last_place.is_(None))
        return select(
            union_all(began, person.where(*always), through.where(*always)).subquery("letters_had_whole").c[0]
        )
    held = select(work.thing_id).join(holder, work.id == holder.work_id)
    serving = held.where(
        holder.holder_id == eyes.person_id, work.thing_kind == "letter", work.kind == SERVE_CODE
    )  # fmt: skip
    return select(union_all(began, person, through, serving).subquery("letters_that_name").c[0])


def letters_with(seat: Seat, words: str) -> Select[Any]:
    """Ids of the threads in which a message has all these words, each as the beginning of one, and is there to see.

    The words are those of its subject, its text and the names of its files; what is no word is looked for in the
    subject alone.
    """
    query = plain_words(words)
    if not query:
        row = aside("letters_by_subject", LetterRow)
        there = (row.project_id == seat.project.id, LETTER.seen(seat, row.id))
        return select(row.id).where(row.subject.icontains(words.strip(), autoescape=True), *there)
    index, number, met = words_in(WordIndex.LETTERS, query)
    return (
        select(LetterMessageRow.letter_id)
        .join(index, number == LetterMessageRow.seq)
        .where(met, LetterMessageRow.project_id == seat.project.id, _sent_and_seen(seat))
    )


def _sent_and_seen(seat: Seat) -> ColumnElement[bool]:
    """`MESSAGE.seen` of very many that were sent: of threads that do not name somebody nothing more is asked, and of
    those that are theirs from the first to the last neither.
    """
    eyes, row = seat.eyes, LetterMessageRow
    if eyes.leads or eyes.steward or eyes.borrowed:
        return MESSAGE.seen(seat)
    whole = row.letter_id.in_(_named_in(eyes, whole=True))
    return and_(row.sent_at.is_not(None), row.letter_id.in_(_named_in(eyes)), or_(whole, MESSAGE.seen(seat)))


def _find(session: Session, seat: Seat, words: str, most: int) -> list[LetterRow]:
    """Those that are there for the seat, the latest first."""
    query = select(LetterRow).where(
        LetterRow.project_id == seat.project.id, LetterRow.id.in_(letters_with(seat, words)), LETTER.seen(seat)
    )
    return list(session.scalars(query.order_by(LetterRow.last_at.desc()).limit(most)))


LETTER = thing_kind(
    ThingKind(
        code="letter",
        words="letter",
        plural="letters",
        row=LetterRow,
        audience=AudienceOf(
            people=(_began, _people, _serving), companies=(_companies,), is_open=False, leads=_not_private,
            stewards=_not_private, named_in=_named_in,
        ),
        number=lambda row: row.number,
        title=lambda row: row.subject,
        address=lambda row: f"/letters/{row.id}",
        named_by=(LetterRow.number, LetterRow.subject),
        listed=(LetterRow.id, LetterRow.number, LetterRow.subject, LetterRow.state),
        newest=LetterRow.last_at,
        topic="letters",
        tool="letters",
        find=_find,
        has_talk=False,
    )
)  # fmt: skip


def _whose(message_id: Any) -> Select[Any]:
    """A draft is its author's alone; what was sent is there for whoever began the thread."""
    row, letter = asides("messages_whose", LetterMessageRow, LetterRow)
    person = case((row.sent_at.is_(None), row.author_id), else_=letter.began_by)
    return select(person).join(letter, letter.id == row.letter_id).where(row.id == message_id)


def _shown_to(party: Any, row: Any) -> ColumnElement[bool]:
    """A message that a party's sight takes in."""
    return and_(
        row.letter_id == party.letter_id, row.sent_at.is_not(None), party.first_place <= row.place,
        or_(party.last_place.is_(None), row.place <= party.last_place),
    )  # fmt: skip


def _message_people(message_id: Any) -> Select[Any]:
    party, row = asides("messages_people", LetterPartyRow, LetterMessageRow)
    people = select(party.party_id).join(row, _shown_to(party, row))
    return people.where(row.id == message_id, party.kind == "person")


def _message_companies(message_id: Any) -> Select[Any]:
    party, row, company = asides("messages_companies", LetterPartyRow, LetterMessageRow, CompanyRow)
    now = select(func.coalesce(company.merged_into, company.id)).join(party, party.party_id == company.id)
    return now.join(row, _shown_to(party, row)).where(row.id == message_id, party.kind == "company")


def _sent_and_not_private(message_id: Any) -> ColumnElement[bool]:
    if message_id is LetterMessageRow.id:
        letter = aside("messages_letter_private", LetterRow)
        private = select(letter.id).where(letter.private)
        return and_(LetterMessageRow.sent_at.is_not(None), LetterMessageRow.letter_id.not_in(private))
    row, letter = asides("messages_not_private", LetterMessageRow, LetterRow)
    here = (row.id == message_id, letter.id == row.letter_id, row.sent_at.is_not(None), ~letter.private)
    return exists().where(*here)


def _checker(message_id: Any) -> Select[Any]:
    """Whoever looks at a draft before it goes, for as long as it is with them."""
    row = aside("messages_checker", LetterMessageRow)
    return select(row.checker_id).where(
        row.id == message_id, row.sent_at.is_(None), row.check_state == Check.ASKED.value
    )


def _may_add(seat: Seat, row: LetterMessageRow) -> bool:
    """Files, to one's own draft, unless somebody looks at it."""
    mine = row.sent_at is None and row.author_id == seat.eyes.person_id
    return mine and row.check_state != Check.ASKED.value


def _message_address(row: LetterMessageRow) -> str:
    return f"/letters/write/{row.id}" if row.sent_at is None else f"/letters/{row.letter_id}?message={row.id}"


MESSAGE = thing_kind(
    ThingKind(
        code="letter_message",
        words="message",
        plural="messages",
        row=LetterMessageRow,
        audience=AudienceOf(
            people=(_whose, _checker, _message_people), companies=(_message_companies,), is_open=False,
            leads=_sent_and_not_private, stewards=_sent_and_not_private,
        ),
        number=lambda row: "",
        title=lambda row: row.subject or "a message",
        address=_message_address,
        named_by=(),
        listed=(LetterMessageRow.id, LetterMessageRow.letter_id, LetterMessageRow.subject, LetterMessageRow.sent_at),
        newest=LetterMessageRow.written_at,
        topic="letters",
        tool="letters",
        find=lambda session, seat, words, most: [],
        part_of="letter",
        has_talk=False,
        has_files=True,
        may_talk=_may_add,
        shows_unsaid=lambda row: row.sent_at is None,
    )
)  # fmt: skip
