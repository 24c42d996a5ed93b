"""How entries make transmittals: what was sent, and who has acknowledged it."""

from __future__ import annotations

from collections.abc import Iterator

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.trail.entries import FactKind
from nod.services.acts.replays import Body, Replay, Row, Rows, others_of, replay, subject_of
from nod.store.tables import RecipientRow, TransmittalDocumentRow, TransmittalRow


def _sent(rows: Rows, body: Body) -> None:
    rows[subject_of(body)] = {
        "name": body["about"], "revisions": sorted(others_of(body, "revision")), "acknowledged by": [],
        "purpose": body["after"]["purpose"], "void": False,
    }  # fmt: skip


def _acknowledged(rows: Rows, body: Body) -> None:
    row = rows.get(subject_of(body))
    if row is not None:
        # Of an answer by mail, the entry names whose it was: somebody else may have handed it on.
        whose = others_of(body, "person") or [body["who"]["id"]]
        row["acknowledged by"] = sorted({*row["acknowledged by"], *whose})


def _voided(rows: Rows, body: Body) -> None:
    row = rows.get(subject_of(body))
    if row is not None:
        row["void"] = True


def _transmittals(session: Session) -> Iterator[tuple[str, Row]]:
    revisions: dict[str, list[str]] = {}
    for each in session.scalars(select(TransmittalDocumentRow)):
        revisions.setdefault(each.transmittal_id, []).append(each.revision_id)
    acknowledged: dict[str, list[str]] = {}
    for recipient in session.scalars(select(RecipientRow).where(RecipientRow.acknowledged_at.is_not(None))):
        acknowledged.setdefault(recipient.transmittal_id, []).append(recipient.person_id)
    for row in session.scalars(select(TransmittalRow)):
        yield row.id, {
            "name": row.number, "purpose": row.purpose, "revisions": sorted(revisions.get(row.id, [])),
            "acknowledged by": sorted(acknowledged.get(row.id, [])), "void": row.voided_at is not None,
        }  # fmt: skip


TRANSMITTALS = replay(
    Replay(
        "transmittal",
        lambda session: {
            FactKind.TRANSMITTAL_SENT: _sent,
            FactKind.TRANSMITTAL_ACKNOWLEDGED: _acknowledged,
            FactKind.TRANSMITTAL_VOIDED: _voided,
        },
        _transmittals,
    )
)
