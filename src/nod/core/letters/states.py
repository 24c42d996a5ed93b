"""A letter's states, and who may do what with it (handbook §11): asked by the view, by the act and by the walk."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from nod.core.acts.refusals import NotAllowed, Refusal, RuleBroken


class State(StrEnum):
    """Of a thread. A draft is there for whoever writes it alone."""

    DRAFT = "draft"
    OPEN = "open"
    WANTED = "answer wanted"
    ANSWERED = "answered"
    CLOSED = "closed"


SENT = tuple(each for each in State if each is not State.DRAFT)


class Deed(StrEnum):
    """What is done with a thread."""

    WRITE = "write"
    ANSWER = "answer"
    CLOSE = "close"
    REOPEN = "reopen"
    PRIVACY = "privacy"
    REMIND = "remind"


@dataclass(frozen=True)
class Part:
    """Somebody's place in a thread: they began it, are asked, are named in it, or run the project.

    `began` is also who filed the mail that began it; `asked` is also who is of the company of whoever is asked, if
    they are in the thread.
    """

    began: bool = False
    asked: bool = False
    named: bool = False
    runs: bool = False


@dataclass(frozen=True)
class Rule:
    """When a deed is done, and by whom of a `Part`."""

    when: tuple[State, ...]
    by: tuple[str, ...]


RULES: dict[Deed, Rule] = {
    Deed.WRITE: Rule(SENT, ("began", "asked", "named", "runs")),
    Deed.ANSWER: Rule((State.WANTED, State.ANSWERED), ("asked", "runs")),
    Deed.CLOSE: Rule((State.OPEN, State.WANTED, State.ANSWERED), ("began", "runs")),
    Deed.REOPEN: Rule((State.CLOSED,), ("began", "runs")),
    Deed.PRIVACY: Rule(SENT, ("began",)),
    Deed.REMIND: Rule((State.WANTED,), ("began", "runs")),
}

_FOR = {
    "began": "whoever began it", "asked": "whoever is asked", "named": "those who are in it",
    "runs": "the project's leads and controllers",
}  # fmt: skip


def refusal(state: State, part: Part, deed: Deed) -> Refusal | None:
    """Why somebody does not do this now; None where they may."""
    rule = RULES[deed]
    if not any(getattr(part, each) for each in rule.by):
        return NotAllowed("letter_part", f"This is for {' and '.join(_FOR[each] for each in rule.by)}.")
    if state in rule.when:
        return None
    return RuleBroken("letter_state", f"The thread is {_STANDS[state]}. {_WHEN[deed]}")


_STANDS = {
    State.DRAFT: "a draft", State.OPEN: "open, and no answer is wanted", State.WANTED: "waiting for an answer",
    State.ANSWERED: "answered", State.CLOSED: "closed",
}  # fmt: skip
_WHEN = {
    Deed.WRITE: "It is sent first.", Deed.ANSWER: "An answer is given where one is wanted.",
    Deed.CLOSE: "What was sent is closed, once.", Deed.REOPEN: "What is closed is opened again.",
    Deed.PRIVACY: "As it is sent, one says who sees it.", Deed.REMIND: "One is reminded while an answer is wanted.",
}  # fmt: skip


def may(state: State, part: Part, deed: Deed) -> bool:
    return refusal(state, part, deed) is None


def check(state: State, part: Part, deed: Deed) -> None:
    """Raises what `refusal` gives."""
    if found := refusal(state, part, deed):
        raise found


def after_writing(state: State, *, is_answer: bool, wants_answer: bool) -> State:
    """Where a thread stands once something is written in it. What is closed stays so."""
    if is_answer:
        return State.ANSWERED
    if state is State.DRAFT:
        return State.WANTED if wants_answer else State.OPEN
    return State.WANTED if wants_answer and state is not State.CLOSED else state
