"""How entries make letters: each says all of where its thread stands then."""

from __future__ import annotations

from collections.abc import Iterator

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.letters.states import State
from nod.core.trail.entries import FactKind
from nod.services.acts.replays import Body, Replay, Row, Rows, replay, subject_of
from nod.services.letters.letter_rows import state_of
from nod.store.tables import LetterPartyRow, LetterRow

_KINDS = (
    FactKind.LETTER_SENT, FactKind.LETTER_WRITTEN, FactKind.LETTER_ANSWERED, FactKind.LETTER_CLOSED,
    FactKind.LETTER_OPENED_AGAIN, FactKind.LETTER_PRIVACY_SET, FactKind.LETTER_REMINDED, FactKind.LETTER_TAKEN_OUT,
)  # fmt: skip


def _as_said(rows: Rows, body: Body) -> None:
    rows[subject_of(body)] = dict(body["state"])


def _letters(session: Session) -> Iterator[tuple[str, Row]]:
    """Those that were sent: a draft is nobody's but its author's."""
    parties: dict[str, list[LetterPartyRow]] = {}
    for each in session.scalars(select(LetterPartyRow)):
        parties.setdefault(each.letter_id, []).append(each)
    for row in session.scalars(select(LetterRow).where(LetterRow.state != State.DRAFT.value)):
        yield row.id, state_of(row, parties.get(row.id, []))


LETTERS = replay(Replay("letter", lambda session: dict.fromkeys(_KINDS, _as_said), _letters))
