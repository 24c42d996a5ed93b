"""Shapes that several features answer with."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any, Self

from pydantic import BaseModel, ConfigDict, model_validator
from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.plain_text import clean_all
from nod.store.tables import CompanyRow, PersonRow


class Answered(BaseModel):
    """Anything a service answers with; never changed after it is made."""

    model_config = ConfigDict(frozen=True)


MOST_WHOLE = 2**53 - 1
"""The largest whole number that JSON carries everywhere as it is (RFC 8259, 6)."""
FIRST_YEAR, LAST_YEAR = 1900, 2999


class FromOutside(BaseModel):
    """Anything that somebody sends, however they send it: text is cleaned, numbers and days keep within bounds."""

    model_config = ConfigDict(allow_inf_nan=False)

    @model_validator(mode="before")
    @classmethod
    def _clean(cls, value: Any) -> Any:
        return clean_all(value)

    @model_validator(mode="after")
    def _bounded(self) -> Self:
        for value in self.__dict__.values():
            check_bounds(value)
        return self


def check_bounds(value: Any) -> None:
    """Raises ValueError for a number or a day that no database, file or calendar here takes."""
    if isinstance(value, bool | str):
        return
    if isinstance(value, int) and abs(value) > MOST_WHOLE:
        raise ValueError("the number is too large")
    if isinstance(value, date) and not FIRST_YEAR <= value.year <= LAST_YEAR:
        raise ValueError(f"days are of the years {FIRST_YEAR} to {LAST_YEAR}")
    if isinstance(value, list | tuple | dict):
        for each in value.values() if isinstance(value, dict) else value:
            check_bounds(each)


class Command(FromOutside):
    """Anything a service is told to do; nothing but what it names is taken."""

    model_config = ConfigDict(frozen=True, extra="forbid", strict=True)


class Who(Answered):
    """A person as shown everywhere."""

    id: str
    name: str
    company: str
    job: str = ""


class Standing(Answered):
    """The three columns of every list: with whom, since when, due when and how late."""

    with_whom: str = ""
    since_at: datetime | None = None
    due_on: date | None = None
    days_late: int = 0


class VerdictShown(Answered):
    """One of the project's possible verdicts; `meaning` is go, look or stop, `of_set` empty for the usual set."""

    code: str
    words: str
    meaning: str
    may_be_used: bool
    needs_new_revision: bool
    of_set: str = ""


def show_verdicts(verdicts: list[dict[str, Any]], of_set: str | None = None) -> list[VerdictShown]:
    """Stored verdicts as they are shown, of each set the mildest first; of one set alone where that is said."""
    shown = [VerdictShown.model_validate(each, extra="ignore") for each in verdicts]
    return [each for each in shown if of_set is None or each.of_set == of_set]


def people_by_id(session: Session, ids: set[str]) -> dict[str, Who]:
    """Those asked for, with their company's code; unknown ids are left out."""
    if not ids:
        return {}
    query = (
        select(PersonRow.id, PersonRow.name, CompanyRow.code, PersonRow.job)
        .join(CompanyRow, CompanyRow.id == PersonRow.company_id)
        .where(PersonRow.id.in_(ids))
    )
    return {row.id: Who(id=row.id, name=row.name, company=row.code, job=row.job) for row in session.execute(query)}


def named(who: Who) -> str:
    """As files and covers name a person."""
    return f"{who.name} ({who.company})"


def initials(name: str) -> str:
    return "".join(part[0] for part in name.split()[:3]).upper()
