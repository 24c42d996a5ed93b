"""One submittal with all that is known of it: its arithmetic laid open, its rounds, what may be done (handbook §9)."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.counted import counted
from nod.core.acts.refusals import NotAllowed, NotFound
from nod.core.submittals.arithmetic import Case, days_overdue, outlook
from nod.core.submittals.laid_open import float_words, forecast_words, latest_words
from nod.core.submittals.states import next_deed
from nod.services.access.visibility import see_revision
from nod.services.acts.answers import Answered, VerdictShown, Who, people_by_id, show_verdicts
from nod.services.acts.context import Context
from nod.services.acts.late import LateBy
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.services.attachments.attachments import Attachment, attachments_of
from nod.services.submittals.filing import RegisteredFile, registered_files
from nod.services.submittals.floats_kept import floats_of
from nod.services.submittals.kind import SUBMITTAL, companies_now
from nod.services.submittals.log import SubmittalLine, submittal_lines
from nod.services.submittals.on_route import ReviewOf, reviews_seen
from nod.services.submittals.outlooks import case_of, cases_of, deciding, keep_worked_out, standing_of, submittal_rules
from nod.services.submittals.part_rows import items_of, lots_of, open_items_of
from nod.services.submittals.submittal_rows import Entered, copied_of, enter, rounds_of
from nod.store.dialects.sqlite import one_of
from nod.store.tables import (
    CompanyRow,
    PersonRow,
    ProjectRow,
    SubmittalItemAnswerRow,
    SubmittalItemRow,
    SubmittalLotRow,
    SubmittalRoundRow,
    SubmittalRow,
)

_FLOATS = 130
"""How many changes of its float are shown: half a year of working days."""


class Arithmetic(Answered):
    """How its dates follow from each other, in words; empty where a time or the day on site is missing.

    `lot`: the one that has the least float, if it comes in lots.
    """

    latest: str
    forecast: str
    float: str
    lot: str


class ItemSaid(Answered):
    """What a round said of an item."""

    title: str
    verdict: str


class RoundShown(Answered):
    """One sending in and its answer. `answered_for`: entered by `answered_by` on behalf of the approver.

    `registered`: its files as they are in the register, as far as the viewer sees them there. `review`: in which it
    goes round, or did.
    """

    revision: int
    sent_at: datetime
    sent_by: Who
    note: str
    files: list[Attachment]
    registered: list[RegisteredFile]
    review: ReviewOf | None
    approver: Who | None
    given_at: datetime | None
    due_on: date | None
    verdict: VerdictShown | None
    items: list[ItemSaid]
    answer_note: str
    answer_files: list[Attachment]
    answered_at: datetime | None
    answered_by: Who | None
    answered_for: bool
    days_taken: int | None


class CopiedShown(Answered):
    kind: str
    id: str
    name: str
    company: str


class AskedIn(Answered):
    """Where a specification asks for it, for who sees that; its page counts from 0."""

    revision_id: str
    number: str
    revision: str
    page: int


class SubmittalItem(Answered):
    """Something of it with a verdict of its own. `is_open`: an answer is about it now."""

    id: str
    title: str
    paragraph: str
    verdict: str
    is_open: bool


class LotShown(Answered):
    """What it does not say of day and lead is the submittal's. The forecast and the float of what has not come."""

    id: str
    name: str
    required_on: date | None
    lead: int | None
    lead_in: str
    delivered_on: date | None
    forecast_on: date | None
    float_days: int | None


class FloatOn(Answered):
    """What its float was from a day on; null where it was not known, or nothing moved any more."""

    on: date
    days: int | None


class SubmittalShown(Answered):
    """`floats`: its float as it was, by day. `next` is the deed of `core.submittals.states.Deed` that it waits for, or
    empty; rounds, the latest first.
    """

    line: SubmittalLine
    company_id: str
    paragraph: str
    description: str
    reference: str
    category: str
    approver: Who | None
    keeper: Who
    made_by: Who
    made_at: datetime
    planned_on: date | None
    lead: int | None
    lead_in: str
    review_days: int
    rounds_expected: int
    preparation: int
    buffer: int
    for_information: bool
    why_void: str
    arithmetic: Arithmetic
    items: list[SubmittalItem]
    lots: list[LotShown]
    floats: list[FloatOn]
    rounds: list[RoundShown]
    copied: list[CopiedShown]
    asked_in: AskedIn | None
    verdicts: list[VerdictShown]
    next: str


class KindShown(Answered):
    code: str
    words: str
    for_information: bool


class SubmittalChoices(Answered):
    """What a new submittal begins with, and the kinds there are. `numbered_by`: company or section."""

    kinds: list[KindShown]
    numbered_by: str
    buffer: int
    review: int
    preparation: int


def read_choices(context: Context, actor: Actor, project_id: str) -> SubmittalChoices:
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        seat.need_tool(SUBMITTAL.tool)
        rules = submittal_rules(seat.project)
        kinds = [KindShown(code=each.code, words=each.words, for_information=each.for_information)
                 for each in rules.kinds]  # fmt: skip
        return SubmittalChoices(
            kinds=kinds, numbered_by=rules.numbered_by.value, buffer=rules.buffer, review=rules.review,
            preparation=rules.preparation,
        )  # fmt: skip


def read_submittal(context: Context, actor: Actor, submittal_id: str) -> SubmittalShown:
    with context.database.read() as session:
        project_id = enter(session, actor, submittal_id).row.project_id
    keep_worked_out(context, project_id)
    with context.database.read() as session:
        entered = enter(session, actor, submittal_id)
        late_by = LateBy(session, entered.seat.project, context.clock.now())
        return _show(session, entered, actor, late_by)


def _show(session: Session, entered: Entered, actor: Actor, late_by: LateBy) -> SubmittalShown:
    row, project = entered.row, entered.seat.project
    rounds = rounds_of(session, row.id)
    people = people_by_id(session, {each for each in (row.approver_id, row.keeper_id, row.made_by) if each})
    (line,) = submittal_lines(session, entered.seat, actor, [row], late_by)
    rules = submittal_rules(project)
    company = companies_now(session, {row.company_id})[row.company_id]
    return SubmittalShown(
        line=line, company_id=company.id, paragraph=row.paragraph, description=row.description,
        reference=row.reference, category=row.category,
        approver=people.get(row.approver_id or ""), keeper=people[row.keeper_id], made_by=people[row.made_by],
        made_at=row.made_at, planned_on=row.planned_on, lead=row.lead, lead_in=row.lead_in,
        review_days=row.review_days, rounds_expected=row.rounds, preparation=row.preparation, buffer=rules.buffer,
        for_information=row.for_information, why_void=row.why_void,
        arithmetic=_arithmetic(session, row, rounds, rules.buffer, late_by),
        items=items_shown(session, project, row), lots=_lots(session, row, rounds, rules.buffer, late_by),
        floats=[FloatOn(on=on, days=days) for on, days in floats_of(session, [row.id]).get(row.id, [])[-_FLOATS:]],
        rounds=_rounds(session, entered.seat, rounds, late_by),
        copied=_copied(session, row.id), asked_in=_asked_in(session, entered, actor),
        verdicts=show_verdicts(project.rules["verdict_set"], ""),
        next=wanted.value if (wanted := next_deed(entered.state, for_information=row.for_information)) else "",
    )  # fmt: skip


def _arithmetic(
    session: Session, row: SubmittalRow, rounds: Sequence[SubmittalRoundRow], buffer: int, late_by: LateBy
) -> Arithmetic:
    lots, stands = lots_of(session, [row.id]).get(row.id, []), standing_of(row, rounds[-1] if rounds else None)
    case = deciding(cases_of(row, row.expected, stands, buffer, lots), late_by.today, late_by.calendar)
    if case is None:
        return Arithmetic(latest="", forecast="", float="", lot="")
    found = outlook(case, late_by.today, late_by.calendar)
    return Arithmetic(
        latest=latest_words(case, found), forecast=forecast_words(
            case, found, _pace(session, row), days_overdue(case, late_by.today, late_by.calendar)
        ),
        float=float_words(found),
        lot=_lot_of(row, lots, case),
    )  # fmt: skip


def _lot_of(row: SubmittalRow, lots: Sequence[SubmittalLotRow], case: Case) -> str:
    """The name of the lot that a case is of."""
    if row.delivered_on is not None:
        return ""
    coming = [each for each in lots if each.delivered_on is None]
    of = (case_of(row, case.expected, case.standing, case.times.buffer, each) for each in coming)
    return next((each.name for each, its in zip(coming, of, strict=True) if its == case), "")


def _lots(
    session: Session, row: SubmittalRow, rounds: Sequence[SubmittalRoundRow], buffer: int, late_by: LateBy
) -> list[LotShown]:
    stands, shown = standing_of(row, rounds[-1] if rounds else None), []
    for lot in lots_of(session, [row.id]).get(row.id, []):
        case = case_of(row, row.expected, stands, buffer, lot) if lot.delivered_on is None else None
        found = outlook(case, late_by.today, late_by.calendar) if case else None
        shown.append(
            LotShown(
                id=lot.id, name=lot.name, required_on=lot.required_on, lead=lot.lead, lead_in=lot.lead_in,
                delivered_on=lot.delivered_on, forecast_on=found.forecast if found else None,
                float_days=found.float_days if found else None,
            )
        )  # fmt: skip
    return shown


def items_shown(session: Session, project: ProjectRow, row: SubmittalRow) -> list[SubmittalItem]:
    items = items_of(session, row.id)
    wanted = {each.id for each in open_items_of(project, items)}
    return [
        SubmittalItem(
            id=each.id, title=each.title, paragraph=each.paragraph, verdict=each.verdict, is_open=each.id in wanted
        )
        for each in items
    ]  # fmt: skip


def _pace(session: Session, row: SubmittalRow) -> str:
    """Where the answer time comes from."""
    days = f"{counted(row.expected, 'working day')} an answer"
    if row.expected == row.review_days or row.approver_id is None:
        return f"{days}, as it is set"
    company = session.get_one(CompanyRow, session.get_one(PersonRow, row.approver_id).company_id)
    return f"{days}, as {company.code} has taken of late"


def _rounds(session: Session, seat: Seat, rounds: Sequence[SubmittalRoundRow], late_by: LateBy) -> list[RoundShown]:
    verdicts = show_verdicts(seat.project.rules["verdict_set"])
    registered = registered_files(session, seat, [row.id for row in rounds])
    said = _items_said(session, [row.id for row in rounds])
    reviews = reviews_seen(session, seat, [row.review_id for row in rounds])
    ids = {each for row in rounds for each in (row.sent_by, row.approver_id, row.answered_by) if each}
    people, by_code = people_by_id(session, ids), {each.code: each for each in verdicts}
    files = attachments_of(session, [each for row in rounds for each in (row.sent_files, row.answer_files)])
    return [
        RoundShown(
            revision=row.revision, sent_at=row.sent_at, sent_by=people[row.sent_by], note=row.note,
            files=files.get(row.sent_files, []), registered=registered.get(row.id, []),
            review=reviews.get(row.review_id or ""), approver=people.get(row.approver_id or ""), given_at=row.given_at,
            due_on=row.due_on, verdict=by_code.get(row.verdict), items=said.get(row.id, []),
            answer_note=row.answer_note,
            answer_files=files.get(row.answer_files, []), answered_at=row.answered_at,
            answered_by=people.get(row.answered_by or ""), answered_for=row.answered_for,
            days_taken=late_by.calendar.working_days_after(row.sent_on, row.answered_on) if row.answered_on else None,
        )
        for row in reversed(rounds)
    ]  # fmt: skip


def _items_said(session: Session, rounds: Sequence[str]) -> dict[str, list[ItemSaid]]:
    """By round, in the order of the items."""
    query = (
        select(SubmittalItemAnswerRow.round_id, SubmittalItemRow.title, SubmittalItemAnswerRow.verdict)
        .join(SubmittalItemRow, SubmittalItemRow.id == SubmittalItemAnswerRow.item_id)
        .where(one_of(SubmittalItemAnswerRow.round_id, list(rounds)))
        .order_by(SubmittalItemRow.place)
    )
    found: dict[str, list[ItemSaid]] = {}
    for round_id, title, verdict in session.execute(query):
        found.setdefault(round_id, []).append(ItemSaid(title=title, verdict=verdict))
    return found


def _asked_in(session: Session, entered: Entered, actor: Actor) -> AskedIn | None:
    row = entered.row
    if row.spec_revision_id is None:
        return None
    try:
        revision, document, _ = see_revision(session, actor, row.spec_revision_id)
    except (NotFound, NotAllowed):
        return None
    return AskedIn(revision_id=revision.id, number=document.number, revision=revision.code, page=row.spec_page or 0)


def _copied(session: Session, submittal_id: str) -> list[CopiedShown]:
    rows = copied_of(session, submittal_id)
    people = people_by_id(session, {each.party_id for each in rows if each.kind == "person"})
    shown = []
    for each in rows:
        if each.kind == "person" and (who := people.get(each.party_id)):
            shown.append(CopiedShown(kind=each.kind, id=each.party_id, name=who.name, company=who.company))
        elif each.kind == "company":
            company = session.get_one(CompanyRow, each.party_id)
            shown.append(CopiedShown(kind=each.kind, id=company.id, name=company.name, company=company.code))
    return shown
