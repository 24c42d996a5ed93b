"""Filing: an arrived file becomes a revision, and the document's line in the register follows."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access import Level
from nod.core.intake import PDF
from nod.core.trail import Fact, Subject, changed
from nod.services.context import Act
from nod.services.projects import add_folder, rules_of
from nod.services.seats import Seat
from nod.store.ids import new_id
from nod.store.tables import ArrivalRow, BatchRow, BlobRow, DocumentRow, FolderRow, PageRow, ProjectRow, RevisionRow

_MODELS = (".ifc", ".dxf", ".dwg", ".rvt", ".nwd", ".las", ".laz")


class Folders:
    """Into which folder new documents of a batch go: its own, or where the tree that came with the files puts them.

    Folders that are missing are made, if the one who registers may; otherwise the file goes into the nearest there is.
    """

    def __init__(self, act: Act, seat: Seat, batch: BatchRow) -> None:
        self._act, self._seat, self._batch = act, seat, batch
        self._known: dict[str, str] = {}
        self._made: set[str] = set()

    def of(self, row: ArrivalRow) -> str:
        if not self._batch.keep_tree or not row.folder_path:
            return self._batch.folder_id
        if row.folder_path not in self._known:
            self._known[row.folder_path] = self._find(row.folder_path.split("/"))
        return self._known[row.folder_path]

    def _find(self, names: list[str]) -> str:
        place = self._batch.folder_id
        for name in names:
            query = select(FolderRow.id).where(FolderRow.parent_id == place, FolderRow.name == name)
            below = self._act.session.scalars(query).one_or_none()
            if below is None and self._seat.at(self._batch.folder_id) >= Level.KEEP:
                below = add_folder(self._act, self._batch.project_id, place, name)
                self._made.add(below)
                self._seat.project.access_version += 1
                self._act.tell(self._batch.project_id, "folders", self._batch.project_id)
            # A folder that is hidden from whoever registers takes nothing from them.
            if below is None or (below not in self._made and self._seat.at(below) < Level.FILE):
                return place
            place = below
        return place


def file_revision(act: Act, batch: BatchRow, arrival: ArrivalRow, folder_id: str) -> RevisionRow:
    """A new current revision under the arrival's number; the one before becomes superseded.

    A new document goes into `folder_id`.

    The findings must have been made in this transaction and none may stop the file.
    """
    query = select(DocumentRow).where(DocumentRow.project_id == batch.project_id, DocumentRow.number == arrival.number)
    document = act.session.scalars(query).one_or_none()
    before = _line(document) if document else {}
    revision_id = new_id()
    document = document or _new_document(act, arrival, revision_id, folder_id)
    if before:
        old = act.session.get_one(RevisionRow, document.revision_id)
        old.superseded_at = act.at
        # The unique index allows one current revision: the old one has to step back before the new one stands.
        act.session.flush()
    revision = _new_revision(act, batch, arrival, document, revision_id)
    _mirror(act.session, document, revision, act.at)
    _record(act, document, revision, before, arrival)
    return revision


def _new_document(act: Act, arrival: ArrivalRow, revision_id: str, folder_id: str) -> DocumentRow:
    project = act.session.get_one(ProjectRow, arrival.project_id)
    fields = rules_of(project).convention.split(arrival.number)
    document = DocumentRow(
        id=new_id(), project_id=arrival.project_id, folder_id=folder_id, number=arrival.number, title=arrival.title,
        discipline=fields.get("discipline", ""), originator=fields.get("originator", ""), form=fields.get("form", ""),
        revision_id=revision_id, revision="", status="", filed_at=act.at,
        kind=_kind(act.session.get_one(BlobRow, arrival.sha256), arrival.file_name),
    )  # fmt: skip
    act.session.add(document)
    act.session.flush()
    return document


def _kind(blob: BlobRow, file_name: str) -> str:
    """A sheet can be looked at; a model is known by the ending of its name; anything else is a file."""
    if blob.media_type == PDF:
        return "sheet"
    return "model" if file_name.lower().endswith(_MODELS) else "file"


def _new_revision(
    act: Act, batch: BatchRow, arrival: ArrivalRow, document: DocumentRow, revision_id: str
) -> RevisionRow:
    blob = act.session.get_one(BlobRow, arrival.sha256)
    revision = RevisionRow(
        id=revision_id, document_id=document.id, code=arrival.revision, status=arrival.status, title=arrival.title,
        scale=arrival.scale, sha256=arrival.sha256, file_name=arrival.file_name, size_bytes=blob.size_bytes,
        filed_by=act.actor.person_id, filed_at=act.at, came_from=batch.came_from, arrived_at=batch.arrived_at,
    )  # fmt: skip
    act.session.add(revision)
    act.session.flush()
    return revision


def _mirror(session: Session, document: DocumentRow, revision: RevisionRow, at: datetime) -> None:
    """The document's line shows its current revision. A verdict belongs to a revision: a new one has none."""
    page = session.get(PageRow, (revision.sha256, 0))
    document.title, document.revision, document.status = revision.title, revision.code, revision.status
    document.revision_id, document.filed_at, document.verdict = revision.id, at, ""
    document.sheet_size = page.size_name if page else ""
    document.scale = revision.scale
    document.version += 1


def _line(document: DocumentRow) -> dict[str, str]:
    return {
        "title": document.title,
        "revision": document.revision,
        "status": document.status,
        "sheet_size": document.sheet_size,
    }


def _record(
    act: Act, document: DocumentRow, revision: RevisionRow, before: dict[str, str], arrival: ArrivalRow
) -> None:
    old, new = changed(before, {**_line(document), "sha256": revision.sha256, "file_name": revision.file_name})
    act.record(
        document.project_id,
        Fact(
            "revision_filed",
            Subject("document", document.id),
            f"{document.number} {revision.code}",
            (Subject("revision", revision.id), Subject("arrival", arrival.id)),
            before=old if before else {},
            after=new,
        ),
    )
