"""What of a zone's text is the value: by a pattern, by what the field takes, or all of it."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

from nod.core.acts.plain_text import clean_text
from nod.core.acts.refusals import RuleBroken
from nod.core.intake.block_labels import is_label
from nod.core.intake.findings import Rules
from nod.core.register import numbers, revisions

LONGEST_VALUE = 200
_PATTERN_SIGNS = {"9": r"\d", "A": "[A-Z]", "a": "[a-z]", "X": "[A-Z0-9]", "?": r"\S", "*": ".*"}
# What a CAD program leaves where a field was not filled in, and the strokes people draw into empty cells.
_UNFILLED = re.compile(
    r"[%$]\{[^{}]*\}|%\w+%?|\$\{?[\w .:-]+\}?\$|<<?[^<>]*>>?|\{\{.*\}\}|[-–—_.\s/·*]+|(?i:null|none|n/a|tbc|tba|xx+)"
)
_REVISION_LIKE = re.compile(r"[A-Za-z]{0,3}[0-9]{0,3}(\.[0-9]{1,2})?")


@dataclass(frozen=True)
class Reading:
    """`value` is empty where nothing is read, and `why` says so. `sure`: the value is one that the field takes.

    `reader_of`: the company of the reader, where it is not the one that sent the sheet; nothing is sure then.
    """

    value: str = ""
    why: str = ""
    sure: bool = True
    learned_from: str = ""
    by_ocr: bool = False
    reader_of: str = ""


def pick(text: str, field: str, pattern: str, rules: Rules) -> Reading:
    """The value in `text`, which has at least one word. Never more than one guess: two candidates leave it open."""
    text = " ".join(clean_text(text).split())[:LONGEST_VALUE]
    if _UNFILLED.fullmatch(text):
        return Reading(why=f"It says “{text}”, which is no value.")
    if is_label(text):
        return Reading(why=f"It says “{text}”, which is a label.")
    if pattern:
        return _by_pattern(text, pattern)
    if field == "number":
        return _number(text, rules)
    if field == "revision":
        return _code(text, "revision", lambda code: revisions.parse(rules.scheme, code) is not None)
    if field == "status":
        return _code(text, "status", lambda code: code in rules.statuses)
    return Reading(text)


def compile_pattern(pattern: str) -> re.Pattern[str]:
    """9 a figure, A a capital, a a small letter, X either of these two, ? any sign, * anything, else itself.

    A run in brackets is what is kept: `Rev (A99)`. Raises RuleBroken for a pattern that cannot be read. What comes
    out runs in time that grows with the square of the text at most: there is one `*` in it, and no choices.
    """
    if len(pattern) > 60 or pattern.count("*") > 1 or (pattern.count("("), pattern.count(")")) not in ((0, 0), (1, 1)):
        raise RuleBroken(
            "pattern_unknown", "A pattern is at most 60 signs with one * and one pair of brackets.", pattern
        )
    if ")" in pattern and pattern.index(")") < pattern.index("("):
        raise RuleBroken("pattern_unknown", "The brackets of the pattern are the wrong way round.", pattern)
    return _compiled(pattern)


@lru_cache(maxsize=500)
def _compiled(pattern: str) -> re.Pattern[str]:
    built = "".join(each if each in "()" else _PATTERN_SIGNS.get(each, re.escape(each)) for each in pattern)
    return re.compile(rf"(?<![A-Za-z0-9]){built}(?![A-Za-z0-9])")


def _by_pattern(text: str, pattern: str) -> Reading:
    found = {match[match.re.groups] for match in compile_pattern(pattern).finditer(text)}
    if len(found) == 1:
        return Reading(found.pop().strip())
    if found:
        return Reading(why=f"Several things fit the pattern: {', '.join(sorted(found))}.")
    return Reading(why=f"“{text}” does not fit the pattern {pattern}.")


def _number(text: str, rules: Rules) -> Reading:
    fits = {word for word in text.split() if not numbers.check_number(rules.convention, word)}
    if len(fits) == 1:
        return Reading(fits.pop())
    if fits:
        return Reading(why=f"There are several numbers: {', '.join(sorted(fits))}.")
    joined = "".join(text.split())
    if not numbers.check_number(rules.convention, joined):
        return Reading(joined)
    # A number that breaks the convention is a finding to be made, so it is read as it stands.
    return Reading(text, sure=False) if any(ch.isdigit() for ch in text) else Reading(why=f"“{text}” is not a number.")


def _code(text: str, field: str, known: Callable[[str], bool]) -> Reading:
    words = text.split()
    fits = {word.upper() for word in words if known(word.upper())}
    if len(fits) == 1:
        return Reading(fits.pop())
    if fits:
        return Reading(why=f"There are several: {', '.join(sorted(fits))}.")
    if len(words) == 1 and _REVISION_LIKE.fullmatch(text):
        return Reading(text, sure=False)
    return Reading(why=f"“{text}” is not a {field}.")
