"""Submittals as things: for the companies concerned and who is copied in; for all once they are under review."""

from __future__ import annotations

from collections.abc import Collection
from typing import Any

from sqlalchemy import ColumnElement, Select, exists, func, or_, select
from sqlalchemy.orm import Session

from nod.core.submittals.numbers import shown_number
from nod.core.submittals.states import SHOWN_TO_FIELD
from nod.services.things.audiences import AudienceOf
from nod.services.things.kinds import ThingKind, thing_kind
from nod.store.asides import aside, asides
from nod.store.dialects.sqlite import one_of
from nod.store.tables import CompanyRow, PersonRow, SubmittalCopiedRow, SubmittalRow


def _shown_to_all(submittal_id: Any) -> ColumnElement[bool]:
    row = aside("submittals_shown", SubmittalRow)
    shown = row.state.in_([each.value for each in SHOWN_TO_FIELD])
    return exists(select(row.id).where(row.id == submittal_id, shown).correlate_except(row))


def _person(column: str) -> Any:
    def query(submittal_id: Any) -> Select[Any]:
        row = aside(f"submittals_{column}", SubmittalRow)
        named = getattr(row, column)
        return select(named).where(row.id == submittal_id, named.is_not(None))

    return query


def _copied_people(submittal_id: Any) -> Select[Any]:
    copied = aside("submittals_copied_people", SubmittalCopiedRow)
    return select(copied.party_id).where(copied.submittal_id == submittal_id, copied.kind == "person")


def _responsible(submittal_id: Any) -> Select[Any]:
    row, company = asides("submittals_responsible", SubmittalRow, CompanyRow)
    now = select(func.coalesce(company.merged_into, company.id)).join(row, row.company_id == company.id)
    return now.where(row.id == submittal_id)


def _approving(submittal_id: Any) -> Select[Any]:
    row, person = asides("submittals_approving", SubmittalRow, PersonRow)
    return select(person.company_id).join(row, row.approver_id == person.id).where(row.id == submittal_id)


def _copied_companies(submittal_id: Any) -> Select[Any]:
    copied, company = asides("submittals_copied_companies", SubmittalCopiedRow, CompanyRow)
    now = select(func.coalesce(company.merged_into, company.id)).join(copied, copied.party_id == company.id)
    return now.where(copied.submittal_id == submittal_id, copied.kind == "company")


SUBMITTAL = thing_kind(
    ThingKind(
        code="submittal",
        words="submittal",
        plural="submittals",
        row=SubmittalRow,
        audience=AudienceOf(
            people=(_person("keeper_id"), _person("person_id"), _person("approver_id"), _copied_people),
            companies=(_responsible, _approving, _copied_companies), is_open=_shown_to_all,
        ),
        number=lambda row: shown_number(row.number, row.revision),
        title=lambda row: row.title,
        address=lambda row: f"/submittals/{row.id}",
        named_by=(SubmittalRow.number, SubmittalRow.title),
        listed=(
            SubmittalRow.id, SubmittalRow.number, SubmittalRow.revision, SubmittalRow.title, SubmittalRow.state,
            SubmittalRow.verdict, SubmittalRow.latest_on,
        ),
        newest=SubmittalRow.made_at,
        topic="submittals",
        tool="submittals",
    )
)  # fmt: skip


def is_of_company(column: Any, company_id: str) -> ColumnElement[bool]:
    """Whether a column names a company, or one that has been merged into it."""
    company = aside("submittals_is_of_company", CompanyRow)
    merged = select(company.id).where(company.merged_into == company_id)
    return or_(column == company_id, column.in_(merged))


def is_copied_to(person_id: str, company_id: str) -> ColumnElement[bool]:
    """Submittals where a person is copied in, by themselves or with their company."""
    copied = aside("submittals_is_copied_to", SubmittalCopiedRow)
    person = (copied.kind == "person") & (copied.party_id == person_id)
    company = (copied.kind == "company") & is_of_company(copied.party_id, company_id)
    inside = select(copied.submittal_id).where(or_(person, company))
    return SubmittalRow.id.in_(inside)


def companies_now(session: Session, ids: Collection[str]) -> dict[str, CompanyRow]:
    """By id, the company that it is now: one that was merged into another is that one."""
    found = {row.id: row for row in session.scalars(select(CompanyRow).where(one_of(CompanyRow.id, list(ids))))}
    merged = {row.merged_into for row in found.values() if row.merged_into}
    into = {row.id: row for row in session.scalars(select(CompanyRow).where(CompanyRow.id.in_(merged)))}
    return {id: into.get(row.merged_into or "", row) for id, row in found.items()}
