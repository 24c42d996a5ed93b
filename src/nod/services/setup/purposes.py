"""The purposes of issue in Set-up: what each asks of whom it is sent to, and of what is sent (handbook §10)."""

from __future__ import annotations

from pydantic import Field

from nod.core.transmittals.purposes import MOST_PURPOSES, Purpose, check_purposes, purposes_kept
from nod.services.acts.answers import Command
from nod.services.acts.context import Context, acting
from nod.services.acts.seats import Actor
from nod.services.setup.setup import Saved, open_setup, saved
from nod.services.setup.setup_view import PurposeSet
from nod.services.transmittals.purposes import purposes_of
from nod.store.ids import new_id


class SetPurposes(Command):
    version: int
    purposes: list[PurposeSet] = Field(max_length=MOST_PURPOSES)


def set_purposes(context: Context, actor: Actor, project_id: str, command: SetPurposes) -> Saved:
    """What was sent keeps the words it was sent for. A code that is not known gets one of its own."""
    with acting(context, actor) as act:
        _, project = open_setup(act, project_id, command.version)
        known = purposes_of(project)
        given = [
            Purpose(
                each.code if each.code in known else new_id(), each.words, each.answer_days, each.released,
                tuple(each.statuses),
            )
            for each in command.purposes
        ]  # fmt: skip
        before = {"purposes": purposes_kept(known.values())}
        after = {"purposes": purposes_kept(check_purposes(given, project.rules["statuses"]))}
        project.rules = {**project.rules, **after}
        return saved(act, project, "purposes of issue", before, after)
