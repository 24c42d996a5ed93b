"""A project's working days and holidays, with published calendars to start from (handbook §3)."""

from __future__ import annotations

import re

from sqlalchemy import delete, select

from nod.core import setup
from nod.core.acts.refusals import RuleBroken
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Context, acting
from nod.services.acts.seats import Actor, take_seat
from nod.services.setup.setup import Saved, open_setup, saved
from nod.services.setup.setup_view import Holiday
from nod.store.tables import HolidayRow

_MOST_HOLIDAYS = 400


class SetDays(Command):
    version: int
    working_weekdays: list[int]
    holidays: list[Holiday]


class ProjectDays(Answered):
    """Which days are worked. `working_weekdays`: 0 is Monday."""

    working_weekdays: list[int]
    holidays: list[Holiday]


class ProposedHolidays(Answered):
    holidays: list[Holiday]


class Country(Answered):
    code: str
    name: str
    regions: list[str]


class Countries(Answered):
    countries: list[Country]


def read_days(context: Context, actor: Actor, project_id: str) -> ProjectDays:
    """For everybody in the project: they type dates by it."""
    with context.database.read() as session:
        project = take_seat(session, actor, project_id).project
        rows = session.scalars(select(HolidayRow).where(HolidayRow.project_id == project_id).order_by(HolidayRow.on))
        holidays = [Holiday(on=row.on, name=row.name) for row in rows]
        return ProjectDays(working_weekdays=project.rules["working_weekdays"], holidays=holidays)


def set_days(context: Context, actor: Actor, project_id: str, command: SetDays) -> Saved:
    """Due dates that are set stay; those to come, and lateness, count by the new days."""
    weekdays = setup.check_weekdays(command.working_weekdays)
    found = setup.check_holidays((each.on, each.name) for each in command.holidays)
    if len(found) > _MOST_HOLIDAYS:
        raise RuleBroken("too_many_codes", f"There are more than {_MOST_HOLIDAYS} holidays.")
    with acting(context, actor) as act:
        _, project = open_setup(act, project_id, command.version)
        rows = act.session.scalars(select(HolidayRow).where(HolidayRow.project_id == project_id))
        before = {row.on.isoformat(): row.name for row in rows}
        act.session.execute(delete(HolidayRow).where(HolidayRow.project_id == project_id))
        act.session.add_all(HolidayRow(project_id=project_id, on=on, name=name) for on, name in found.items())
        old = {"working_weekdays": project.rules["working_weekdays"], "holidays": before}
        project.rules = {**project.rules, "working_weekdays": weekdays}
        after = {on.isoformat(): name for on, name in sorted(found.items())}
        return saved(act, project, "days", old, {"working_weekdays": weekdays, "holidays": after})


def list_countries() -> Countries:
    """Those whose published calendars are shipped."""
    # Half a second to load, and only the set-up asks for it.
    import holidays as calendars
    from holidays.registry import COUNTRIES

    names = {entry[1]: entry[0] for entry in COUNTRIES.values()}
    regions = calendars.list_supported_countries(include_aliases=False)
    found = [Country(code=code, name=_spaced(names[code]), regions=list(regions[code])) for code in regions]
    return Countries(countries=sorted(found, key=lambda each: each.name))


def _spaced(name: str) -> str:
    """`UnitedKingdom` as it is written."""
    return re.sub(r"(?<=[a-z])(?=[A-Z])", " ", name)


def propose_holidays(country: str, region: str, first_year: int, last_year: int) -> ProposedHolidays:
    """From the published calendar, to be gone through, as these differ. Raises RuleBroken for no such calendar."""
    # Half a second to load, and only the set-up asks for it.
    import holidays as calendars

    if not 1990 <= first_year <= last_year <= first_year + 15:
        raise RuleBroken("years_invalid", "Take at most sixteen years, the first before the last.", str(first_year))
    years = range(first_year, last_year + 1)
    try:
        found = calendars.country_holidays(country, subdiv=region or None, years=years, language="en_US")
    except (NotImplementedError, AttributeError):
        raise RuleBroken("calendar_unknown", f"There is no calendar for {country} {region}.".strip(), country) from None
    return ProposedHolidays(holidays=[Holiday(on=on, name=name[:80]) for on, name in sorted(found.items())])
