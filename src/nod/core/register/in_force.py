"""Which revision of a document people are to work from now: the one in force (handbook §4)."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass
from enum import IntEnum

from nod.core.access.levels import Level

MAY_RELEASE = Level.KEEP
"""Who may give a status from which may be built, where no review does."""


class Use(IntEnum):
    """What a status says may be done with a revision; more outweighs less."""

    RECEIVED = 0
    REFERRED = 1
    BUILT = 2

    @property
    def code(self) -> str:
        return self.name.lower()


USES: dict[str, str] = {
    Use.RECEIVED.code: "only received",
    Use.REFERRED.code: "may be referred to",
    Use.BUILT.code: "may be built from",
}
RELEASES: dict[str, str] = {
    "same": "the latest is in force",
    "newer": "a later one is not released",
    "none": "nothing is in force",
    "passed": "another is in force than this copy",
}
"""How the latest revision of a document stands to the one in force; `passed` of copies alone."""

_BUILT = re.compile(r"[AB][0-9]{1,2}|CR")
_REFERRED = ("S1", "S2")


def use_of(status: str, uses: Mapping[str, str]) -> Use:
    """What the project says of a status; of one that it says nothing of, what ISO 19650-2 UK NA means by its code.

    A and B codes are authorised, wholly or partly; CR is as constructed; S1 and S2 are for coordination and
    information; the others of S are only received. So is a code that the standard does not know.
    """
    said = uses.get(status)
    if said is not None:
        return Use[said.upper()]
    if _BUILT.fullmatch(status):
        return Use.BUILT
    return Use.REFERRED if status in _REFERRED else Use.RECEIVED


@dataclass(frozen=True)
class Issued:
    """A revision in its document's order: `place` grows with the scheme's order. `counts`: its status says what it is

    for; that of what was filed as history says what it was, until it is given one anew.
    """

    id: str
    place: int
    use: Use
    counts: bool


@dataclass(frozen=True)
class Force:
    """`superseded` are neither the latest nor in force. `release` is a key of RELEASES."""

    latest: str
    in_force: str | None
    superseded: frozenset[str]
    release: str


def force_of(revisions: Collection[Issued], *, withdrawn: bool = False) -> Force:
    """The latest is the last in order, whatever came of it. In force is the last of those that may be built from;

    where there are none, the last that may be referred to: a sheet for information takes no sheet for construction
    out of force. Nothing of a withdrawn document is in force. Raises ValueError without a revision.
    """
    latest = max(revisions, key=lambda each: each.place)
    released = [] if withdrawn else [each for each in revisions if each.counts and each.use > Use.RECEIVED]
    best = max(released, key=lambda each: (each.use, each.place), default=None)
    stays = {latest.id, best.id} if best else {latest.id}
    release = "none" if best is None else "same" if best is latest else "newer"
    gone = frozenset(each.id for each in revisions if each.id not in stays)
    return Force(latest.id, best.id if best else None, gone, release)


def releasing(statuses: Iterable[str], uses: Mapping[str, str]) -> tuple[str, ...]:
    """Those of the statuses from which may be built, which only some may give."""
    return tuple(each for each in statuses if use_of(each, uses) is Use.BUILT)


@dataclass(frozen=True)
class Around:
    """What else there is of a document: the codes of its latest revision and of the one in force (empty for none).

    `passed`: of a copy, that another revision is in force where it came from.
    """

    latest: str
    in_force: str
    withdrawn: bool = False
    passed: bool = False


@dataclass(frozen=True)
class Standing:
    """`kind` is `in_force`, `ahead` (in force, and a later one waits), `not_released`, `unreleased` (as nothing is),

    `superseded` or `withdrawn`; `words` name both revisions where latest and in force differ.
    """

    kind: str
    words: str


def standing_of(code: str, around: Around) -> Standing:
    """How one revision of a document stands to the others."""
    latest, in_force = around.latest, around.in_force
    if around.withdrawn:
        return Standing("withdrawn", "Withdrawn.")
    if around.passed:
        words = "Superseded. Another revision is in force, which does not lie in this folder."
        return Standing("superseded", words)
    if code == in_force:
        later = f" The latest, {latest}, is not released." if latest != code else ""
        return Standing("ahead" if later else "in_force", f"In force.{later}")
    if code == latest:
        if in_force:
            return Standing("not_released", f"Not released. In force is {in_force}.")
        return Standing("unreleased", "Not released. Nothing of it is in force.")
    if not in_force:
        return Standing("superseded", f"Superseded. The latest is {latest}; nothing is in force.")
    later = f" The latest, {latest}, is not released." if latest != in_force else ""
    return Standing("superseded", f"Superseded. In force is {in_force}.{later}")


def follows(before: str, after: str) -> str:
    """What an act does to what is in force, by its codes before and after (empty for nothing), in words."""
    if before == after:
        return f"{before} stays in force." if before else "Nothing is in force, as before."
    if not after:
        return f"{before} is no longer in force, and nothing is."
    return f"{after} comes in force; {before} no longer is." if before else f"{after} comes in force."
