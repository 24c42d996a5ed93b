"""Acts on reviews: start, pick up, put down, hand in, cancel (handbook §8)."""

from __future__ import annotations

from typing import Any
from zoneinfo import ZoneInfo

from sqlalchemy import insert, select

from nod.core.access.levels import Level
from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.core.acts.working_days import Counting
from nod.core.reviews import routes
from nod.core.reviews.routes import Answer, Review, ReviewState, Step, StepAct
from nod.core.reviews.verdicts import Verdict, most_severe
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.core.transmittals import review_number
from nod.services.access.visibility import see_documents
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting, check_version, project_clock
from nod.services.acts.projects import next_running
from nod.services.acts.seats import Actor, Seat, can_see_all, reach_of_all
from nod.services.register.documents import find_document
from nod.services.reviews import review_rows
from nod.services.reviews.kind import REVIEW
from nod.services.reviews.review_rows import LoadedReview
from nod.services.things.things import see_thing
from nod.store.dialects.sqlite import one_of
from nod.store.ids import new_id
from nod.store.tables import (
    AnswerRow,
    DocumentRow,
    PersonRow,
    ReviewDocumentRow,
    ReviewRow,
    ReviewStepRow,
    RevisionRow,
    RouteRow,
    StepPersonRow,
)


class StartReview(Command):
    """`documents` maps each document's id to the revision that was seen when it was chosen."""

    project_id: str
    route_id: str
    name: str
    message: str = ""
    documents: dict[str, str]


class SeenVersion(Command):
    version: int


class DocumentAnswer(Command):
    document_id: str
    verdict: str = ""
    comment: str = ""


class HandIn(Command):
    version: int
    answers: list[DocumentAnswer]
    note: str = ""


class CancelReview(Command):
    version: int
    reason: str


class ReviewStarted(Answered):
    id: str
    number: str


def steps_of(route: RouteRow) -> tuple[Step, ...]:
    return tuple(
        Step(each["name"], StepAct(each["act"]), tuple(each["people"]), each["days"], Counting(each["counting"]))
        for each in route.steps
    )


def start_review(context: Context, actor: Actor, command: StartReview) -> ReviewStarted:
    """The documents go round at the revisions seen. Raises RuleBroken naming what cannot go."""
    name = command.name.strip()
    if not name:
        raise RuleBroken("name_missing", "Give the review a name.")
    with acting(context, actor) as act:
        seat = act.enter(command.project_id, Level.FILE, "reviews")
        route = act.session.get(RouteRow, command.route_id)
        if route is None or route.project_id != command.project_id:
            raise NotFound(command.route_id)
        if route.retired_at:
            raise RuleBroken("route_retired", f"The route {route.name} is retired. Choose another.", route.name)
        chosen = _choosable(act, seat, command.documents)
        _check_they_see(act, seat, steps_of(route), chosen)
        filed = select(RevisionRow.id, RevisionRow.filed_by).where(
            one_of(RevisionRow.id, [row.revision_id for row in chosen])
        )
        by = dict(act.session.execute(filed).all())
        filed_by = {row.id: by[row.revision_id] for row in chosen}
        verdicts = tuple(Verdict(**each) for each in seat.project.rules["verdict_set"])
        value = routes.start(steps_of(route), filed_by, verdicts, act.at, project_clock(act.session, seat.project))
        loaded = _write_new(act, seat, route, command, chosen, value)
        fact = Fact(
            FactKind.REVIEW_STARTED,
            Subject("review", loaded.row.id),
            f"{loaded.row.number} {name}",
            loaded.subjects(),
            after={"route": route.name, "documents": [f"{row.number} {row.revision}" for row in chosen]},
        )
        act.record(command.project_id, fact)
        review_rows.write_back(act, loaded, value)
        return ReviewStarted(id=loaded.row.id, number=loaded.row.number)


def _check_they_see(act: Act, seat: Seat, steps: tuple[Step, ...], chosen: list[DocumentRow]) -> None:
    """Raises RuleBroken for somebody on the route who could not mark one of the documents: they could never answer."""
    first_in = {row.folder_id: row for row in reversed(chosen)}
    people = dict.fromkeys(person for step in steps for person in step.people)
    reached = reach_of_all(act.session, seat.project, people)
    for person_id in people:
        effects = reached[person_id]
        for folder_id, row in first_in.items():
            if not can_see_all(effects, [folder_id], Level.MARK):
                name = act.session.get_one(PersonRow, person_id).name
                words = (
                    f"{name} is on this route and may not mark {row.number}. Set their access, or choose another route."
                )
                raise RuleBroken("reviewer_cannot_mark", words, row.number)


def _choosable(act: Act, seat: Seat, documents: dict[str, str]) -> list[DocumentRow]:
    """Raises NotFound, NotAllowed and RuleBroken for the first that cannot go."""
    rows = see_documents(act.session, seat, list(documents), Level.FILE)
    running = (
        select(ReviewDocumentRow.revision_id, ReviewRow.number)
        .join(ReviewRow, ReviewRow.id == ReviewDocumentRow.review_id)
        .where(
            one_of(ReviewDocumentRow.revision_id, list(documents.values())),
            ReviewRow.state == ReviewState.RUNNING.value,
        )
    )
    in_review = dict(act.session.execute(running).all())
    for row in rows:
        if row.withdrawn:
            raise RuleBroken("withdrawn", f"{row.number} is withdrawn. Bring it back first.", row.number)
        if row.revision_id != documents[row.id]:
            raise RuleBroken("revision_moved_on", f"{row.number} has a newer revision since.", row.number)
        if row.revision_id in in_review:
            words = f"{row.number} is in {in_review[row.revision_id]} already."
            raise RuleBroken("in_review_already", words, row.number)
    return rows


def _write_new(
    act: Act, seat: Seat, route: RouteRow, command: StartReview, chosen: list[DocumentRow], value: Review
) -> LoadedReview:
    """Rows for a review none of whose steps has begun yet; `write_back` begins it."""
    row = ReviewRow(
        id=new_id(), project_id=seat.project.id,
        name=command.name.strip()[:200], message=command.message.strip()[:4000],
        number=review_number(next_running(act.session, seat.project.id, "review")), route_name=route.name,
        state=ReviewState.RUNNING.value, verdict_set=seat.project.rules["verdict_set"],
        started_by=act.actor.person_id, started_at=act.at,
    )  # fmt: skip
    act.session.add(row)
    act.session.flush()
    # There may be hundreds: plain rows, which are read back as they are for any other act.
    act.session.connection().execute(
        insert(ReviewDocumentRow),
        [
            {"review_id": row.id, "document_id": each.id, "revision_id": each.revision_id, "place": place}
            for place, each in enumerate(chosen)
        ],
    )
    for place, run in enumerate(value.steps):
        _add_step(act, row, place, run.step)
    act.session.flush()
    return review_rows.load(act.session, row)


def _add_step(act: Act, review: ReviewRow, place: int, step: Step) -> ReviewStepRow:
    row = ReviewStepRow(
        id=new_id(), review_id=review.id, place=place, name=step.name, act=step.act.value, days=step.days,
        counting=step.counting.value, state=routes.StepState.WAITING.value,
    )  # fmt: skip
    act.session.add(row)
    act.session.flush()
    act.session.add_all(
        StepPersonRow(step_id=row.id, person_id=person, place=at) for at, person in enumerate(step.people)
    )
    return row


def _open(act: Act, review_id: str, version: int) -> tuple[LoadedReview, Seat]:
    row, seat = see_thing(act.session, act.actor, REVIEW, review_id)
    seat.need(Level.MARK)
    loaded = review_rows.load(act.session, row)
    place = loaded.value.current()
    if place is not None and act.actor.person_id not in loaded.value.steps[place].step.people:
        raise NotAllowed("not_your_step", f"The step {loaded.steps[place].name} is with others.", row.number)
    check_version(version, row.version, row.number)
    return loaded, seat


def _check_still_free(act: Act, review_id: str) -> None:
    """Of somebody who was quicker one is told before that one has seen an older state."""
    row, seat = see_thing(act.session, act.actor, REVIEW, review_id)
    query = select(ReviewStepRow).where(
        ReviewStepRow.review_id == row.id, ReviewStepRow.state == routes.StepState.RUNNING.value
    )
    step = act.session.scalars(query).one_or_none()
    if step is None or step.taken_by in (None, act.actor.person_id) or step.taken_at is None:
        return
    people = set(act.session.scalars(select(StepPersonRow.person_id).where(StepPersonRow.step_id == step.id)))
    if act.actor.person_id in people:
        name = act.session.get_one(PersonRow, step.taken_by).name
        at = step.taken_at.astimezone(ZoneInfo(seat.project.time_zone))
        words = f"{name} was first: {step.name} was picked up at {at:%H:%M} on {at:%-d %B}."
        raise RuleBroken("step_taken", words, row.number)


def _record(
    act: Act,
    loaded: LoadedReview,
    kind: FactKind,
    after: dict[str, Any],
    why: str = "",
    before: dict[str, Any] | None = None,
) -> None:
    about = f"{loaded.row.number} {loaded.row.name}"
    fact = Fact(kind, Subject("review", loaded.row.id), about, loaded.subjects(), before or {}, after, why)
    act.record(loaded.row.project_id, fact)


def _step_name(loaded: LoadedReview) -> str:
    place = loaded.value.current()
    return loaded.value.steps[place].step.name if place is not None else ""


def pick_up(context: Context, actor: Actor, review_id: str, command: SeenVersion) -> None:
    """Raises RuleBroken that says who was first, and when."""
    with acting(context, actor) as act:
        _check_still_free(act, review_id)
        loaded, _ = _open(act, review_id, command.version)
        value = routes.pick_up(loaded.value, actor.person_id)
        after = {"step": _step_name(loaded), "with": actor.name}
        _record(act, loaded, FactKind.STEP_PICKED_UP, after, before={"with": "nobody"})
        review_rows.write_back(act, loaded, value)


def put_down(context: Context, actor: Actor, review_id: str, command: SeenVersion) -> None:
    with acting(context, actor) as act:
        loaded, _ = _open(act, review_id, command.version)
        value = routes.put_down(loaded.value, actor.person_id)
        after = {"step": _step_name(loaded), "with": "nobody"}
        _record(act, loaded, FactKind.STEP_PUT_DOWN, after, before={"with": actor.name})
        review_rows.write_back(act, loaded, value)


def hand_in(context: Context, actor: Actor, review_id: str, command: HandIn) -> None:
    """The step's answers for every document; the next step begins, or the review closes and the starter is told."""
    with acting(context, actor) as act:
        loaded, seat = _open(act, review_id, command.version)
        place = loaded.value.current()
        answers = tuple(Answer(each.document_id, each.verdict, each.comment.strip()) for each in command.answers)
        at = project_clock(act.session, seat.project)
        value = routes.hand_in(loaded.value, actor.person_id, answers, act.at, at)
        step = loaded.steps[place or 0]
        step.note = command.note.strip()[:4000]
        act.session.add_all(
            AnswerRow(
                step_id=step.id, document_id=each.document_id, person_id=actor.person_id, verdict=each.verdict,
                comment=each.comment[:4000], at=act.at,
            )
            for each in answers
        )  # fmt: skip
        act.session.flush()
        kind = FactKind.VERDICTS_HANDED_IN if step.act == StepAct.DECIDE.value else FactKind.COMMENTS_HANDED_IN
        _record(act, loaded, kind, {"step": step.name, "answers": _answer_facts(act, answers), "note": step.note})
        if value.state is ReviewState.CLOSED:
            _close(act, loaded)
        review_rows.write_back(act, loaded, value)


def _answer_facts(act: Act, answers: tuple[Answer, ...]) -> list[dict[str, str]]:
    numbers = {row.id: row.number for row in (find_document(act.session, each.document_id) for each in answers)}
    return [{"number": numbers[each.document_id], "verdict": each.verdict, "comment": each.comment} for each in answers]


def _close(act: Act, loaded: LoadedReview) -> None:
    """Each document gets the most severe verdict that its deciding steps gave."""
    loaded.row.ended_at = act.at
    ids = [step.id for step in loaded.steps]
    for document in loaded.documents:
        query = select(AnswerRow.verdict).where(
            AnswerRow.step_id.in_(ids), AnswerRow.document_id == document.document_id, AnswerRow.verdict != ""
        )
        document.verdict = most_severe(act.session.scalars(query), loaded.value.verdicts) or ""
    verdicts = [
        {"number": find_document(act.session, each.document_id).number, "verdict": each.verdict}
        for each in loaded.documents
    ]
    _record(act, loaded, FactKind.REVIEW_CLOSED, {"state": "closed", "verdicts": verdicts}, before={"state": "running"})
    review_rows.mail_end(act, loaded)


def cancel_review(context: Context, actor: Actor, review_id: str, command: CancelReview) -> None:
    """By its starter, a lead or a controller, with a reason."""
    with acting(context, actor) as act:
        row, seat = see_thing(act.session, actor, REVIEW, review_id)
        seat.need(Level.MARK)
        if row.started_by != actor.person_id and not seat.runs:
            raise NotAllowed("not_your_review", "Its starter, a lead or a controller can cancel it.", row.number)
        check_version(command.version, row.version, row.number)
        loaded = review_rows.load(act.session, row)
        value = routes.cancel(loaded.value, command.reason, act.at)
        row.why_cancelled = command.reason.strip()
        review_rows.mail_cancelled(act, loaded)
        _record(act, loaded, FactKind.REVIEW_CANCELLED, {"state": "cancelled"}, row.why_cancelled, {"state": "running"})
        review_rows.write_back(act, loaded, value)
