"""Starting a review: what goes, on which path, and whether it can (handbook §8, start)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.acts.refusals import RuleBroken
from nod.core.reviews import acts
from nod.core.reviews.path import MOST_STEPS, Named, NamedKind, Path, Shows, StepAct
from nod.core.reviews.running import DocumentState, Moment, ReviewState, StepRun, StepState, Turn, UnderReview
from nod.core.reviews.verdicts import Verdict
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.core.transmittals.transmittals import review_number
from nod.services.access.visibility import Line, see_lines
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting, project_clock, today_in
from nod.services.acts.projects import next_running
from nod.services.acts.seats import Actor, Seat
from nod.services.reviews import comments, review_mails, review_rows
from nod.services.reviews.contract import put_contract
from nod.services.reviews.own_path import Chosen, choose_path, tell_others
from nod.services.reviews.paths import MOST_NAMED, NamedGiven, StageGiven, whom_kept
from nod.services.reviews.review_rows import LoadedReview, Under, authors_among
from nod.services.reviews.roster import ProjectRoster
from nod.store.bulk import add_rows
from nod.store.dialects.sqlite import one_of
from nod.store.ids import new_id
from nod.store.tables import DocumentRow, PersonRow, ReviewDocumentRow, ReviewRow, ReviewStepRow


class StartReview(Command):
    """`documents` maps each document's id to the revision that was seen when it was chosen.

    `stages` is the path where it is not the route's as it stands; without a `route_id` it is the review's own. `tell`
    are those who else should know.
    """

    project_id: str
    route_id: str = ""
    stages: list[StageGiven] = Field(default_factory=list, max_length=MOST_STEPS)
    tell: list[NamedGiven] = Field(default_factory=list, max_length=MOST_NAMED)
    name: str
    message: str = ""
    documents: dict[str, str]


class ReviewStarted(Answered):
    """`told` is how many others were told."""

    id: str
    number: str
    told: int


def start_review(context: Context, actor: Actor, command: StartReview) -> ReviewStarted:
    """The documents go round at the revisions seen. Raises RuleBroken naming what cannot go."""
    with acting(context, actor) as act:
        return start_at(act, command)


def start_at(act: Act, command: StartReview, answers: Subject | None = None) -> ReviewStarted:
    """Inside an act. `answers`: the thing that waits for its outcome, told by the work `review_over` when it ends.

    Raises RuleBroken naming what cannot go.
    """
    name = command.name.strip()
    if not name:
        raise RuleBroken("name_missing", "Give the review a name.")
    seat = act.enter(command.project_id, Level.FILE, "reviews")
    route = choose_path(act, seat, command.route_id, command.stages)
    if answers and not any(step.act is StepAct.DECIDE for stage in route.path for step in stage.steps):
        words = f"Nobody decides on the route {route.name}, so that its outcome answers nothing. Choose another."
        raise RuleBroken("route_decides_nothing", words, route.name)
    path = route.path
    chosen = _choosable(act, seat, command.documents)
    folders = {row.folder_id for row in chosen}
    roster = ProjectRoster(act.session, seat.project, folders, today_in(seat.project, act.at))
    _check_they_see(act, seat, roster, path, chosen)
    verdicts = tuple(Verdict(**each) for each in seat.project.rules["verdict_set"])
    moment = Moment(act.at, project_clock(act.session, seat.project), roster)
    turn = acts.start(path, _under_review(act, seat, chosen), verdicts, moment)
    loaded = _write_new(act, seat, route, command, chosen, turn)
    if answers:
        loaded.row.answers_kind, loaded.row.answers_id = answers.kind, answers.id
    fact = Fact(
        FactKind.REVIEW_STARTED,
        Subject("review", loaded.row.id),
        f"{loaded.row.number} {name}",
        (*loaded.subjects(), *([answers] if answers else [])),
        after={"route": route.name, "documents": [f"{row.number} {row.revision}" for row in chosen]},
    )
    act.record(command.project_id, fact)
    comments.carry_musts(act, loaded)
    loaded = review_rows.write_back(act, loaded, turn)
    review_mails.tell_of(act, loaded, turn)
    told = tell_others(act, seat, loaded, command.tell, command.message.strip()) if command.tell else 0
    return ReviewStarted(id=loaded.row.id, number=loaded.row.number, told=told)


def _under_review(act: Act, seat: Seat, chosen: Sequence[Line]) -> list[UnderReview]:
    filed = [(row.revision_id, row.filed_by, row.came_person) for row in chosen]
    authors = authors_among(act.session, seat.project.id, filed)
    return [UnderReview(row.id, authors[row.revision_id]) for row in chosen]


def _check_they_see(act: Act, seat: Seat, roster: ProjectRoster, path: Path, chosen: Sequence[Line]) -> None:
    """Raises RuleBroken for somebody named who could not mark one of the documents: they could never answer."""
    roster.look_up(named for stage in path for step in stage.steps for named in step.whom)
    for stage in path:
        for step in stage.steps:
            for named in step.whom:
                if named.kind is NamedKind.PERSON and not roster.may_mark(named.id):
                    _refuse_blind(act, seat, named, chosen)
            if any(map(roster.named, step.whom)) and not any(map(roster.people, step.whom)):
                words = f"Nobody whom the step {step.name} asks may mark {_first(chosen)}. Set their access first."
                raise RuleBroken("reviewer_cannot_mark", words, _first(chosen))


def _first(chosen: Sequence[Line]) -> str:
    return chosen[0].number if len(chosen) == 1 else f"all of {chosen[0].number} to {chosen[-1].number}"


def _refuse_blind(act: Act, seat: Seat, named: Named, chosen: Sequence[Line]) -> None:
    """Raises RuleBroken with the first document that the person may not mark."""
    for row in {row.folder_id: row for row in reversed(chosen)}.values():
        if not ProjectRoster(act.session, seat.project, {row.folder_id}).may_mark(named.id):
            name = act.session.get_one(PersonRow, named.id).name
            words = f"{name} is on this route and may not mark {row.number}. Set their access, or take another route."
            raise RuleBroken("reviewer_cannot_mark", words, row.number)


def _choosable(act: Act, seat: Seat, documents: dict[str, str]) -> list[Line]:
    """Raises NotFound, NotAllowed and RuleBroken for the first that cannot go."""
    rows = see_lines(act.session, seat, list(documents), Level.FILE)
    for row in rows:
        if row.withdrawn:
            raise RuleBroken("withdrawn", f"{row.number} is withdrawn. Bring it back first.", row.number)
        if row.revision_id != documents[row.id]:
            raise RuleBroken("revision_moved_on", f"{row.number} has a newer revision since.", row.number)
    check_not_under_review(act.session, {row.id: row.revision_id for row in rows})
    return rows


def check_not_under_review(session: Session, revisions: Mapping[str, str]) -> None:
    """By document. Raises RuleBroken for the first revision that goes round in a review."""
    running = (
        select(DocumentRow.id, DocumentRow.number, ReviewRow.number)
        .join(ReviewDocumentRow, ReviewDocumentRow.document_id == DocumentRow.id)
        .join(ReviewRow, ReviewRow.id == ReviewDocumentRow.review_id)
        .where(
            one_of(ReviewDocumentRow.revision_id, list(revisions.values())),
            ReviewRow.state == ReviewState.RUNNING.value,
            ReviewDocumentRow.state == DocumentState.GOING.value,
        )
    )
    found = {document: (number, review) for document, number, review in session.execute(running)}
    for document_id in revisions:
        if document_id in found:
            number, review = found[document_id]
            raise RuleBroken("in_review_already", f"{number} is in {review} already.", number)


def _write_new(
    act: Act, seat: Seat, route: Chosen, command: StartReview, chosen: Sequence[Line], turn: Turn
) -> LoadedReview:
    """Rows for a review none of whose steps has begun yet; `write_back` begins it."""
    row = ReviewRow(
        id=new_id(), project_id=seat.project.id,
        name=command.name.strip()[:200], message=command.message.strip()[:4000],
        number=review_number(next_running(act.session, seat.project.id, "review")), route_name=route.name,
        state=ReviewState.RUNNING.value, verdict_set=seat.project.rules["verdict_set"],
        then=[{code: each.value for code, each in stage.items()} for stage in turn.review.then],
        ends=route.route.ends if route.route else {},
        shows=route.route.shows if route.route else Shows.AT_ONCE.value,
        started_by=act.actor.person_id, started_at=act.at,
    )  # fmt: skip
    put_contract(act.session, seat.project, row, [each.revision_id for each in chosen])
    act.session.add(row)
    act.session.flush()
    documents = [Under(each.id, each.revision_id, DocumentState.GOING.value, "") for each in chosen]
    add_rows(
        act.session, ReviewDocumentRow,
        ("review_id", "document_id", "revision_id", "place", "verdict", "state", "so_far"),
        [(row.id, each.document_id, each.revision_id, at, "", each.state, "") for at, each in enumerate(documents)],
    )  # fmt: skip
    steps = [_step_row(row, place, run) for place, run in enumerate(turn.review.steps)]
    act.session.add_all(steps)
    act.session.flush()
    return LoadedReview(row, steps, {}, documents, turn.review)


def _step_row(review: ReviewRow, place: int, run: StepRun) -> ReviewStepRow:
    step = run.step
    return ReviewStepRow(
        id=new_id(), review_id=review.id, place=place, stage=run.stage, name=step.name, act=step.act.value,
        whom=whom_kept(step.whom), quota=step.quota.value, least=step.least, sums_up=step.sums_up,
        own_allowed=step.own_allowed, days=step.days, counting=step.counting.value, state=StepState.WAITING.value,
        remind_before=step.remind.before, remind_every=step.remind.every, lead_after=step.remind.lead_after,
        handing_on=step.handing_on, verdicts=step.verdicts, marking=step.marking,
    )  # fmt: skip
