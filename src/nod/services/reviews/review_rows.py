"""Between the review's rows and the core's values: load, write back, and what follows for lists and who watches."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from itertools import groupby
from operator import itemgetter
from typing import NamedTuple

from sqlalchemy import bindparam, select, update
from sqlalchemy.orm import Session

from nod.core.acts.working_days import Counting
from nod.core.reviews.path import Quota, Step, StepAct, Then
from nod.core.reviews.reminders import Remind
from nod.core.reviews.running import (
    Answer,
    DocumentState,
    Place,
    PlaceState,
    Review,
    ReviewState,
    StepRun,
    StepState,
    Turn,
    UnderReview,
)
from nod.core.reviews.verdicts import Verdict
from nod.core.trail.entries import Subject
from nod.services.acts.context import Act
from nod.services.acts.seats import IN_PROJECT
from nod.services.open_work.open_work import set_open_work
from nod.services.register import standing
from nod.services.reviews.kind import REVIEW
from nod.services.reviews.open_steps import wanted_of
from nod.services.reviews.paths import whom_read
from nod.services.reviews.roster import ProjectRoster
from nod.services.things.things import tell_thing
from nod.store.bulk import add_rows, rows_of
from nod.store.dialects.sqlite import one_of
from nod.store.tables import (
    AnswerRow,
    Base,
    DocumentRow,
    MembershipRow,
    PersonRow,
    ProjectRow,
    ReviewDocumentRow,
    ReviewRow,
    ReviewStepRow,
    RevisionRow,
    StepPlaceRow,
)


class Under(NamedTuple):
    """A document of a review as its row has it: there may be hundreds, which are no mapped objects for that."""

    document_id: str
    revision_id: str
    state: str
    so_far: str


@dataclass(frozen=True)
class LoadedReview:
    """A review's rows beside its core value; steps and documents in their order, places by step and place."""

    row: ReviewRow
    steps: list[ReviewStepRow]
    places: dict[tuple[str, int], StepPlaceRow]
    documents: list[Under]
    value: Review

    def subjects(self) -> tuple[Subject, ...]:
        """The documents and revisions an entry about this review is also about."""
        return tuple(
            subject
            for each in self.documents
            for subject in (Subject("document", each.document_id), Subject("revision", each.revision_id))
        )

    def at(self, step_id: str) -> int | None:
        return next((at for at, row in enumerate(self.steps) if row.id == step_id), None)


def load(session: Session, row: ReviewRow, *, whole: bool = False) -> LoadedReview:
    """With the answers of the stage that runs, which is what acts ask for; or with all of them."""
    steps = list(
        session.scalars(select(ReviewStepRow).where(ReviewStepRow.review_id == row.id).order_by(ReviewStepRow.place))
    )
    places = _places(session, steps)
    answers = _answers(session, steps if whole else _of_stage_now(steps))
    documents, authors = _documents(session, row)
    value = Review(
        state=ReviewState(row.state),
        steps=tuple(step_run(step, places.get(step.id, ()), answers) for step in steps),
        documents={
            each.document_id: UnderReview(
                each.document_id, authors[each.revision_id], DocumentState(each.state), each.so_far
            )
            for each in documents
        },
        then=tuple({code: Then(follows) for code, follows in stage.items()} for stage in row.then),
        verdicts=tuple(Verdict(**each) for each in row.verdict_set),
    )
    flat = {(each.step_id, each.place): each for of in places.values() for each in of}
    return LoadedReview(row, steps, flat, documents, value)


def _of_stage_now(steps: Sequence[ReviewStepRow]) -> list[ReviewStepRow]:
    stages = {step.stage for step in steps if step.state == StepState.RUNNING.value}
    return [step for step in steps if step.stage in stages]


def _places(session: Session, steps: Iterable[ReviewStepRow]) -> dict[str, list[StepPlaceRow]]:
    found: dict[str, list[StepPlaceRow]] = {}
    query = select(StepPlaceRow).where(StepPlaceRow.step_id.in_([each.id for each in steps]))
    for place in session.scalars(query.order_by(StepPlaceRow.step_id, StepPlaceRow.place)):
        found.setdefault(place.step_id, []).append(place)
    return found


Answers = Mapping[tuple[str, int], Sequence[Answer]]


def _answers(session: Session, steps: Iterable[ReviewStepRow]) -> Answers:
    """Of one place after the other: twelve people may have answered for hundreds of documents."""
    query = (
        select(AnswerRow.step_id, AnswerRow.place, AnswerRow.document_id, AnswerRow.verdict, AnswerRow.comment)
        .where(AnswerRow.step_id.in_([each.id for each in steps]))
        .order_by(AnswerRow.step_id, AnswerRow.place)
    )
    return {
        key: [Answer(document_id, verdict, comment) for _, _, document_id, verdict, comment in of]
        for key, of in groupby(rows_of(session, query), itemgetter(0, 1))
    }


def step_run(row: ReviewStepRow, places: Iterable[StepPlaceRow], answers: Answers) -> StepRun:
    step = Step(
        row.name, StepAct(row.act), whom_read(row.whom), Quota(row.quota), row.least, row.days, Counting(row.counting),
        row.own_allowed, row.sums_up, Remind(row.remind_before, row.remind_every, row.lead_after),
        row.handing_on, row.verdicts, row.marking,
    )  # fmt: skip
    own = tuple(
        Place(
            each.person_id, each.for_id, PlaceState(each.state), each.at,
            tuple(answers.get((row.id, each.place), ())),
        )
        for each in places
    )  # fmt: skip
    return StepRun(step, row.stage, StepState(row.state), row.began_at, row.due_on, row.taken_by, row.ended_at, own)


def _documents(session: Session, row: ReviewRow) -> tuple[list[Under], dict[str, frozenset[str]]]:
    of_it = ReviewDocumentRow
    query = select(of_it.document_id, of_it.revision_id, of_it.state, of_it.so_far).where(of_it.review_id == row.id)
    documents = [Under(*each) for each in rows_of(session, query.order_by(of_it.place))]
    return documents, authors_of(session, row.project_id, [each.revision_id for each in documents])


def authors_of(session: Session, project_id: str, revision_ids: Sequence[str]) -> dict[str, frozenset[str]]:
    """By revision: who filed it, and whoever in the project it is said to come from."""
    query = select(RevisionRow.id, RevisionRow.filed_by, RevisionRow.came_person)
    return authors_among(session, project_id, rows_of(session, query.where(one_of(RevisionRow.id, revision_ids))))


def authors_among(session: Session, project_id: str, rows: Sequence[tuple[str, str, str]]) -> dict[str, frozenset[str]]:
    """Of revisions, each with who filed it and the name that it is said to come from."""
    names = {name for _, _, name in rows if name}
    named: dict[str, set[str]] = {}
    if names:
        members = select(PersonRow.name, PersonRow.id).join(MembershipRow, MembershipRow.person_id == PersonRow.id)
        members = members.where(
            MembershipRow.project_id == project_id,
            MembershipRow.state.in_((*IN_PROJECT, "contact")),
            PersonRow.name.in_(names),
        )
        for name, person_id in session.execute(members):
            named.setdefault(name, set()).add(person_id)
    return {revision: frozenset({filed_by, *named.get(name, ())}) for revision, filed_by, name in rows}


def roster_of(session: Session, project: ProjectRow, loaded: LoadedReview, on: date | None = None) -> ProjectRoster:
    """Those who may mark all of its documents; with those who stand in on a day."""
    of = select(ReviewDocumentRow.document_id).where(ReviewDocumentRow.review_id == loaded.row.id)
    folders = session.scalars(select(DocumentRow.folder_id).distinct().where(DocumentRow.id.in_(of)))
    return ProjectRoster(session, project, set(folders), on)


def write_back(act: Act, loaded: LoadedReview, turn: Turn) -> LoadedReview:
    """The rows as the turn says; documents and those who watch them follow."""
    value = turn.review
    for row, run in zip(loaded.steps, value.steps, strict=True):
        if run.taken_by != row.taken_by:
            row.taken_at = act.at if run.taken_by else None
        row.state, row.taken_by = run.state.value, run.taken_by
        if run.began_at != row.began_at:
            row.reminded_on = row.lead_told_on = None
        row.began_at, row.due_on, row.ended_at = run.began_at, run.due_on, run.ended_at
        _write_places(act, loaded, row, run)
    loaded.row.state = value.state.value
    loaded.row.version += 1
    if value.state is not ReviewState.RUNNING:
        loaded.row.ended_at = act.at
    act.session.flush()
    left = _write_documents(act, loaded, value)
    roster = ProjectRoster(act.session, act.session.get_one(ProjectRow, loaded.row.project_id))
    wanted = wanted_of(loaded.row, loaded.steps, value, roster)
    set_open_work(act.session, loaded.row.project_id, Subject("review", loaded.row.id), wanted)
    if left:
        standing.refresh_verdicts(act.session, left)
    # A review is there for those who see the folders of its documents.
    for folder in sorted(tell_thing(act, REVIEW, loaded.row).folders):
        act.tell(loaded.row.project_id, "register", folder, {folder})
    return replace(loaded, value=value)


def _write_places(act: Act, loaded: LoadedReview, step: ReviewStepRow, run: StepRun) -> None:
    """Places never go: the one at each number changes hands or state, new ones come behind."""
    for number, place in enumerate(run.places):
        row = loaded.places.get((step.id, number))
        if row is None:
            row = StepPlaceRow(step_id=step.id, place=number, note="")
            act.session.add(row)
            loaded.places[step.id, number] = row
        row.person_id, row.for_id, row.state, row.at = place.person, place.for_whom, place.state.value, place.at


_DOCUMENTS = Base.metadata.tables[ReviewDocumentRow.__tablename__]
_SET_DOCUMENT = (
    update(_DOCUMENTS)
    .where(_DOCUMENTS.c.review_id == bindparam("of_review"), _DOCUMENTS.c.document_id == bindparam("of_document"))
    .values(state=bindparam("to_state"), so_far=bindparam("to_so_far"), verdict=bindparam("to_verdict"))
)


def _write_documents(act: Act, loaded: LoadedReview, value: Review) -> set[str]:
    """Ids of the documents that have left the review now, with a verdict or without."""
    changed = []
    for row in loaded.documents:
        now = value.documents[row.document_id]
        if (now.state.value, now.verdict) == (row.state, row.so_far):
            continue
        out = now.state is not DocumentState.GOING
        changed.append(
            {
                "of_review": loaded.row.id, "of_document": row.document_id, "to_state": now.state.value,
                "to_so_far": now.verdict, "to_verdict": now.verdict if out else "",
            }
        )  # fmt: skip
    if not changed:
        return set()
    act.session.connection().execute(_SET_DOCUMENT, changed)
    return {each["of_document"] for each in changed if each["to_state"] != DocumentState.GOING.value}


def add_answers(act: Act, step: ReviewStepRow, place: int, answers: Sequence[Answer]) -> None:
    rows = [(step.id, place, each.document_id, each.verdict, each.comment) for each in answers]
    add_rows(act.session, AnswerRow, ("step_id", "place", "document_id", "verdict", "comment"), rows)
