"""What a project sets for its submittals (handbook §9)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from nod.core.acts.refusals import RuleBroken
from nod.core.submittals.arithmetic import PREPARATION
from nod.core.submittals.numbers import NumberedBy
from nod.core.submittals.spec_words import USUAL_WORDS, ReadingWords

MOST_DAYS = 400
MOST_ROUNDS = 9
MOST_KINDS = 40
LONGEST_WORDS = 60
MOST_PHRASES = 60


@dataclass(frozen=True)
class SubmittalKind:
    """What is sent in. What is `for_information` is received, and no verdict is wanted.

    `asked_as` are words that ask for it in a specification; without any, the usual ones.
    """

    code: str
    words: str
    for_information: bool = False
    asked_as: tuple[str, ...] = ()


USUAL_KINDS = (
    SubmittalKind("PD", "product data"),
    SubmittalKind("SD", "shop drawing"),
    SubmittalKind("SA", "sample"),
    SubmittalKind("MU", "mock-up"),
    SubmittalKind("CA", "calculation"),
    SubmittalKind("CE", "certificate", for_information=True),
    SubmittalKind("TR", "test report", for_information=True),
    SubmittalKind("MA", "manual"),
    SubmittalKind("WA", "warranty"),
)
"""The handbook's kinds; the codes, and which are for information to begin with, are common practice."""


def asked_as(kind: SubmittalKind) -> tuple[str, ...]:
    return kind.asked_as or USUAL_WORDS.kinds.get(kind.code, (kind.words,))


@dataclass(frozen=True)
class SubmittalRules:
    """`buffer`, `review` and `preparation` in working days: the project's own, and what a new submittal begins with."""

    numbered_by: NumberedBy = NumberedBy.COMPANY
    buffer: int = 5
    review: int = 10
    preparation: int = PREPARATION
    kinds: tuple[SubmittalKind, ...] = USUAL_KINDS
    articles: tuple[str, ...] = USUAL_WORDS.articles
    aside: tuple[str, ...] = USUAL_WORDS.aside

    @property
    def reading(self) -> ReadingWords:
        """By which specifications are read."""
        return ReadingWords(self.articles, {each.code: asked_as(each) for each in self.kinds}, self.aside)

    def kind(self, code: str) -> SubmittalKind:
        """Raises RuleBroken for a kind that the project does not have."""
        found = next((each for each in self.kinds if each.code == code), None)
        if found is None:
            raise RuleBroken("submittal_kind", "Choose one of the project's kinds of submittals.", code)
        return found


def rules_read(kept: Mapping[str, Any]) -> SubmittalRules:
    """As a project keeps them; what it never set is as usual."""
    usual = SubmittalRules()
    kinds = tuple(_kind(each) for each in kept["kinds"]) if "kinds" in kept else usual.kinds
    return SubmittalRules(
        NumberedBy(kept.get("numbered_by", usual.numbered_by)), kept.get("buffer", usual.buffer),
        kept.get("review", usual.review), kept.get("preparation", usual.preparation), kinds,
        tuple(kept.get("articles", usual.articles)), tuple(kept.get("aside", usual.aside)),
    )  # fmt: skip


def _kind(kept: Mapping[str, Any]) -> SubmittalKind:
    return SubmittalKind(**{**kept, "asked_as": tuple(kept.get("asked_as", ()))})


def check_rules(rules: SubmittalRules) -> SubmittalRules:
    """Raises RuleBroken for days out of bounds, and for kinds without words, alike or none."""
    for days, least in ((rules.buffer, 0), (rules.review, 1), (rules.preparation, 0)):
        check_days(days, least)
    _check_kinds(rules.kinds)
    if not rules.articles:
        raise RuleBroken("words_unfit", "Say by which words an article calls for submittals.")
    for phrases in (rules.articles, rules.aside, *(each.asked_as for each in rules.kinds)):
        _check_phrases(phrases)
    return rules


def _check_phrases(phrases: Sequence[str]) -> None:
    if len(phrases) > MOST_PHRASES or any(not 1 < len(each) <= LONGEST_WORDS for each in phrases):
        words = f"A list of words has up to {MOST_PHRASES}, each of 2 to {LONGEST_WORDS} characters."
        raise RuleBroken("words_unfit", words)


def _check_kinds(kinds: Sequence[SubmittalKind]) -> None:
    if not 0 < len(kinds) <= MOST_KINDS:
        raise RuleBroken("kinds_unfit", f"A project has 1 to {MOST_KINDS} kinds of submittals.")
    for each in kinds:
        if not (each.code.isalnum() and len(each.code) <= 6) or not 0 < len(each.words) <= LONGEST_WORDS:
            raise RuleBroken("kinds_unfit", "A kind has a code of up to 6 letters and digits, and words.", each.code)
    codes, words = {each.code for each in kinds}, {each.words.casefold() for each in kinds}
    if min(len(codes), len(words)) < len(kinds):
        raise RuleBroken("kinds_unfit", "Two kinds have the same code or the same words.")


def check_days(days: int, least: int = 0) -> int:
    """Raises RuleBroken for a time that cannot be."""
    if not least <= days <= MOST_DAYS:
        raise RuleBroken("days_unfit", f"A time has {least} to {MOST_DAYS} working days.", str(days))
    return days


def check_rounds(rounds: int) -> int:
    """Raises RuleBroken for a number of rounds that cannot be."""
    if not 1 <= rounds <= MOST_ROUNDS:
        raise RuleBroken("rounds_unfit", f"One expects 1 to {MOST_ROUNDS} rounds.", str(rounds))
    return rounds
