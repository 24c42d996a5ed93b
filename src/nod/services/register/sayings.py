"""What the codes and ids of the register's columns are called in a project."""

from __future__ import annotations

from collections.abc import Mapping

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.register.came_by import WAYS
from nod.core.register.in_force import RELEASES
from nod.services.access.folders import folder_paths
from nod.services.acts.seats import Seat
from nod.store.tables import CompanyRow, DrawingSetRow, PersonRow


class Sayings:
    """What the codes and ids of columns are called in a project, as a seat may know them."""

    def __init__(self, session: Session, seat: Seat) -> None:
        rules = seat.project.rules
        self._session = session
        self.paths = folder_paths(session, seat)
        standing = select(DrawingSetRow.id, DrawingSetRow.name).where(
            DrawingSetRow.project_id == seat.project.id, ~DrawingSetRow.removed
        )
        self.sets = dict(session.execute(standing.order_by(DrawingSetRow.name)).all())
        fields = {each["name"]: each["codes"] for each in rules["convention"]["fields"]}
        self._codes: dict[str, Mapping[str, str]] = {
            "discipline": rules["disciplines"],
            "status": rules["statuses"],
            "verdict": {each["code"]: each["words"] for each in rules["verdict_set"]},
            "originator": fields.get("originator", {}) or self._companies(),
            "form": fields.get("form", {}),
            "zone": fields.get("functional", {}),
            "level": fields.get("spatial", {}),
        }

    def _companies(self) -> dict[str, str]:
        return dict(self._session.execute(select(CompanyRow.code, CompanyRow.name)).all())

    def sees(self, folder_id: str) -> bool:
        return folder_id in self.paths

    def choices(self, column: str) -> Mapping[str, str]:
        if column == "folder":
            return self.paths
        return self.sets if column == "sets" else self._codes.get(column, {})

    def __call__(self, column: str, value: str) -> str:
        """A value in words: a code with its meaning, a folder by its path, a person by name."""
        if column in ("folder", "sets"):
            return self.choices(column).get(value, "one that is not there")
        if column in ("filed_by", "checked_out"):
            return self._session.scalar(select(PersonRow.name).where(PersonRow.id == value)) or value
        if column in ("came_by", "release"):
            return {"came_by": WAYS, "release": RELEASES}[column].get(value, value)
        words = self._codes.get(column, {}).get(value, "")
        return f"{value} {words}".strip()
