"""Purposes of issue: what each asks of whom it is sent to, and of what is sent (handbook §10)."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass
from datetime import date
from typing import Any

from nod.core.acts.refusals import RuleBroken
from nod.core.acts.working_days import Calendar

MOST_PURPOSES, LONGEST_WORDS, LONGEST_DAYS = 30, 60, 250
TO_KNOW = "information"
"""What goes to those who are to know, goes for this: every project has it."""


@dataclass(frozen=True)
class Purpose:
    """`answer_days`: working days in which an answer is wanted, 0 for none.

    `released`: only what is released is for it. `statuses`: for these alone, any if there are none.
    """

    code: str
    words: str
    answer_days: int = 0
    released: bool = False
    statuses: tuple[str, ...] = ()

    def answer_on(self, today: date, calendar: Calendar) -> date | None:
        """By when an answer is wanted of what is sent today."""
        return calendar.add_working_days(today, self.answer_days) if self.answer_days else None


USUAL = (
    Purpose("information", "For information"),
    Purpose("comment", "For comment"),
    Purpose("approval", "For approval"),
    Purpose("construction", "For construction", released=True),
    Purpose("record", "For record"),
)
"""Those that every project begins with; common practice."""


def purposes_kept(purposes: Iterable[Purpose]) -> list[dict[str, Any]]:
    return [{**asdict(each), "statuses": list(each.statuses)} for each in purposes]


def purposes_read(kept: Iterable[Mapping[str, Any]] | None) -> dict[str, Purpose]:
    """By code, in their order; the usual ones for a project that has kept none."""
    if kept is None:
        return {each.code: each for each in USUAL}
    return {each["code"]: Purpose(**{**each, "statuses": tuple(each["statuses"])}) for each in kept}


def check_purposes(given: Sequence[Purpose], statuses: Collection[str]) -> list[Purpose]:
    """Raises RuleBroken for one without words, that is there twice, asks too long, or names a status there is not."""
    if len(given) > MOST_PURPOSES:
        raise RuleBroken("too_many_codes", f"There are more than {MOST_PURPOSES} of them.")
    found: dict[str, Purpose] = {}
    said: set[str] = set()
    for each in given:
        words = " ".join(each.words.split())
        if not words:
            raise RuleBroken("words_missing", "Say what each purpose is.")
        if words.casefold() in said or each.code in found:
            raise RuleBroken(
                "code_twice", f"The purpose {words[:LONGEST_WORDS]} is there twice.", words[:LONGEST_WORDS]
            )
        if not 0 <= each.answer_days <= LONGEST_DAYS:
            raise RuleBroken(
                "days_invalid", f"{words}: an answer is wanted in 1 to {LONGEST_DAYS} working days.", words
            )
        if unknown := [code for code in each.statuses if code not in statuses]:
            raise RuleBroken("code_unknown", f"There is no status {unknown[0][:20]} in this project.", unknown[0][:20])
        said.add(words.casefold())
        found[each.code] = Purpose(each.code, words[:LONGEST_WORDS], each.answer_days, each.released, each.statuses)
    if TO_KNOW not in found:
        words = "What goes to those who are to know needs the first of the usual purposes. Rename it, but let it stay."
        raise RuleBroken("purpose_stays", words)
    return list(found.values())
