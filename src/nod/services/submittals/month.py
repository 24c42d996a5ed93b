"""A month of submittals: what must be sent in, answered, on site, and what was delivered, day by day (handbook §9)."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from datetime import date, timedelta
from typing import Literal

from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import RuleBroken
from nod.core.acts.working_days import Calendar
from nod.core.submittals.numbers import shown_number
from nod.core.submittals.states import State
from nod.services.acts.answers import Answered, Standing
from nod.services.acts.context import Context
from nod.services.acts.late import LateBy
from nod.services.acts.seats import Actor, take_seat
from nod.services.submittals.calendar_feed import days_of, has_lot_between
from nod.services.submittals.kind import SUBMITTAL, companies_now
from nod.services.submittals.log import AskedSubmittals, CompanyChoice, View, companies_in, conditions, standings_of
from nod.services.submittals.outlooks import keep_worked_out
from nod.services.submittals.part_rows import lots_of
from nod.store.tables import SubmittalLotRow, SubmittalRow

MOST_ITEMS = 2000
_MONTH = re.compile(r"((?:19|20|21)\d{2})-(0[1-9]|1[0-2])")
What = Literal["send", "answer", "site", "delivered"]


class MonthItem(Answered):
    """What of a submittal falls on a day. `late`: that day is over, or its float is below 0."""

    what: What
    id: str
    number: str
    title: str
    company: str
    with_whom: str
    state: str
    late: bool


class MonthDay(Answered):
    on: date
    inside: bool
    working: bool
    items: list[MonthItem]


class Month(Answered):
    """Whole weeks from a Monday, as many as the month touches. `more`: there is more than is listed."""

    month: str
    today: date
    days: list[MonthDay]
    companies: list[CompanyChoice]
    more: bool


def read_month(
    context: Context, actor: Actor, project_id: str, month: str, view: View = "", company: str = ""
) -> Month:  # fmt: skip
    """`month` as 2027-03; without one, this month. Raises RuleBroken for what is none."""
    with context.database.read() as session:
        take_seat(session, actor, project_id).need_tool(SUBMITTAL.tool)
    keep_worked_out(context, project_id)
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        late_by = LateBy(session, seat.project, context.clock.now())
        days = _days_shown(month or f"{late_by.today:%Y-%m}")
        asked = AskedSubmittals(project_id, view=view, company=company)
        kept = conditions(seat, actor, asked, late_by.today)
        first, last = days[0], days[-1]
        near = or_(
            SubmittalRow.latest_on.between(first, last), SubmittalRow.required_on.between(first, last),
            SubmittalRow.delivered_on.between(first, last), SubmittalRow.state == State.UNDER_REVIEW.value,
            has_lot_between(first, last),
        )  # fmt: skip
        query = select(SubmittalRow).where(*kept, near).order_by(SubmittalRow.float_days, SubmittalRow.number)
        rows = list(session.scalars(query.limit(MOST_ITEMS + 1)))
        by_day = dict[date, list[MonthItem]]()
        for on, item in _items(session, rows[:MOST_ITEMS], late_by):
            by_day.setdefault(on, []).append(item)
        middle = days[len(days) // 2]
        return Month(
            month=f"{middle:%Y-%m}", today=late_by.today, companies=companies_in(session, seat),
            more=len(rows) > MOST_ITEMS,
            days=[_day(on, middle, late_by.calendar, by_day.get(on, [])) for on in days],
        )  # fmt: skip


def _days_shown(month: str) -> list[date]:
    found = _MONTH.fullmatch(month)
    if found is None:
        raise RuleBroken("month_unfit", "A month is written like 2027-03.", month[:10])
    begin = date(int(found.group(1)), int(found.group(2)), 1)
    end = (begin + timedelta(days=31)).replace(day=1) - timedelta(days=1)
    first = begin - timedelta(days=begin.weekday())
    last = end + timedelta(days=6 - end.weekday())
    return [first + timedelta(days=each) for each in range((last - first).days + 1)]


def _day(on: date, middle: date, calendar: Calendar, items: list[MonthItem]) -> MonthDay:
    return MonthDay(on=on, inside=on.month == middle.month, working=calendar.is_working(on), items=items)


def _items(session: Session, rows: Sequence[SubmittalRow], late_by: LateBy) -> Iterator[tuple[date, MonthItem]]:
    companies = companies_now(session, {row.company_id for row in rows})
    has_it = standings_of(session, rows, late_by)
    lots = lots_of(session, [row.id for row in rows])
    for row in rows:
        standing = has_it.get(row.id, Standing())
        for what, lot, on in _on_days(row, standing.due_on, lots.get(row.id, ())):
            passed = what != "delivered" and on < late_by.today
            yield on, MonthItem(
                what=what, id=row.id, number=shown_number(row.number, row.revision),
                title=", ".join(filter(None, (row.title, lot))),
                company=companies[row.company_id].code, with_whom=standing.with_whom, state=row.state,
                late=passed or (what == "site" and (row.float_days or 0) < 0),
            )  # fmt: skip


def _on_days(
    row: SubmittalRow, due_on: date | None, lots: Sequence[SubmittalLotRow]
) -> Iterator[tuple[What, str, date]]:
    """With the name of the lot that it is about, if it is about one."""
    names = {each.id: each.name for each in lots}
    for lot in lots:
        if lot.delivered_on is not None:
            yield "delivered", lot.name, lot.delivered_on
    if row.delivered_on is not None:
        if not lots:
            yield "delivered", "", row.delivered_on
        return
    for said, _, on in days_of(row, due_on, lots):
        what, _, lot_id = said.partition(" ")
        yield what, names.get(lot_id, ""), on  # type: ignore[misc]
