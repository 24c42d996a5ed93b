"""Numbers as they are remembered: without separators, O taken for 0 and I for 1 (handbook §4, search)."""

from __future__ import annotations

import re

from nod.core.register.look_alikes import plain

_CONFUSED = str.maketrans("OI", "01")


def fold(text: str) -> str:
    """`text` in capitals, with nothing but letters and figures, O as 0 and I as 1."""
    return re.sub(r"[\W_]+", "", plain(text).upper()).translate(_CONFUSED)


def shapes(number: str) -> str:
    """Every way to begin typing a number without its separators: the folded number from each of its parts on.

    `BFT-TRA-A-0101` gives `BFTTRAA0101 TRAA0101 A0101 0101`, so that a prefix search finds it from any part.
    """
    parts = [part for part in (fold(each) for each in re.split(r"[\W_]+", number)) if part]
    return " ".join("".join(parts[start:]) for start in range(len(parts)))
