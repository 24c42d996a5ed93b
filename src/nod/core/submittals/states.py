"""A submittal's states, and who may do what with it (handbook §9): asked by the view, by the act and by the walk."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from nod.core.acts.refusals import NotAllowed, Refusal, RuleBroken


class State(StrEnum):
    """In the order of the work. What was answered *revise and resubmit* is asked for again, as the next revision."""

    PLANNED = "planned"
    ASKED = "asked for"
    PREPARING = "in preparation"
    SENT_IN = "sent in"
    UNDER_REVIEW = "under review"
    ANSWERED = "answered"
    CLOSED = "closed"
    VOID = "void"


NOT_SENT = (State.PLANNED, State.ASKED, State.PREPARING)
OVER = (State.CLOSED, State.VOID)
RUNNING = tuple(each for each in State if each not in OVER)
SHOWN_TO_FIELD = (State.UNDER_REVIEW, State.ANSWERED, State.CLOSED)
"""What the field sees (handbook §9)."""


class Deed(StrEnum):
    """What is done with a submittal."""

    EDIT = "edit"
    ASK = "ask"
    PREPARE = "prepare"
    SEND_IN = "send in"
    GIVE = "give"
    ANSWER = "answer"
    ANSWER_FOR = "answer for"
    CLOSE = "close"
    VOID = "void"
    COPY_IN = "copy in"
    REMIND = "remind"
    DELIVER = "deliver"
    SEND_ON = "send on"


@dataclass(frozen=True)
class Party:
    """Somebody's place in a submittal: they run the project, are of who is responsible, or are asked to answer it."""

    runs: bool = False
    responsible: bool = False
    approver: bool = False


@dataclass(frozen=True)
class Rule:
    """When a deed is done, and by whom of a `Party`."""

    when: tuple[State, ...]
    by: tuple[str, ...]


RULES: dict[Deed, Rule] = {
    Deed.EDIT: Rule(RUNNING, ("runs",)),
    Deed.ASK: Rule(NOT_SENT, ("runs",)),
    Deed.PREPARE: Rule((State.ASKED,), ("responsible",)),
    Deed.SEND_IN: Rule(NOT_SENT, ("responsible", "runs")),
    Deed.GIVE: Rule((State.SENT_IN, State.UNDER_REVIEW), ("runs",)),
    Deed.ANSWER: Rule((State.UNDER_REVIEW,), ("approver",)),
    Deed.ANSWER_FOR: Rule((State.UNDER_REVIEW,), ("runs",)),
    Deed.CLOSE: Rule((State.ANSWERED,), ("runs",)),
    Deed.VOID: Rule(RUNNING, ("runs",)),
    Deed.COPY_IN: Rule(RUNNING, ("runs", "responsible", "approver")),
    Deed.REMIND: Rule((State.ASKED, State.PREPARING, State.UNDER_REVIEW), ("runs",)),
    Deed.DELIVER: Rule((State.ANSWERED, State.CLOSED), ("runs", "responsible")),
    Deed.SEND_ON: Rule(tuple(State), ("runs", "responsible", "approver")),
}

_NEXT = {
    State.PLANNED: Deed.ASK, State.ASKED: Deed.SEND_IN, State.PREPARING: Deed.SEND_IN, State.SENT_IN: Deed.GIVE,
    State.UNDER_REVIEW: Deed.ANSWER, State.ANSWERED: Deed.CLOSE,
}  # fmt: skip


def next_deed(state: State, *, for_information: bool = False) -> Deed | None:
    """What it waits for, by whoever has it; None for what is over."""
    if for_information and state is State.SENT_IN:
        return Deed.CLOSE
    return _NEXT.get(state)


_FOR = {
    "runs": "the project's leads and controllers",
    "responsible": "the company that is responsible for it",
    "approver": "whoever is asked to answer it",
}


_NOT_ON_A_ROUTE = (Deed.GIVE, Deed.ANSWER, Deed.ANSWER_FOR, Deed.VOID, Deed.REMIND)


def refusal(
    state: State, party: Party, deed: Deed, *, for_information: bool = False, on_route: bool = False
) -> Refusal | None:
    """Why somebody does not do this now; None where they may. What is for information is closed once it is sent in.

    `on_route`: it goes round in a review, which alone answers it (handbook §9).
    """
    rule = RULES[deed]
    if not any(getattr(party, each) for each in rule.by):
        return NotAllowed("submittal_party", f"This is for {' and '.join(_FOR[each] for each in rule.by)}.")
    if for_information and deed is Deed.CLOSE:
        rule = Rule((State.SENT_IN, State.ANSWERED), rule.by)
    if for_information and deed is Deed.GIVE:
        return RuleBroken("submittal_for_information", "It is for information: nobody is asked to answer it.")
    if on_route and deed in _NOT_ON_A_ROUTE:
        words = "It goes round in a review, whose outcome answers it. That review can be cancelled first."
        return RuleBroken("submittal_on_route", words)
    if state in rule.when:
        return None
    return RuleBroken("submittal_state", f"It is {state.value}. This is done while it is {_words(rule.when)}.")


def _words(states: tuple[State, ...]) -> str:
    words = [each.value for each in states]
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} or {words[-1]}"


def may(state: State, party: Party, deed: Deed, *, for_information: bool = False, on_route: bool = False) -> bool:
    return refusal(state, party, deed, for_information=for_information, on_route=on_route) is None


def check(state: State, party: Party, deed: Deed, *, for_information: bool = False, on_route: bool = False) -> None:
    """Raises what `refusal` gives."""
    found = refusal(state, party, deed, for_information=for_information, on_route=on_route)
    if found is not None:
        raise found
