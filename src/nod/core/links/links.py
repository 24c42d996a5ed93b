"""When a link opens what it leads to, and what it allows (handbook §10, §15)."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime

from nod.core.acts.refusals import RuleBroken

ALLOWS: dict[str, str] = {
    "look": "look at it",
    "download": "download it",
    "comment": "say something about it",
    "reply": "answer marks there and set their states",
    "mark": "mark there",
    "send": "send in what is asked for",
    "answer": "answer what is asked there",
    "respond": "respond to what was said there",
    "acknowledge": "acknowledge it",
}
FOR: dict[str, str] = {
    "named": "named people",
    "signed_in": "anyone who is signed in",
    "anyone": "anyone who has the link",
}
MOST_VISITS = 10_000


@dataclass(frozen=True)
class LinkState:
    """What a link's opening rests on. `giver_sees`: whether its giver, or the person named, sees the thing now."""

    withdrawn: bool
    ends_at: datetime | None
    visits: int
    most_visits: int | None
    person_gone: bool
    giver_sees: bool


def why_closed(state: LinkState, now: datetime) -> str:
    """A sentence for who holds the link; empty while it opens. Of what is gone it says no more than that."""
    if state.withdrawn:
        return "This link has been withdrawn."
    if state.person_gone or not state.giver_sees:
        return "This link does not open anything any more."
    if state.ends_at is not None and now >= state.ends_at:
        return "This link has expired."
    if state.most_visits is not None and state.visits >= state.most_visits:
        return "This link has been opened as often as it may be."
    return ""


def check_allows(asked: Iterable[str], offered: Iterable[str]) -> list[str]:
    """In the order of ALLOWS, looking always with them. Raises RuleBroken for what the thing does not offer."""
    wanted = {"look", *asked}
    for each in wanted:
        if each not in offered:
            raise RuleBroken("allows_unknown", "A link to this does not offer that.", each[:40])
    return [each for each in ALLOWS if each in wanted]
