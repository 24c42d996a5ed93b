"""Acts on one document over HTTP. A new revision comes as a raw body, so that it streams."""

from __future__ import annotations

from pydantic import RootModel

from nod.services.acts.answers import FromOutside
from nod.services.intake import new_revisions
from nod.services.intake.new_revisions import BringBackRevision, RevisionBegun, RevisionFiled, RevisionSaid
from nod.services.register import check_outs, releases, withdrawals
from nod.services.register.check_outs import CheckOut, CheckOutLine, EndCheckOut
from nod.services.register.releases import SetStatus, StatusSet
from nod.services.register.withdrawals import RenameDocument, SeenDocument, Withdraw
from nod.web.answers import answers, feature
from nod.web.bodies import body_pieces, largest_file, raw_body
from nod.web.guard import actor, context, permission

api = feature("document_acts")


class OfProject(FromOutside):
    project_id: str


class DocumentPath(FromOutside):
    document_id: str


class RevisionPath(FromOutside):
    revision_id: str


class RevisionQuery(FromOutside):
    name: str
    revision: str
    status: str
    title: str = ""
    purpose: str = ""
    note: str = ""


class CheckOuts(RootModel[list[CheckOutLine]]):
    pass


@api.get("/api/check-outs", responses=answers(CheckOuts))
@permission("member")
def list_check_outs(query: OfProject) -> list[CheckOutLine]:
    """All that is checked out, the longest first."""
    return check_outs.list_check_outs(context(), actor(), query.project_id)


@api.post("/api/documents/<document_id>/check-out", responses=answers())
@permission("file")
def check_out(path: DocumentPath, body: CheckOut) -> None:
    """Check a document out."""
    check_outs.check_out(context(), actor(), path.document_id, body)


@api.post("/api/documents/<document_id>/end-check-out", responses=answers())
@permission("file")
def end_check_out(path: DocumentPath, body: EndCheckOut) -> None:
    """Put back one's own, or break another's with a reason."""
    check_outs.end_check_out(context(), actor(), path.document_id, body)


@api.put("/api/documents/<document_id>/revision", responses=answers(RevisionBegun))
@permission("file")
@raw_body(largest_file)
def begin_revision(path: DocumentPath, query: RevisionQuery) -> RevisionBegun:
    """The next revision: its file is the body, and goes through Intake."""
    said = RevisionSaid(file_name=query.name, **query.model_dump(exclude={"name"}))
    return new_revisions.begin_revision(context(), actor(), path.document_id, said, body_pieces())


@api.post("/api/revisions/<revision_id>/bring-back", responses=answers(RevisionFiled))
@permission("file")
def bring_back_revision(path: RevisionPath, body: BringBackRevision) -> RevisionFiled:
    """An earlier revision's content as a new revision."""
    return new_revisions.bring_back_revision(context(), actor(), path.revision_id, body)


@api.post("/api/revisions/<revision_id>/status", responses=answers(StatusSet))
@permission("keep")
def set_status(path: RevisionPath, body: SetStatus) -> StatusSet:
    """Release a revision by its status, or take its release back."""
    return releases.set_status(context(), actor(), path.revision_id, body)


@api.post("/api/documents/<document_id>/withdraw", responses=answers())
@permission("keep")
def withdraw(path: DocumentPath, body: Withdraw) -> None:
    """Withdraw a document with a reason."""
    withdrawals.withdraw(context(), actor(), path.document_id, body)


@api.post("/api/documents/<document_id>/bring-back", responses=answers())
@permission("keep")
def bring_back(path: DocumentPath, body: SeenDocument) -> None:
    """Bring a withdrawn document back."""
    withdrawals.bring_back(context(), actor(), path.document_id, body)


@api.post("/api/documents/<document_id>/rename", responses=answers())
@permission("keep")
def rename_document(path: DocumentPath, body: RenameDocument) -> None:
    """Give a document another number; its old one still finds it."""
    withdrawals.rename_document(context(), actor(), path.document_id, body)
