"""Who reads ink (handbook §6): everybody who sees the sheet, or some of them; opened to more, never to fewer."""

from __future__ import annotations

from dataclasses import dataclass, replace

from nod.core.acts.refusals import NotAllowed, RuleBroken

EVERYBODY = "everybody"
COMPANY = "company"


@dataclass(frozen=True)
class Group:
    """`kind` is `company`, or what a feature calls those who take part in a thing of its; `id` says which."""

    kind: str
    id: str


@dataclass(frozen=True)
class Readers:
    """Of ink, besides its author: everybody who sees the sheet, or those of the groups who see it."""

    everybody: bool = True
    groups: frozenset[Group] = frozenset()

    @property
    def kept(self) -> list[str]:
        """By ids, for replaying."""
        return [EVERYBODY] if self.everybody else sorted(f"{each.kind} {each.id}" for each in self.groups)


def for_group(group: Group | None) -> Readers:
    return Readers() if group is None else Readers(everybody=False, groups=frozenset((group,)))


def opened(before: Readers, to: Group | None) -> Readers:
    """Those who read it from now on: none is ever taken out. `to` is None for everybody who sees the sheet.

    Raises RuleBroken(`read_already`) where nobody would be added.
    """
    if before.everybody or (to is not None and to in before.groups):
        raise RuleBroken("read_already", "Those you open it to read it already.")
    return Readers() if to is None else replace(before, groups=before.groups | {to})


def check_may_open(author: str, person: str, *, runs: bool) -> None:
    """Its author, or a lead or controller who reads it. Raises NotAllowed for anybody else."""
    if person != author and not runs:
        raise NotAllowed("not_your_mark", "Its author opens a mark to more, or a lead or controller who reads it.")
