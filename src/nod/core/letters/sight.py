"""What of a thread somebody sees who was added to it, or taken out, on the way (handbook §11)."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Sight:
    """From the message in place `first` on, up to that in place `last`, both with them; None for no end."""

    first: int = 0
    last: int | None = None

    def sees(self, place: int) -> bool:
        return self.first <= place and (self.last is None or place <= self.last)


def added_from(newest: int, *, all_of_it: bool) -> int:
    """The place of the first message that somebody sees who is added with that in place `newest`."""
    return 0 if all_of_it else newest
