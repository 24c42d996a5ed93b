"""A session's states, and who may do what in it (handbook §7): asked by the view, by the act and by the walk."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import IntEnum, StrEnum

from nod.core.acts.refusals import NotAllowed, Refusal, RuleBroken

LONGEST = timedelta(days=62)
LONGEST_NAME = 120
MOST_SHEETS = 300
MOST_PARTIES = 200


class May(IntEnum):
    """What somebody may do in a session, each with what stands before it."""

    LOOK = 1
    COMMENT = 2
    MARK = 3

    @property
    def code(self) -> str:
        return self.name.lower()


MAY_WORDS: dict[str, str] = {
    "look": "look", "comment": "look, answer and set states", "mark": "look, answer, set states and mark"
}  # fmt: skip


class SessionState(StrEnum):
    TO_COME = "to come"
    OPEN = "open"
    CLOSED = "closed"


class Deed(StrEnum):
    """What is done with a session."""

    LOOK = "look"
    COMMENT = "comment"
    MARK = "mark"
    CHANGE = "change"
    OPEN = "open"
    CLOSE = "close"
    OPEN_AGAIN = "open again"
    HAND_OVER = "hand over"
    TAKE_OUT = "take out"


@dataclass(frozen=True)
class Taker:
    """Somebody's place in a session: what they may do there (None: nothing), whether they host it, or run the project.

    Whoever runs the project can act as its host.
    """

    may: May | None = None
    host: bool = False
    runs: bool = False

    @property
    def leads(self) -> bool:
        return self.host or self.runs

    @property
    def level(self) -> May | None:
        return May.MARK if self.leads else self.may


_NEEDS = {Deed.LOOK: May.LOOK, Deed.COMMENT: May.COMMENT, Deed.MARK: May.MARK}
_WHEN = {
    Deed.CHANGE: (SessionState.TO_COME, SessionState.OPEN), Deed.OPEN: (SessionState.TO_COME,),
    Deed.CLOSE: (SessionState.OPEN,), Deed.OPEN_AGAIN: (SessionState.CLOSED,),
    Deed.HAND_OVER: tuple(SessionState), Deed.TAKE_OUT: (SessionState.TO_COME, SessionState.OPEN),
}  # fmt: skip


def refusal(state: SessionState, taker: Taker, deed: Deed) -> Refusal | None:
    """Why somebody does not do this now; None where they may."""
    if deed in _NEEDS:
        return _in_the_room(state, taker, deed)
    if not taker.leads:
        words = "This is for the session's host, and for the project's leads and controllers."
        return NotAllowed("not_host", words)
    if state not in _WHEN[deed]:
        return _is(state)
    return None


def _is(state: SessionState) -> RuleBroken:
    if state is SessionState.TO_COME:
        return RuleBroken("session_to_come", "The session is not open yet.")
    if state is SessionState.OPEN:
        return RuleBroken("session_open", "The session is open.")
    return RuleBroken("session_closed", "The session has closed.")


def _in_the_room(state: SessionState, taker: Taker, deed: Deed) -> Refusal | None:
    if taker.level is None:
        return NotAllowed("not_invited", "This is for those who are invited to the session.")
    if state is not SessionState.OPEN:
        return _is(state)
    if taker.level < _NEEDS[deed]:
        return NotAllowed("session_level", f"In this session you may {MAY_WORDS[taker.level.code]}.")
    return None


def may(state: SessionState, taker: Taker, deed: Deed) -> bool:
    return refusal(state, taker, deed) is None


def check(state: SessionState, taker: Taker, deed: Deed) -> None:
    """Raises what `refusal` gives."""
    if (found := refusal(state, taker, deed)) is not None:
        raise found


def check_name(name: str) -> str:
    """Raises RuleBroken for a name that is missing or too long."""
    tidy = " ".join(name.split())
    if len(tidy) < 2:
        raise RuleBroken("name_missing", "Give the session a name.")
    if len(tidy) > LONGEST_NAME:
        raise RuleBroken("text_too_long", f"The name is longer than {LONGEST_NAME} characters.")
    return tidy


def check_times(opens_at: datetime, closes_at: datetime, now: datetime) -> None:
    """Raises RuleBroken for a session that would end before it begins or is over already, or goes on for months."""
    if closes_at <= max(opens_at, now):
        raise RuleBroken("session_times", "A session closes after it has opened, and after now.")
    if closes_at - max(opens_at, now) > LONGEST:
        raise RuleBroken("session_times", f"A session is open for at most {LONGEST.days} days.")


def session_number(running: int) -> str:
    """Common practice: a short number of its own beside the name that people say."""
    return f"S-{running:04d}"
