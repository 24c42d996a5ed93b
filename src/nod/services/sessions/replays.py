"""How entries make sessions: who hosts them, who is invited, whether they are open, how often they closed."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.sessions.sessions import SessionState
from nod.core.trail.entries import FactKind
from nod.services.acts.replays import Body, Replay, Row, Rows, Step, others_of, replay, subject_of
from nod.store.tables import SessionPartyRow, SessionRow, SessionSheetRow


def _made(rows: Rows, body: Body) -> None:
    rows[subject_of(body)] = {
        "host": body["state"]["host"], "state": SessionState.TO_COME.value, "parties": [], "times closed": 0,
        "sheets": sorted(others_of(body, "revision")),
    }  # fmt: skip


def _to(column: str, value: Callable[[Body, Row], object]) -> Step:
    def step(rows: Rows, body: Body) -> None:
        if (row := rows.get(subject_of(body))) is not None:
            row[column] = value(body, row)

    return step


def _invited(body: Body, row: Row) -> list[str]:
    party = body["state"]["party"]
    others = [each for each in row["parties"] if each.rpartition(" ")[0] != party]
    return sorted([*others, f"{party} {body['state']['may']}"])


def _uninvited(body: Body, row: Row) -> list[str]:
    return [each for each in row["parties"] if each.rpartition(" ")[0] != body["state"]["party"]]


def _closed(rows: Rows, body: Body) -> None:
    if (row := rows.get(subject_of(body))) is not None:
        row |= {"state": SessionState.CLOSED.value, "times closed": body["state"]["parts"]}


def _opened(rows: Rows, body: Body) -> None:
    """With those sheets that no other session held."""
    if (row := rows.get(subject_of(body))) is not None:
        row |= {"state": SessionState.OPEN.value, "sheets": sorted(others_of(body, "revision"))}


def _without(body: Body, row: Row) -> list[str]:
    return [each for each in row["sheets"] if each not in others_of(body, "revision")]


def _sessions(session: Session) -> Iterator[tuple[str, Row]]:
    parties: dict[str, list[str]] = {}
    for party in session.scalars(select(SessionPartyRow)):
        parties.setdefault(party.session_id, []).append(f"{party.kind} {party.party_id} {party.may}")
    sheets: dict[str, list[str]] = {}
    for sheet in session.scalars(select(SessionSheetRow).where(SessionSheetRow.left_at.is_(None))):
        sheets.setdefault(sheet.session_id, []).append(sheet.revision_id)
    for row in session.scalars(select(SessionRow)):
        yield row.id, {
            "host": row.host_id, "state": row.state, "parties": sorted(parties.get(row.id, [])),
            "times closed": row.parts, "sheets": sorted(sheets.get(row.id, [])),
        }  # fmt: skip


SESSIONS = replay(
    Replay(
        "session",
        lambda session: {
            FactKind.SESSION_MADE: _made,
            FactKind.SESSION_CHANGED: _to("host", lambda body, row: body["state"]["host"]),
            FactKind.SESSION_INVITED: _to("parties", _invited),
            FactKind.SESSION_UNINVITED: _to("parties", _uninvited),
            FactKind.SESSION_OPENED: _opened,
            FactKind.SESSION_OPENED_AGAIN: _opened,
            FactKind.SESSION_SHEET_TAKEN_OUT: _to("sheets", _without),
            FactKind.SESSION_CLOSED: _closed,
        },
        _sessions,
    )
)
