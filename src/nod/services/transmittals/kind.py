"""Transmittals as things: one's own, those sent to oneself, and those all of whose documents one sees."""

from __future__ import annotations

from typing import Any

from sqlalchemy import Select, select
from sqlalchemy.orm import aliased

from nod.services.things.audiences import AudienceOf
from nod.services.things.kinds import ThingKind, thing_kind
from nod.store.tables import DocumentRow, RecipientRow, TransmittalDocumentRow, TransmittalRow


def _folders(transmittal_id: Any) -> Select[Any]:
    of, document = aliased(TransmittalDocumentRow), aliased(DocumentRow)
    query = select(document.folder_id).join(of, of.document_id == document.id)
    return query.where(of.transmittal_id == transmittal_id)


def _sender(transmittal_id: Any) -> Select[Any]:
    row = aliased(TransmittalRow)
    return select(row.sent_by).where(row.id == transmittal_id)


def _recipients(transmittal_id: Any) -> Select[Any]:
    to = aliased(RecipientRow)
    return select(to.person_id).where(to.transmittal_id == transmittal_id)


TRANSMITTAL = thing_kind(
    ThingKind(
        code="transmittal",
        words="transmittal",
        plural="transmittals",
        row=TransmittalRow,
        audience=AudienceOf(folders=(_folders,), people=(_sender, _recipients)),
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
