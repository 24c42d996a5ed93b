"""The log of submittals under headings: by company, section, kind or state."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, Literal

from sqlalchemy import ColumnElement, case, func, select
from sqlalchemy.orm import Session

from nod.core.submittals.states import State
from nod.services.acts.answers import Answered
from nod.services.acts.seats import Seat
from nod.services.submittals.outlooks import submittal_rules
from nod.store.asides import aside
from nod.store.tables import CompanyRow, SubmittalRow

GroupBy = Literal["", "company", "section", "kind", "state"]


class SubmittalGroup(Answered):
    """`key` is what the lines of it have as their `group`."""

    key: str
    words: str
    count: int


def key_of(group: GroupBy) -> Any:
    """What lines are grouped by: the code of the company as it is now, the section, the kind, the state."""
    if group != "company":
        return {"section": SubmittalRow.section, "kind": SubmittalRow.kind, "state": SubmittalRow.state}[group]
    company, into = aside("submittals_grouped", CompanyRow), aside("submittals_grouped_into", CompanyRow)
    code = (
        select(func.coalesce(into.code, company.code))
        .select_from(company)
        .outerjoin(into, into.id == company.merged_into)
        .where(company.id == SubmittalRow.company_id)
    )
    return code.correlate(SubmittalRow).scalar_subquery()


def order_of(group: GroupBy) -> Any:
    """States in the order of the work; those without a section last; otherwise by code."""
    key = key_of(group)
    if group == "state":
        return case({each.value: place for place, each in enumerate(State)}, value=key)
    return case((key == "", 1), else_=0), key


def groups_of(
    session: Session, seat: Seat, group: GroupBy, kept: Sequence[ColumnElement[bool]]
) -> list[SubmittalGroup]:  # fmt: skip
    """Those that have lines, in the order of the list."""
    key = key_of(group)
    found: Mapping[str, int] = dict(
        session.execute(select(key, func.count()).select_from(SubmittalRow).where(*kept).group_by(key)).all()
    )
    words = _words(session, seat, group)
    return [
        SubmittalGroup(key=each, words=words.get(each, each) or "no section", count=found[each])
        for each in sorted(found, key=lambda each: _place(group, each))
    ]


def _place(group: GroupBy, key: str) -> tuple[int, str]:
    if group == "state":
        return [each.value for each in State].index(key), key
    return int(not key), key


def _words(session: Session, seat: Seat, group: GroupBy) -> dict[str, str]:
    if group == "kind":
        return {each.code: each.words for each in submittal_rules(seat.project).kinds}
    if group == "company":
        query = select(CompanyRow.code, CompanyRow.name).where(CompanyRow.merged_into.is_(None))
        return {code: f"{code} {name}" for code, name in session.execute(query)}
    return {}
