"""What stands in the way of a review before it is sent, for each document with its remedy (handbook §8, start)."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from functools import cached_property

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.acts.refusals import NotFound
from nod.core.reviews.forecast import as_planned, forecast
from nod.core.reviews.path import MOST_STEPS, NamedKind, Path, Step, StepAct
from nod.core.reviews.running import DocumentState, ReviewState
from nod.services.acts.answers import Answered, Command, people_by_id
from nod.services.acts.context import Context, project_clock, today_in
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.services.reviews.contract import ContractDay, contract_day, too_long
from nod.services.reviews.pace import expected_days
from nod.services.reviews.paths import StageGiven, path_given, path_kept
from nod.services.reviews.review_rows import authors_of
from nod.services.reviews.roster import ProjectRoster
from nod.services.reviews.route_checks import people_of
from nod.store.dialects.sqlite import one_of, unindexed
from nod.store.tables import DocumentRow, PersonRow, ReviewDocumentRow, ReviewRow, RouteRow

_MOST = 2000


class CheckStart(Command):
    """As `StartReview`."""

    project_id: str
    route_id: str = ""
    stages: list[StageGiven] = Field(default_factory=list, max_length=MOST_STEPS)
    documents: dict[str, str]


class Obstacle(Answered):
    """Why a document cannot go on this route as it is, and what would help. `stops` is false for what is only said."""

    document_id: str
    number: str
    words: str
    remedy: str
    stops: bool


class StartChecked(Answered):
    """`ends_on` is when the path is expected to end, were it begun now; `warning` what the contract says of that."""

    obstacles: list[Obstacle]
    ends_on: date | None
    forecast_on: date | None
    contract: ContractDay | None
    warning: str


def check_start(context: Context, actor: Actor, command: CheckStart) -> StartChecked:
    """Changes nothing. Raises NotFound for a route that is not there."""
    with context.database.read() as session:
        seat = take_seat(session, actor, command.project_id)
        seat.need_tool("reviews")
        seat.need(Level.FILE)
        path = _path(session, seat, command)
        wanted = dict(list(command.documents.items())[:_MOST])
        query = select(DocumentRow).where(
            unindexed(DocumentRow.project_id) == seat.project.id, seat.sees(DocumentRow.folder_id)
        )
        rows = list(session.scalars(query.where(one_of(DocumentRow.id, list(wanted))).order_by(DocumentRow.number)))
        at, today = project_clock(session, seat.project), today_in(seat.project, context.clock.now())
        planned = forecast(as_planned(path), today, at)
        expected = forecast(as_planned(path), today, at, expected_days(session, seat.project))
        ends_on = max((day for day in planned if day), default=None)
        day = contract_day(session, seat.project, [row.revision_id for row in rows])
        return StartChecked(
            obstacles=list(_Checking(session, seat, path, rows).obstacles(wanted)),
            ends_on=ends_on, forecast_on=max((each for each in expected if each), default=None),
            contract=day, warning=too_long(day, ends_on),
        )  # fmt: skip


def _path(session: Session, seat: Seat, command: CheckStart) -> Path:
    if command.stages:
        return path_given(command.stages)
    route = session.get(RouteRow, command.route_id)
    if route is None or route.project_id != seat.project.id:
        raise NotFound(command.route_id)
    return path_kept(route.stages)


@dataclass
class _Checking:
    session: Session
    seat: Seat
    path: Path
    rows: Sequence[DocumentRow]

    def obstacles(self, wanted: Mapping[str, str]) -> Iterable[Obstacle]:
        running = self._running()
        authors = authors_of(self.session, self.seat.project.id, [row.revision_id for row in self.rows])
        holders = people_by_id(self.session, {row.checked_out_by for row in self.rows if row.checked_out_by})
        blind: dict[str, list[str]] = {}
        for row in self.rows:
            if row.folder_id not in blind:
                blind[row.folder_id] = self._blind(row.folder_id)
            for words, remedy in (
                *self._own(row, wanted[row.id], running),
                *((each, "Set their access to its folder, or take another route.") for each in blind[row.folder_id]),
                *self._undecided(authors[row.revision_id]),
            ):
                yield Obstacle(document_id=row.id, number=row.number, words=words, remedy=remedy, stops=True)
            if row.checked_out_by in holders:
                words = f"{holders[row.checked_out_by].name} has it checked out."
                remedy = "A new revision may come while it goes round; it blocks nothing."
                yield Obstacle(document_id=row.id, number=row.number, words=words, remedy=remedy, stops=False)

    def _own(self, row: DocumentRow, seen: str, running: Mapping[str, str]) -> Iterable[tuple[str, str]]:
        if self.seat.at(row.folder_id) < Level.FILE:
            yield "You may not start a review of it.", "Ask somebody who may file in its folder."
        if row.copy_of:
            yield "It is a copy in a folder.", "The document that it came from can go on a review."
        if row.withdrawn:
            yield "It is withdrawn.", "Bring it back first."
        if row.revision_id != seen:
            yield f"{row.revision} has arrived since you chose it.", "Choose it again in the register."
        if row.id in running:
            yield f"It is in {running[row.id]} already.", "Wait for that review, or cancel it."

    def _running(self) -> dict[str, str]:
        query = (
            select(ReviewDocumentRow.document_id, ReviewRow.number)
            .join(ReviewRow, ReviewRow.id == ReviewDocumentRow.review_id)
            .where(
                one_of(ReviewDocumentRow.revision_id, [row.revision_id for row in self.rows]),
                ReviewRow.state == ReviewState.RUNNING.value,
                ReviewDocumentRow.state == DocumentState.GOING.value,
            )
        )
        return {document: number for document, number in self.session.execute(query)}

    def _steps(self) -> Iterable[Step]:
        return (step for stage in self.path for step in stage.steps)

    def _blind(self, folder_id: str) -> list[str]:
        """Who is named and could not mark there, and steps that nobody could take, in words."""
        roster = ProjectRoster(self.session, self.seat.project, {folder_id})
        found = []
        for step in self._steps():
            for named in step.whom:
                if named.kind is NamedKind.PERSON and roster.is_there(named.id) and not roster.may_mark(named.id):
                    name = self.session.get_one(PersonRow, named.id).name
                    found.append(f"{name}, of the step {step.name}, may not mark it.")
            if any(map(roster.named, step.whom)) and not any(map(roster.people, step.whom)):
                found.append(f"Nobody whom the step {step.name} asks may mark it.")
        return list(dict.fromkeys(found))

    @cached_property
    def _deciders(self) -> dict[str, set[str]]:
        """By the name of a step in which nobody decides on their own: whom it would ask."""
        roster = ProjectRoster(self.session, self.seat.project)
        steps = (step for step in self._steps() if step.act is StepAct.DECIDE and not step.own_allowed)
        return {step.name: set(people_of(roster, step.whom)) for step in steps}

    def _undecided(self, authors: frozenset[str]) -> Iterable[tuple[str, str]]:
        for name, people in self._deciders.items():
            if people and not people - authors:
                words = f"All who decide in the step {name} filed or made it."
                yield words, "Name somebody else in the route, or take another."
