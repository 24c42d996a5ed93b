"""What is with a person who leaves: each feature says what of its own that is, and hands it to an heir."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from sqlalchemy.orm import Session

from nod.core.acts.counted import counted
from nod.services.acts.answers import Answered
from nod.services.acts.context import Act
from nod.services.acts.seats import Seat
from nod.store.tables import PersonRow


class OpenWork(Answered):
    """A step that is, or will be, with the person."""

    review_id: str
    number: str
    name: str
    step: str
    state: str
    alone: bool


class OpenThing(Answered):
    """Anything else that runs and names the person; `part` says as what."""

    key: str
    number: str
    name: str
    part: str


class OpenWorkList(Answered):
    """`routes` are those that name the person: the heir takes their place there too."""

    steps: list[OpenWork]
    routes: list[str]
    things: list[OpenThing]

    @property
    def is_empty(self) -> bool:
        return not (self.steps or self.routes or self.things)

    @property
    def words(self) -> str:
        parts = ((self.steps, "open step"), (self.routes, "route"), (self.things, "submittal"))
        return " and ".join(counted(len(each), what) for each, what in parts if each)


@dataclass(frozen=True)
class Estate:
    """How a feature lists what is with a person in a project, and hands it over inside the act that removes them."""

    list_open: Callable[[Session, str, str], OpenWorkList]
    hand_over: Callable[[Act, Seat, PersonRow, PersonRow], None]


_ESTATES: list[Estate] = []


def register(estate: Estate) -> None:
    _ESTATES.append(estate)


def open_work_of(session: Session, project_id: str, person_id: str) -> OpenWorkList:
    found = [each.list_open(session, project_id, person_id) for each in _ESTATES]
    return OpenWorkList(
        steps=[step for each in found for step in each.steps], routes=[name for each in found for name in each.routes],
        things=[thing for each in found for thing in each.things],
    )  # fmt: skip


def hand_over(act: Act, seat: Seat, person: PersonRow, heir: PersonRow) -> None:
    """Raises RuleBroken for an heir who could not do it."""
    for each in _ESTATES:
        each.hand_over(act, seat, person, heir)
