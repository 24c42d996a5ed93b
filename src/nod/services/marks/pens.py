"""Rolls of pens: one's own in a project, and the project's (handbook §6)."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.marks import pens as rules
from nod.core.marks.marks import Look, MarkKind
from nod.core.marks.pens import FIRST_ROLL, Pen
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Context, acting, check_version
from nod.services.acts.projects import ink_convention
from nod.services.acts.seats import Actor, take_seat
from nod.services.marks.marks_view import Kind, MarkLook
from nod.store.tables import PenRollRow


class PenShown(Command, Answered):
    """See `core.marks.pens.Pen`. `ink`: its ink by the project's convention; said, not kept, and empty for its own."""

    name: str
    kind: Kind
    look: MarkLook = MarkLook()
    label: str = ""
    text: str = ""
    discipline: str = ""
    ink: str = ""


class PenRolls(Answered):
    """`own` is the first roll while one has put together none, and `own_version` 0 then.

    `by` says what the project's convention of inks goes by, empty for none.
    """

    own: list[PenShown]
    own_version: int
    project: list[PenShown]
    project_version: int
    may_share: bool
    by: str


class KeepPens(Command):
    """A whole roll in its order; `shared` for the project's, with the version seen (0 for one that is not kept yet)."""

    project_id: str
    shared: bool
    version: int
    pens: list[PenShown]


class PensKept(Answered):
    version: int


def list_pens(context: Context, actor: Actor, project_id: str) -> PenRolls:
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        own, shared = _roll(session, project_id, actor.private_id), _roll(session, project_id, "")
        convention = ink_convention(seat.project)
        rolls = (_kept(own.pens) if own else FIRST_ROLL, _kept(shared.pens) if shared else ())
        mine, projects = (
            [_pen(pen, convention.ink_for(pen.discipline, actor.company_code)) for pen in roll] for roll in rolls
        )
        return PenRolls(
            own=mine, own_version=own.version if own else 0, project=projects,
            project_version=shared.version if shared else 0, may_share=seat.runs and actor.looker is None,
            by=convention.by,
        )  # fmt: skip


def _roll(session: Session, project_id: str, person_id: str) -> PenRollRow | None:
    return session.get(PenRollRow, (project_id, person_id))


def _kept(pens: list[Any]) -> list[Pen]:
    return [_told(PenShown.model_validate(each)) for each in pens]


def _told(pen: PenShown) -> Pen:
    return Pen(pen.name, MarkKind(pen.kind), Look(**pen.look.model_dump()), pen.label, pen.text, pen.discipline)


def _pen(pen: Pen, ink: str = "") -> PenShown:
    return PenShown.model_validate({**asdict(pen), "kind": pen.kind.value, "ink": ink})


def keep_pens(context: Context, actor: Actor, command: KeepPens) -> PensKept:
    """The roll as it is from now on. The project's is kept by those who run it."""
    with acting(context, actor) as act:
        seat = act.enter(command.project_id, Level.READ)
        if command.shared:
            seat.need_to_run()
        pens = [_told(each) for each in command.pens]
        kept = [_pen(each).model_dump() for each in rules.check_pens(pens, seat.project.rules["disciplines"])]
        owner = "" if command.shared else actor.person_id
        row = _roll(act.session, command.project_id, owner)
        check_version(command.version, row.version if row else 0, "pens")
        if row is None:
            row = PenRollRow(project_id=command.project_id, person_id=owner, pens=[], version=0)
            act.session.add(row)
        row.pens, row.version = kept, row.version + 1
        about = "pens of the project" if command.shared else "own pens"
        after = {"pens": [each["name"] for each in kept]}
        subject = Subject("project", command.project_id)
        act.record(command.project_id, Fact(FactKind.PENS_KEPT, subject, about, after=after, private_to=owner))
        return PensKept(version=row.version)
