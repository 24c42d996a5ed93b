"""Patterns for a field of a number, built from plain choices, so that nobody has to write a regular expression."""

from __future__ import annotations

import re

from nod.core.acts.refusals import RuleBroken
from nod.core.register.numbers import Convention, NumberField

KINDS: dict[str, str] = {"figures": "figures", "letters": "capitals", "mixed": "capitals or figures"}
_CLASSES = {"figures": r"\d", "letters": "[A-Z]", "mixed": "[A-Z0-9]"}
_SAMPLES = {"figures": "0123456789", "letters": "ABCDEFGHIJ", "mixed": "A1B2C3D4E5"}
_COUNTS = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten")
_BUILT = re.compile(r"(\\d|\[A-Z\]|\[A-Z0-9\])\{(\d{1,2})(?:,(\d{1,2}))?\}")
MOST_FIELDS, LONGEST_FIELD, MOST_CODES = 12, 10, 2000


def pattern_of(kind: str, shortest: int, longest: int) -> tuple[str, str]:
    """The regular expression and its words, like (`\\d{4}`, `four figures`). Raises RuleBroken for odd lengths."""
    if kind not in KINDS or not 1 <= shortest <= longest <= LONGEST_FIELD:
        words = f"A field has from 1 to {LONGEST_FIELD} characters, and not more at least than at most."
        raise RuleBroken("field_length", words, f"{shortest} to {longest}")
    count = f"{{{shortest}}}" if shortest == longest else f"{{{shortest},{longest}}}"
    many = _COUNTS[shortest] if shortest == longest else f"{_COUNTS[shortest]} to {_COUNTS[longest]}"
    words = f"{many} {KINDS[kind]}"
    return _CLASSES[kind] + count, words.removesuffix("s") if (shortest, longest) == (1, 1) else words


def choices_of(pattern: str) -> tuple[str, int, int] | None:
    """The choices behind a pattern that `pattern_of` made; None for any other."""
    found = _BUILT.fullmatch(pattern)
    if not found:
        return None
    kind = next(kind for kind, each in _CLASSES.items() if each == found[1])
    return kind, int(found[2]), int(found[3] or found[2])


def sample(field: NumberField) -> str:
    """A value that the field takes."""
    if field.codes:
        return next(iter(field.codes))
    choices = choices_of(field.pattern)
    if choices is None:
        return "…"
    kind, shortest, _ = choices
    if kind == "figures":
        return "1".rjust(shortest, "0")
    return _SAMPLES[kind][:shortest]


def example(convention: Convention) -> str:
    """A whole number that keeps the convention."""
    return convention.separator.join(sample(each) for each in convention.fields)


def check_convention(convention: Convention) -> None:
    """Raises RuleBroken for a convention that could not be read back from a number."""
    if convention.separator not in ("-", "_", ".", "/"):
        raise RuleBroken("separator", "Fields are parted by - _ . or /", convention.separator)
    if not 1 <= len(convention.fields) <= MOST_FIELDS:
        raise RuleBroken("field_count", f"A number has from 1 to {MOST_FIELDS} fields.")
    names = [each.name for each in convention.fields]
    for field in convention.fields:
        if not re.fullmatch(r"[a-z][a-z0-9 ]{0,23}", field.name):
            raise RuleBroken(
                "field_name", f"“{field.name}” is no name for a field: small letters and spaces.", field.name
            )
        if names.count(field.name) > 1:
            raise RuleBroken("field_twice", f"There are two fields {field.name}.", field.name)
        _check_codes(field, convention.separator)


def _check_codes(field: NumberField, separator: str) -> None:
    if not field.codes and not field.pattern:
        raise RuleBroken("field_empty", f"Give the field {field.name} codes, or say what it is made of.", field.name)
    if len(field.codes) > MOST_CODES:
        raise RuleBroken("too_many_codes", f"The field {field.name} has more than {MOST_CODES} codes.", field.name)
    for code in field.codes:
        if not re.fullmatch(rf"[A-Z0-9]{{1,{LONGEST_FIELD}}}", code) or separator in code:
            words = f"“{code}” cannot be a code of {field.name}: capitals and figures, at most {LONGEST_FIELD}."
            raise RuleBroken("code_invalid", words, code)
