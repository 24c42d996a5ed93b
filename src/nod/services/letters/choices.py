"""What one chooses from while writing: kinds, and to whom one may write."""

from __future__ import annotations

from datetime import date
from zoneinfo import ZoneInfo

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.working_days import due_on, local_date
from nod.core.letters.bars import ServedHow
from nod.services.acts.answers import Answered
from nod.services.acts.context import Context, project_clock
from nod.services.acts.seats import Actor, take_seat
from nod.services.letters.kind import LETTER
from nod.services.letters.letter_rows import letter_kinds
from nod.services.mail.mails import address_for_answers
from nod.store.tables import CompanyRow, MembershipRow, PersonRow, ProjectRow


class LetterKindShown(Answered):
    """`due_on` is by when an answer is wanted to one that is sent today; null for a kind that wants none. `bar` words
    by when one must be served, empty for no notice; `looked_at`: somebody else looks at one before it goes.
    """

    code: str
    words: str
    asks: bool
    answer_days: int
    counting: str
    due_on: date | None
    bar: str
    looked_at: bool
    out_of_use: bool


class LetterPerson(Answered):
    """`contact`: somebody outside, who gets mails and a link."""

    id: str
    name: str
    company_id: str
    company: str
    job: str
    contact: bool


class LetterParties(Answered):
    id: str
    code: str
    name: str
    people: int


class LetterChoices(Answered):
    """Kinds in the order of the set-up, people and companies by name.

    `all_companies` are those of the directory, for who may add somebody outside. `own_company` is the viewer's, by
    name. A mail to `address`, the project's own, begins a thread. `served` are the ways in which a notice is served.
    """

    kinds: list[LetterKindShown]
    served: list[str]
    people: list[LetterPerson]
    companies: list[LetterParties]
    all_companies: list[LetterParties]
    own_company: str
    address: str


def read_choices(context: Context, actor: Actor, project_id: str) -> LetterChoices:
    """Raises NotAllowed without the tool."""
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        seat.need_tool(LETTER.tool)
        people = _people(session, seat.project)
        return LetterChoices(
            kinds=_kinds(context, session, seat.project), served=[each.value for each in ServedHow], people=people,
            companies=_companies(session, people), all_companies=_all_companies(session) if seat.runs else [],
            own_company=session.get_one(CompanyRow, actor.company_id).name, address=address_for_answers(context,
            seat.project), )  # fmt: skip


def _kinds(context: Context, session: Session, project: ProjectRow) -> list[LetterKindShown]:
    today = local_date(context.clock.now(), ZoneInfo(project.time_zone))
    calendar = project_clock(session, project).calendar
    return [
        LetterKindShown(
            code=each.code, words=each.words, asks=each.asks, answer_days=each.answer_days,
            counting=each.counting.value, out_of_use=each.out_of_use, looked_at=each.looked_at,
            bar=f"{each.bar} {each.bar_in.value}" if each.bar else "",
            due_on=due_on(today, each.answer_days, each.counting, calendar) if each.answer_days else None,
        )
        for each in letter_kinds(project)
    ]  # fmt: skip


def _people(session: Session, project: ProjectRow) -> list[LetterPerson]:
    query = (
        select(PersonRow, MembershipRow.state, CompanyRow)
        .join(MembershipRow, MembershipRow.person_id == PersonRow.id)
        .join(CompanyRow, CompanyRow.id == PersonRow.company_id)
        .where(MembershipRow.project_id == project.id, MembershipRow.state != "removed", PersonRow.state != "removed")
        .order_by(PersonRow.name)
    )
    return [
        LetterPerson(
            id=person.id, name=person.name, company_id=company.id, company=company.code, job=person.job,
            contact=state == "contact",
        )
        for person, state, company in session.execute(query)
    ]  # fmt: skip


def _companies(session: Session, people: list[LetterPerson]) -> list[LetterParties]:
    """Those that have people here who sign in: a company is written to through them."""
    counts: dict[str, int] = {}
    for each in people:
        if not each.contact:
            counts[each.company_id] = counts.get(each.company_id, 0) + 1
    rows = session.scalars(select(CompanyRow).where(CompanyRow.id.in_(counts)).order_by(CompanyRow.name))
    return [LetterParties(id=row.id, code=row.code, name=row.name, people=counts[row.id]) for row in rows]


def _all_companies(session: Session) -> list[LetterParties]:
    rows = session.scalars(select(CompanyRow).where(CompanyRow.merged_into.is_(None)).order_by(CompanyRow.code))
    return [LetterParties(id=row.id, code=row.code, name=row.name, people=0) for row in rows]
