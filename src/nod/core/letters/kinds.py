"""The kinds of letters of a project (handbook §11): how they are numbered, which want an answer in how many days."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from nod.core.acts.refusals import RuleBroken
from nod.core.acts.working_days import Counting
from nod.core.letters.bars import BarIn

MOST_KINDS, MOST_DAYS, LONGEST_WORDS = 30, 365, 40


class NumberedBy(StrEnum):
    """What a number begins with: the sender's company, or the sender's and the recipient's."""

    COMPANY = "company"
    PAIR = "pair"


@dataclass(frozen=True)
class LetterKind:
    """`answer_days` is 0 for a kind that wants no answer; `counting` says whether these are calendar or working days.

    `asks`: it is a question, with an answer proposed and what it means for cost and time. `bar`, counted as `bar_in`
    says, is by when one is served from when one became aware of its matter, 0 for none. `looked_at`: somebody else
    looks at one before it goes. `out_of_use`: none of it is begun any more.
    """

    code: str
    words: str
    numbered_by: NumberedBy = NumberedBy.PAIR
    answer_days: int = 0
    counting: Counting = Counting.CALENDAR
    asks: bool = False
    out_of_use: bool = False
    bar: int = 0
    bar_in: BarIn = BarIn.DAYS
    looked_at: bool = False


DEFAULT_KINDS = (
    LetterKind("L", "letter"),
    LetterKind("RFI", "RFI", NumberedBy.COMPANY, 7, Counting.CALENDAR, asks=True),
    LetterKind("N", "notice", bar=28),
    LetterKind("I", "instruction"),
    LetterKind("M", "memo"),
    LetterKind("MIN", "minutes", NumberedBy.COMPANY),
    LetterKind("NOTE", "note", NumberedBy.COMPANY),
)
"""What a project begins with. Seven calendar days for a question, and 28 for a notice, are common practice."""

USUAL = "L"
"""What a mail that begins a thread is, where the project still has that kind."""

_CODE = re.compile(r"[A-Z][A-Z0-9]{0,5}")


def check_kinds(kinds: Iterable[LetterKind]) -> tuple[LetterKind, ...]:
    """Raises RuleBroken for a code or words that cannot be, for one twice, and for none that is in use."""
    found: dict[str, LetterKind] = {}
    for each in kinds:
        if each.code in found:
            raise RuleBroken("code_twice", f"The kind {each.code} is there twice.", each.code)
        _check_kind(each)
        found[each.code] = each
    if len(found) > MOST_KINDS:
        raise RuleBroken("too_many_codes", f"There are more than {MOST_KINDS} kinds.")
    if all(each.out_of_use for each in found.values()):
        raise RuleBroken("no_kind", "At least one kind of letter is in use.")
    return tuple(found.values())


def _check_kind(each: LetterKind) -> None:
    if not _CODE.fullmatch(each.code):
        words = f"“{each.code}” cannot name a kind of letter: a capital, then up to five capitals and figures."
        raise RuleBroken("code_invalid", words, each.code)
    if not 1 <= len(each.words) <= LONGEST_WORDS:
        raise RuleBroken("words_missing", f"Say in up to {LONGEST_WORDS} letters what {each.code} means.", each.code)
    if not 0 <= each.answer_days <= MOST_DAYS:
        raise RuleBroken("days_unfit", f"An answer is wanted within 1 to {MOST_DAYS} days, or not at all.", each.code)
    if not 0 <= each.bar <= MOST_DAYS:
        raise RuleBroken("bar_unfit", f"A time bar is 1 to {MOST_DAYS}, or there is none.", each.code)


def kinds_read(kept: Iterable[Mapping[str, Any]] | None) -> tuple[LetterKind, ...]:
    """As a project keeps them; the usual ones for a project that has set none."""
    if not kept:
        return DEFAULT_KINDS
    return tuple(
        LetterKind(
            each["code"], each["words"], NumberedBy(each["numbered_by"]), each["answer_days"],
            Counting(each["counting"]), each["asks"], each["out_of_use"], each.get("bar", 0),
            BarIn(each.get("bar_in", BarIn.DAYS)), each.get("looked_at", False),
        )
        for each in kept
    )  # fmt: skip


def kept_kinds(kinds: Iterable[LetterKind]) -> list[dict[str, Any]]:
    """What `kinds_read` reads."""
    return [
        {
            "code": each.code, "words": each.words, "numbered_by": each.numbered_by.value,
            "answer_days": each.answer_days, "counting": each.counting.value, "asks": each.asks,
            "out_of_use": each.out_of_use, "bar": each.bar, "bar_in": each.bar_in.value, "looked_at": each.looked_at,
        }
        for each in kinds
    ]  # fmt: skip


def kind_named(kinds: Iterable[LetterKind], code: str) -> LetterKind:
    """Raises RuleBroken for one that the project has not, or has put out of use."""
    found = {each.code: each for each in kinds}.get(code)
    if found is None or found.out_of_use:
        raise RuleBroken("letter_kind_unknown", "Say what kind of letter it is.", code)
    return found


def usual_kind(kinds: Iterable[LetterKind]) -> LetterKind:
    """That of a thread which a mail begins."""
    used = [each for each in kinds if not each.out_of_use]
    return next((each for each in used if each.code == USUAL), used[0])
