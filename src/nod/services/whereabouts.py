"""Which project an address from before projects were in them belongs to."""

from __future__ import annotations

from sqlalchemy import select

from nod.core.acts.refusals import NotFound
from nod.services.access.visibility import see_revision
from nod.services.acts.answers import Answered
from nod.services.acts.context import Context
from nod.services.acts.seats import Actor
from nod.services.intake.intake_check import see_batch
from nod.services.things.kinds import thing_kinds
from nod.services.things.things import see_thing
from nod.store.tables import BatchRow, RevisionRow


class Whereabouts(Answered):
    """The project of a thing."""

    project_id: str


def find_project(context: Context, actor: Actor, thing_id: str) -> Whereabouts:
    """Of a thing of any kind, a revision or a batch. Raises NotFound for what is not there for this person."""
    with context.database.read() as session:
        for kind in thing_kinds():
            if session.scalar(select(kind.columns.id).where(kind.columns.id == thing_id)) is not None:
                return Whereabouts(project_id=see_thing(session, actor, kind, thing_id)[1].project.id)
        if session.get(RevisionRow, thing_id) is not None:
            return Whereabouts(project_id=see_revision(session, actor, thing_id)[2].project.id)
        if session.get(BatchRow, thing_id) is not None:
            return Whereabouts(project_id=see_batch(session, actor, thing_id)[1].project.id)
        raise NotFound(thing_id)
