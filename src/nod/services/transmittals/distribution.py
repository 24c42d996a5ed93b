"""What the distribution matrix owes: what each company is to get by it and has not, and the drafts of it."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, time
from typing import Any
from zoneinfo import ZoneInfo

from pydantic import Field
from sqlalchemy import ColumnElement, ColumnExpressionArgument, case, func, select
from sqlalchemy.orm import Session, aliased

from nod.core.access.levels import Level
from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.transmittals.distribution import Holder, Line, Owed, Share, share_of, unite
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.services.transmittals.catching_up import DraftMade, people_of
from nod.services.transmittals.drafts import MOST_REVISIONS, DraftContent, add_draft
from nod.store.dialects.sqlite import one_of, unindexed
from nod.store.tables import (
    NO_COPY,
    CompanyRow,
    DocumentRow,
    HoldingRow,
    MembershipRow,
    PersonRow,
    ProjectRow,
    RevisionRow,
    TransmittalDraftRow,
)

_MOST_SHOWN, _MOST_LACKED = 200, 20_000


class DueDocument(Answered):
    """A revision that a company is to get; `in_draft`: a draft of one's company has it already."""

    document_id: str
    revision_id: str
    number: str
    title: str
    revision: str
    act: bool
    in_draft: bool


class DueCompany(Answered):
    """`act` and `know` count what is in no draft yet; `documents` are the first of all."""

    id: str
    code: str
    name: str
    act: int
    know: int
    in_drafts: int
    documents: list[DueDocument]


class Due(Answered):
    """`lines` of the matrix: without any, nothing is ever due."""

    companies: list[DueCompany]
    lines: int


class PrepareDue(Command):
    """The companies that are to get what is due to them."""

    project_id: str
    companies: list[str] = Field(min_length=1, max_length=500)


class DuePrepared(Answered):
    drafts: list[DraftMade]


@dataclass(frozen=True, eq=False)
class Company:
    """A company with somebody in the project. `roles` has by role those of its people who have it."""

    id: str
    code: str
    name: str
    people: int
    roles: Mapping[str, Sequence[str]]


@dataclass(frozen=True)
class DueOne:
    document_id: str
    revision_id: str
    number: str
    title: str
    revision: str
    owed: Owed


def matrix_of(project: ProjectRow) -> list[Line]:
    return [_line(each) for each in project.rules.get("distribution", ())]


def _line(kept: dict[str, Any]) -> Line:
    shares: dict[Holder, Share] = {(kind, id): Share(share) for kind, id, share in kept["shares"]}
    since = date.fromisoformat(kept["since"]) if kept["since"] else None
    return Line(
        kept["discipline"],
        kept["form"],
        kept["status"],
        kept["when"],
        kept["purpose"],
        since,
        shares,
        kept.get("sent_by", ""),
    )


def companies_here(session: Session, project_id: str) -> list[Company]:
    """By code."""
    query = (
        select(CompanyRow.id, CompanyRow.code, CompanyRow.name, PersonRow.id.label("person_id"), MembershipRow.roles)
        .join(PersonRow, PersonRow.company_id == CompanyRow.id)
        .join(MembershipRow, MembershipRow.person_id == PersonRow.id)
        .where(MembershipRow.project_id == project_id, MembershipRow.state != "removed")
        .order_by(CompanyRow.code, PersonRow.name)
    )
    of: dict[str, list[Any]] = {}
    for row in session.execute(query):
        of.setdefault(row.id, []).append(row)
    found = []
    for id, rows in of.items():
        roles: dict[str, list[str]] = {}
        for row in rows:
            for role in row.roles:
                roles.setdefault(role, []).append(row.person_id)
        found.append(Company(id, rows[0].code, rows[0].name, len(rows), roles))
    return found


def due_of(
    session: Session,
    project: ProjectRow,
    lines: Sequence[Line],
    companies: Sequence[Company],
    only: Collection[str] | None = None,
) -> dict[str, dict[str, DueOne]]:
    """By company and document, what it is to get and has neither as this revision nor as a later one.

    Of a line, the first 20,000 documents that somebody lacks; `only` of these documents, if they are named.
    """
    due: dict[str, dict[str, DueOne]] = {each.id: {} for each in companies}
    for line in lines:
        given = {each: share for each in companies if (share := share_of(line, each.id, each.roles))}
        rows = _lacked(session, project, line, list(given), only) if given else []
        places = _places(session, [row.id for row in rows], [each.id for each in given])
        for row in rows:
            for company, share in given.items():
                # Whoever it came from has it.
                if places.get((row.id, company.id), -1) >= row.place or row.came_from == company.name:
                    continue
                found = due[company.id]
                before = found.get(row.id)
                owed = unite(before.owed if before else None, line, share)
                if before is None or owed is not before.owed:
                    found[row.id] = DueOne(row.id, row.revision_id, row.number, row.title, row.code, owed)
    return due


def _lacked(
    session: Session, project: ProjectRow, line: Line, companies: Sequence[Company], only: Collection[str] | None
) -> Sequence[Any]:
    """Documents of a line that one of the companies does not hold as the revision that is due.

    Each is decided by one walk over those who hold it, in an index.
    """
    of, wanted = DocumentRow, aliased(RevisionRow)
    target = of.in_force_id if line.when == "released" else of.revision_id
    held = aliased(HoldingRow)
    # Of these alone, that hold it as this revision; who holds a later one is seen in Python.
    has = (
        (held.document_id == of.id) & (held.revision_id == wanted.id)
        & (held.company_id + "").in_([each.id for each in companies])
    )  # fmt: skip
    author = case({each.name: each.id for each in companies}, value=wanted.came_from)
    have, others_have = (
        select(func.count()).select_from(held).where(has, *more).scalar_subquery()
        for more in ((), (held.company_id != author,))
    )
    project_id = of.project_id if only is None else unindexed(of.project_id)
    count, own = len(companies), wanted.came_from.in_([each.name for each in companies])
    lacked = case((own, others_have < count - 1), else_=have < count)
    query = (
        select(
            of.id, of.number, wanted.title, wanted.id.label("revision_id"), wanted.code, wanted.place, wanted.came_from
        )
        .join(wanted, wanted.id == target)
        .where(
            project_id == project.id, of.copy_of == NO_COPY, ~of.withdrawn, *_of_line(project, line, wanted), lacked,
            *([] if only is None else [one_of(of.id, list(only))]),
        )
        .order_by(of.number)
        .limit(_MOST_LACKED)
    )  # fmt: skip
    return session.execute(query).all()


def _places(session: Session, document_ids: Sequence[str], company_ids: Sequence[str]) -> dict[tuple[str, str], int]:
    """Of what these companies hold of these documents."""
    query = (
        select(HoldingRow.document_id, HoldingRow.company_id, RevisionRow.place)
        .join(RevisionRow, RevisionRow.id == HoldingRow.revision_id)
        .where(one_of(HoldingRow.document_id, document_ids), HoldingRow.company_id.in_(company_ids))
    )
    return {(document_id, company_id): place for document_id, company_id, place in session.execute(query)}


def _of_line(project: ProjectRow, line: Line, wanted: Any) -> Iterator[ColumnElement[bool]]:
    of = DocumentRow
    named: tuple[tuple[ColumnExpressionArgument[str], str], ...] = (
        (of.discipline, line.discipline), (of.form, line.form), (wanted.status, line.status),
    )  # fmt: skip
    for column, code in named:
        if code:
            yield column == code  # type: ignore[misc]
    if line.when == "accepted":
        usable = [each["code"] for each in project.rules["verdict_set"] if each["may_be_used"]]
        yield of.verdict.in_(usable)
    if line.since:
        yield wanted.filed_at >= datetime.combine(line.since, time(), ZoneInfo(project.time_zone))


def read_due(context: Context, actor: Actor, project_id: str) -> Due:
    """For those who run the project."""
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        seat.need_tool("transmittals")
        seat.need_to_run()
        lines = matrix_of(seat.project)
        companies = companies_here(session, project_id) if lines else []
        due, drafted = due_of(session, seat.project, lines, companies), drafted_of(session, seat, actor)
        shown = [_shown(each, due[each.id], drafted.get(each.code, set())) for each in companies if due[each.id]]
        return Due(companies=shown, lines=len(lines))


def _shown(company: Company, due: Mapping[str, DueOne], drafted: set[str]) -> DueCompany:
    ones = sorted(due.values(), key=lambda each: each.number)
    open_ones = [each for each in ones if each.revision_id not in drafted]
    act = sum(each.owed.share is Share.ACT for each in open_ones)
    return DueCompany(
        id=company.id, code=company.code, name=company.name, act=act, know=len(open_ones) - act,
        in_drafts=len(ones) - len(open_ones),
        documents=[
            DueDocument(
                document_id=each.document_id, revision_id=each.revision_id, number=each.number, title=each.title,
                revision=each.revision, act=each.owed.share is Share.ACT, in_draft=each.revision_id in drafted,
            )
            for each in ones[:_MOST_SHOWN]
        ],
    )  # fmt: skip


_WHY = "due to {} by the matrix"


def drafted_of(session: Session, seat: Seat, actor: Actor) -> dict[str, set[str]]:
    """By the code of the company that it is for, the revisions in drafts that were made of what is due."""
    query = select(TransmittalDraftRow).where(
        TransmittalDraftRow.project_id == seat.project.id, TransmittalDraftRow.company_id == actor.company_id
    )
    found: dict[str, set[str]] = {}
    head, tail = _WHY.split("{}")
    for row in session.scalars(query):
        code = row.why.split(",")[0]
        if code.startswith(head) and code.endswith(tail):
            found.setdefault(code.removeprefix(head).removesuffix(tail), set()).update(row.content["revisions"])
    return found


def prepare_due(context: Context, actor: Actor, command: PrepareDue) -> DuePrepared:
    """A draft a company and purpose of what is due to it and in no draft yet, in one act; nothing is sent.

    Raises NotFound for a company that has nobody in the project, RuleBroken where nothing is due.
    """
    with acting(context, actor) as act:
        seat = act.enter(command.project_id, Level.FILE, "transmittals")
        seat.need_to_run()
        lines, here = matrix_of(seat.project), companies_here(act.session, command.project_id)
        chosen = [each for each in here if each.id in set(command.companies)]
        if missing := set(command.companies) - {each.id for each in chosen}:
            raise NotFound(min(missing))
        due, drafted = due_of(act.session, seat.project, lines, chosen), drafted_of(act.session, seat, actor)
        drafts = [
            made
            for company in chosen
            for made in _drafts(act, seat, lines, company, due[company.id], drafted.get(company.code, set()))
        ]
        if not drafts:
            raise RuleBroken("nothing_due", "Nothing is due to them that is not in a draft already.")
        return DuePrepared(drafts=drafts)


def by_owed(due: Mapping[str, DueOne], drafted: Collection[str]) -> dict[Owed, list[DueOne]]:
    """What is due and in no draft yet, by number: one transmittal each."""
    groups: dict[Owed, list[DueOne]] = {}
    for each in sorted(due.values(), key=lambda each: each.number):
        if each.revision_id not in drafted:
            groups.setdefault(each.owed, []).append(each)
    return groups


def _drafts(
    act: Act, seat: Seat, lines: Sequence[Line], company: Company, due: Mapping[str, DueOne], drafted: set[str]
) -> Iterator[DraftMade]:
    for owed, ones in by_owed(due, drafted).items():
        ids = [each.document_id for each in ones]
        people = recipients_by(act.session, seat, lines, company, owed.share, ids)
        revisions = [each.revision_id for each in ones][:MOST_REVISIONS]
        content = DraftContent(revisions=revisions, people=people, purpose=owed.purpose)
        words = "to act on" if owed.share is Share.ACT else "to know"
        made = add_draft(act, seat, content, f"{_WHY.format(company.code)}, {words}")
        yield DraftMade(id=made.id, company=company.code, documents=len(revisions))


def recipients_by(
    session: Session, seat: Seat, lines: Sequence[Line], company: Company, share: Share, document_ids: Sequence[str]
) -> list[str]:
    """Of a company that has a cell of its own, those who got such last, or all; and those in roles that have one."""
    cells = {holder for line in lines for holder, given in line.shares.items() if given is share}
    in_roles = {id for role, people in company.roles.items() if ("role", role) in cells for id in people}
    theirs = people_of(session, seat, company.id, document_ids) if ("company", company.id) in cells else []
    return [*theirs, *sorted(in_roles - set(theirs))]
