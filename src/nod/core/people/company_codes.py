"""Short codes of companies: 2 to 6 capitals, unique in the workspace, as they go into numbers (handbook §3)."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator
from string import ascii_uppercase

from nod.core.acts.refusals import RuleBroken

PARTS = (
    "client", "lead designer", "consultant", "main contractor", "subcontractor", "supplier", "authority",
)  # fmt: skip


def check_code(code: str, taken: Collection[str]) -> str:
    """The code. Raises RuleBroken if it is not one, or another company's."""
    if not re.fullmatch(r"[A-Z]{2,6}", code):
        raise RuleBroken("company_code", "A company's code has 2 to 6 capitals, like HBC.", code[:20])
    if code in taken:
        raise RuleBroken("code_taken", f"The code {code} belongs to another company.", code)
    return code


def propose_code(name: str, taken: Collection[str]) -> str:
    """A free code that reminds of the name: its initials, then more of its letters, then anything free."""
    return next(code for code in _candidates(name) if code not in taken and 2 <= len(code) <= 6)


def _candidates(name: str) -> Iterator[str]:
    words = re.findall(r"[A-Z]+", "".join(each for each in name.upper() if each.isascii()))
    letters = "".join(words)
    initials = "".join(word[0] for word in words)
    if len(initials) >= 3:
        yield initials[:3]
    if len(words) == 2:
        yield words[0][:2] + words[1][:1]
        yield words[0][:1] + words[1][:2]
    if letters:
        yield letters[:3]
        yield initials[:6]
        for place in range(1, len(letters)):
            yield letters[0] + letters[place : place + 2]
    first = letters[:1] or "X"
    for second in ascii_uppercase:
        for third in ascii_uppercase:
            yield first + second + third
