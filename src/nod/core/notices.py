"""How a person is told of what (handbook §13)."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from nod.core.acts.refusals import RuleBroken
from nod.core.trail.entries import FactKind


@dataclass(frozen=True)
class NoticeKind:
    """`words` say it in the settings, `because` in the notice itself. `wants_act`: its person is to do something."""

    words: str
    because: str
    default: str
    wants_act: bool = False


KINDS: dict[str, NoticeKind] = {
    "step": NoticeKind("A step of a review is with me", "the step is with you", "now", wants_act=True),
    "closed": NoticeKind("A review that I started has closed", "you started the review", "now"),
    "cancelled": NoticeKind("A review I have a part in was cancelled", "you have a part in the review", "now"),
    "sent_back": NoticeKind(
        "Documents of mine came back from a review", "you filed them, or they came from you", "now"
    ),
    "outcome": NoticeKind("A review has decided, and its route wants me told", "the review's route says so", "now"),
    "stuck": NoticeKind("A review is late, or a step of it asks nobody", "you lead the project, or started it", "now"),
    "answer": NoticeKind("Somebody answered me", "{what}", "now"),
    "mention": NoticeKind("Somebody named me, or has a mark for me", "you are named in it", "now"),
    "bounced": NoticeKind("A mail that I had sent came back", "you sent it", "now"),
    "check_out": NoticeKind("My check-out of a document was broken", "you had it checked out", "now"),
    "filed": NoticeKind("Somebody who registers wants me told", "{what} wanted you told", "now"),
    "superseded": NoticeKind("What my company was sent is superseded or withdrawn", "your company was sent it", "now"),
    "invited": NoticeKind("I am invited to a session", "you are invited to it", "now"),
    "session": NoticeKind("Something happened to a session of mine", "you {what}", "now"),
    "submittal_mine": NoticeKind("A submittal is with me", "the submittal is with you", "now", wants_act=True),
    "submittal": NoticeKind(
        "Something happened to a submittal of mine, or where I am copied in", "you have a part in the submittal", "now"
    ),
    "letter_mine": NoticeKind("An answer of mine is wanted", "an answer is wanted of you", "now", wants_act=True),
    "letter_check": NoticeKind("A letter waits for me before it goes", "it waits for you", "now", wants_act=True),
    "letter": NoticeKind("Somebody wrote in a thread that I am in", "you are in the thread", "now"),
    "followed": NoticeKind("Something happened to what I follow", "you follow {what}", "daily"),
}
HOW: dict[str, str] = {"now": "at once", "daily": "in the summary", "nod": "in Nod alone", "never": "not at all"}
"""The promptest first. All but the last are in Nod, too."""
REACHING = ("now", "daily")
"""The ways that reach a person outside Nod: what wants an act is told in one of them."""

FOLLOWED: frozenset[FactKind] = frozenset({
    FactKind.REVISION_FILED, FactKind.IN_FORCE_CHANGED, FactKind.DOCUMENT_RENAMED, FactKind.DOCUMENT_MOVED,
    FactKind.DOCUMENT_WITHDRAWN, FactKind.COPY_PUT,
    FactKind.DOCUMENT_BROUGHT_BACK, FactKind.MARK_INKED, FactKind.MARK_ANSWERED, FactKind.MARK_STATE_SET,
    FactKind.MARK_TAKEN_IN, FactKind.MARK_CARRIED, FactKind.REVIEW_STARTED, FactKind.COMMENTS_HANDED_IN,
    FactKind.MARK_OPENED, FactKind.VERDICTS_HANDED_IN, FactKind.REVIEW_RECALLED, FactKind.STAGE_DECIDED,
    FactKind.REVIEW_CLOSED, FactKind.REVIEW_CANCELLED, FactKind.TRANSMITTAL_SENT,
    FactKind.TRANSMITTAL_ACKNOWLEDGED, FactKind.TALKED, FactKind.MARK_REMOVED,
    FactKind.SET_SHEETS_PUT, FactKind.SET_REMOVED, FactKind.SUBMITTAL_SENT_IN, FactKind.SUBMITTAL_GIVEN,
    FactKind.SUBMITTAL_ANSWERED, FactKind.SUBMITTAL_CLOSED, FactKind.SUBMITTAL_VOIDED, FactKind.LETTER_SENT,
    FactKind.LETTER_WRITTEN, FactKind.LETTER_ANSWERED, FactKind.LETTER_CLOSED,
})  # fmt: skip
"""What those who follow a thing are told of: what is new, removed, said, decided, sent."""
HEARD = FOLLOWED | {FactKind.STATUS_SET}
"""Those after which something else may be due, whoever follows: what the distribution matrix sends by itself."""
OF_MARKS = frozenset({
    FactKind.MARK_INKED, FactKind.MARK_ANSWERED, FactKind.MARK_STATE_SET, FactKind.MARK_TAKEN_IN, FactKind.MARK_CARRIED,
    FactKind.MARK_REMOVED, FactKind.MARK_OPENED,
})  # fmt: skip
"""Those of them that somebody is told of who follows every mark of a project."""
OF_SETS = frozenset({FactKind.SET_SHEETS_PUT, FactKind.SET_REMOVED})
"""Those of them that those are told of who follow the drawing set itself."""


def told_how(kind: str, own: Mapping[str, str], by_role: Mapping[str, Mapping[str, str]], roles: Iterable[str]) -> str:
    """The person's own setting; otherwise the promptest the project sets for any of their roles; or the default.

    What wants an act is never silenced, whatever was set before that rule.
    """
    order = list(HOW)
    set_for = [by_role[role][kind] for role in roles if kind in by_role.get(role, {})]
    how = own[kind] if kind in own else min(set_for, key=order.index) if set_for else KINDS[kind].default
    return "daily" if KINDS[kind].wants_act and how not in REACHING else how


def check_setting(kind: str, how: str) -> None:
    """Raises RuleBroken for a kind or a way that there is not, and for silencing what wants an act."""
    if kind not in KINDS or how not in HOW:
        raise RuleBroken("notice_unknown", "There is no such notice, or no such way of telling it.", f"{kind} {how}")
    if how not in ways(kind):
        words = f"“{KINDS[kind].words}” wants an act. It can be told at once or in the daily summary."
        raise RuleBroken("notice_wants_act", words, kind)


def ways(kind: str) -> tuple[str, ...]:
    """How a kind may be told, the promptest first."""
    return REACHING if KINDS[kind].wants_act else tuple(HOW)
