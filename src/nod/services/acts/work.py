"""What acts leave to be done afterwards: each feature registers its own kinds of work, with the lane that does them."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from sqlalchemy.orm import Session

from nod.core.trail.entries import Subject
from nod.services.acts.context import Context
from nod.services.press.press import Press


class Lane(StrEnum):
    """Lanes of the worker: what is quick does not wait behind what is slow."""

    LOOK = "look"
    SEND = "send"
    REST = "rest"
    SCAN = "scan"


@dataclass(frozen=True)
class Job:
    """One task in hand. `go_on` is called now and then by what takes long and is getting on; `tries` counts from 1."""

    context: Context
    press: Press
    key: str = ""
    tries: int = 1
    go_on: Callable[[], None] = lambda: None


@dataclass(frozen=True)
class Concern:
    """A thing that work was for, where to see it, and who besides the project's controllers may have it done again.

    `folder_id`: whoever may file there; `person_id`: that person.
    """

    project_id: str
    subject: Subject
    about: str
    link: str
    folder_id: str = ""
    person_id: str = ""


Payload = dict[str, Any]
Do = Callable[[Job, Payload], None]
Concerns = Callable[[Session, Payload], list[Concern]]


@dataclass(frozen=True)
class Work:
    """A kind of work. `doing` says it in words; `shared` if the same work may be for things that not all may see."""

    kind: str
    lane: Lane
    doing: str
    do: Do
    concerns: Concerns
    shared: bool = False


_WORKS: dict[str, Work] = {}


def work(kind: str, lane: Lane, doing: str, concerns: Concerns, *, shared: bool = False) -> Callable[[Do], Do]:
    """Registers a function as what does the tasks of a kind. Doing one twice must be harmless."""

    def register(do: Do) -> Do:
        if kind in _WORKS:
            raise ValueError(f"{kind} is done by {_WORKS[kind].do.__module__} already")
        _WORKS[kind] = Work(kind, lane, doing, do, concerns, shared)
        return do

    return register


def work_of(kind: str) -> Work | None:
    """None for what an older or newer Nod left."""
    return _WORKS.get(kind)


def works() -> Iterator[Work]:
    yield from _WORKS.values()


def kinds_of(*lanes: Lane) -> tuple[str, ...]:
    return tuple(each.kind for each in works() if each.lane in lanes)
