"""How a person is told of what (handbook §13)."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from nod.core.acts.refusals import RuleBroken

KINDS: dict[str, str] = {
    "step": "A step of a review is with me",
    "closed": "A review that I started has closed",
    "answer": "Somebody answered my mark",
    "mention": "Somebody named me in a mark, or has one for me",
    "check_out": "My check-out of a document was broken",
}
HOW: dict[str, str] = {"now": "at once", "daily": "in the daily summary", "never": "not at all"}
DEFAULTS: dict[str, str] = {"step": "now", "closed": "now", "answer": "daily", "mention": "now", "check_out": "now"}


def told_how(kind: str, own: Mapping[str, str], by_role: Mapping[str, Mapping[str, str]], roles: Iterable[str]) -> str:
    """The person's own setting; otherwise the promptest the project sets for any of their roles; or the default."""
    if kind in own:
        return own[kind]
    order = list(HOW)
    set_for = [by_role[role][kind] for role in roles if kind in by_role.get(role, {})]
    return min(set_for, key=order.index) if set_for else DEFAULTS[kind]


def check_setting(kind: str, how: str) -> None:
    """Raises RuleBroken for a kind or a way that there is not."""
    if kind not in KINDS or how not in HOW:
        raise RuleBroken("notice_unknown", "There is no such notice, or no such way of telling it.", f"{kind} {how}")
