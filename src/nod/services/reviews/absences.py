"""Who is away from a project, and who stands in: for steps to come, and for what is with them already (handbook §8)."""

from __future__ import annotations

from datetime import date, datetime

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.core.reviews import acts
from nod.core.reviews.running import PlaceState, ReviewState, StepState, Turn
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.answers import Answered, Command, Who, people_by_id
from nod.services.acts.context import Act, Context, acting, today_in
from nod.services.acts.seats import NOBODY, Actor, Seat, take_seat
from nod.services.reviews import review_mails, review_rows
from nod.services.reviews.reviews import record, settle
from nod.services.reviews.roster import ProjectRoster
from nod.store.ids import new_id
from nod.store.tables import AbsenceRow, PersonRow, ProjectRow, ReviewRow, ReviewStepRow, StepPlaceRow


class SetAbsence(Command):
    """Both days included. One's own, or as a lead or controller anybody's."""

    project_id: str
    person_id: str
    stand_in_id: str
    first_on: date = Field(strict=False)
    last_on: date = Field(strict=False)


class AbsenceShown(Answered):
    id: str
    who: Who
    stand_in: Who
    first_on: date
    last_on: date
    may_remove: bool


class Absences(Answered):
    """Those of today and to come; `people` can stand in, and are named to those who may be asked something."""

    absences: list[AbsenceShown]
    people: list[Who]


def list_absences(context: Context, actor: Actor, project_id: str) -> Absences:
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        seat.need_tool("reviews")
        today = today_in(seat.project, context.clock.now())
        query = select(AbsenceRow).where(
            AbsenceRow.project_id == project_id, AbsenceRow.removed_at.is_(None), AbsenceRow.last_on >= today
        )
        rows = list(session.scalars(query.order_by(AbsenceRow.first_on)))
        everybody = ProjectRoster(session, seat.project).everybody()
        people = people_by_id(
            session, {*everybody, *(each for row in rows for each in (row.person_id, row.stand_in_id))}
        )
        return Absences(
            absences=[
                AbsenceShown(
                    id=row.id, who=people[row.person_id], stand_in=people[row.stand_in_id], first_on=row.first_on,
                    last_on=row.last_on, may_remove=actor.looker is None and _may(seat, actor, row.person_id),
                )
                for row in rows
            ],
            people=[people[each] for each in everybody] if seat.level >= Level.MARK else [],
        )  # fmt: skip


def _may(seat: Seat, actor: Actor, person_id: str) -> bool:
    return seat.runs or person_id == actor.person_id


def set_absence(context: Context, actor: Actor, command: SetAbsence) -> AbsenceShown:
    """From today on what is with them goes to the stand-in at once, otherwise on its first morning."""
    with acting(context, actor) as act:
        seat = act.enter(command.project_id, tool="reviews")
        if not _may(seat, actor, command.person_id):
            raise NotAllowed("not_yours", "One's own absence, or as a lead or a controller anybody's.")
        _check(act, seat, command)
        row = AbsenceRow(
            id=new_id(), project_id=command.project_id, person_id=command.person_id, stand_in_id=command.stand_in_id,
            first_on=command.first_on, last_on=command.last_on, set_by=actor.person_id, set_at=act.at,
        )  # fmt: skip
        act.session.add(row)
        act.session.flush()
        people = people_by_id(act.session, {row.person_id, row.stand_in_id})
        _record(act, row, FactKind.ABSENCE_SET)
        if row.first_on <= today_in(seat.project, act.at):
            _hand_over(act, seat.project, row)
        return AbsenceShown(
            id=row.id, who=people[row.person_id], stand_in=people[row.stand_in_id], first_on=row.first_on,
            last_on=row.last_on, may_remove=True,
        )  # fmt: skip


def _check(act: Act, seat: Seat, command: SetAbsence) -> None:
    """Raises NotFound for a stranger, RuleBroken for days or a stand-in that cannot be."""
    roster = ProjectRoster(act.session, seat.project)
    for person_id in (command.person_id, command.stand_in_id):
        if not roster.is_there(person_id):
            raise NotFound(person_id)
    if command.stand_in_id == command.person_id:
        raise RuleBroken("stands_in_for_self", "Somebody else stands in.")
    if command.last_on < command.first_on or command.last_on < today_in(seat.project, act.at):
        raise RuleBroken("absence_over", "The last day is after the first, and not over yet.")
    query = select(AbsenceRow.id).where(
        AbsenceRow.project_id == command.project_id, AbsenceRow.person_id == command.person_id,
        AbsenceRow.removed_at.is_(None), AbsenceRow.first_on <= command.last_on, AbsenceRow.last_on >= command.first_on,
    )  # fmt: skip
    if act.session.scalar(query):
        raise RuleBroken("absence_twice", "There is an absence on some of these days already. Take it away first.")


def _record(act: Act, row: AbsenceRow, kind: FactKind) -> None:
    names = {each: act.session.get_one(PersonRow, each).name for each in (row.person_id, row.stand_in_id)}
    after = {
        "from": row.first_on.isoformat(), "until": row.last_on.isoformat(), "stand_in": names[row.stand_in_id]
    }  # fmt: skip
    act.record(row.project_id, Fact(kind, Subject("person", row.person_id), names[row.person_id], after=after))


def remove_absence(context: Context, actor: Actor, absence_id: str) -> None:
    """What has gone to the stand-in stays with them; what comes from now on does not."""
    with acting(context, actor) as act:
        row = act.session.get(AbsenceRow, absence_id)
        if row is None or row.removed_at:
            raise NotFound(absence_id)
        seat = act.enter(row.project_id, tool="reviews")
        if not _may(seat, actor, row.person_id):
            raise NotAllowed("not_yours", "One's own absence, or as a lead or a controller anybody's.")
        row.removed_at = act.at
        _record(act, row, FactKind.ABSENCE_REMOVED)


def hand_over_of_today(context: Context, now: datetime) -> None:
    """What is with those whose absence begins by today goes to whoever stands in, in a transaction each."""
    with context.database.read() as session:
        waiting = [row.id for row, _ in _beginning(session, now)]
    for absence_id in waiting:
        with context.database.write() as session:
            found = next(((row, project) for row, project in _beginning(session, now) if row.id == absence_id), None)
            if found:
                _hand_over(Act(context, session, NOBODY, now), found[1], found[0])


def _beginning(session: Session, now: datetime) -> list[tuple[AbsenceRow, ProjectRow]]:
    query = (
        select(AbsenceRow, ProjectRow)
        .join(ProjectRow, ProjectRow.id == AbsenceRow.project_id)
        .where(AbsenceRow.handed_at.is_(None), AbsenceRow.removed_at.is_(None))
    )
    return [
        (row, project)
        for row, project in session.execute(query).all()
        if row.first_on <= today_in(project, now) <= row.last_on
    ]


def _hand_over(act: Act, project: ProjectRow, row: AbsenceRow) -> None:
    """Every place in which something is asked of them, unless the stand-in could not answer there."""
    row.handed_at = act.at
    query = (
        select(ReviewRow)
        .join(ReviewStepRow, ReviewStepRow.review_id == ReviewRow.id)
        .join(StepPlaceRow, StepPlaceRow.step_id == ReviewStepRow.id)
        .where(
            ReviewRow.project_id == project.id, ReviewRow.state == ReviewState.RUNNING.value,
            ReviewStepRow.state == StepState.RUNNING.value, StepPlaceRow.person_id == row.person_id,
            StepPlaceRow.state == PlaceState.ASKED.value,
        )
        .distinct()
    )  # fmt: skip
    for review in act.session.scalars(query).all():
        loaded = review_rows.load(act.session, review)
        if not review_rows.roster_of(act.session, project, loaded).may_mark(row.stand_in_id):
            continue
        value, told = loaded.value, []
        for at, run in enumerate(value.steps):
            if acts.is_asked(run, row.person_id) and acts.is_free(value, run, row.stand_in_id):
                value = acts.stand_in(value, at, row.person_id, row.stand_in_id)
                told.append(at)
        if not told:
            continue
        names = {each: act.session.get_one(PersonRow, each).name for each in (row.person_id, row.stand_in_id)}
        after = {"step": ", ".join(loaded.steps[at].name for at in told), "with": names[row.stand_in_id]}
        record(act, loaded, FactKind.PLACE_GIVEN, after, "away", {"with": names[row.person_id]})
        loaded = settle(act, loaded, Turn(value))
        for at in told:
            review_mails.tell_newcomer(act, loaded, at, row.stand_in_id)
