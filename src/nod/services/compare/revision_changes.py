"""What a revision changed against the one before it: its fields and its drawing (handbook §4)."""

from __future__ import annotations

from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import NotFound
from nod.services.access.visibility import see_revision
from nod.services.acts.answers import Answered
from nod.services.acts.context import Context
from nod.services.acts.seats import Actor
from nod.services.compare.changed_places import ChangeShown, changes_of, picture_of, result_of
from nod.services.press.press import Press
from nod.store.tables import PageRow, RevisionRow

_FIELDS = ("title", "status", "scale", "purpose")


class FieldChange(Answered):
    name: str
    before: str
    after: str


class RevisionChanges(Answered):
    """`against` is the code of the revision before, empty for the first. `drawing` says how the drawings compare:

    `same_file`, `unknown` while it is being worked out, `not_drawings`, `fault`, `other` (nearly all differs),
    `same`, or `changed` at the places of `changes`.
    """

    id: str
    code: str
    against: str
    against_id: str
    fields: list[FieldChange]
    drawing: str
    fault: str
    changes: list[ChangeShown]


def read_changes(context: Context, actor: Actor, revision_id: str) -> RevisionChanges:
    with context.database.read() as session:
        row, _, _ = see_revision(session, actor, revision_id)
        before = revision_before(session, row)
        if before is None:
            return RevisionChanges(
                id=row.id, code=row.code, against="", against_id="", fields=[], drawing="", fault="", changes=[]
            )
        result = result_of(session, (before.sha256, row.sha256, False))
        changes = changes_of(result)
        return RevisionChanges(
            id=row.id, code=row.code, against=before.code, against_id=before.id,
            fields=[*_fields(before, row), *_sizes(session, before, row)],
            drawing=_drawing(session, before, row, result, len(changes)), fault=result.get("fault", ""),
            changes=changes,
        )  # fmt: skip


def revision_before(session: Session, row: RevisionRow) -> RevisionRow | None:
    """The one that stands before it in the order of the revisions."""
    query = select(RevisionRow).where(RevisionRow.document_id == row.document_id, RevisionRow.place < row.place)
    return session.scalars(query.order_by(RevisionRow.place.desc())).first()


def _fields(before: RevisionRow, row: RevisionRow) -> list[FieldChange]:
    return [
        FieldChange(name=name, before=getattr(before, name), after=getattr(row, name))
        for name in _FIELDS
        if getattr(before, name) != getattr(row, name)
    ]


def _sizes(session: Session, before: RevisionRow, row: RevisionRow) -> list[FieldChange]:
    pages = [session.get(PageRow, (each.sha256, 0)) for each in (before, row)]
    old, new = (page.size_name if page else "" for page in pages)
    return [FieldChange(name="sheet", before=old, after=new)] if old != new else []


def _drawing(session: Session, before: RevisionRow, row: RevisionRow, result: dict[str, Any], changes: int) -> str:
    if before.sha256 == row.sha256:
        return "same_file"
    if any(session.get(PageRow, (each.sha256, 0)) is None for each in (before, row)):
        return "not_drawings"
    if not result:
        return "unknown"
    if result.get("fault"):
        return "fault"
    pages = result["compared"]
    if any(page["too_many"] for page in pages):
        return "other"
    return "changed" if changes else "same"


def draw_revision_change(context: Context, press: Press, actor: Actor, revision_id: str, place: int) -> bytes:
    """The `place`-th change against the revision before, as a picture of both."""
    with context.database.read() as session:
        row, _, _ = see_revision(session, actor, revision_id)
        before = revision_before(session, row)
        if before is None:
            raise NotFound(revision_id)
        return picture_of(context, session, press, (before.sha256, row.sha256, False), place, revision_id)
