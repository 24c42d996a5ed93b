"""Transmittals as things: for the companies that sent and got them, leads and controllers; drafts for their company."""

from __future__ import annotations

from typing import Any

from sqlalchemy import Select, func, select

from nod.core.trail.entries import Subject
from nod.services.things.audiences import AudienceOf, Of
from nod.services.things.kinds import ThingKind, thing_kind
from nod.store.asides import aside, asides
from nod.store.tables import CompanyRow, RecipientRow, TransmittalDraftRow, TransmittalRow


def _sender(transmittal_id: Any) -> Select[Any]:
    row = aside("transmittals_sender", TransmittalRow)
    return select(row.sent_by).where(row.id == transmittal_id)


def _recipients(transmittal_id: Any) -> Select[Any]:
    to = aside("transmittals_recipients", RecipientRow)
    return select(to.person_id).where(to.transmittal_id == transmittal_id)


def _sending_company(transmittal_id: Any) -> Select[Any]:
    row, company = asides("transmittals_sending_company", TransmittalRow, CompanyRow)
    now = select(func.coalesce(company.merged_into, company.id)).join(row, row.company_id == company.id)
    return now.where(row.id == transmittal_id)


def _receiving_companies(transmittal_id: Any) -> Select[Any]:
    to, company = asides("transmittals_receiving_companies", RecipientRow, CompanyRow)
    now = select(func.coalesce(company.merged_into, company.id)).join(to, to.company_id == company.id)
    return now.where(to.transmittal_id == transmittal_id)


def _of_receipt(column: Any) -> Of:
    """A column of recipients, by their id."""

    def query(recipient_id: Any) -> Select[Any]:
        to = aside("transmittals_of_receipt", RecipientRow)
        return select(getattr(to, column)).where(to.id == recipient_id)

    return query


def _sender_of_receipt(recipient_id: Any) -> Select[Any]:
    to, row, company = asides("transmittals_sender_of_receipt", RecipientRow, TransmittalRow, CompanyRow)
    now = select(func.coalesce(company.merged_into, company.id)).join(row, row.company_id == company.id)
    return now.join(to, to.transmittal_id == row.id).where(to.id == recipient_id)


def _company_of_draft(draft_id: Any) -> Select[Any]:
    row, company = asides("transmittals_company_of_draft", TransmittalDraftRow, CompanyRow)
    now = select(func.coalesce(company.merged_into, company.id)).join(row, row.company_id == company.id)
    return now.where(row.id == draft_id)


TRANSMITTAL = thing_kind(
    ThingKind(
        code="transmittal",
        words="transmittal",
        plural="transmittals",
        row=TransmittalRow,
        audience=AudienceOf(
            people=(_sender, _recipients), companies=(_sending_company, _receiving_companies), is_open=False
        ),
        number=lambda row: row.number,
        title=lambda row: "",
        address=lambda row: f"/transmittals/{row.id}",
        named_by=(TransmittalRow.number, TransmittalRow.note),
        listed=(
            TransmittalRow.id,
            TransmittalRow.number,
            TransmittalRow.purpose,
            TransmittalRow.sent_by,
            TransmittalRow.sent_at,
            TransmittalRow.answer_wanted_on,
        ),
        newest=TransmittalRow.number,
        topic="transmittals",
        tool="transmittals",
    )
)

DRAFT = thing_kind(
    ThingKind(
        code="transmittal_draft",
        words="draft of a transmittal",
        plural="drafts of transmittals",
        row=TransmittalDraftRow,
        audience=AudienceOf(companies=(_company_of_draft,), is_open=False, leads=False, stewards=False),
        number=lambda row: "draft",
        title=lambda row: row.why,
        address=lambda row: f"/transmittals/new?draft={row.id}",
        named_by=(),
        listed=(TransmittalDraftRow.id, TransmittalDraftRow.why),
        newest=TransmittalDraftRow.changed_at,
        topic="transmittals",
        tool="transmittals",
        find=lambda session, seat, words, most: [],
        part_of="transmittal",
        has_talk=False,
    )
)

RECEIPT = thing_kind(
    ThingKind(
        code="receipt",
        words="receipt of a transmittal",
        plural="receipts of transmittals",
        row=RecipientRow,
        audience=AudienceOf(
            people=(_of_receipt("person_id"),), companies=(_of_receipt("company_id"), _sender_of_receipt), is_open=False
        ),
        number=lambda row: "",
        title=lambda row: "a receipt",
        address=lambda row: f"/transmittals/{row.transmittal_id}",
        named_by=(),
        listed=(RecipientRow.id, RecipientRow.transmittal_id),
        newest=RecipientRow.id,
        topic="transmittals",
        tool="transmittals",
        find=lambda session, seat, words, most: [],
        part_of="transmittal",
        has_talk=False,
    )
)
"""What somebody did with what they got: for their company and the sender's, leads and controllers."""


def receipt(recipient: RecipientRow) -> Subject:
    """What an entry is about besides that tells what one recipient did."""
    return Subject(RECEIPT.code, recipient.id)
