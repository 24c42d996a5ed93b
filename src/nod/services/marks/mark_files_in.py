"""Files that marks were taken in from, kept as they came: what cannot be a mark here is still in them."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import select

from nod.core.acts.refusals import NotFound
from nod.core.intake.file_names import base_name
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.access.visibility import see_revision
from nod.services.acts.answers import Answered, Who, people_by_id
from nod.services.acts.context import Act, Context, acting
from nod.services.acts.seats import Actor
from nod.services.files.files_to_send import FileToSend
from nod.store.blobs import StoredBlob
from nod.store.ids import new_id
from nod.store.tables import MarkFileRow


class MarkFile(Answered):
    """`told` says in words what of it is no mark, or is shown as another kind of one."""

    id: str
    name: str
    size_bytes: int
    sha256: str
    told: list[str]
    taken_by: Who
    taken_at: datetime


class MarkFiles(Answered):
    files: list[MarkFile]


def keep(act: Act, revision_id: str, name: str, kept: StoredBlob, told: list[dict[str, Any]]) -> None:
    """Once for a sheet, however often it comes: the latest says what it brought."""
    here = (MarkFileRow.revision_id == revision_id, MarkFileRow.sha256 == kept.sha256)
    row = act.session.scalar(select(MarkFileRow).where(*here))
    if row is None:
        row = MarkFileRow(id=new_id(), revision_id=revision_id, sha256=kept.sha256, size_bytes=kept.size_bytes)
        act.session.add(row)
    row.name, row.told = base_name(name)[:200], [f"{each['count']} {each['words']}" for each in told]
    row.taken_by, row.taken_at = act.actor.person_id, act.at


def list_mark_files(context: Context, actor: Actor, revision_id: str) -> MarkFiles:
    """The latest first."""
    with context.database.read() as session:
        see_revision(session, actor, revision_id)
        query = select(MarkFileRow).where(MarkFileRow.revision_id == revision_id)
        rows = list(session.scalars(query.order_by(MarkFileRow.taken_at.desc())))
        people = people_by_id(session, {row.taken_by for row in rows})
        return MarkFiles(
            files=[
                MarkFile(
                    id=row.id, name=row.name, size_bytes=row.size_bytes, sha256=row.sha256, told=row.told,
                    taken_by=people[row.taken_by], taken_at=row.taken_at,
                )
                for row in rows
            ]
        )  # fmt: skip


def download_mark_file(context: Context, actor: Actor, revision_id: str, file_id: str) -> FileToSend:
    """As it came, under its own name. Each download is an entry of the trail."""
    with acting(context, actor) as act:
        revision, document, _ = see_revision(act.session, actor, revision_id)
        row = act.session.get(MarkFileRow, file_id)
        if row is None or row.revision_id != revision_id:
            raise NotFound(file_id)
        subject, others = Subject("document", document.id), (Subject("revision", revision_id),)
        after = {"file": row.name, "sha256": row.sha256}
        about = f"{document.number} {revision.code}"
        act.record(document.project_id, Fact(FactKind.MARK_FILE_DOWNLOADED, subject, about, others, after=after))
        return FileToSend(context.blobs.local(row.sha256), row.name, "application/octet-stream")
