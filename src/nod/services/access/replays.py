"""How entries make folders: their names, where they are, and what is given in them."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.trail.entries import FactKind
from nod.services.acts.replays import Body, Replay, Row, Rows, others_of, replay, subject_of
from nod.store.tables import FolderRow, GrantRow

Given = list[list[Any]]
"""As `services.acts.projects.grants_kept` has it."""


def _made(rows: Rows, body: Body) -> None:
    rows[subject_of(body)] = {"name": body["about"], "folder name": body["about"], "project": body["project"]}
    rows[subject_of(body)] |= {"grants": []} | _kept(body)


def _changed(rows: Rows, body: Body) -> None:
    row = rows.get(subject_of(body))
    if row is None:
        return
    if "name" in body["after"]:
        row["name"] = row["folder name"] = body["after"]["name"]
    elif not body.get("state"):
        # Before entries had ids: where it went is said in words alone.
        row.pop("parent", None)
    row |= _kept(body)


def _kept(body: Body) -> Row:
    return dict(body.get("state", {}))


def _given(rows: Rows, body: Body) -> None:
    row = rows.get(subject_of(body))
    if row is None:
        return
    after = body["after"]
    if body.get("state"):
        row |= _kept(body)
    elif set(after) == {"to", "level", "below"} and "grants" in row:
        kind, _, whom = after["to"].partition(" ")
        row["grants"] = sorted([*row["grants"], [kind, whom, not after["below"], int(Level[after["level"].upper()])]])
    else:
        # Before entries had ids: who got what is said in names alone, until the next that has them.
        row.pop("grants", None)


def _removed(rows: Rows, body: Body) -> None:
    rows.pop(subject_of(body), None)


def _left(rows: Rows, body: Body) -> None:
    """What was given to somebody goes with them."""
    for row in rows.values():
        if row["project"] == body["project"] and "grants" in row:
            row["grants"] = [each for each in row["grants"] if each[:2] != ["person", subject_of(body)]]


def _merged(rows: Rows, body: Body) -> None:
    """What two companies had becomes one's; where both had some, the higher stays."""
    kept = next(iter(others_of(body, "company")), "")
    if kept:
        for row in rows.values():
            if "grants" in row:
                row["grants"] = _joined(row["grants"], subject_of(body), kept)


def _joined(given: Given, gone: str, kept: str) -> Given:
    levels: dict[tuple[str, str, bool], int] = {}
    for kind, whom, alone, level in given:
        key = (kind, kept if (kind, whom) == ("company", gone) else whom, alone)
        levels[key] = max(levels.get(key, 0), level)
    return sorted([*key, level] for key, level in levels.items())


def _folders(session: Session) -> Iterator[tuple[str, Row]]:
    given: dict[str, Given] = {}
    for row in session.scalars(select(GrantRow)):
        given.setdefault(row.folder_id, []).append([row.to_kind, row.to_id, bool(row.alone), int(row.level)])
    for folder in session.scalars(select(FolderRow)):
        yield folder.id, {
            "name": folder.name, "folder name": folder.name, "parent": folder.parent_id or "",
            "project": folder.project_id, "grants": sorted(given.get(folder.id, [])),
        }  # fmt: skip


FOLDERS = replay(
    Replay(
        "folder",
        lambda session: {
            FactKind.FOLDER_MADE: _made,
            FactKind.FOLDER_CHANGED: _changed,
            FactKind.FOLDER_REMOVED: _removed,
            FactKind.ACCESS_CHANGED: _given,
            FactKind.MEMBER_REMOVED: _left,
            FactKind.COMPANIES_MERGED: _merged,
        },
        _folders,
    )
)
