"""What becomes of mail that has come in (handbook §11): decided from what is known of it, before anything is done."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


class Fate(StrEnum):
    """What becomes of a mail. Nothing is ever thrown away: the bytes stay, whatever is decided."""

    ANSWER = "answer"
    """It is handed to the thing that it answers."""
    BEGUN = "begun"
    """It belongs to nothing yet, and begins a thread of its own."""
    BOUNCE = "bounce"
    """It tells that a mail of Nod's did not reach somebody."""
    NEWS = "news"
    """It tells that a mail of Nod's was late, or that it arrived."""
    AUTOMATIC = "automatic"
    """A machine wrote it: it says nothing for its owner, and is answered by nothing (RFC 3834)."""
    DUPLICATE = "duplicate"
    """The same mail came before."""
    HELD = "held"
    """For a controller to decide, who is told why."""


@dataclass(frozen=True)
class Known:
    """What is known of a mail before it is decided.

    `fault` says why it could not be read. `report` is empty or one of `failed`, `delayed`, `arrived`, `unclear`;
    `report_of_ours`: it speaks of a mail that Nod sent. `sender` is empty for somebody unknown, or one of `person`,
    `contact`, `removed`. `failed_check` names what one's own mail server found wrong with the sender. `to_thing`: it
    belongs to a thing; `may_answer`: its sender may answer there. `may_begin`: they may begin something by mail.
    """

    fault: str = ""
    same_before: bool = False
    other_before: bool = False
    report: str = ""
    report_of_ours: bool = False
    automatic: bool = False
    own: bool = False
    sender_count: int = 1
    sender: str = ""
    failed_check: str = ""
    to_thing: bool = False
    may_answer: bool = False
    may_begin: bool = False


def judge(known: Known) -> tuple[Fate, str]:
    """What becomes of it, and for a mail that is held the reason, a sentence."""
    if known.same_before:
        return Fate.DUPLICATE, ""
    if known.fault:
        return Fate.HELD, known.fault
    if known.report:
        return _report(known)
    if known.own:
        return Fate.AUTOMATIC, "It was written by Nod itself."
    if known.automatic:
        return Fate.AUTOMATIC, ""
    if why := _why_held(known):
        return Fate.HELD, why
    return (Fate.ANSWER if known.to_thing else Fate.BEGUN), ""


def _report(known: Known) -> tuple[Fate, str]:
    if known.report == "unclear":
        return Fate.HELD, "It says that a mail came back, but not which."
    if not known.report_of_ours:
        return Fate.HELD, "It tells of a mail that did not leave from here."
    return (Fate.BOUNCE, "") if known.report == "failed" else (Fate.NEWS, "")


def _why_held(known: Known) -> str:
    if known.sender_count != 1:
        return "It does not say who sent it." if known.sender_count == 0 else "It names more than one sender."
    if known.failed_check:
        return f"The mail server says that it may not come from who it says: {known.failed_check}."
    if known.other_before:
        return "It has the identifier of a mail that came before, but says something else."
    if known.sender == "removed":
        return "Its sender has been removed from the project."
    if not known.sender:
        return "Its sender is nobody in this project."
    if not known.to_thing:
        return "" if known.may_begin else "It answers nothing that was sent from here. Say where it belongs."
    return "" if known.may_answer else "Its sender may not answer there."
