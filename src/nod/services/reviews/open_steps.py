"""What reviews want of whom: their steps, and that a closed one is sent out."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.working_days import Counting, ProjectClock
from nod.core.reviews.forecast import forecast
from nod.core.reviews.path import Quota, Step, StepAct
from nod.core.reviews.running import Review, ReviewState, StepRun, StepState
from nod.services.acts.answers import Standing
from nod.services.acts.late import LateBy
from nod.services.open_work.kinds import Opened, Said, WorkKind, work_kind
from nod.services.open_work.open_work import Wanted, standings
from nod.services.reviews.roster import ProjectRoster
from nod.store.tables import OpenWorkRow, ReviewRow, ReviewStepRow, StepPlaceRow


def wanted_of(row: ReviewRow, steps: Sequence[ReviewStepRow], value: Review, roster: ProjectRoster) -> list[Wanted]:
    """What a review wants now, and what it will; a step that asks nobody is with whoever started it."""
    if value.state is ReviewState.CLOSED:
        return [Wanted(SEND_OUT.code, [row.started_by], since_at=row.ended_at)]
    if value.state is not ReviewState.RUNNING:
        return []
    documents = [each.id for each in value.going()]
    found = []
    for step, run in zip(steps, value.steps, strict=True):
        if run.state in (StepState.RUNNING, StepState.WAITING):
            running = run.state is StepState.RUNNING
            found.append(
                Wanted(
                    STEP.code, (run.asked or [row.started_by]) if running else _coming(run, roster), part=step.id,
                    what=step.name, each=run.step.quota is not Quota.ANY, waiter_id=row.started_by,
                    since_at=step.taken_at or step.began_at, due_on=step.due_on, counting=run.step.counting,
                    is_coming=not running, documents=documents if running else (),
                )
            )  # fmt: skip
    return found


def _coming(run: StepRun, roster: ProjectRoster) -> list[str]:
    return list(dict.fromkeys(person for named in run.step.whom for person in roster.named(named)))


def _say_step(session: Session, opened: Sequence[Opened]) -> dict[str, Said]:
    parts = [work.part for work, _ in opened]
    query = select(ReviewStepRow.id, ReviewStepRow.taken_by, ReviewStepRow.act, ReviewStepRow.quota)
    rows = session.execute(query.where(ReviewStepRow.id.in_(parts))).all()
    asked = set(session.scalars(select(StepPlaceRow.step_id).where(StepPlaceRow.step_id.in_(parts))))
    acts = {step_id: _act_of(taken_by, act, quota, step_id in asked) for step_id, taken_by, act, quota in rows}
    return {work.id: Said(review.name, f"step {work.what}", acts[work.part]) for work, review in opened}


def _act_of(taken_by: str | None, act: str, quota: str, anybody: bool) -> str:
    if not anybody:
        return "Put somebody in"
    if taken_by is None and quota == Quota.ANY.value:
        return "Pick up"
    return "Hand in verdicts" if act == StepAct.DECIDE.value else "Hand in comments"


def _say_others_step(_session: Session, opened: Sequence[Opened]) -> dict[str, Said]:
    return {work.id: Said(review.name, f"step {work.what}", "Open") for work, review in opened}


def _expect_step(
    session: Session, at: ProjectClock, late: LateBy, works: Sequence[OpenWorkRow]
) -> dict[str, tuple[str, Standing]]:
    """The day on which it is expected to be due, and the step that is before it now."""
    ids = {work.thing_id for work in works}
    query = select(ReviewStepRow).where(ReviewStepRow.review_id.in_(ids)).order_by(ReviewStepRow.place)
    steps: dict[str, list[ReviewStepRow]] = {}
    for step in session.scalars(query):
        steps.setdefault(step.review_id, []).append(step)
    now = standings(session, STEP.code, "review", ids, late)
    found = {}
    for work in works:
        its = steps[work.thing_id]
        planned = forecast([_without_people(each) for each in its], late.today, at)
        due = next(day for step, day in zip(its, planned, strict=True) if step.id == work.part)
        before = next(step for step in its if step.state == StepState.RUNNING.value)
        standing = now[work.thing_id].model_copy(update={"due_on": due, "days_late": 0})
        found[work.id] = (f"step {work.what}, after {before.name}", standing)
    return found


def _without_people(row: ReviewStepRow) -> StepRun:
    """As much of a step as its days need."""
    step = Step(row.name, StepAct(row.act), (), days=row.days, counting=Counting(row.counting), sums_up=row.sums_up)
    return StepRun(step, row.stage, StepState(row.state), row.began_at, row.due_on, row.taken_by, row.ended_at)


def _say_send_out(_session: Session, opened: Sequence[Opened]) -> dict[str, Said]:
    return {work.id: Said(review.name, "closed, not sent out", "Send out") for work, review in opened}


STEP = work_kind(WorkKind("step", "review", 0, _say_step, _say_others_step, _expect_step))
SEND_OUT = work_kind(WorkKind("send_out", "review", 2, _say_send_out, _say_send_out))
