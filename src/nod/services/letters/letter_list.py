"""The list of letters: narrowed, searched, sorted, a page at a time (handbook §11)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime
from typing import Any, Literal, NamedTuple

from sqlalchemy import ColumnElement, and_, exists, func, literal, or_, select, union_all
from sqlalchemy.orm import Session

from nod.core.acts.working_days import local_date
from nod.core.letters.days import days_open
from nod.core.letters.states import Deed, State, may
from nod.services.acts.answers import Answered, Standing, Who, people_by_id
from nod.services.acts.context import Context
from nod.services.acts.late import LateBy
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.services.letters.drafts import LetterDraftLine, own_drafts
from nod.services.letters.kind import LETTER, MESSAGE, letters_with
from nod.services.letters.letter_rows import company_ids, letter_kinds, parts_in
from nod.services.open_work.open_work import standings
from nod.store.asides import asides
from nod.store.dialects.sqlite import one_of, unindexed
from nod.store.tables import (
    CompanyRow,
    LetterMessageRow,
    LetterPartyRow,
    LetterRow,
    LetterSeenRow,
    OpenWorkHolderRow,
    OpenWorkRow,
)

View = Literal["", "mine", "in", "company"]
Sort = Literal["last", "number", "due", "sent"]
StateWord = Literal["", "open", "answer wanted", "answered", "closed"]


@dataclass(frozen=True)
class AskedLetters:
    """`words` are looked for in number, subject, text and names of files. `start` is the first line wanted, from 0.

    `view`: all that one sees, those that are with one, those that one is in, those that began at one's company.
    `company`: from where it began. `late`: those whose answer is past its day. `unread`: with something not read yet.
    """

    project_id: str
    words: str = ""
    view: View = ""
    kind: str = ""
    state: StateWord = ""
    company: str = ""
    late: bool = False
    unread: bool = False
    sort: Sort = "last"
    down: bool = True
    start: int = 0
    limit: int = 100


class LetterLine(Answered):
    """`days_open` counts calendar days from sending, null once it is answered or closed. `may`: what one may do now.

    `to` names those to whom it went first, `written_by` who wrote that, as it says, with `company`; `unread` counts
    what was written since one looked, by others. Of a notice, `bar_on` is the last day in time, `served_on` when it was
    served.
    """

    id: str
    number: str
    kind: str
    kind_words: str
    subject: str
    company: str
    company_name: str
    began_by: Who
    written_by: str
    to: str
    state: str
    standing: Standing
    sent_at: datetime
    last_at: datetime
    days_open: int | None
    bar_on: date | None
    served_on: date | None
    messages: int
    unread: int
    private: bool
    may: list[str]
    version: int


class LetterStateCount(Answered):
    state: str
    count: int


class LetterCompany(Answered):
    id: str
    code: str
    name: str


class LetterList(Answered):
    """`states` are counted without the filter by state; `late` and `unread` of what the other filters leave."""

    lines: list[LetterLine]
    total: int
    states: list[LetterStateCount]
    late: int
    companies: list[LetterCompany]
    drafts: list[LetterDraftLine]


def list_letters(context: Context, actor: Actor, asked: AskedLetters) -> LetterList:
    """Raises NotAllowed without the tool."""
    with context.database.read() as session:
        seat = take_seat(session, actor, asked.project_id)
        seat.need_tool(LETTER.tool)
        late_by = LateBy(session, seat.project, context.clock.now())
        look = _look(session, seat, actor, asked, late_by.today)
        return LetterList(
            lines=letter_lines(session, seat, actor, look.rows, late_by),
            total=look.total, states=look.states, late=look.late,
            companies=[] if asked.start else _companies(session, seat),
            drafts=[] if asked.start else own_drafts(session, actor, asked.project_id),
        )  # fmt: skip


def conditions(
    session: Session, seat: Seat, actor: Actor, asked: AskedLetters, today: date
) -> list[ColumnElement[bool]]:  # fmt: skip
    # Where words are given, they lead to the threads, and not the project.
    project = unindexed(LetterRow.project_id) if asked.words.strip() else LetterRow.project_id
    found: list[ColumnElement[bool]] = [
        project == asked.project_id, LetterRow.state != State.DRAFT.value, LETTER.seen(seat)
    ]  # fmt: skip
    if asked.words.strip():
        found.append(LetterRow.id.in_(letters_with(seat, asked.words)))
    if asked.view:
        found.append(_view(session, actor, asked.view))
    if asked.kind:
        found.append(LetterRow.kind == asked.kind)
    if asked.company:
        found.append(LetterRow.company_id.in_(company_ids(session, asked.company)))
    if asked.unread:
        found.append(_has_unread(session, seat, actor))
    return [*found, *_narrowing(LetterRow, asked, today)]


class _Look(NamedTuple):
    """A page of what is asked for, how many that are in all, and the counts beside it."""

    rows: list[LetterRow]
    total: int
    states: list[LetterStateCount]
    late: int


def _look(session: Session, seat: Seat, actor: Actor, asked: AskedLetters, today: date) -> _Look:
    """What is counted is a little of each row; what is looked for by words is looked for once."""
    without = replace(asked, state="", late=False)
    kept = conditions(session, seat, actor, without, today)
    columns = (LetterRow.id, LetterRow.state, LetterRow.due_on, LetterRow.last_at, LetterRow.number, LetterRow.sent_at)
    if asked.words.strip():
        here: Any = select(*columns).where(*kept).cte("letters_found").c
        kept = []
    else:
        here = LetterRow
    narrowed = [*kept, *_narrowing(here, asked, today)]
    page = _ordered(select(here.id.label("id")).where(*narrowed), here, asked)
    page = page.offset(asked.start).limit(asked.limit).subquery("letters_page")
    late = func.sum(func.iif(_is_late(here, today), 1, 0))
    counted = select(literal(False), here.state, func.count(), late).where(*kept).group_by(here.state)
    found = session.execute(union_all(select(literal(True), page.c.id, literal(0), literal(0)), counted)).all()
    ids = [id for is_line, id, *_ in found if is_line]
    rows = session.scalars(_ordered(select(LetterRow).where(one_of(LetterRow.id, ids)), LetterRow, asked))
    counts = {state: (count, behind) for is_line, state, count, behind in found if not is_line}
    return _Look(list(rows), *_totals(asked, counts))


def _totals(
    asked: AskedLetters, counts: dict[str, tuple[int, int]]
) -> tuple[int, list[LetterStateCount], int]:  # fmt: skip
    """How many are as asked for, how many there are by state, and how many are late, of a count and how many of them
    are late by state.
    """
    states = [
        LetterStateCount(state=each.value, count=counts.get(each.value, (0, 0))[0])
        for each in State
        if each is not State.DRAFT
    ]
    in_it = [each for state, each in counts.items() if not asked.state or state == asked.state]
    total = sum(behind if asked.late else count for count, behind in in_it)
    return total, states, sum(behind for _, behind in counts.values())


def _narrowing(here: Any, asked: AskedLetters, today: date) -> list[ColumnElement[bool]]:
    """By what the counts beside a page do not narrow."""
    state = [here.state == asked.state] if asked.state else []
    return [*state, *([_is_late(here, today)] if asked.late else [])]


def _ordered(query: Any, here: Any, asked: AskedLetters) -> Any:
    columns: dict[str, Any] = {"last": here.last_at, "number": here.number, "due": here.due_on, "sent": here.sent_at}
    column = columns[asked.sort]
    nulls = (column.is_(None),) if asked.sort == "due" else ()
    return query.order_by(*nulls, column.desc() if asked.down else column, here.id)


def _is_late(here: Any, today: date) -> ColumnElement[bool]:
    return and_(here.state == State.WANTED.value, here.due_on < today)


def _view(session: Session, actor: Actor, view: View) -> ColumnElement[bool]:
    companies = company_ids(session, actor.company_id)
    if view == "company":
        return LetterRow.company_id.in_(companies)
    if view == "in":
        return or_(LetterRow.began_by == actor.person_id, LetterRow.id.in_(_in(actor, companies)))
    held = select(OpenWorkRow.thing_id).join(OpenWorkHolderRow, OpenWorkHolderRow.work_id == OpenWorkRow.id)
    mine = OpenWorkHolderRow.holder_id.in_((actor.person_id, actor.company_id))
    return LetterRow.id.in_(held.where(OpenWorkRow.thing_kind == LETTER.code, mine))


def _in(actor: Actor, companies: list[str]) -> Any:
    return select(LetterPartyRow.letter_id).where(
        or_(
            and_(LetterPartyRow.kind == "person", LetterPartyRow.party_id == actor.person_id),
            and_(LetterPartyRow.kind == "company", LetterPartyRow.party_id.in_(companies)),
        )
    )


def _has_unread(session: Session, seat: Seat, actor: Actor) -> ColumnElement[bool]:
    """Something that another wrote, after what one has seen, in a thread that one is in."""
    message, seen = asides("letters_unread", LetterMessageRow, LetterSeenRow)
    looked = (
        select(func.coalesce(func.max(seen.place), 0))
        .where(seen.letter_id == LetterRow.id, seen.person_id == actor.person_id)
        .correlate(LetterRow)
        .scalar_subquery()
    )
    new = (
        message.letter_id == LetterRow.id,
        message.place > looked,
        MESSAGE.seen(seat, message.id),
        _by_others(message, actor),
    )
    return and_(_view(session, actor, "in"), exists(select(message.id).where(*new).correlate(LetterRow)))


def _by_others(message: Any, actor: Actor) -> ColumnElement[bool]:
    return or_(message.author_id.is_(None), message.author_id != actor.person_id)


def _companies(session: Session, seat: Seat) -> list[LetterCompany]:
    """Those from which something began that the seat sees."""
    of = exists().where(
        LetterRow.company_id == CompanyRow.id, LetterRow.project_id == seat.project.id,
        LetterRow.state != State.DRAFT.value, LETTER.seen(seat),
    )  # fmt: skip
    ids = set(session.scalars(select(func.coalesce(CompanyRow.merged_into, CompanyRow.id)).where(of)))
    rows = session.scalars(select(CompanyRow).where(one_of(CompanyRow.id, ids)).order_by(CompanyRow.code))
    return [LetterCompany(id=row.id, code=row.code, name=row.name) for row in rows]


def letter_lines(
    session: Session, seat: Seat, actor: Actor, rows: Sequence[LetterRow], late_by: LateBy
) -> list[LetterLine]:
    """In a fixed number of queries."""
    ids = [row.id for row in rows]
    people = people_by_id(session, {row.began_by for row in rows})
    companies = {
        row.id: row
        for row in session.scalars(select(CompanyRow).where(one_of(CompanyRow.id, {row.company_id for row in rows})))
    }
    kinds = {each.code: each.words for each in letter_kinds(seat.project)}
    has_it = standings(session, "", LETTER.code, ids, late_by)
    may_do = _may(session, seat, actor, rows)
    counts, unread = _message_counts(session, seat, ids), _unread(session, seat, actor, ids)
    first = _first_messages(session, ids)
    return [
        LetterLine(
            id=row.id, number=row.number, kind=row.kind, kind_words=kinds.get(row.kind, row.kind), subject=row.subject,
            company=companies[row.company_id].code, company_name=companies[row.company_id].name,
            began_by=people[row.began_by], written_by=first[row.id].author if row.id in first else "",
            to=first[row.id].to if row.id in first else "", state=row.state,
            standing=has_it.get(row.id, Standing()), sent_at=row.sent_at or row.made_at, last_at=row.last_at,
            days_open=_days_open(row, late_by), bar_on=row.bar_on,
            served_on=first[row.id].served_on if row.id in first else None,
            messages=counts.get(row.id, 0), unread=unread.get(row.id, 0),
            private=row.private, may=may_do.get(row.id, []), version=row.version,
        )
        for row in rows
    ]  # fmt: skip


def _days_open(row: LetterRow, late_by: LateBy) -> int | None:
    if row.sent_at is None or row.state in (State.ANSWERED.value, State.CLOSED.value):
        return None
    return days_open(local_date(row.sent_at, late_by.zone), late_by.today)


def _may(session: Session, seat: Seat, actor: Actor, rows: Sequence[LetterRow]) -> dict[str, list[str]]:
    """By thread; nothing through another's eyes."""
    if actor.looker is not None:
        return {}
    parts = parts_in(session, rows, actor.person_id, actor.company_id, seat.runs)
    return {row.id: [deed.value for deed in Deed if may(State(row.state), parts[row.id], deed)] for row in rows}


def _message_counts(session: Session, seat: Seat, ids: Sequence[str]) -> dict[str, int]:
    query = (
        select(LetterMessageRow.letter_id, func.count())
        .where(one_of(LetterMessageRow.letter_id, ids), LetterMessageRow.place > 0, MESSAGE.seen(seat))
        .group_by(LetterMessageRow.letter_id)
    )
    return {letter_id: count for letter_id, count in session.execute(query)}


def _unread(session: Session, seat: Seat, actor: Actor, ids: Sequence[str]) -> dict[str, int]:
    """By thread, of those that one is in."""
    here = _in(actor, company_ids(session, actor.company_id)).where(LetterPartyRow.letter_id == LetterRow.id)
    is_in = or_(LetterRow.began_by == actor.person_id, exists(here.correlate(LetterRow)))
    mine = select(LetterRow.id).where(one_of(LetterRow.id, ids), is_in)
    seen = (
        select(LetterSeenRow.place)
        .where(LetterSeenRow.letter_id == LetterMessageRow.letter_id, LetterSeenRow.person_id == actor.person_id)
        .correlate(LetterMessageRow)
        .scalar_subquery()
    )
    query = (
        select(LetterMessageRow.letter_id, func.count())
        .where(
            LetterMessageRow.letter_id.in_(mine), LetterMessageRow.place > func.coalesce(seen, 0),
            _by_others(LetterMessageRow, actor), MESSAGE.seen(seat),
        )
        .group_by(LetterMessageRow.letter_id)
    )  # fmt: skip
    return {letter_id: count for letter_id, count in session.execute(query)}


class _First(NamedTuple):
    """What began a thread: who wrote it, as it says, to whom it went, and when it was served."""

    author: str
    to: str
    served_on: date | None


def _first_messages(session: Session, ids: Sequence[str]) -> dict[str, _First]:
    query = select(
        LetterMessageRow.letter_id, LetterMessageRow.author_name, LetterMessageRow.to, LetterMessageRow.served_on
    ).where(one_of(LetterMessageRow.letter_id, ids), LetterMessageRow.place == 1)
    return {letter_id: _First(author, named_to(to), served) for letter_id, author, to, served in session.execute(query)}


def named_to(to: Sequence[dict[str, str]]) -> str:
    """Companies by name, people with the code of theirs."""
    named = [
        each["name"] if each["kind"] == "company" else f"{each['name']} ({each['company']})"
        for each in to
        if each["how"] == "to"
    ]
    return ", ".join(named)
