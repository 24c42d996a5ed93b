"""How late a due day is, in a project's working days."""

from __future__ import annotations

from datetime import date, datetime
from zoneinfo import ZoneInfo

from sqlalchemy.orm import Session

from nod.core.acts.working_days import Counting, days_late
from nod.services.acts.context import project_clock, today_in
from nod.store.tables import ProjectRow


class LateBy:
    """Counts from today in the project's time zone."""

    def __init__(self, session: Session, project: ProjectRow, now: datetime) -> None:
        self.calendar = project_clock(session, project).calendar
        self.today = today_in(project, now)
        self.zone = ZoneInfo(project.time_zone)

    def __call__(self, due: date | None, counting: Counting = Counting.WORKING) -> int:
        return days_late(due, self.today, counting, self.calendar) if due else 0
