"""The days of submittals in people's own calendars (RFC 5545), by a secret address that is withdrawn at will."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from datetime import date, timedelta

from sqlalchemy import ColumnElement, or_, select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.submittals.numbers import shown_number
from nod.core.submittals.states import NOT_SENT, State
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.formats.files.calendar_file import DayEvent, write_days
from nod.services.acts.answers import Answered, Command, Standing
from nod.services.acts.context import Act, Context, acting
from nod.services.acts.late import LateBy
from nod.services.acts.seats import Actor, Seat, actor_of, take_seat
from nod.services.mail.mails import SecretLink
from nod.services.people.sign_in import token_hash
from nod.services.submittals.kind import SUBMITTAL, companies_now
from nod.services.submittals.log import AskedSubmittals, View, conditions, standings_of
from nod.services.submittals.outlooks import keep_worked_out
from nod.services.submittals.part_rows import lots_of
from nod.store.ids import new_id
from nod.store.tables import CalendarFeedRow, SubmittalLotRow, SubmittalRow

BACK_DAYS, AHEAD_DAYS, MOST_EVENTS = 60, 400, 2000
"""How far a calendar reaches from today, and how many days it has: programs read all of it each time."""


class MakeFeed(Command):
    """`view`: whose submittals; empty for all that one sees. An address that there is ends."""

    project_id: str
    view: View = ""


class WithdrawFeed(Command):
    project_id: str


class FeedShown(Answered):
    """`address` is empty where there is none."""

    address: str
    view: str


def _secret(feed_id: str) -> SecretLink:
    return SecretLink("/api/calendar/", f"calendar-feed:{feed_id}")


def read_feed(context: Context, actor: Actor, project_id: str) -> FeedShown:
    """One's own. Through another's eyes there is none to be seen."""
    with context.database.read() as session:
        take_seat(session, actor, project_id).need_tool(SUBMITTAL.tool)
        row = _running(session, actor.private_id, project_id)
        return _shown(context, row)


def _running(session: Session, person_id: str, project_id: str) -> CalendarFeedRow | None:
    here = (CalendarFeedRow.person_id == person_id, CalendarFeedRow.project_id == project_id)
    return session.scalars(select(CalendarFeedRow).where(*here, CalendarFeedRow.withdrawn_at.is_(None))).one_or_none()


def _shown(context: Context, row: CalendarFeedRow | None) -> FeedShown:
    if row is None:
        return FeedShown(address="", view="")
    return FeedShown(address=_secret(row.id).address(context), view=row.view)


def make_feed(context: Context, actor: Actor, command: MakeFeed) -> FeedShown:
    with acting(context, actor) as act:
        project = act.enter(command.project_id, tool=SUBMITTAL.tool).project
        before = _running(act.session, actor.person_id, project.id)
        if before is not None:
            before.withdrawn_at = act.at
            act.session.flush()
        id = new_id()
        row = CalendarFeedRow(
            id=id, project_id=project.id, person_id=actor.person_id, view=command.view, made_at=act.at,
            token_sha256=token_hash(_secret(id).token(context)),
        )  # fmt: skip
        act.session.add(row)
        _record(act, FactKind.FEED_MADE, row, project.name, {"whose": command.view or "all"})
        return _shown(context, row)


def withdraw_feed(context: Context, actor: Actor, command: WithdrawFeed) -> None:
    """Raises RuleBroken where there is none."""
    with acting(context, actor) as act:
        project = act.enter(command.project_id, tool=SUBMITTAL.tool).project
        row = _running(act.session, actor.person_id, project.id)
        if row is None:
            raise RuleBroken("no_feed", "There is no address of a calendar to withdraw.")
        row.withdrawn_at = act.at
        _record(act, FactKind.FEED_WITHDRAWN, row, project.name, {})


def _record(act: Act, kind: FactKind, row: CalendarFeedRow, about: str, after: dict[str, str]) -> None:
    person = act.actor.person_id
    act.record(row.project_id, Fact(kind, Subject("person", person), about, after=after, private_to=person))


def read_calendar(context: Context, token: str) -> bytes:
    """As its person sees the project now. Raises NotFound for a token that is none, or none any more."""
    with context.database.read() as session:
        query = select(CalendarFeedRow).where(CalendarFeedRow.token_sha256 == token_hash(token))
        row = session.scalars(query.where(CalendarFeedRow.withdrawn_at.is_(None))).one_or_none()
        if row is None:
            raise NotFound(token[:8])
        project_id = row.project_id
        seat = _seat(session, row)
    keep_worked_out(context, project_id)
    with context.database.read() as session:
        row = session.get_one(CalendarFeedRow, row.id)
        actor, seat = actor_of(session, row.person_id), _seat(session, row)
        late_by = LateBy(session, seat.project, context.clock.now())
        asked = AskedSubmittals(project_id, view=row.view)  # type: ignore[arg-type]
        first, last = late_by.today - timedelta(days=BACK_DAYS), late_by.today + timedelta(days=AHEAD_DAYS)
        near = or_(
            SubmittalRow.latest_on.between(first, last), SubmittalRow.required_on.between(first, last),
            SubmittalRow.state == State.UNDER_REVIEW.value, has_lot_between(first, last),
        )  # fmt: skip
        kept = [*conditions(seat, actor, asked, late_by.today), SubmittalRow.delivered_on.is_(None), near]
        rows = list(session.scalars(select(SubmittalRow).where(*kept)))
        events = sorted(_events(session, seat, rows, late_by, context), key=lambda each: (each.on, each.name))
        within = [each for each in events if first <= each.on <= last]
        name = f"{seat.project.number} submittals"
        return write_days(name, within[:MOST_EVENTS], context.clock.now())


def _seat(session: Session, row: CalendarFeedRow) -> Seat:
    """Raises NotFound for who is not in the project any more, NotAllowed without the tool."""
    seat = take_seat(session, actor_of(session, row.person_id), row.project_id)
    seat.need_tool(SUBMITTAL.tool)
    return seat


def _events(
    session: Session, seat: Seat, rows: Sequence[SubmittalRow], late_by: LateBy, context: Context
) -> Iterator[DayEvent]:  # fmt: skip
    companies = companies_now(session, {row.company_id for row in rows})
    has_it = standings_of(session, rows, late_by)
    lots = lots_of(session, [row.id for row in rows])
    for row in rows:
        standing = has_it.get(row.id, Standing())
        company = companies[row.company_id].code
        for what, words, on in days_of(row, standing.due_on, lots.get(row.id, ())):
            yield DayEvent(
                uid=f"{row.id}-{what.replace(' ', '-')}@nod", sequence=row.version, on=on,
                name=f"{seat.project.number}: {words}: {shown_number(row.number, row.revision)} {row.title}",
                words="\n".join(filter(None, (
                    f"From {company}", f"With {standing.with_whom}" if standing.with_whom else "",
                    f"State: {row.state}", _float_words(row.float_days),
                ))),
                address=f"{context.settings.resolved_public_url}/submittals/{row.id}",
            )  # fmt: skip


def days_of(
    row: SubmittalRow, due_on: date | None, lots: Sequence[SubmittalLotRow] = ()
) -> Iterator[tuple[str, str, date]]:  # fmt: skip
    """What is to be done on which day: a word for it, the same as a sentence says it, and the day.

    Of each lot that has not come its own day on site; the word is followed by the lot's id then.
    """
    state = State(row.state)
    if state in NOT_SENT and row.latest_on is not None:
        yield "send", "send in by today", row.latest_on
    if state is State.UNDER_REVIEW and due_on is not None:
        yield "answer", "answer wanted today", due_on
    for lot in lots:
        if lot.delivered_on is None and (on := lot.required_on or row.required_on) is not None:
            yield f"site {lot.id}", f"{lot.name} required on site", on
    if row.required_on is not None and not lots:
        yield "site", "required on site", row.required_on


def has_lot_between(first: date, last: date) -> ColumnElement[bool]:
    """Whether a lot of a submittal is required in these days."""
    within = select(SubmittalLotRow.submittal_id).where(SubmittalLotRow.required_on.between(first, last))
    return SubmittalRow.id.in_(within)


def _float_words(float_days: int | None) -> str:
    if float_days is None:
        return ""
    return f"Float: {float_days} working days" if float_days >= 0 else f"Late by {-float_days} working days"
