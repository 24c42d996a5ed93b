"""How letters are numbered (handbook §11): `TRA-RFI-0007` by the sender's company, `HBC-TRA-L-0012` by both."""

from __future__ import annotations

from collections.abc import Iterable

from nod.core.letters.kinds import LetterKind, NumberedBy

_WIDTH, _LONGEST_COUNT = 4, 10


def number_start(kind: LetterKind, sender: str, recipient: str) -> str:
    """What the running number is joined to: codes of companies and of the kind. Without a recipient, the sender's."""
    both = kind.numbered_by is NumberedBy.PAIR and recipient
    return "-".join([sender, recipient, kind.code] if both else [sender, kind.code])


def next_letter_number(start: str, taken: Iterable[str]) -> str:
    """After the highest there is. `taken` are numbers of the project, whoever may see what has them."""
    highest = 0
    for each in taken:
        before, _, count = each.rpartition("-")
        if before == start and count.isascii() and count.isdigit() and len(count) < _LONGEST_COUNT:
            highest = max(highest, int(count))
    return f"{start}-{highest + 1:0{_WIDTH}d}"
