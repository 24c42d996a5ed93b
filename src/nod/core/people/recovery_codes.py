"""Codes on paper, for whoever has lost the telephone with the authenticator app. Each works once."""

from __future__ import annotations

from collections.abc import Callable

HOW_MANY = 10
_SIGNS = "23456789abcdefghjkmnpqrstuvwxyz"
"""Without what is taken for something else when it is read from paper: 0 and o, 1, i and l."""
_LENGTH = 10


def make_codes(choose: Callable[[str], str]) -> list[str]:
    """`choose` takes one sign at random. Ten signs of 31 are 49 bits, which nobody guesses five at a time."""
    codes = ("".join(choose(_SIGNS) for _ in range(_LENGTH)) for _ in range(HOW_MANY))
    return [f"{code[:5]}-{code[5:]}" for code in codes]


def tidied(typed: str) -> str:
    """What somebody typed as it was given out, less its dash; empty for what cannot be such a code."""
    code = "".join(typed.lower().replace("-", " ").split())
    return code if len(code) == _LENGTH and all(sign in _SIGNS for sign in code) else ""
