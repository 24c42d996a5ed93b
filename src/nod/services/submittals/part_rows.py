"""The items and lots of submittals as rows."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.submittals.parts import open_items
from nod.store.dialects.sqlite import one_of
from nod.store.tables import ProjectRow, SubmittalItemRow, SubmittalLotRow


def lots_of(session: Session, ids: Sequence[str]) -> dict[str, list[SubmittalLotRow]]:
    """By submittal, in their order."""
    query = select(SubmittalLotRow).where(one_of(SubmittalLotRow.submittal_id, list(ids)))
    found: dict[str, list[SubmittalLotRow]] = {}
    for row in session.scalars(query.order_by(SubmittalLotRow.submittal_id, SubmittalLotRow.place)):
        found.setdefault(row.submittal_id, []).append(row)
    return found


def delivered_as_a_whole(lots: Sequence[SubmittalLotRow]) -> date | None:
    """The day of the last; None while one is still to come, or there are none."""
    days = [each.delivered_on for each in lots]
    return max((each for each in days if each), default=None) if all(days) else None


def items_of(session: Session, submittal_id: str) -> list[SubmittalItemRow]:
    """In their order."""
    query = select(SubmittalItemRow).where(SubmittalItemRow.submittal_id == submittal_id)
    return list(session.scalars(query.order_by(SubmittalItemRow.place)))


def open_items_of(project: ProjectRow, items: Sequence[SubmittalItemRow]) -> list[SubmittalItemRow]:
    """Those that an answer is about now."""
    again = {each["code"] for each in project.rules["verdict_set"] if each["needs_new_revision"]}
    wanted = set(open_items({each.id: each.verdict for each in items}, again))
    return [each for each in items if each.id in wanted]


def parts_kept(session: Session, submittal_id: str) -> dict[str, Any]:
    """What entries keep of them for replaying; nothing of what there is not."""
    items = [[each.id, each.title, each.paragraph, each.verdict] for each in items_of(session, submittal_id)]
    lots = [
        [
            each.id, each.name, each.required_on.isoformat() if each.required_on else "", each.lead, each.lead_in,
            each.delivered_on.isoformat() if each.delivered_on else "",
        ]
        for each in lots_of(session, [submittal_id]).get(submittal_id, [])
    ]  # fmt: skip
    return ({"items": items} if items else {}) | ({"lots": lots} if lots else {})
