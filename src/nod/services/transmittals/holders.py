"""Holders: documents down, companies across, each cell what a company has against what is in force (handbook §10)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime
from typing import Any, Literal

from sqlalchemy import ColumnElement, exists, or_, select
from sqlalchemy.orm import Session, aliased

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.register.filters import Filter
from nod.core.transmittals.holders import Cell, CellState, Held, Places, cell_of
from nod.services.access.visibility import see_document
from nod.services.acts.answers import Answered, Who, people_by_id
from nod.services.acts.context import Context
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.services.register.register_list import AskedView, read_view
from nod.services.transmittals.kind import TRANSMITTAL
from nod.store import register_query
from nod.store.dialects.sqlite import one_of
from nod.store.tables import (
    NO_COPY,
    CompanyRow,
    DocumentRow,
    HandOverRow,
    HoldingRow,
    MembershipRow,
    PersonRow,
    RecipientRow,
    RevisionRow,
    TransmittalDocumentRow,
    TransmittalRow,
)

State = Literal["", "in_step", "not_acknowledged", "behind", "ahead", "withdrawn", "never", "held"]


@dataclass(frozen=True)
class AskedHolders:
    """A list of the register (`words`, `filters`), narrowed to documents of which a company, or any, stands so.

    `held` is anything but never sent. `cursor` goes on from the page before.
    """

    project_id: str
    words: str = ""
    filters: str = ""
    state: State = ""
    company_id: str = ""
    cursor: str = ""
    limit: int = 100


class HolderCompany(Answered):
    id: str
    code: str
    name: str


class HolderCell(Answered):
    """`revision` is what the company has, `behind` what it has not; empty where nothing was sent to it.

    `older_at`: an older one went to it by mistake since.
    """

    state: str
    revision_id: str
    revision: str
    behind: list[str]
    sent_at: datetime | None
    opened_at: datetime | None
    acknowledged_at: datetime | None
    older_at: datetime | None


class HolderLine(Answered):
    """`cells` are in the order of the companies."""

    document_id: str
    number: str
    title: str
    revision: str
    in_force: str
    withdrawn: bool
    cells: list[HolderCell]


class HoldersPage(Answered):
    companies: list[HolderCompany]
    lines: list[HolderLine]
    cursor: str
    total: int


class SentOnce(Answered):
    """One sending of a document to somebody of a company, or a hand-over on paper (`paper`, `count` times)."""

    transmittal_id: str
    hand_over_id: str
    number: str
    paper: str
    count: int
    revision: str
    company: str
    who: Who | None
    at: datetime | None
    on: date | None
    opened_at: datetime | None
    downloaded_at: datetime | None
    acknowledged_at: datetime | None
    copied: bool
    void: bool


class DocumentHolders(Answered):
    """Of one document: each company's cell, and all that was ever sent of it, the newest first."""

    companies: list[HolderCompany]
    cells: list[HolderCell]
    sendings: list[SentOnce]


def list_holders(context: Context, actor: Actor, asked: AskedHolders) -> HoldersPage:
    """Whoever runs the project sees all companies, others their own. Raises RuleBroken for what is no list."""
    with context.database.read() as session:
        seat = take_seat(session, actor, asked.project_id)
        seat.need_tool("transmittals")
        companies = companies_seen(session, seat, actor)
        if asked.company_id and asked.company_id not in {each.id for each in companies}:
            raise NotFound(asked.company_id)
        view = read_view(
            session, seat, AskedView(asked.project_id, asked.words, asked.filters, cursor=asked.cursor,
                                     limit=asked.limit),
        )  # fmt: skip
        if asked.state == "withdrawn":
            view = replace(view, filters=(*view.filters, Filter("withdrawn", "yes", ())))
        every = None if seat.runs else [each.id for each in companies]
        ids = [asked.company_id] if asked.company_id else every
        view = replace(view, among=_among(asked.state, ids))
        hits = register_query.hits_of(session, view.words)
        total = register_query.count(session, view, hits)
        try:
            page = register_query.read_page(session, view, total, hits)
        except (ValueError, TypeError, AttributeError, RecursionError) as error:
            raise RuleBroken("view_unknown", "This list cannot be continued from there.", asked.cursor[:80]) from error
        cells = cells_of(session, [row.id for row in page.rows])
        return HoldersPage(
            companies=companies, total=total, cursor=page.cursor,
            lines=[
                HolderLine(
                    document_id=row.id, number=row.number, title=row.title, revision=row.revision,
                    in_force=row.in_force, withdrawn=row.withdrawn,
                    cells=[_shown(cells.get((row.id, each.id))) for each in companies],
                )
                for row in page.rows
            ],
        )  # fmt: skip


def companies_seen(session: Session, seat: Seat, actor: Actor) -> list[HolderCompany]:
    """Those with somebody in the project, and those that hold something of it, by code."""
    here = seat.project.id
    query = select(CompanyRow).where(CompanyRow.merged_into.is_(None)).order_by(CompanyRow.code)
    if not seat.runs:
        query = query.where(CompanyRow.id == actor.company_id)
    else:
        member = exists().where(
            MembershipRow.project_id == here, MembershipRow.state != "removed",
            PersonRow.id == MembershipRow.person_id, PersonRow.company_id == CompanyRow.id,
        )  # fmt: skip
        holds = exists().where(
            HoldingRow.company_id == CompanyRow.id, DocumentRow.id == HoldingRow.document_id,
            DocumentRow.project_id == here,
        )  # fmt: skip
        query = query.where(or_(member, holds))
    return [HolderCompany(id=row.id, code=row.code, name=row.name) for row in session.scalars(query)]


def _among(state: State, companies: Sequence[str] | None) -> ColumnElement[bool]:
    """Of documents, no copies: those of which one of the companies, or any, stands so.

    Most hold what is in force: that is seen by the ids alone, on an index, before any place is looked up.
    """
    own = DocumentRow.copy_of == NO_COPY
    if not state:
        return own
    holding = aliased(HoldingRow)
    of = select(holding.document_id).where(holding.document_id == DocumentRow.id).correlate(DocumentRow)
    if companies is not None:
        of = of.where(holding.company_id.in_(companies))
    if state == "never":
        return own & ~exists(of)
    waits = holding.wanted & holding.acknowledged_at.is_(None)
    same = holding.revision_id == DocumentRow.in_force_id
    conditions: Mapping[str, Any] = {
        "behind": ~same & (DocumentRow.in_force_id != "") & (_place_of(holding.revision_id) < _in_force_place()),
        "ahead": ~same & ((DocumentRow.in_force_id == "") | (_place_of(holding.revision_id) > _in_force_place())),
        "not_acknowledged": same & waits,
        "in_step": same & ~waits,
    }
    return own & exists(of.where(conditions[state]) if state in conditions else of)


def _place_of(revision_id: Any) -> Any:
    row = aliased(RevisionRow)
    return select(row.place).where(row.id == revision_id).scalar_subquery()


def _in_force_place() -> Any:
    row = aliased(RevisionRow)
    return select(row.place).where(row.id == DocumentRow.in_force_id).correlate(DocumentRow).scalar_subquery()


@dataclass(frozen=True)
class Found:
    """What a company has, with the code of that revision, and how it stands."""

    revision_id: str
    revision: str
    held: Held
    cell: Cell


def cells_of(session: Session, document_ids: Sequence[str]) -> dict[tuple[str, str], Found]:
    """By document and company, of those who hold something, in a fixed number of queries."""
    of, row = HoldingRow, RevisionRow
    rows = session.execute(
        select(
            of.document_id, of.company_id, of.revision_id, row.code, row.place, of.sent_at, of.opened_at,
            of.acknowledged_at, of.wanted, of.older_at,
        )
        .join(row, row.id == of.revision_id)
        .where(one_of(of.document_id, document_ids))
    ).all()  # fmt: skip
    places = _places(session, {each.document_id for each in rows})
    found: dict[tuple[str, str], Found] = {}
    for document_id, company_id, revision_id, code, *held in rows:
        what = Held(*held)
        found[document_id, company_id] = Found(revision_id, code, what, cell_of(what, places[document_id]))
    return found


def _places(session: Session, ids: set[str]) -> dict[str, Places]:
    documents = session.execute(
        select(DocumentRow.id, DocumentRow.in_force_id, DocumentRow.withdrawn).where(one_of(DocumentRow.id, ids))
    ).all()
    query = select(RevisionRow.document_id, RevisionRow.id, RevisionRow.place, RevisionRow.code,
                   RevisionRow.released_at.is_not(None))  # fmt: skip
    of: dict[str, list[tuple[str, int, str, bool]]] = {}
    rows = session.execute(query.where(one_of(RevisionRow.document_id, ids)).order_by(RevisionRow.place))
    for document_id, id, place, code, released in rows:
        of.setdefault(document_id, []).append((id, place, code, released))
    return {
        id: Places(
            next((place for revision, place, _, _ in of[id] if revision == in_force), None),
            [(place, code) for _, place, code, released in of[id] if released], withdrawn,
        )
        for id, in_force, withdrawn in documents
    }  # fmt: skip


def _shown(found: Found | None) -> HolderCell:
    if found is None:
        return _NEVER
    held, cell = found.held, found.cell
    return HolderCell.model_construct(
        state=cell.state.value, revision_id=found.revision_id, revision=found.revision, behind=list(cell.behind),
        sent_at=held.sent_at, opened_at=held.opened_at, acknowledged_at=held.acknowledged_at, older_at=held.older_at,
    )  # fmt: skip


_NEVER = HolderCell(
    state=CellState.NEVER.value, revision_id="", revision="", behind=[], sent_at=None, opened_at=None,
    acknowledged_at=None, older_at=None,
)  # fmt: skip


def read_document_holders(context: Context, actor: Actor, document_id: str) -> DocumentHolders:
    """Companies see their own line alone, and of sendings those that they sent or got."""
    with context.database.read() as session:
        _, seat = see_document(session, actor, document_id)
        companies = companies_seen(session, seat, actor)
        cells = cells_of(session, [document_id])
        return DocumentHolders(
            companies=companies, cells=[_shown(cells.get((document_id, each.id))) for each in companies],
            sendings=_sendings(session, seat, actor, document_id),
        )  # fmt: skip


def _sendings(session: Session, seat: Seat, actor: Actor, document_id: str) -> list[SentOnce]:
    rows = session.execute(
        select(TransmittalRow, RecipientRow, RevisionRow.code, CompanyRow.code)
        .join(TransmittalDocumentRow, TransmittalDocumentRow.transmittal_id == TransmittalRow.id)
        .join(RecipientRow, RecipientRow.transmittal_id == TransmittalRow.id)
        .join(RevisionRow, RevisionRow.id == TransmittalDocumentRow.revision_id)
        .join(CompanyRow, CompanyRow.id == RecipientRow.company_id)
        .where(TransmittalDocumentRow.document_id == document_id, TRANSMITTAL.seen(seat))
        .order_by(TransmittalRow.sent_at.desc(), RecipientRow.place)
    ).all()
    people = people_by_id(session, {recipient.person_id for _, recipient, _, _ in rows})
    found = [
        SentOnce(
            transmittal_id=row.id, hand_over_id="", number=row.number, paper="", count=0, revision=code,
            company=company,
            who=people[to.person_id], at=row.sent_at, on=None, copied=to.copied, void=row.voided_at is not None,
            opened_at=to.opened_at, downloaded_at=to.downloaded_at, acknowledged_at=to.acknowledged_at,
        )
        for row, to, code, company in rows
        if seat.runs or actor.company_id in (row.company_id, to.company_id)
    ]  # fmt: skip
    handed = (
        select(HandOverRow, RevisionRow.code, CompanyRow.code)
        .join(RevisionRow, RevisionRow.id == HandOverRow.revision_id)
        .join(CompanyRow, CompanyRow.id == HandOverRow.company_id)
        .where(HandOverRow.document_id == document_id, HandOverRow.removed_at.is_(None))
        .order_by(HandOverRow.on.desc())
    )
    if not seat.runs:
        handed = handed.where(HandOverRow.company_id == actor.company_id)
    return found + [
        SentOnce(
            transmittal_id="", hand_over_id=row.id, number="", paper=row.to_whom, count=row.count, revision=code,
            company=company, who=None,
            at=None, on=row.on, copied=False, void=False, opened_at=None, downloaded_at=None, acknowledged_at=None,
        )
        for row, code, company in session.execute(handed)
    ]  # fmt: skip
