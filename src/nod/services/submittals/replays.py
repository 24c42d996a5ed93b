"""How entries make submittals: each says all of where it stands then."""

from __future__ import annotations

from collections.abc import Iterator

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.trail.entries import FactKind
from nod.services.acts.replays import Body, Replay, Row, Rows, replay, subject_of
from nod.services.submittals.part_rows import parts_kept
from nod.services.submittals.submittal_rows import state_of
from nod.store.tables import SubmittalCopiedRow, SubmittalRow

_KINDS = (
    FactKind.SUBMITTAL_MADE, FactKind.SUBMITTAL_CHANGED, FactKind.SUBMITTAL_ASKED, FactKind.SUBMITTAL_PREPARED,
    FactKind.SUBMITTAL_SENT_IN, FactKind.SUBMITTAL_GIVEN, FactKind.SUBMITTAL_ANSWERED, FactKind.SUBMITTAL_CLOSED,
    FactKind.SUBMITTAL_VOIDED, FactKind.SUBMITTAL_COPIED_IN, FactKind.SUBMITTAL_DELIVERED,
    FactKind.SUBMITTAL_REMINDED, FactKind.SUBMITTAL_HANDED_OVER, FactKind.SUBMITTAL_RECORD_TAKEN,
    FactKind.SUBMITTAL_SENT_ON, FactKind.SUBMITTAL_RETURNED, FactKind.SUBMITTAL_ITEMS_SET,
    FactKind.SUBMITTAL_LOTS_SET,
)  # fmt: skip


def _as_said(rows: Rows, body: Body) -> None:
    rows[subject_of(body)] = dict(body["state"])


def _submittals(session: Session) -> Iterator[tuple[str, Row]]:
    copied: dict[str, list[SubmittalCopiedRow]] = {}
    for each in session.scalars(select(SubmittalCopiedRow)):
        copied.setdefault(each.submittal_id, []).append(each)
    for row in session.scalars(select(SubmittalRow)):
        yield row.id, state_of(row, copied.get(row.id, [])) | parts_kept(session, row.id)


SUBMITTALS = replay(Replay("submittal", lambda session: dict.fromkeys(_KINDS, _as_said), _submittals))
