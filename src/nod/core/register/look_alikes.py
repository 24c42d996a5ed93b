"""Characters that are taken for one another, and how far apart two codes are."""

from __future__ import annotations

import re
import unicodedata

# Cyrillic and Greek capitals that print like Latin ones, and the dashes typed for a hyphen.
_TWINS = str.maketrans(
    "АВЕЅКМНОРСТУХІЈΑΒΕΖΗΙΚΜΝΟΡΤΥΧ‐‑‒–—−",
    "ABESKMHOPCTYXIJABEZHIKMNOPTYX------",
)
_TITLE_TWINS = str.maketrans(
    "АВЕЅКМНОРСТУХІЈаеорсухіјѕΑΒΕΖΗΙΚΜΝΟΡΤΥΧο",
    "ABESKMHOPCTYXIJaeopcyxijsABEZHIKMNOPTYXo",
)
_CONFUSED = frozenset(
    frozenset(pair) for pair in ("O0", "I1", "L1", "IL", "S5", "B8", "Z2", "G6", "QO", "Q0", "D0", "UV")
)
_LOOK_ALIKE_COST = 0.4


def plain(text: str) -> str:
    """`text` with full-width forms, foreign twins and odd dashes replaced and white space removed."""
    folded = unicodedata.normalize("NFKC", text).translate(_TWINS)
    return "".join(folded.split())


_FOREIGN = re.compile("[\u0400-\u04ff\u0370-\u03ff]")
_LATIN = re.compile("[A-Za-z]")


def tidy_title(title: str) -> str:
    """`title` with single blanks, and words that mix Latin letters with their twins of other alphabets put right.

    Words wholly of another alphabet are left alone: they are a language, not a slip.
    """
    words = unicodedata.normalize("NFKC", title).split()
    return " ".join(
        word.translate(_TITLE_TWINS) if _LATIN.search(word) and _FOREIGN.search(word) else word for word in words
    )


def distance(left: str, right: str) -> float:
    """Edit distance where a look-alike for its twin costs 0.4 and any other edit 1; O(len·len)."""
    previous = [float(column) for column in range(len(right) + 1)]
    for row, a in enumerate(left, start=1):
        current = [float(row)]
        for column, b in enumerate(right, start=1):
            swap = previous[column - 1] + _cost(a, b)
            current.append(min(swap, previous[column] + 1, current[-1] + 1))
        previous = current
    return previous[-1]


def _cost(a: str, b: str) -> float:
    if a == b:
        return 0.0
    return _LOOK_ALIKE_COST if frozenset((a, b)) in _CONFUSED else 1.0


def nearest(text: str, codes: tuple[str, ...]) -> str | None:
    """The code that `text` was most likely meant to be; ties go to the first in order. None without codes."""
    upper = plain(text).upper()
    return min(codes, key=lambda code: (distance(upper, code), codes.index(code)), default=None)
