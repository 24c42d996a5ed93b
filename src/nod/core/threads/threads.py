"""What is said in threads: how long it may be, who said it and how, whom it names (handbook §6 and §13)."""

from __future__ import annotations

from collections.abc import Sequence
from enum import StrEnum

from nod.core.acts.refusals import RuleBroken

LONGEST_TEXT = 4000


class Way(StrEnum):
    """How something was said: here by a person, in a file that a person took in, by mail, or as a guest by a link."""

    PERSON = "person"
    FILE = "file"
    MAIL = "mail"
    LINK = "link"


def check_text(text: str, *, required: bool) -> str:
    """The text without white space at its ends. Raises RuleBroken if it is too long, or missing where required."""
    tidy = text.strip()
    if required and not tidy:
        raise RuleBroken("text_missing", "Write something first.")
    if len(tidy) > LONGEST_TEXT:
        raise RuleBroken("text_too_long", f"The text is longer than {LONGEST_TEXT} characters.")
    return tidy


def unfolded(text: str, folds: Sequence[Sequence[int]]) -> str:
    """The words that are left to read where what is quoted, or a signature, is folded away."""
    kept, begin = [], 0
    for start, end in folds:
        kept.append(text[begin:start])
        begin = end
    return "".join([*kept, text[begin:]]).strip()


def mentioned(text: str, people: dict[str, str]) -> list[str]:
    """Ids of those whom the text names as `@Name`. `people` maps id to name; the longest name that fits is meant."""
    found = []
    by_length = sorted(people.items(), key=lambda each: -len(each[1]))
    folded = text.casefold()
    at = folded.find("@")
    while at >= 0:
        rest = folded[at + 1 :]
        for person, name in by_length:
            after = rest[len(name) : len(name) + 1]
            if name and rest.startswith(name.casefold()) and not (after.isalnum() or after == "-"):
                found.append(person)
                break
        at = folded.find("@", at + 1)
    return list(dict.fromkeys(found))
