"""The comment sheet of a review: numbered comments, the author's response, the reviewer's close-out (handbook §8)."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from nod.core.acts.counted import listed
from nod.core.acts.refusals import NotAllowed, Refusal, RuleBroken
from nod.core.reviews.running import Answer
from nod.core.reviews.verdicts import Verdict


class Grave(StrEnum):
    """How grave a comment is: what must be done stands in the way of a verdict that lets a document be used."""

    MUST = "must"
    SHOULD = "should"
    NOTE = "note"


class CommentState(StrEnum):
    """Open, closed by a reviewer, or gone along to the review of the next revision."""

    OPEN = "open"
    CLOSED = "closed"
    CARRIED = "carried"


class CommentAct(StrEnum):
    RESPOND = "respond"
    CLOSE = "close"
    REOPEN = "reopen"
    GRADE = "grade"


@dataclass(frozen=True)
class Comment:
    """`number` is the review's own, from 1; `by` who made it; `answered`: its author has responded."""

    number: int
    document: str
    grave: Grave
    by: str
    state: CommentState = CommentState.OPEN
    answered: bool = False


@dataclass(frozen=True)
class Party:
    """Somebody before a comment: whether they run the project, are an author of its document, have a say in deciding

    steps of its review (asked in one, or answered).
    """

    person: str
    runs: bool = False
    author: bool = False
    decides: bool = False


@dataclass(frozen=True)
class Tally:
    """Of some comments: what is open was raised and is neither closed nor gone along."""

    raised: int
    closed: int
    open: int
    musts: int


def refusal(comment: Comment, who: Party, act: CommentAct) -> Refusal | None:
    """Why somebody may not; None if they may."""
    if not _is_theirs(comment, who, act):
        return NotAllowed("not_your_comment", _THEIRS[act], str(comment.number))
    if comment.state is CommentState.CARRIED:
        return RuleBroken("comment_carried", "It has gone along to the next review; go on there.", str(comment.number))
    closed = comment.state is CommentState.CLOSED
    if act is CommentAct.REOPEN and not closed:
        return RuleBroken("comment_open", "This comment is open.", str(comment.number))
    if act is not CommentAct.REOPEN and closed:
        return RuleBroken("comment_closed", "This comment is closed. Open it again first.", str(comment.number))
    if act is CommentAct.GRADE and comment.answered and not who.runs:
        return RuleBroken(
            "comment_answered", "It has been responded to; a lead can grade it anew.", str(comment.number)
        )
    return None


_THEIRS = {
    CommentAct.RESPOND: "The author of the document responds, or a lead or controller for them.",
    CommentAct.CLOSE: "Whoever made the comment closes it, whoever decides, or a lead or controller.",
    CommentAct.REOPEN: "Whoever made the comment opens it again, whoever decides, or a lead or controller.",
    CommentAct.GRADE: "Whoever made the comment says how grave it is, or a lead or controller.",
}


def _is_theirs(comment: Comment, who: Party, act: CommentAct) -> bool:
    if act is CommentAct.RESPOND:
        return who.author or who.runs
    if act is CommentAct.GRADE:
        return comment.by == who.person or (who.runs and not who.author)
    # Nobody closes what others say of their own work, leads and controllers not either.
    return comment.by == who.person or ((who.decides or who.runs) and not who.author)


def tally(comments: Iterable[Comment]) -> Tally:
    """Open = raised − closed; what has gone along is not open here any more."""
    found = list(comments)
    still = [each for each in found if each.state is CommentState.OPEN]
    musts = sum(each.grave is Grave.MUST for each in still)
    return Tally(len(found), len(found) - len(still), len(still), musts)


def in_the_way(comments: Iterable[Comment]) -> dict[str, tuple[int, ...]]:
    """By document, the numbers of open comments that must be done, in order."""
    found: dict[str, list[int]] = {}
    for each in comments:
        if each.state is CommentState.OPEN and each.grave is Grave.MUST:
            found.setdefault(each.document, []).append(each.number)
    return {document: tuple(sorted(numbers)) for document, numbers in found.items()}


def check_usable(
    answers: Sequence[Answer],
    new: Mapping[str, Grave],
    waiting: Mapping[str, Sequence[int]],
    verdicts: Sequence[Verdict],
    names: Mapping[str, str],
) -> None:
    """Raises RuleBroken for the first verdict that would let a document be used though something on it must be done.

    `new` has the gravity of what is said with the verdict, `waiting` the numbers of what is open already, `names` how
    each document is called.
    """
    good = {each.code for each in verdicts if each.may_be_used}
    for each in answers:
        if each.verdict not in good:
            continue
        name = names[each.document_id]
        numbers = waiting.get(each.document_id, ())
        if numbers:
            which = listed([str(number) for number in numbers])
            words = (
                f"Comment{'s' if len(numbers) > 1 else ''} {which} on {name} must be done, and"
                f" {'are' if len(numbers) > 1 else 'is'} open. Close {'them' if len(numbers) > 1 else 'it'} on the"
                " comment sheet, or give another verdict."
            )
            raise RuleBroken("must_open", words, name)
        if each.comment and new.get(each.document_id) is Grave.MUST:
            words = f"You say of {name} what must be done: {each.verdict} would let it be used as it is."
            raise RuleBroken("must_and_proceed", words, name)
