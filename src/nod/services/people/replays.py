"""How entries make members of projects: their roles, their state and their own tools."""

from __future__ import annotations

from collections.abc import Iterator

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.trail.entries import FactKind
from nod.services.acts.replays import Body, Replay, Row, Rows, replay, subject_of
from nod.store.tables import MembershipRow, PersonRow

_COLUMNS = ("roles", "state", "tools")


def _key(body: Body) -> str:
    return f"{body['project']} {subject_of(body)}"


def _added(rows: Rows, body: Body) -> None:
    rows[_key(body)] = {"name": body["about"], **_said(body)}


def _changed(rows: Rows, body: Body) -> None:
    if (row := rows.get(_key(body))) is not None:
        row |= _said(body)


def _said(body: Body) -> Row:
    return {column: body["after"][column] for column in _COLUMNS if column in body["after"]}


def _members(session: Session) -> Iterator[tuple[str, Row]]:
    query = select(MembershipRow, PersonRow.name).join(PersonRow, PersonRow.id == MembershipRow.person_id)
    for row, name in session.execute(query):
        values = {"name": name, "roles": row.roles, "state": row.state, "tools": row.tools}
        yield f"{row.project_id} {row.person_id}", values


MEMBERS = replay(
    Replay(
        "member",
        lambda session: {
            FactKind.MEMBER_ADDED: _added,
            FactKind.MEMBER_CHANGED: _changed,
            FactKind.INVITATION_ACCEPTED: _changed,
            FactKind.MEMBER_REMOVED: _changed,
        },
        _members,
    )
)
