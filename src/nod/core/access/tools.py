"""The tools of a project, and who has which (handbook §3)."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass

TOOLS: dict[str, str] = {
    "sessions": "sessions", "reviews": "reviews", "submittals": "submittals", "transmittals": "transmittals",
    "letters": "letters",
}  # fmt: skip
"""Those that can be off, by code; the others of the handbook join as they come."""


@dataclass(frozen=True)
class Role:
    """A role of a project. `tools` are those it brings."""

    code: str
    name: str
    tools: tuple[str, ...]


FIXED_ROLES = (Role("lead", "Lead", tuple(TOOLS)), Role("controller", "Document controller", tuple(TOOLS)))
"""They have keep everywhere and every tool that is on; a project cannot change them."""

DEFAULT_ROLES = (
    Role("author", "Author", tuple(TOOLS)),
    Role("reviewer", "Reviewer", tuple(TOOLS)),
    Role("reader", "Reader", tuple(TOOLS)),
)


def tools_of(
    roles: Iterable[str], own: Collection[str] | None, known: Mapping[str, Role], on: Collection[str]
) -> frozenset[str]:
    """The tools a person has: their own setting if there is one, otherwise what any of their roles brings."""
    brought = {tool for role in roles if role in known for tool in known[role].tools}
    return frozenset(brought if own is None else own) & frozenset(on)
