"""What a specification asks for, held against the log: what is there, what is new, what stands elsewhere, what went."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import partial

from nod.core.submittals.specification import SpecItem


@dataclass(frozen=True)
class Logged:
    """A line of the log. `from_here`: it was taken from this document, in whatever revision."""

    id: str
    section: str
    paragraph: str
    kind: str
    title: str
    from_here: bool


@dataclass
class Against:
    """By the place of an item, the id of its line: `there` at the same paragraph, `moved` from another one.

    `gone` are lines that were taken from this document, which asks for them no more.
    """

    there: dict[int, str] = field(default_factory=dict)
    moved: dict[int, str] = field(default_factory=dict)
    gone: list[str] = field(default_factory=list)


def against(items: Sequence[SpecItem], log: Sequence[Logged]) -> Against:
    """A line is of one item alone; those that came from this document come first.

    At the same paragraph and of the same kind; or from this document at the same paragraph, as a kind may have been
    set right when it was taken; or from this document with the same kind and title: it stands elsewhere now.
    """
    left = {each.id: each for each in sorted(log, key=lambda line: not line.from_here)}
    there: dict[int, str] = {}
    for by_kind in (True, False):
        lines = (each for each in left.values() if by_kind or each.from_here)
        pairs = _pairs(items, lines, there, partial(_place, by_kind))
        there |= pairs
        for id in pairs.values():
            del left[id]
    here = [each for each in left.values() if each.from_here]
    moved = _pairs(items, here, there, lambda each: (each.kind, _folded(each.title)))
    return Against(there, moved, [each.id for each in here if each.id not in moved.values()])


def _place(by_kind: bool, each: SpecItem | Logged) -> tuple[str, ...]:
    place = (each.section, _folded(each.paragraph))
    return (*place, each.kind) if by_kind else place


def _pairs(
    items: Sequence[SpecItem], lines: Iterable[Logged], without: Mapping[int, str],
    same: Callable[[SpecItem | Logged], tuple[str, ...]],
) -> dict[int, str]:  # fmt: skip
    """By the place of an item, a line that is the same by that; each line once."""
    waiting: dict[tuple[str, ...], list[str]] = {}
    for line in lines:
        waiting.setdefault(same(line), []).append(line.id)
    found = {}
    for at, item in enumerate(items):
        if at not in without and (alike := waiting.get(same(item))):
            found[at] = alike.pop(0)
    return found


def _folded(text: str) -> str:
    return " ".join(text.casefold().split()).rstrip(".")
