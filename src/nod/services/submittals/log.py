"""The log of submittals: filtered, counted by state, sorted, a page at a time (handbook §9)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date
from typing import Any, Literal, NamedTuple

from sqlalchemy import ColumnElement, func, or_, select
from sqlalchemy.orm import Session, object_session

from nod.core.submittals.numbers import shown_number
from nod.core.submittals.rail import Block, rail
from nod.core.submittals.states import OVER, State
from nod.services.acts.answers import Answered, Standing, Who, people_by_id
from nod.services.acts.context import Context
from nod.services.acts.late import LateBy
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.services.open_work.open_work import standings
from nod.services.submittals.floats_kept import late_then
from nod.services.submittals.kind import SUBMITTAL, companies_now, is_copied_to, is_of_company
from nod.services.submittals.log_groups import GroupBy, SubmittalGroup, groups_of, key_of, order_of
from nod.services.submittals.outlooks import cases_of, deciding, keep_worked_out, standing_of, submittal_rules
from nod.services.submittals.part_rows import lots_of
from nod.services.submittals.submittal_rows import deeds
from nod.store.dialects.sqlite import one_of, unindexed
from nod.store.tables import (
    OpenWorkHolderRow,
    OpenWorkRow,
    PersonRow,
    SubmittalRoundRow,
    SubmittalRow,
)

View = Literal["", "mine", "copied", "company"]
Sort = Literal["float", "number", "required", "latest", "due", "section"]
StateWord = Literal[
    "", "planned", "asked for", "in preparation", "sent in", "under review", "answered", "closed", "void"
]  # fmt: skip


@dataclass(frozen=True)
class AskedSubmittals:
    """`words` are looked for in number, title and section. `start` is the first line wanted, from 0.

    `view`: all that one sees, those that are with one, where one is copied in, those of one's company. `late`: those
    whose float is below 0, or that are with somebody past their day. Without a state, those that are void are left out.
    `answered_by`: those of which a company has answered a round; `waits_for`: whose answer it still owes. `took`: those
    that were answered to proceed in their so-manieth round. `late_on`: those whose float was below 0 on that day.
    `group`: under headings; those of `shut` ones are left out of the lines.
    """

    project_id: str
    words: str = ""
    view: View = ""
    state: StateWord = ""
    late: bool = False
    company: str = ""
    kind: str = ""
    answered_by: str = ""
    waits_for: str = ""
    took: int = 0
    late_on: date | None = None
    sort: Sort = "float"
    down: bool = False
    group: GroupBy = ""
    shut: tuple[str, ...] = ()
    start: int = 0
    limit: int = 100


class RailBlock(Answered):
    """Working days from today: it begins at `start`, which may lie before today, and is `days` long."""

    what: Literal["review", "preparation", "buffer", "lead"]
    start: int
    days: int


class Rail(Answered):
    """From today to the day required on site, in working days: `span` may be negative once that is over.

    `gap` is what is left between today and the first block; the blocks follow each other without gaps. `required_on` is
    where it ends: with lots, the day of the one that has the least float.
    """

    span: int
    gap: int
    blocks: list[RailBlock]
    required_on: date


class SubmittalLine(Answered):
    """`shown` is number and revision. `float_days`: 0 is the last day, negative is late; null where it is not known,
    and `unknown` says why. `rail` is null then, and where nothing moves any more. `may`: what the viewer may do now."""

    id: str
    number: str
    revision: int
    shown: str
    title: str
    kind: str
    kind_words: str
    section: str
    company: str
    company_name: str
    person: Who | None
    standing: Standing
    state: str
    verdict: str
    required_on: date | None
    latest_on: date | None
    forecast_on: date | None
    delivered_on: date | None
    float_days: int | None
    unknown: str
    rail: Rail | None
    location: str
    milestone: str
    may: list[str]
    version: int


class StateCount(Answered):
    state: str
    count: int


class CompanyChoice(Answered):
    id: str
    code: str
    name: str


class SubmittalLog(Answered):
    """`total` counts what the filters leave, `states` the same without the one of state, `late` those that are late.

    `companies` are what the log can be narrowed to. `groups`: where it is grouped, on its first page.
    """

    lines: list[SubmittalLine]
    total: int
    states: list[StateCount]
    late: int
    companies: list[CompanyChoice]
    groups: list[SubmittalGroup]
    may_make: bool


def list_submittals(context: Context, actor: Actor, asked: AskedSubmittals) -> SubmittalLog:
    keep_worked_out(context, asked.project_id)
    with context.database.read() as session:
        seat = take_seat(session, actor, asked.project_id)
        seat.need_tool(SUBMITTAL.tool)
        late_by = LateBy(session, seat.project, context.clock.now())
        kept = conditions(seat, actor, asked, late_by.today)
        shown = [*kept, key_of(asked.group).not_in(asked.shut)] if asked.group and asked.shut else kept
        rows = list(session.scalars(ordered(shown, asked).offset(asked.start).limit(asked.limit)))
        counts = _counts(session, seat, actor, asked, late_by.today)
        return SubmittalLog(
            lines=submittal_lines(session, seat, actor, rows, late_by), total=counts.total,
            states=counts.states, late=counts.late,
            companies=[] if asked.start else companies_in(session, seat),
            groups=groups_of(session, seat, asked.group, kept) if asked.group and not asked.start else [],
            may_make=seat.runs and actor.looker is None,
        )  # fmt: skip


def ordered(kept: Sequence[ColumnElement[bool]], asked: AskedSubmittals) -> Any:
    """Those with nothing in the column come last, whichever way it is sorted."""
    query = select(SubmittalRow).where(*kept)
    columns: dict[str, Any] = {
        "float": SubmittalRow.float_days, "number": SubmittalRow.number, "required": SubmittalRow.required_on,
        "latest": SubmittalRow.latest_on, "section": SubmittalRow.section,
    }  # fmt: skip
    if asked.sort == "due":
        due = select(func.min(OpenWorkRow.due_on)).where(_its_work()).correlate(SubmittalRow).scalar_subquery()
        columns["due"] = due
    column = columns[asked.sort]
    if asked.group:
        order = order_of(asked.group)
        query = query.order_by(*(order if isinstance(order, tuple) else (order,)))
    return query.order_by(
        column.is_(None), column.desc() if asked.down else column, SubmittalRow.number, SubmittalRow.id
    )


def _its_work() -> ColumnElement[bool]:
    return (OpenWorkRow.thing_id == SubmittalRow.id) & (OpenWorkRow.thing_kind == SUBMITTAL.code)


def conditions(seat: Seat, actor: Actor, asked: AskedSubmittals, today: date) -> list[ColumnElement[bool]]:
    found: list[ColumnElement[bool]] = [SubmittalRow.project_id == asked.project_id, SUBMITTAL.seen(seat)]
    if words := asked.words.strip():
        columns = (SubmittalRow.number, SubmittalRow.title, SubmittalRow.section)
        found.append(or_(*(column.icontains(words, autoescape=True) for column in columns)))
    if asked.view:
        found.append(_view(actor, asked.view))
    if asked.company:
        found.append(is_of_company(SubmittalRow.company_id, asked.company))
    if asked.kind:
        found.append(SubmittalRow.kind == asked.kind)
    found += looked_into(seat, asked)
    if asked.late:
        found.append(is_late(today))
    found.append(SubmittalRow.state == asked.state if asked.state else SubmittalRow.state != State.VOID.value)
    return found


def looked_into(seat: Seat, asked: AskedSubmittals) -> list[ColumnElement[bool]]:
    """What figures of the analysis lead to."""
    found: list[ColumnElement[bool]] = []
    if asked.answered_by:
        answered = select(SubmittalRoundRow.submittal_id).where(
            is_of_company(SubmittalRoundRow.approver_company_id, asked.answered_by),
            SubmittalRoundRow.answered_at.is_not(None),
        )
        found.append(SubmittalRow.id.in_(answered))
    if asked.waits_for:
        waits = select(SubmittalRoundRow.submittal_id).where(
            is_of_company(SubmittalRoundRow.approver_company_id, asked.waits_for),
            SubmittalRoundRow.answered_at.is_(None),
        )
        found += [SubmittalRow.state == State.UNDER_REVIEW.value, SubmittalRow.id.in_(waits)]
    if asked.took:
        found += [was_settled(), SubmittalRow.revision == asked.took - 1]
    if asked.late_on is not None:
        session = object_session(seat.project)
        ids = late_then(session, seat.project.id, asked.late_on) if session else []
        found.append(one_of(unindexed(SubmittalRow.id), ids))
    return found


def was_settled() -> ColumnElement[bool]:
    """Answered to proceed, in the round of its revision."""
    settled = (State.ANSWERED.value, State.CLOSED.value)
    return SubmittalRow.state.in_(settled) & (SubmittalRow.verdict != "")


def is_late(today: date) -> ColumnElement[bool]:
    """Its float is below 0 and it has not come, or whoever has it is past the day."""
    running = SubmittalRow.state.not_in([each.value for each in OVER])
    behind = (SubmittalRow.float_days < 0) & SubmittalRow.delivered_on.is_(None)
    due = select(OpenWorkRow.thing_id).where(_its_work(), OpenWorkRow.due_on < today).correlate(SubmittalRow)
    return running & or_(behind, due.exists())


def _view(actor: Actor, view: View) -> ColumnElement[bool]:
    if view == "copied":
        return is_copied_to(actor.person_id, actor.company_id)
    if view == "company":
        approver = select(PersonRow.id).where(is_of_company(PersonRow.company_id, actor.company_id))
        return or_(is_of_company(SubmittalRow.company_id, actor.company_id), SubmittalRow.approver_id.in_(approver))
    held = select(OpenWorkRow.thing_id).join(OpenWorkHolderRow, OpenWorkHolderRow.work_id == OpenWorkRow.id)
    mine = OpenWorkHolderRow.holder_id.in_((actor.person_id, actor.company_id))
    return SubmittalRow.id.in_(held.where(OpenWorkRow.thing_kind == SUBMITTAL.code, mine))


class _Counts(NamedTuple):
    total: int
    states: list[StateCount]
    late: int


def _counts(session: Session, seat: Seat, actor: Actor, asked: AskedSubmittals, today: date) -> _Counts:
    """In one look at all that the filters leave: by state, in the order of the work, and how many of them are late.

    States are counted without the filter by state; what is void only where there is any.
    """
    kept = conditions(seat, actor, replace(asked, state="", late=False), today)[:-1]
    late = func.sum(func.iif(is_late(today), 1, 0))
    query = select(SubmittalRow.state, func.count(), late).where(*kept).group_by(SubmittalRow.state)
    found = {state: (behind if asked.late else count, behind) for state, count, behind in session.execute(query)}
    shown = [asked.state] if asked.state else [each.value for each in State if each is not State.VOID]
    return _Counts(
        total=sum(found.get(each, (0, 0))[0] for each in shown),
        states=[
            StateCount(state=each.value, count=found.get(each.value, (0, 0))[0])
            for each in State
            if each is not State.VOID or found.get(each.value)
        ],
        late=sum(found.get(each, (0, 0))[1] for each in shown),
    )


def companies_in(session: Session, seat: Seat) -> list[CompanyChoice]:
    """Those that are responsible for something that the seat sees."""
    of = select(SubmittalRow.company_id).where(SubmittalRow.project_id == seat.project.id, SUBMITTAL.seen(seat))
    now = {row.id: row for row in companies_now(session, session.scalars(of.distinct()).all()).values()}
    ordered = sorted(now.values(), key=lambda row: row.code)
    return [CompanyChoice(id=row.id, code=row.code, name=row.name) for row in ordered]


def submittal_lines(
    session: Session, seat: Seat, actor: Actor, rows: Sequence[SubmittalRow], late_by: LateBy
) -> list[SubmittalLine]:
    """In a fixed number of queries."""
    people = people_by_id(session, {row.person_id for row in rows if row.person_id})
    companies = companies_now(session, {row.company_id for row in rows})
    has_it = standings_of(session, rows, late_by)
    kinds = {each.code: each.words for each in submittal_rules(seat.project).kinds}
    rails, may = _rails(session, seat, rows, late_by), deeds(session, rows, actor, seat)
    return [
        SubmittalLine(
            id=row.id, number=row.number, revision=row.revision, shown=shown_number(row.number, row.revision),
            title=row.title, kind=row.kind, kind_words=kinds.get(row.kind, row.kind), section=row.section,
            company=companies[row.company_id].code, company_name=companies[row.company_id].name,
            person=people.get(row.person_id or ""), standing=has_it.get(row.id, Standing()), state=row.state,
            verdict=row.verdict, required_on=row.required_on, latest_on=row.latest_on, forecast_on=row.forecast_on,
            delivered_on=row.delivered_on, float_days=row.float_days, unknown=unknown_words(row),
            rail=rails.get(row.id), location=row.location, milestone=row.milestone, may=may[row.id],
            version=row.version,
        )
        for row in rows
    ]  # fmt: skip


def standings_of(session: Session, rows: Sequence[SubmittalRow], late_by: LateBy) -> dict[str, Standing]:
    """What goes round in a review is with whoever has that."""
    found = standings(session, "", SUBMITTAL.code, [row.id for row in rows], late_by)
    reviews = [row.review_id for row in rows if row.review_id]
    going = standings(session, "", "review", reviews, late_by) if reviews else {}
    return found | {row.id: going[row.review_id] for row in rows if row.review_id in going}


def unknown_words(row: SubmittalRow) -> str:
    """Why there is no float; empty where there is one, or none is wanted."""
    if row.float_days is not None or row.state == State.VOID.value:
        return ""
    missing = [
        words
        for words, value in (("the day required on site", row.required_on), ("the lead time", row.lead))
        if value is None
    ]
    return f"{' and '.join(missing)} {'is' if len(missing) == 1 else 'are'} not known"


def _rails(session: Session, seat: Seat, rows: Sequence[SubmittalRow], late_by: LateBy) -> dict[str, Rail]:
    query = (
        select(SubmittalRoundRow)
        .where(one_of(SubmittalRoundRow.submittal_id, [row.id for row in rows]))
        .order_by(SubmittalRoundRow.revision)
    )
    last = {each.submittal_id: each for each in session.scalars(query)}
    buffer, lots = submittal_rules(seat.project).buffer, lots_of(session, [row.id for row in rows])
    found = {}
    for row in rows:
        stands = standing_of(row, last.get(row.id))
        cases = cases_of(row, row.expected, stands, buffer, lots.get(row.id, ()))
        case = deciding(cases, late_by.today, late_by.calendar)
        laid = rail(case, late_by.today, late_by.calendar) if case else None
        if laid is not None and case is not None:
            blocks = [_block(each) for each in laid.blocks]
            found[row.id] = Rail(span=laid.span, gap=laid.gap, blocks=blocks, required_on=case.required)
    return found


def _block(block: Block) -> RailBlock:
    return RailBlock(what=block.what, start=block.start, days=block.days)
