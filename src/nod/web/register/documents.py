"""One document over HTTP: its dossier, its files, what its revisions changed."""

from __future__ import annotations

from flask import Response
from pydantic import Field

from nod.services.acts.answers import FromOutside
from nod.services.compare import revision_changes
from nod.services.compare.revision_changes import RevisionChanges
from nod.services.files.file_previews import FilePreview
from nod.services.register import documents
from nod.services.register.documents import Dossier
from nod.services.sheet import previews
from nod.web.answers import ANY_FILE, PICTURES, answers, feature, file_answers, picture_answer, send
from nod.web.guard import actor, context, permission, press

api = feature("documents")


class DocumentPath(FromOutside):
    document_id: str


class RevisionPath(FromOutside):
    revision_id: str


class RenditionPath(FromOutside):
    rendition_id: str


@api.get("/api/documents/<document_id>", responses=answers(Dossier))
@permission("read")
def read_document(path: DocumentPath) -> Dossier:
    """The dossier of a document."""
    return documents.read_document(context(), actor(), path.document_id)


@api.post("/api/revisions/<revision_id>/download", responses=file_answers(*ANY_FILE))
@permission("read")
def download_revision(path: RevisionPath) -> Response:
    """The file of a revision. A POST, because each download is recorded."""
    return send(documents.download_revision(context(), actor(), path.revision_id))


@api.post("/api/renditions/<rendition_id>/download", responses=file_answers(*ANY_FILE))
@permission("read")
def download_rendition(path: RenditionPath) -> Response:
    """A further file of a revision. A POST, because each download is recorded."""
    return send(documents.download_rendition(context(), actor(), path.rendition_id))


@api.get("/api/revisions/<revision_id>/preview", responses=answers(FilePreview))
@permission("read")
def read_file_preview(path: RevisionPath) -> FilePreview:
    """What the file of a revision says, where it has no pages to look at."""
    return previews.read_file_preview(context(), press(), actor(), path.revision_id)


class ChangePath(FromOutside):
    revision_id: str
    place: int = Field(ge=0)


@api.get("/api/revisions/<revision_id>/changes", responses=answers(RevisionChanges))
@permission("read")
def read_changes(path: RevisionPath) -> RevisionChanges:
    """What a revision changed against the one before it."""
    return revision_changes.read_changes(context(), actor(), path.revision_id)


@api.get("/api/revisions/<revision_id>/changes/<int:place>", responses=file_answers(*PICTURES))
@permission("read")
def draw_revision_change(path: ChangePath) -> Response:
    """A changed place as a picture of both revisions."""
    picture = revision_changes.draw_revision_change(context(), press(), actor(), path.revision_id, path.place)
    return picture_answer(picture, 3600)
