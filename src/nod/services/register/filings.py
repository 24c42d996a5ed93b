"""Filing: an arrived file becomes a revision, and the document's line in the register follows."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.intake.findings import PDF, SHEETS
from nod.core.intake.renditions import kind_of
from nod.core.register.number_shapes import shapes
from nod.core.register.numbers import check_number
from nod.core.register.revisions import parse
from nod.core.trail.entries import Fact, FactKind, Subject, changed
from nod.services.acts.context import Act
from nod.services.acts.projects import add_folder, rules_of
from nod.services.acts.seats import Seat
from nod.services.compare import arrival_comparisons
from nod.services.register.further_fields import keep_fields
from nod.store.ids import new_id
from nod.store.tables import (
    ArrivalRow,
    BatchRow,
    BlobRow,
    DocumentRow,
    FolderRow,
    PageRow,
    ProjectRow,
    RenditionRow,
    RevisionRow,
    held_under,
)

_MODELS = (".ifc", ".dwg", ".rvt", ".nwd", ".las", ".laz")


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


@dataclass(frozen=True)
class Incoming:
    """What becomes a revision, by whatever door it came.

    `fields` are further values by the names of zones; `others` are things its entry is about too.
    """

    number: str
    title: str
    revision: str
    status: str
    scale: str
    sha256: str
    file_name: str
    came_from: str
    arrived_at: datetime
    came_person: str = ""
    came_by: str = ""
    purpose: str = ""
    note: str = ""
    from_id: str = ""
    fields: Mapping[str, str] = field(default_factory=dict)
    others: tuple[Subject, ...] = ()


def incoming_of(batch: BatchRow, row: ArrivalRow, arrived_at: datetime, note: str = "") -> Incoming:
    """A file out of Intake. The findings must have been made in this transaction and none may stop the file.

    `arrived_at` is when it came, as far as is known; `note` what was said of the whole batch.
    """
    return Incoming(
        number=row.number, title=row.title, revision=row.revision, status=row.status, scale=row.scale,
        sha256=row.sha256, file_name=row.file_name, came_from=batch.came_from, arrived_at=arrived_at,
        came_person=batch.came_person, came_by=batch.came_by, purpose=row.purpose,
        note="\n".join(filter(None, (row.note, note))), fields=row.fields, others=(Subject("arrival", row.id),),
    )  # fmt: skip


def file_revision(act: Act, project: ProjectRow, incoming: Incoming, folder_id: str) -> RevisionRow:
    """A new latest revision under the number; what is in force is for `in_force.refresh_in_force` to say afterwards.

    A new document goes into `folder_id`. Whoever had it checked out has it checked in with this.
    """
    query = select(DocumentRow).where(held_under(project.id, incoming.number))
    document = act.session.scalars(query).one_or_none()
    before = _line(document) if document else {}
    revision_id = new_id()
    document = document or _new_document(act, project, incoming, revision_id, folder_id)
    if before:
        old = act.session.get_one(RevisionRow, document.revision_id)
        arrival_comparisons.ask_revisions(act.session, act.at, old.sha256, incoming.sha256)
    revision = _new_revision(act, incoming, document, revision_id)
    revision.place = _next_place(act.session, document.id)
    mirror_revision(act.session, document, revision)
    kept = keep_fields(act.session, project, document, incoming.fields)
    _record(act, document, revision, before, incoming, kept)
    if document.checked_out_by == act.actor.person_id:
        _check_in(act, document, incoming.note)
    act.ask("index_words", f"index_words:{revision.sha256}", {"sha256": revision.sha256})
    return revision


def _next_place(session: Session, document_id: str) -> int:
    last = session.scalar(select(func.max(RevisionRow.place)).where(RevisionRow.document_id == document_id))
    return (last or 0) + 1


def file_history(act: Act, project: ProjectRow, incoming: Incoming) -> RevisionRow:
    """An older revision of a document that is there: superseded at once, told to nobody, in its place among the others.

    The document's line stays as it is.
    """
    query = select(DocumentRow).where(held_under(project.id, incoming.number))
    document = act.session.scalars(query).one()
    revision = _new_revision(act, incoming, document, new_id())
    revision.superseded_at = act.at
    revision.as_history = True
    query_of = select(RevisionRow).where(RevisionRow.document_id == document.id, RevisionRow.id != revision.id)
    others = list(act.session.scalars(query_of.order_by(RevisionRow.place)))
    scheme = rules_of(project).scheme
    own = parse(scheme, revision.code)
    later = [each for each in others if own and (key := parse(scheme, each.code)) and key > own]
    revision.place = later[0].place if later else others[-1].place
    for each in others:
        each.place += each.place >= revision.place
    document.version += 1
    _compare_with_neighbours(act, revision, others)
    after = {
        "revision": revision.code, "title": revision.title, "status": revision.status, "sha256": revision.sha256,
        "file_name": revision.file_name, "came_from": revision.came_from,
    }  # fmt: skip
    about, subjects = f"{document.number} {revision.code}", (Subject("revision", revision.id), *incoming.others)
    fact = Fact(FactKind.HISTORY_FILED, Subject("document", document.id), about, subjects, after=after)
    act.record(document.project_id, fact)
    return revision


def _compare_with_neighbours(act: Act, revision: RevisionRow, others: list[RevisionRow]) -> None:
    """So that what changed can be asked for on both sides of it."""
    before = [each for each in others if each.place < revision.place]
    after = [each for each in others if each.place > revision.place]
    if before:
        arrival_comparisons.ask_revisions(act.session, act.at, before[-1].sha256, revision.sha256)
    if after:
        arrival_comparisons.ask_revisions(act.session, act.at, revision.sha256, after[0].sha256)


def add_rendition(act: Act, project: ProjectRow, incoming: Incoming) -> RenditionRow | None:
    """A further file of a revision, of a kind that it has not yet; None where that revision is not there."""
    query = (
        select(RevisionRow, DocumentRow)
        .join(DocumentRow, DocumentRow.id == RevisionRow.document_id)
        .where(held_under(project.id, incoming.number))
    )
    found = act.session.execute(query.where(RevisionRow.code == incoming.revision)).one_or_none()
    if found is None:
        return None
    revision, document = found
    blob = act.session.get_one(BlobRow, incoming.sha256)
    row = RenditionRow(
        id=new_id(), revision_id=revision.id, kind=kind_of(blob.media_type, incoming.file_name), sha256=blob.sha256,
        file_name=incoming.file_name, size_bytes=blob.size_bytes, filed_by=act.actor.person_id, filed_at=act.at,
        came_from=incoming.came_from,
    )  # fmt: skip
    act.session.add(row)
    act.session.flush()
    if revision.id == document.revision_id:
        document.file_kinds = ", ".join([*document.file_kinds.split(", "), row.kind])
        document.version += 1
    after = {"kind": row.kind, "file_name": row.file_name, "sha256": row.sha256}
    subjects = (Subject("revision", revision.id), Subject("rendition", row.id), *incoming.others)
    about = f"{document.number} {revision.code}"
    fact = Fact(FactKind.RENDITION_FILED, Subject("document", document.id), about, subjects, after=after)
    act.record(document.project_id, fact)
    return row


def _check_in(act: Act, document: DocumentRow, note: str) -> None:
    document.checked_out_by, document.checked_out_at, document.checked_out_note = "", None, ""
    act.record(
        document.project_id,
        Fact(FactKind.DOCUMENT_CHECKED_IN, Subject("document", document.id), document.number, after={"comment": note}),
    )


def _new_document(act: Act, project: ProjectRow, incoming: Incoming, revision_id: str, folder_id: str) -> DocumentRow:
    document = DocumentRow(
        id=new_id(), project_id=project.id, folder_id=folder_id, number=incoming.number, title=incoming.title,
        revision_id=revision_id, revision="", status="", filed_at=act.at, discipline="", originator="", form="",
        kind=_kind(act.session.get_one(BlobRow, incoming.sha256), incoming.file_name),
        shapes=shapes(incoming.number),
    )  # fmt: skip
    take_parts(document, project)
    act.session.add(document)
    act.session.flush()
    return document


def take_parts(document: DocumentRow, project: ProjectRow) -> None:
    """What the fields of a number that keeps the convention say of its document; of another, nothing."""
    convention = rules_of(project).convention
    fields = {} if check_number(convention, document.number) else convention.split(document.number)
    document.discipline, document.originator = fields.get("discipline", ""), fields.get("originator", "")
    document.form = fields.get("form", "")
    document.zone, document.level = fields.get("functional", ""), fields.get("spatial", "")


def _kind(blob: BlobRow, file_name: str) -> str:
    """A sheet can be looked at; a model is known by the ending of its name; anything else is a file."""
    if blob.media_type == PDF or blob.page_count or (blob.media_type in SHEETS and blob.state != "known"):
        return "sheet"
    return "model" if file_name.lower().endswith(_MODELS) else "file"


def _new_revision(act: Act, incoming: Incoming, document: DocumentRow, revision_id: str) -> RevisionRow:
    blob = act.session.get_one(BlobRow, incoming.sha256)
    revision = RevisionRow(
        id=revision_id, document_id=document.id, code=incoming.revision, status=incoming.status, title=incoming.title,
        scale=incoming.scale, sha256=incoming.sha256, file_name=incoming.file_name, size_bytes=blob.size_bytes,
        filed_by=act.actor.person_id, filed_at=act.at, came_from=incoming.came_from, arrived_at=incoming.arrived_at,
        purpose=incoming.purpose, note=incoming.note, from_id=incoming.from_id,
        came_person=incoming.came_person, came_by=incoming.came_by,
    )  # fmt: skip
    act.session.add(revision)
    act.session.flush()
    return revision


_MIRRORED = (
    "title", "status", "scale", "filed_at", "file_name", "size_bytes", "sha256", "filed_by", "came_from", "arrived_at",
    "purpose", "came_person", "came_by",
)  # fmt: skip


def mirror_revision(
    session: Session, document: DocumentRow, revision: RevisionRow, size: str | None = None
) -> None:  # fmt: skip
    """The document's line shows its latest revision. A verdict belongs to a revision: a new one has none.

    `size` is the sheet's where it is known already.
    """
    if size is None:
        page = session.get(PageRow, (revision.sha256, 0))
        size = page.size_name if page else ""
    for column in _MIRRORED:
        setattr(document, column, getattr(revision, column))
    document.revision, document.revision_id, document.verdict = revision.code, revision.id, ""
    document.sheet_size = size
    document.file_kinds = kind_of(session.get_one(BlobRow, revision.sha256).media_type, revision.file_name)
    document.version += 1


def _line(document: DocumentRow) -> dict[str, str]:
    return {
        "title": document.title,
        "revision": document.revision,
        "status": document.status,
        "sheet_size": document.sheet_size,
    }


def _record(
    act: Act,
    document: DocumentRow,
    revision: RevisionRow,
    before: dict[str, str],
    incoming: Incoming,
    kept: dict[str, str],
) -> None:
    after = {**_line(document), "sha256": revision.sha256, "file_name": revision.file_name}
    said_of = ("purpose", "note", "came_person", "came_by")
    after |= {key: getattr(revision, key) for key in said_of if getattr(revision, key)} | kept
    old, new = changed(before, after)
    subjects = (Subject("revision", revision.id), *incoming.others)
    about = f"{document.number} {revision.code}"
    fact = Fact(FactKind.REVISION_FILED, Subject("document", document.id), about, subjects, old if before else {}, new)
    act.record(document.project_id, fact)
