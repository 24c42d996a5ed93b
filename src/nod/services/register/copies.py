"""Copies of revisions in folders: put there by a review's end, shown as "also in" beside the document (handbook §8)."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from nod.core.register.copies import takes_place
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.context import Act
from nod.services.register.copies_kept import follow_originals
from nod.services.register.filings import mirror_revision
from nod.store.dialects.sqlite import one_of
from nod.store.ids import new_id
from nod.store.tables import (
    NO_COPY,
    BlobRow,
    DocumentRow,
    DocumentValueRow,
    FolderRow,
    PageRow,
    ProjectRow,
    RenditionRow,
    RevisionRow,
)


@dataclass(frozen=True)
class CopyWanted:
    """`why` is what puts it there, `verdict` what it comes with."""

    document: DocumentRow
    revision: RevisionRow
    folder_id: str
    why: str
    verdict: str

    @property
    def place(self) -> tuple[str, str]:
        return self.document.id, self.folder_id


def put_copies(act: Act, project: ProjectRow, wanted: Sequence[CopyWanted]) -> dict[str, RevisionRow]:
    """Each revision in its folder, in the place of the one that lay there before. By document, the copy's own revision.

    Left out is where there is nothing to do: the document itself lies there, a later revision of it does, or the folder
    is gone. There may be hundreds: what is asked of all is asked at once.
    """
    act.session.flush()
    folders = _folders(act.session, project, {each.folder_id for each in wanted})
    asked = [each for each in wanted if each.folder_id in folders and each.folder_id != each.document.folder_id]
    there = _There(act.session, asked)
    going = [each for each in asked if there.gives_way(each)]
    before = {each.document.id: there.said(each) for each in going}
    act.session.execute(delete(DocumentValueRow).where(DocumentValueRow.seq.in_(there.seqs(going))))
    for each in going:
        if each.place not in there.copies:
            there.copies[each.place] = _new_copy(act, each)
    act.session.add_all(there.copies.values())
    # All new ones have their numbers now.
    act.session.flush()
    made = {each.document.id: _lay(act, there, each) for each in going}
    act.session.flush()
    for each in going:
        _record(act, each, there.copies[each.place], made[each.document.id], folders[each.folder_id], before)
    follow_originals(act, project, list(made))
    for folder_id in sorted({each.folder_id for each in going}):
        act.tell(project.id, "register", folder_id, {folder_id})
    return made


def _folders(session: Session, project: ProjectRow, ids: Collection[str]) -> dict[str, FolderRow]:
    query = select(FolderRow).where(FolderRow.project_id == project.id, one_of(FolderRow.id, ids))
    return {row.id: row for row in session.scalars(query)}


class _There:
    """What lies in the folders, and what is copied of each document, asked for all at once."""

    def __init__(self, session: Session, wanted: Sequence[CopyWanted]) -> None:
        documents = [each.document for each in wanted]
        revisions = [each.revision for each in wanted]
        query = select(DocumentRow).where(
            DocumentRow.copy_of != NO_COPY, one_of(DocumentRow.copy_of, [each.id for each in documents])
        )
        self.copies = {(row.copy_of, row.folder_id): row for row in session.scalars(query)}
        held = one_of(RevisionRow.id, [row.revision_id for row in self.copies.values()])
        self.held = {row.id: row for row in session.scalars(select(RevisionRow).where(held))}
        sources = one_of(RevisionRow.id, [row.copied_from for row in self.held.values()])
        self.places = dict(session.execute(select(RevisionRow.id, RevisionRow.place).where(sources)).all())
        self.renditions: dict[str, list[RenditionRow]] = {}
        of_revisions = one_of(RenditionRow.revision_id, [each.id for each in revisions])
        for row in session.scalars(select(RenditionRow).where(of_revisions)):
            self.renditions.setdefault(row.revision_id, []).append(row)
        self.values: dict[int, list[DocumentValueRow]] = {}
        of_documents = DocumentValueRow.seq.in_([each.seq for each in documents])
        for value in session.scalars(select(DocumentValueRow).where(of_documents)):
            self.values.setdefault(value.seq, []).append(value)
        hashes = [each.sha256 for each in revisions]
        # Held here, so that what is mirrored of each file is not asked for one by one.
        self.files = list(session.scalars(select(BlobRow).where(one_of(BlobRow.sha256, hashes))))
        first = select(PageRow.sha256, PageRow.size_name).where(one_of(PageRow.sha256, hashes), PageRow.place == 0)
        self.sizes = dict(session.execute(first).all())

    def held_by(self, wanted: CopyWanted) -> RevisionRow | None:
        copy = self.copies.get(wanted.place)
        return self.held.get(copy.revision_id) if copy else None

    def gives_way(self, wanted: CopyWanted) -> bool:
        held = self.held_by(wanted)
        return held is None or takes_place(wanted.revision.place, self.places[held.copied_from])

    def said(self, wanted: CopyWanted) -> dict[str, str]:
        held = self.held_by(wanted)
        return _said(self.copies[wanted.place], held) if held else {}

    def seqs(self, wanted: Iterable[CopyWanted]) -> list[int]:
        return [self.copies[each.place].seq for each in wanted if each.place in self.copies]


def _lay(act: Act, there: _There, wanted: CopyWanted) -> RevisionRow:
    document, revision = wanted.document, wanted.revision
    copy, held = there.copies[wanted.place], there.held_by(wanted)
    if held and held.copied_from == revision.id:
        made = held
        made.status = revision.status
    else:
        made = _new_revision(act, copy, revision, there.renditions.get(revision.id, ()))
        if held:
            held.superseded_at = act.at
    made.copied_at, made.copy_why, made.copy_verdict = act.at, wanted.why, wanted.verdict
    # What was withdrawn is what lay there before; this one was accepted.
    copy.withdrawn, copy.withdrawn_at, copy.withdrawn_why = False, None, ""
    mirror_revision(act.session, copy, made, there.sizes.get(made.sha256, ""))
    for column in _OF_THE_DOCUMENT:
        setattr(copy, column, getattr(document, column))
    copy.verdict = wanted.verdict
    act.session.add_all(
        DocumentValueRow(seq=copy.seq, field=each.field, value=each.value, number=each.number)
        for each in there.values.get(document.seq, ())
    )
    return made


def _new_copy(act: Act, wanted: CopyWanted) -> DocumentRow:
    document = wanted.document
    return DocumentRow(
        id=new_id(), project_id=document.project_id, folder_id=wanted.folder_id, copy_of=document.id,
        home_folder_id=document.folder_id, number=document.number, title=wanted.revision.title, revision_id="",
        revision="", status="", filed_at=act.at, discipline="", originator="", form="", kind=document.kind,
        release="", shapes=document.shapes, field_words=document.field_words,
    )  # fmt: skip


_OF_THE_DOCUMENT = (
    "discipline", "originator", "form", "zone", "level", "file_kinds", "shapes", "field_words",
)  # fmt: skip
_OF_THE_REVISION = (
    "code", "status", "title", "sha256", "scale", "file_name", "size_bytes", "filed_by", "filed_at", "came_from",
    "arrived_at", "purpose", "note", "came_person", "came_by", "place", "released_at",
)  # fmt: skip


def _new_revision(
    act: Act, copy: DocumentRow, revision: RevisionRow, renditions: Iterable[RenditionRow]
) -> RevisionRow:  # fmt: skip
    """With every file that it has now."""
    made = RevisionRow(
        id=new_id(), document_id=copy.id, copied_from=revision.id,
        **{column: getattr(revision, column) for column in _OF_THE_REVISION},
    )  # fmt: skip
    act.session.add(made)
    for each in renditions:
        row = RenditionRow(
            id=new_id(), revision_id=made.id, kind=each.kind, sha256=each.sha256, file_name=each.file_name,
            size_bytes=each.size_bytes, filed_by=each.filed_by, filed_at=each.filed_at, came_from=each.came_from,
        )  # fmt: skip
        act.session.add(row)
    return made


def _said(copy: DocumentRow, held: RevisionRow) -> dict[str, str]:
    return {
        "title": copy.title, "revision": held.code, "status": held.status, "verdict": held.copy_verdict,
        "sha256": held.sha256, "file_name": held.file_name,
    }  # fmt: skip


def _record(
    act: Act,
    wanted: CopyWanted,
    copy: DocumentRow,
    made: RevisionRow,
    folder: FolderRow,
    before: Mapping[str, Mapping[str, str]],
) -> None:
    """One entry about the copy, for whoever sees its folder; one about the document, for whoever sees both."""
    document, revision = wanted.document, wanted.revision
    about = f"{document.number} {revision.code}"
    after = _said(copy, made)
    put = Fact(
        FactKind.COPY_PUT, Subject("document", copy.id), about, (Subject("revision", made.id),),
        dict(before[document.id]), after,
        made.copy_why,
    )  # fmt: skip
    act.record(document.project_id, put)
    others = (Subject("revision", revision.id), Subject("document", copy.id))
    copied = Fact(
        FactKind.COPIED, Subject("document", document.id), about, others, after={"folder": folder.name},
        why=made.copy_why,
    )  # fmt: skip
    act.record(document.project_id, copied)
