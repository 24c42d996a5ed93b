"""Sessions as rows: one with what it has, somebody's place in it, its entries and what is told live of it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.sessions.sessions import Deed, SessionState, Taker, check
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.context import Act
from nod.services.acts.seats import Actor, Seat
from nod.services.sessions.kind import SESSION, level_in
from nod.services.things.things import see_thing, tell_thing
from nod.store.dialects.sqlite import one_of
from nod.store.tables import DocumentRow, RevisionRow, SessionRow, SessionSheetRow


@dataclass(frozen=True)
class Entered:
    """A session as somebody meets it."""

    row: SessionRow
    seat: Seat
    taker: Taker

    @property
    def state(self) -> SessionState:
        return SessionState(self.row.state)

    def check(self, deed: Deed) -> None:
        """Raises NotAllowed or RuleBroken where they may not do this now."""
        check(self.state, self.taker, deed)


def enter(session: Session, actor: Actor, session_id: str) -> Entered:
    """Raises NotFound for a session that is not there for this person, NotAllowed without the tool."""
    row, seat = see_thing(session, actor, SESSION, session_id)
    return Entered(row, seat, taker_of(session, row, actor, seat))


def taker_of(session: Session, row: SessionRow, actor: Actor, seat: Seat) -> Taker:
    """Through another's eyes there is nothing one may do but look."""
    if actor.looker is not None:
        return Taker(may=None)
    level = level_in(session, row, actor.person_id, actor.company_id)
    return Taker(level, host=row.host_id == actor.person_id, runs=seat.runs)


def sheets_of(session: Session, session_id: str) -> list[tuple[SessionSheetRow, RevisionRow, DocumentRow]]:
    """In their order."""
    query = (
        select(SessionSheetRow, RevisionRow, DocumentRow)
        .join(RevisionRow, RevisionRow.id == SessionSheetRow.revision_id)
        .join(DocumentRow, DocumentRow.id == SessionSheetRow.document_id)
        .where(SessionSheetRow.session_id == session_id)
        .order_by(SessionSheetRow.place)
    )
    return [(sheet, revision, document) for sheet, revision, document in session.execute(query)]


def held_by_sessions(session: Session, document_ids: Sequence[str]) -> dict[str, str]:
    """By document, the number of the open session that it is checked out to."""
    query = (
        select(SessionSheetRow.document_id, SessionRow.number)
        .join(SessionRow, SessionRow.id == SessionSheetRow.session_id)
        .where(one_of(SessionSheetRow.document_id, list(document_ids)), SessionSheetRow.held)
    )
    return dict(session.execute(query).all())


def record(
    act: Act, row: SessionRow, kind: FactKind, after: dict[str, Any] | None = None, *,
    before: dict[str, Any] | None = None, others: Iterable[Subject] = (), why: str = "",
    state: dict[str, Any] | None = None,
) -> None:  # fmt: skip
    fact = Fact(
        kind, Subject(SESSION.code, row.id), f"{row.number} {row.name}", tuple(others), before or {}, after or {}, why,
        state=state or {},
    )  # fmt: skip
    act.record(row.project_id, fact)


def tell(act: Act, row: SessionRow) -> None:
    tell_thing(act, SESSION, row)
