"""Keeping who holds what: after every act that sends, voids, opens, acknowledges or hands over on paper."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from datetime import datetime, time
from zoneinfo import ZoneInfo

from sqlalchemy import delete, insert, select
from sqlalchemy.orm import Session

from nod.core.transmittals.holders import Held, Sending, held_of
from nod.store.dialects.sqlite import one_of
from nod.store.tables import (
    Base,
    CompanyRow,
    HandOverRow,
    HoldingRow,
    ProjectRow,
    RecipientRow,
    RevisionRow,
    TransmittalDocumentRow,
    TransmittalRow,
)

_HOLDINGS = Base.metadata.tables[HoldingRow.__tablename__]
Key = tuple[str, str]
"""A document and a company, by id."""


def refresh_holders(session: Session, document_ids: Collection[str]) -> None:
    """Of these documents, what each company has is worked out anew from all that was ever sent."""
    session.flush()
    ids = list(document_ids)
    rows = [_row(key, revision_id, held) for key, (revision_id, held) in held_by(session, ids).items()]
    connection = session.connection()
    connection.execute(delete(_HOLDINGS).where(one_of(_HOLDINGS.c.document_id, ids)))
    if rows:
        connection.execute(insert(_HOLDINGS), rows)


def refresh_holders_of(session: Session, transmittal_id: str) -> None:
    """After something has become of a transmittal."""
    of = select(TransmittalDocumentRow.document_id).where(TransmittalDocumentRow.transmittal_id == transmittal_id)
    refresh_holders(session, list(session.scalars(of)))


def held_by(session: Session, document_ids: Collection[str]) -> dict[Key, tuple[str, Held]]:
    """By document and company: the revision that is held, and since when and how."""
    events: dict[Key, list[tuple[str, Sending]]] = {}
    for document_id, company_id, revision_id, sending in _sent(session, document_ids):
        events.setdefault((document_id, company_id), []).append((revision_id, sending))
    now = _companies_now(session)
    merged: dict[Key, list[tuple[str, Sending]]] = {}
    for (document_id, company_id), found in events.items():
        merged.setdefault((document_id, now.get(company_id, company_id)), []).extend(found)
    held: dict[Key, tuple[str, Held]] = {}
    for key, found in merged.items():
        what = held_of(sending for _, sending in found)
        if what is not None:
            held[key] = next(id for id, sending in found if sending.place == what.place), what
    return held


def _sent(session: Session, document_ids: Collection[str]) -> Iterable[tuple[str, str, str, Sending]]:
    """Transmittals that are not void, and hand-overs that were not taken back."""
    sent = (
        select(
            TransmittalDocumentRow.document_id, RecipientRow.company_id, RevisionRow.id, RevisionRow.place,
            TransmittalRow.sent_at, RecipientRow.opened_at, RecipientRow.acknowledged_at, ~RecipientRow.copied,
        )
        .join(TransmittalRow, TransmittalRow.id == TransmittalDocumentRow.transmittal_id)
        .join(RecipientRow, RecipientRow.transmittal_id == TransmittalRow.id)
        .join(RevisionRow, RevisionRow.id == TransmittalDocumentRow.revision_id)
        .where(one_of(TransmittalDocumentRow.document_id, list(document_ids)), TransmittalRow.voided_at.is_(None))
    )  # fmt: skip
    for document_id, company_id, revision_id, place, at, opened, acknowledged, wanted in session.execute(sent):
        yield document_id, company_id, revision_id, Sending(place, at, opened, acknowledged, wanted)
    handed = (
        select(HandOverRow, RevisionRow.place, ProjectRow.time_zone)
        .join(RevisionRow, RevisionRow.id == HandOverRow.revision_id)
        .join(ProjectRow, ProjectRow.id == HandOverRow.project_id)
        .where(one_of(HandOverRow.document_id, list(document_ids)), HandOverRow.removed_at.is_(None))
    )
    for row, place, zone in session.execute(handed):
        at = datetime.combine(row.on, time(12), ZoneInfo(zone))
        yield row.document_id, row.company_id, row.revision_id, Sending(place, at, wanted=False)


def _companies_now(session: Session) -> dict[str, str]:
    """Those that were merged into another, and into which, all the way."""
    query = select(CompanyRow.id, CompanyRow.merged_into).where(CompanyRow.merged_into.is_not(None))
    into = {id: other for id, other in session.execute(query) if other}

    def last(id: str) -> str:
        return last(into[id]) if id in into else id

    return {id: last(id) for id in into}


def _row(key: Key, revision_id: str, held: Held) -> dict[str, object]:
    document_id, company_id = key
    return {
        "document_id": document_id, "company_id": company_id, "revision_id": revision_id, "sent_at": held.sent_at,
        "opened_at": held.opened_at, "acknowledged_at": held.acknowledged_at, "wanted": held.wanted,
        "older_at": held.older_at,
    }  # fmt: skip
