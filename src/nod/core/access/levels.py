"""Who may do what in which folder (handbook §2 and §3): one function that everything asks."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass
from enum import IntEnum, StrEnum

from nod.core.acts.refusals import RuleBroken


class Level(IntEnum):
    """Each level includes those below it (handbook §2)."""

    NONE = 0
    READ = 1
    MARK = 2
    FILE = 3
    KEEP = 4


LEAD, CONTROLLER = "lead", "controller"
RUNNING_ROLES = frozenset((LEAD, CONTROLLER))
"""Leads and document controllers have keep everywhere in the project."""


class To(StrEnum):
    """Whom a grant is given to."""

    PERSON = "person"
    ROLE = "role"
    COMPANY = "company"
    EVERYONE = "everyone"


@dataclass(frozen=True)
class Grantee:
    """Somebody a grant can be given to; `id` is empty for everyone."""

    kind: To
    id: str = ""


EVERYONE = Grantee(To.EVERYONE)


@dataclass(frozen=True)
class Grant:
    """A level in a folder. `alone`: for this folder and not for what is below it."""

    folder_id: str
    to: Grantee
    level: Level
    alone: bool = False

    @property
    def key(self) -> tuple[str, Grantee, bool]:
        return self.folder_id, self.to, self.alone


@dataclass(frozen=True)
class Holder:
    """Whose access is asked for. A whole role or company is asked for as somebody who has that alone."""

    person_id: str = ""
    company_id: str = ""
    roles: frozenset[str] = frozenset()

    @property
    def runs(self) -> bool:
        return bool(self.roles & RUNNING_ROLES)

    def grantees(self) -> frozenset[Grantee]:
        """Everybody whose grants touch this holder."""
        found = {EVERYONE, *(Grantee(To.ROLE, role) for role in self.roles)}
        if self.person_id:
            found.add(Grantee(To.PERSON, self.person_id))
        if self.company_id:
            found.add(Grantee(To.COMPANY, self.company_id))
        return frozenset(found)


@dataclass(frozen=True)
class Effect:
    """The effective level in a folder and the grants it comes from; none for a lead, a controller or nobody."""

    level: Level
    grants: tuple[Grant, ...] = ()


NOTHING = Effect(Level.NONE)
_RUNS = Effect(Level.KEEP)

Tree = Mapping[str, str | None]
"""Each folder's id to that of the folder it is in; the root has none."""


def effective(tree: Tree, grants: Iterable[Grant], holder: Holder) -> dict[str, Effect]:
    """The effective access to every folder of `tree` (handbook §3).

    From the folder upward to the first folder that has any grant touching the person; there a grant to the person
    alone decides, otherwise the highest of those to their roles, company and everyone; with none up to the root:
    none. A grant that is `alone` counts in its own folder only, in place of the same grantee's grant for all below.
    """
    if holder.runs:
        return dict.fromkeys(tree, _RUNS)
    touching = holder.grantees()
    here: dict[str, list[Grant]] = {}
    for grant in grants:
        if grant.to in touching:
            here.setdefault(grant.folder_id, []).append(grant)
    found: dict[str, Effect] = {}
    below: dict[str, Effect] = {}
    for folder in downward(tree):
        parent = tree[folder]
        above = below[parent] if parent is not None else NOTHING
        own = here.get(folder)
        below[folder] = (_decide(each for each in own if not each.alone) or above) if own else above
        found[folder] = (_decide(_in_force(own)) or above) if own else above
    return found


class Reach:
    """`effective` for many holders of the same tree and grants: each grant is looked at by those it touches only."""

    def __init__(self, tree: Tree, grants: Iterable[Grant]) -> None:
        self._tree = tree
        self._by_grantee: dict[Grantee, list[tuple[int, Grant]]] = {}
        for place, grant in enumerate(grants):
            self._by_grantee.setdefault(grant.to, []).append((place, grant))

    def of(self, holder: Holder) -> dict[str, Effect]:
        touching = [placed for to in holder.grantees() for placed in self._by_grantee.get(to, ())]
        in_order = [grant for _, grant in sorted(touching, key=lambda placed: placed[0])]
        return effective(self._tree, in_order, holder)


def _in_force(grants: list[Grant]) -> list[Grant]:
    """What counts in the folder itself."""
    if len(grants) == 1:
        return grants
    alone = {each.to for each in grants if each.alone}
    return [each for each in grants if each.alone or each.to not in alone]


def _decide(grants: Iterable[Grant]) -> Effect | None:
    given = list(grants)
    if not given:
        return None
    if len(given) == 1:
        return Effect(given[0].level, (given[0],))
    personal = [each for each in given if each.to.kind is To.PERSON]
    level = max(each.level for each in personal or given)
    return Effect(level, tuple(each for each in personal or given if each.level == level))


def downward(tree: Tree) -> list[str]:
    """Every folder after the one it is in."""
    children: dict[str | None, list[str]] = {}
    for folder, parent in tree.items():
        children.setdefault(parent, []).append(folder)
    order = list(children.get(None, ()))
    for folder in order:
        order.extend(children.get(folder, ()))
    return order


def under(tree: Tree, folder: str) -> list[str]:
    """Everything below `folder`, without it, each after the one it is in."""
    found: list[str] = []
    inside = {folder}
    for each in downward(tree):
        if tree[each] in inside:
            inside.add(each)
            found.append(each)
    return found


def check_move(tree: Tree, folder: str, new_parent: str) -> None:
    """Raises RuleBroken for moving the root, or a folder into itself or below itself."""
    if tree[folder] is None:
        raise RuleBroken("root_folder", "The topmost folder cannot be moved.")
    if new_parent == folder or new_parent in under(tree, folder):
        raise RuleBroken("folder_under_itself", "A folder cannot be moved into itself or into a folder below it.")


@dataclass(frozen=True)
class Change:
    """One cell of the grid: give `to` the level in the folder, or take its own grant away (`None`).

    With `below`, everything under the folder follows; otherwise nothing but the folder itself changes.
    """

    to: Grantee
    folder_id: str
    level: Level | None
    below: bool


def change_grants(
    tree: Tree, grants: Collection[Grant], changes: Iterable[Change], holders: Mapping[Grantee, Holder]
) -> list[Grant]:
    """The grants after `changes`. `holders` has the holder behind each grantee that changes."""
    kept = {each.key: each for each in grants}
    wanted = list(changes)
    below = _all_below(tree) if any(change.below for change in wanted) else {}
    for change in _without_covered(tree, wanted):
        inside = below[change.folder_id] if change.below else []
        _forget(kept, change, inside)
        if change.level is not None:
            _give(kept, change, inside, holders[change.to])
    return list(kept.values())


def _without_covered(tree: Tree, changes: list[Change]) -> list[Change]:
    """Without those that a change for the same grantee further up says already, for everything below it."""
    reaching = {(change.to, change.folder_id): change.level for change in changes if change.below}

    def is_covered(change: Change) -> bool:
        above = tree[change.folder_id]
        while above is not None:
            if (change.to, above) in reaching:
                return reaching[change.to, above] is change.level
            above = tree[above]
        return False

    return [change for change in changes if not (change.below and is_covered(change))]


def _all_below(tree: Tree) -> dict[str, list[str]]:
    """Everything below each folder."""
    found: dict[str, list[str]] = {folder: [] for folder in tree}
    for folder in downward(tree):
        above = tree[folder]
        while above is not None:
            found[above].append(folder)
            above = tree[above]
    return found


_Kept = dict[tuple[str, Grantee, bool], Grant]


def _forget(kept: _Kept, change: Change, inside: list[str]) -> None:
    """The grantee's own grants give way. A level for the folder alone leaves what it gives to those below."""
    for folder in (change.folder_id, *inside):
        kept.pop((folder, change.to, True), None)
        if change.below or change.level is None:
            kept.pop((folder, change.to, False), None)


def _give(kept: _Kept, change: Change, inside: list[str], holder: Holder) -> None:
    """One grant; and where others' grants further down would say otherwise, it is repeated."""
    assert change.level is not None  # noqa: S101 - the caller has looked
    touching = holder.grantees()
    disturbed = [
        folder for folder in inside if any((folder, to, alone) in kept for to in touching for alone in (True, False))
    ]
    for folder in (change.folder_id, *disturbed):
        grant = Grant(folder, change.to, change.level, alone=not change.below)
        kept[grant.key] = grant
