"""Between the review's rows and the core's values: load, write back, and what follows a change of step."""

from __future__ import annotations

from collections.abc import Container
from dataclasses import dataclass, replace

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.working_days import Counting
from nod.core.reviews.routes import Review, ReviewState, Step, StepAct, StepRun, StepState
from nod.core.reviews.verdicts import Verdict
from nod.core.trail.entries import Subject
from nod.services.access.visibility import folders_of
from nod.services.acts.context import Act
from nod.services.notices.notices import Notice, tell_person
from nod.services.open_work.open_work import set_open_work
from nod.services.register import standing
from nod.services.reviews.kind import REVIEW
from nod.services.reviews.open_steps import wanted_of
from nod.services.things.things import tell_thing, who_may_know
from nod.store.tables import (
    DocumentRow,
    PersonRow,
    ProjectRow,
    ReviewDocumentRow,
    ReviewRow,
    ReviewStepRow,
    RevisionRow,
    StepPersonRow,
)


@dataclass(frozen=True)
class LoadedReview:
    """A review's rows beside its core value; steps and documents in their order."""

    row: ReviewRow
    steps: list[ReviewStepRow]
    documents: list[ReviewDocumentRow]
    value: Review

    def subjects(self) -> tuple[Subject, ...]:
        """The documents and revisions an entry about this review is also about."""
        return tuple(
            subject
            for each in self.documents
            for subject in (Subject("document", each.document_id), Subject("revision", each.revision_id))
        )


_SHARED = "Others may take this step too. Pick it up first, so that nobody does it twice."


def load(session: Session, row: ReviewRow) -> LoadedReview:
    steps = list(
        session.scalars(select(ReviewStepRow).where(ReviewStepRow.review_id == row.id).order_by(ReviewStepRow.place))
    )
    query = (
        select(ReviewDocumentRow, RevisionRow.filed_by)
        .join(RevisionRow, RevisionRow.id == ReviewDocumentRow.revision_id)
        .where(ReviewDocumentRow.review_id == row.id)
        .order_by(ReviewDocumentRow.place)
    )
    pairs = list(session.execute(query))
    value = Review(
        state=ReviewState(row.state),
        steps=tuple(_run(session, step) for step in steps),
        filed_by={document.document_id: filed_by for document, filed_by in pairs},
        verdicts=tuple(Verdict(**each) for each in row.verdict_set),
    )
    return LoadedReview(row, steps, [document for document, _ in pairs], value)


def step_people(session: Session, step_id: str) -> list[PersonRow]:
    """Those who may take a step, in their order."""
    query = (
        select(PersonRow)
        .join(StepPersonRow, StepPersonRow.person_id == PersonRow.id)
        .where(StepPersonRow.step_id == step_id)
        .order_by(StepPersonRow.place)
    )
    return list(session.scalars(query))


def _run(session: Session, row: ReviewStepRow) -> StepRun:
    people = tuple(person.id for person in step_people(session, row.id))
    step = Step(row.name, StepAct(row.act), people, row.days, Counting(row.counting))
    return StepRun(step, StepState(row.state), row.began_at, row.due_on, row.taken_by, row.ended_at)


def write_back(act: Act, loaded: LoadedReview, value: Review) -> LoadedReview:
    """The rows as `value` says; documents and those who watch them follow; mail goes out if a step began."""
    for row, before, run in zip(loaded.steps, loaded.value.steps, value.steps, strict=True):
        if run.taken_by != row.taken_by:
            row.taken_at = act.at if run.taken_by else None
        row.state, row.taken_by = run.state.value, run.taken_by
        row.began_at, row.due_on, row.ended_at = run.began_at, run.due_on, run.ended_at
        if run.state is StepState.RUNNING and before.state is StepState.WAITING:
            _mail_step(act, loaded, row, run)
    loaded.row.state = value.state.value
    loaded.row.version += 1
    if value.state is not ReviewState.RUNNING:
        loaded.row.ended_at = act.at
    documents = {each.document_id for each in loaded.documents}
    wanted = wanted_of(loaded.row, loaded.steps, value, sorted(documents))
    set_open_work(act.session, loaded.row.project_id, Subject("review", loaded.row.id), wanted)
    if any(each.verdict for each in loaded.documents):
        standing.refresh_verdicts(act.session, documents)
    folders = folders_of(act.session, documents)
    tell_thing(act, REVIEW, loaded.row)
    for folder in sorted(folders):
        act.tell(loaded.row.project_id, "register", folder, {folder})
    return replace(loaded, value=value)


def document_lines(session: Session, loaded: LoadedReview) -> list[str]:
    """`BFT-… P02  Title` for each document, for mails."""
    query = (
        select(DocumentRow.number, RevisionRow.code, RevisionRow.title, ReviewDocumentRow.verdict)
        .join(ReviewDocumentRow, ReviewDocumentRow.document_id == DocumentRow.id)
        .join(RevisionRow, RevisionRow.id == ReviewDocumentRow.revision_id)
        .where(ReviewDocumentRow.review_id == loaded.row.id)
        .order_by(ReviewDocumentRow.place)
    )
    return [
        f"  {row.number} {row.code}  {row.title}" + (f"  verdict {row.verdict}" if row.verdict else "")
        for row in session.execute(query)
    ]


def _mail_step(act: Act, loaded: LoadedReview, row: ReviewStepRow, run: StepRun) -> None:
    """Only those who may take the step that begins are told."""
    people = step_people(act.session, row.id)
    asked = _Asked(loaded, row, run.step, document_lines(act.session, loaded))
    may = who_may_know(act.session, loaded.row.project_id, [each.id for each in people], asked.about)
    for person in people:
        _tell_step(act, asked, person, f"step:{row.id}:{person.id}", may)


def mail_heir(act: Act, loaded: LoadedReview, heir: PersonRow) -> None:
    """Whoever takes over a running step is told as if it began for them."""
    for row, run in zip(loaded.steps, loaded.value.steps, strict=True):
        if run.state is StepState.RUNNING and heir.id in run.step.people:
            asked = _Asked(loaded, row, run.step, document_lines(act.session, loaded))
            _tell_step(act, asked, heir, f"step:{row.id}:{heir.id}:heir")


@dataclass(frozen=True)
class _Asked:
    """What is asked of those whose step begins; `listed` are the documents, a line each."""

    loaded: LoadedReview
    row: ReviewStepRow
    step: Step
    listed: list[str]

    @property
    def about(self) -> list[Subject]:
        return [Subject("review", self.loaded.row.id)]


def _tell_step(act: Act, asked: _Asked, person: PersonRow, key: str, may: Container[str] | None = None) -> None:
    review, row, step = asked.loaded.row, asked.row, asked.step
    project = act.session.get_one(ProjectRow, review.project_id)
    wanted = "a verdict on each document" if step.act is StepAct.DECIDE else "your comments on each document"
    due = row.due_on.strftime("%-d %B %Y") if row.due_on else ""
    text = [
        f"{review.number} {review.name}: the step {row.name} is with you.",
        "",
        f"Wanted: {wanted}, by the end of {due}.",
        *(
            ["Others may take this step too. Pick it up first, so that nobody does it twice."]
            if len(step.people) > 1
            else []
        ),
        *(["", review.message] if review.message else []),
        "",
        *asked.listed,
    ]
    subject = f"{project.number}: {row.name} by {due} · {review.number} {review.name}"
    notice = Notice(key, subject, text, f"/reviews/{review.id}", asked.about)
    tell_person(act, project, "step", person.id, notice, may=may)


def mail_cancelled(act: Act, loaded: LoadedReview) -> None:
    """Whoever has been asked for something is told that it is not wanted any more, and whoever started it."""
    review = loaded.row
    asked = [
        person.id
        for row, run in zip(loaded.steps, loaded.value.steps, strict=True)
        if run.state in (StepState.RUNNING, StepState.DONE)
        for person in step_people(act.session, row.id)
    ]
    project = act.session.get_one(ProjectRow, review.project_id)
    text = [
        f"{act.actor.name} has cancelled {review.number} {review.name}. Nothing is wanted of you any more.", "",
        review.why_cancelled, "", *document_lines(act.session, loaded),
    ]  # fmt: skip
    about = [Subject("review", review.id)]
    told = dict.fromkeys((*asked, review.started_by))
    may = who_may_know(act.session, project.id, told, about)
    for person_id in told:
        key = f"review_cancelled:{review.id}:{person_id}"
        subject = f"{project.number}: cancelled, {review.number} {review.name}"
        notice = Notice(key, subject, text, f"/reviews/{review.id}", about)
        tell_person(act, project, "cancelled", person_id, notice, may=may)


def mail_end(act: Act, loaded: LoadedReview) -> None:
    """The starter is told how it ended."""
    review = loaded.row
    starter = act.session.get_one(PersonRow, review.started_by)
    act.session.flush()
    text = [
        f"{review.number} {review.name} is closed.",
        "",
        *document_lines(act.session, loaded),
        "",
        "Next: send the documents out.",
    ]
    project = act.session.get_one(ProjectRow, review.project_id)
    notice = Notice(
        f"review_closed:{review.id}", f"Closed: {review.number} {review.name}", text, f"/reviews/{review.id}",
        [Subject("review", review.id)],
    )  # fmt: skip
    tell_person(act, project, "closed", starter.id, notice)
