"""Access levels, in order, and what a member of a project may do."""

from __future__ import annotations

from enum import IntEnum


class Level(IntEnum):
    """Each level includes those below it (handbook §2)."""

    NONE = 0
    READ = 1
    MARK = 2
    FILE = 3
    KEEP = 4


ROLE_LEVELS: dict[str, Level] = {
    "lead": Level.KEEP,
    "controller": Level.KEEP,
    "author": Level.FILE,
    "reviewer": Level.MARK,
    "reader": Level.READ,
}


def project_level(roles: tuple[str, ...]) -> Level:
    """The highest level that any of the person's roles brings; NONE without a known role."""
    return max((ROLE_LEVELS.get(role, Level.NONE) for role in roles), default=Level.NONE)


def sees_whole_trail(roles: tuple[str, ...]) -> bool:
    """Leads and controllers see the acts of all; others those on what they can see."""
    return "lead" in roles or "controller" in roles
