"""The register over HTTP."""

from __future__ import annotations

from flask import Response
from pydantic import BaseModel, Field

from nod.services import documents
from nod.services.documents import Dossier, RegisterPage
from nod.store.register_query import FILTERS, RegisterView
from nod.web.answering import answers, feature, send
from nod.web.guard import actor, context, permission

api = feature("documents")


class RegisterQuery(BaseModel):
    """`words` filters by number and title; `cursor` continues a page."""

    project_id: str
    words: str = ""
    discipline: str = ""
    status: str = ""
    verdict: str = ""
    sort: str = "number"
    descending: bool = False
    cursor: str = ""
    limit: int = Field(default=100, ge=1, le=500)


class DocumentPath(BaseModel):
    document_id: str


class RevisionPath(BaseModel):
    revision_id: str


@api.get("/api/documents", responses=answers(RegisterPage))
@permission("member")
def list_register(query: RegisterQuery) -> RegisterPage:
    """A page of the register."""
    filters = tuple((name, getattr(query, name)) for name in FILTERS if getattr(query, name))
    view = RegisterView(query.project_id, query.words, filters, query.sort, query.descending, query.cursor, query.limit)
    return documents.list_register(context(), actor(), view)


@api.get("/api/documents/<document_id>", responses=answers(Dossier))
@permission("read")
def read_document(path: DocumentPath) -> Dossier:
    """The dossier of a document."""
    return documents.read_document(context(), actor(), path.document_id)


@api.post("/api/revisions/<revision_id>/download")
@permission("read")
def download_revision(path: RevisionPath) -> Response:
    """The file of a revision. A POST, because each download is recorded."""
    return send(documents.download_revision(context(), actor(), path.revision_id))
