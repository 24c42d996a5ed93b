"""The purposes of issue of a project, for whoever sends by them (handbook §10)."""

from __future__ import annotations

from nod.core.acts.refusals import RuleBroken
from nod.core.transmittals.purposes import Purpose, purposes_read
from nod.store.tables import ProjectRow


def purposes_of(project: ProjectRow) -> dict[str, Purpose]:
    """By code, in their order."""
    return purposes_read(project.rules.get("purposes"))


def purpose_of(project: ProjectRow, code: str) -> Purpose:
    """Raises RuleBroken for one that the project does not have."""
    found = purposes_of(project).get(code)
    if found is None:
        raise RuleBroken("purpose_unknown", "Choose a purpose of issue.", code[:40])
    return found
