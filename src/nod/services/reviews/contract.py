"""The contract's clock on a review: by when the contract wants an answer on its documents (handbook §8)."""

from __future__ import annotations

from collections.abc import Collection
from datetime import date
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from nod.core.acts.answer_times import SILENCE, Term, answer_by, received_on, term_for, term_words
from nod.core.acts.working_days import Counting
from nod.services.acts.answers import Answered
from nod.services.acts.context import project_clock
from nod.store.dialects.sqlite import one_of
from nod.store.tables import CompanyRow, DocumentRow, PersonRow, ProjectRow, ReviewRow, RevisionRow


class ContractDay(Answered):
    """The soonest day on which the contract wants an answer, for which document, and what silence means by it."""

    answer_by: date
    number: str
    received_on: date
    words: str
    silence: str
    silence_words: str


class ReviewContract(Answered):
    """By when the contract wants an answer; `days_late` in calendar days, 0 while there is time or it was in time.

    `warning` says that the path will take longer than that.
    """

    answer_by: date
    days_late: int
    silence_words: str
    warning: str


def contract_shown(row: ReviewRow, ends_on: date | None, today: date) -> ReviewContract | None:
    """`today` is the day it ended, once it has; `ends_on` when it is expected to."""
    if row.answer_by is None:
        return None
    warning = ""
    if ends_on and ends_on > row.answer_by:
        warning = f"The path is expected to end on {ends_on:%-d %B %Y}, after the day that the contract sets."
    return ReviewContract(
        answer_by=row.answer_by, days_late=max(0, (today - row.answer_by).days), silence_words=SILENCE[row.silence],
        warning=warning,
    )  # fmt: skip


def terms_of(project: ProjectRow) -> tuple[Term, ...]:
    return tuple(_term(each) for each in project.rules.get("answer_terms", ()))


def _term(kept: dict[str, Any]) -> Term:
    return Term(**{**kept, "counting": Counting(kept["counting"])})


def contract_day(session: Session, project: ProjectRow, revision_ids: Collection[str]) -> ContractDay | None:
    """Of the documents at these revisions, the one that must be answered first; None where no term is for any.

    Whose paper it is: the company it is said to come from, otherwise that of whoever filed it.
    """
    terms = terms_of(project)
    if not terms or not revision_ids:
        return None
    clock = project_clock(session, project)
    named = select(CompanyRow.id).where(CompanyRow.name == RevisionRow.came_from).limit(1).scalar_subquery()
    query = (
        select(DocumentRow.number, RevisionRow.arrived_at, func.coalesce(named, PersonRow.company_id))
        .join(RevisionRow, RevisionRow.document_id == DocumentRow.id)
        .join(PersonRow, PersonRow.id == RevisionRow.filed_by)
        .where(one_of(RevisionRow.id, list(revision_ids)))
        .order_by(DocumentRow.number)
    )
    found: list[ContractDay] = []
    for number, arrived_at, company_id in session.execute(query):
        term = term_for(terms, "review", company_id)
        if term is not None:
            received = received_on(arrived_at, term, clock)
            found.append(
                ContractDay(
                    answer_by=answer_by(received, term, clock.calendar), number=number, received_on=received,
                    words=term_words(term), silence=term.silence, silence_words=SILENCE[term.silence],
                )
            )  # fmt: skip
    return min(found, key=lambda each: each.answer_by, default=None)


def put_contract(session: Session, project: ProjectRow, review: ReviewRow, revision_ids: Collection[str]) -> None:
    """The review keeps the day, whatever the table says later; it is reckoned anew when a newer revision goes on."""
    day = contract_day(session, project, revision_ids)
    review.answer_by, review.silence = (day.answer_by, day.silence) if day else (None, "nothing")


def too_long(day: ContractDay | None, ends_on: date | None) -> str:
    """The warning where a path ends after the day; empty where it does not."""
    if day is None or ends_on is None or ends_on <= day.answer_by:
        return ""
    return (
        f"Too late by the contract: {day.number} came on {day.received_on:%-d %B %Y} and wants an answer by"
        f" {day.answer_by:%-d %B %Y}. This path ends on {ends_on:%-d %B %Y}."
    )
