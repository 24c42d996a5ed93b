"""Bringing companies up to date: a draft each, of what it has not; and hand-overs on paper (handbook §10)."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.acts.counted import counted
from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.access.visibility import see_documents, see_revision
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting, today_in
from nod.services.acts.seats import Actor, Seat
from nod.services.transmittals.drafts import MOST_REVISIONS, DraftContent, add_draft
from nod.services.transmittals.holders import companies_seen
from nod.services.transmittals.holding import refresh_holders
from nod.store.dialects.sqlite import one_of
from nod.store.ids import new_id
from nod.store.tables import (
    DocumentRow,
    HandOverRow,
    MembershipRow,
    PersonRow,
    RecipientRow,
    TransmittalDocumentRow,
    TransmittalRow,
)

_MOST_CELLS = 5000


class CellGiven(Command):
    document_id: str
    company_id: str


class CatchUp(Command):
    """Cells of the grid: each company gets what is in force of its documents."""

    project_id: str
    cells: list[CellGiven] = Field(min_length=1, max_length=_MOST_CELLS)


class DraftMade(Answered):
    id: str
    company: str
    documents: int


class CaughtUp(Answered):
    """`left_out` are numbers of documents of which nothing is in force."""

    drafts: list[DraftMade]
    left_out: list[str]


class HandOver(Command):
    revision_id: str
    company_id: str
    to_whom: str = Field(max_length=120)
    count: int = Field(default=1, ge=1, le=1000)
    on: date = Field(strict=False)
    note: str = Field(default="", max_length=500)


class HandedOver(Answered):
    id: str


def catch_up(context: Context, actor: Actor, command: CatchUp) -> CaughtUp:
    """One draft a company, in one act. Raises NotFound for what one does not see, RuleBroken with nothing to send.

    It goes to those who got a document of these last, or else to all of the company.
    """
    with acting(context, actor) as act:
        seat = act.enter(command.project_id, Level.FILE, "transmittals")
        companies = {each.id: each for each in companies_seen(act.session, seat, actor)}
        wanted: dict[str, list[str]] = {}
        for cell in command.cells:
            if cell.company_id not in companies:
                raise NotFound(cell.company_id)
            wanted.setdefault(cell.company_id, []).append(cell.document_id)
        ids = list(dict.fromkeys(each.document_id for each in command.cells))
        documents = {row.id: row for row in see_documents(act.session, seat, ids, Level.FILE)}
        left_out = [row.number for row in documents.values() if not row.in_force_id]
        drafts = []
        for company_id, of in wanted.items():
            rows = sorted((documents[each] for each in set(of)), key=lambda row: row.number)
            revisions = [row.in_force_id for row in rows if row.in_force_id][:MOST_REVISIONS]
            if not revisions:
                continue
            people = people_of(act.session, seat, company_id, [row.id for row in rows])
            content = DraftContent(revisions=revisions, people=people)
            code = companies[company_id].code
            made = add_draft(act, seat, content, f"brings {code} up to date")
            drafts.append(DraftMade(id=made.id, company=code, documents=len(revisions)))
        if not drafts:
            raise RuleBroken("nothing_in_force", "Nothing is in force of these documents, so nothing can be sent.")
        return CaughtUp(drafts=drafts, left_out=sorted(left_out))


def people_of(session: Session, seat: Seat, company_id: str, document_ids: Sequence[str]) -> list[str]:
    """Those of the company in the project who were sent one of the documents; all of it, where none was."""
    here = (
        select(PersonRow.id)
        .join(MembershipRow, MembershipRow.person_id == PersonRow.id)
        .where(
            MembershipRow.project_id == seat.project.id, MembershipRow.state != "removed",
            PersonRow.company_id == company_id,
        )
        .order_by(PersonRow.name)
    )  # fmt: skip
    everybody = list(session.scalars(here))
    before = (
        select(RecipientRow.person_id)
        .join(TransmittalRow, TransmittalRow.id == RecipientRow.transmittal_id)
        .join(TransmittalDocumentRow, TransmittalDocumentRow.transmittal_id == TransmittalRow.id)
        .where(
            one_of(TransmittalDocumentRow.document_id, document_ids), TransmittalRow.voided_at.is_(None),
            ~RecipientRow.copied,
        )
    )  # fmt: skip
    got = set(session.scalars(before))
    return [each for each in everybody if each in got] or everybody


def hand_over(context: Context, actor: Actor, command: HandOver) -> HandedOver:
    """On paper, as it happened. Raises RuleBroken without a name, and for a day to come."""
    with acting(context, actor) as act:
        revision, document, seat = see_revision(act.session, actor, command.revision_id, Level.FILE)
        seat.need_tool("transmittals")
        company = next(
            (each for each in companies_seen(act.session, seat, actor) if each.id == command.company_id), None
        )  # fmt: skip
        if company is None:
            raise NotFound(command.company_id)
        to_whom = " ".join(command.to_whom.split())
        about = f"{document.number} {revision.code}"
        if not to_whom:
            raise RuleBroken("name_missing", "Say who took it.", about)
        if command.on > today_in(seat.project, act.at):
            raise RuleBroken("day_to_come", "It was handed over today at the latest.", about)
        row = HandOverRow(
            id=new_id(), project_id=seat.project.id, document_id=document.id, revision_id=revision.id,
            company_id=company.id, to_whom=to_whom, count=command.count, on=command.on, note=command.note.strip(),
            entered_by=actor.person_id, entered_at=act.at,
        )  # fmt: skip
        act.session.add(row)
        after = {"to": f"{to_whom}, {company.code}", "on": command.on.isoformat(), "copies": command.count}
        _note(act, document, row, FactKind.HANDED_OVER, after)
        return HandedOver(id=row.id)


def take_hand_over_back(context: Context, actor: Actor, hand_over_id: str) -> None:
    """What was entered by mistake, by who may enter it. It stays in the trail."""
    with acting(context, actor) as act:
        row = act.session.get(HandOverRow, hand_over_id)
        if row is None or row.removed_at:
            raise NotFound(hand_over_id)
        try:
            _, document, _ = see_revision(act.session, actor, row.revision_id, Level.FILE)
        except NotFound as hidden:
            raise NotFound(hand_over_id) from hidden
        row.removed_at = act.at
        _note(act, document, row, FactKind.HAND_OVER_REMOVED, {"to": row.to_whom, "copies": row.count})


def _note(act: Act, document: DocumentRow, row: HandOverRow, kind: FactKind, after: dict[str, object]) -> None:
    subjects = (Subject("revision", row.revision_id), Subject("company", row.company_id))
    about = f"{document.number}, {counted(row.count, 'copy', 'copies')} on paper"
    act.record(row.project_id, Fact(kind, Subject("document", document.id), about, subjects, after=after))
    refresh_holders(act.session, [document.id])
    act.tell(row.project_id, "transmittals", document.id, {document.folder_id})
