"""Drafts of transmittals, who holds what, and hand-overs on paper, over HTTP."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, RootModel

from nod.services.acts.answers import FromOutside
from nod.services.transmittals import by_matrix, catching_up, distribution, drafts, holders
from nod.services.transmittals.by_matrix import AskMatrix, MatrixSays
from nod.services.transmittals.catching_up import CatchUp, CaughtUp, HandedOver, HandOver
from nod.services.transmittals.distribution import Due, DuePrepared, PrepareDue
from nod.services.transmittals.drafts import Draft, DraftKept, DraftLine, KeepDraft, SeenDraft
from nod.services.transmittals.holders import AskedHolders, DocumentHolders, HoldersPage
from nod.web.answers import answers, feature
from nod.web.guard import actor, context, permission

api = feature("drafts")


class OfProject(FromOutside):
    project_id: str


class DraftPath(FromOutside):
    draft_id: str


class DocumentPath(FromOutside):
    document_id: str


class HandOverPath(FromOutside):
    hand_over_id: str


class DraftLines(RootModel[list[DraftLine]]):
    pass


class HoldersQuery(FromOutside):
    project_id: str
    words: str = ""
    filters: str = ""
    state: Literal["", "in_step", "not_acknowledged", "behind", "ahead", "withdrawn", "never", "held"] = ""
    company_id: str = ""
    cursor: str = ""
    limit: int = Field(default=100, ge=1, le=200)


@api.get("/api/transmittals/drafts", responses=answers(DraftLines))
@permission("member")
def list_drafts(query: OfProject) -> list[DraftLine]:
    """The drafts of one's company."""
    return drafts.list_drafts(context(), actor(), query.project_id)


@api.post("/api/transmittals/drafts", responses=answers(DraftKept))
@permission("file")
def make_draft(body: KeepDraft) -> DraftKept:
    """Keep a draft."""
    return drafts.make_draft(context(), actor(), body)


@api.get("/api/transmittals/drafts/<draft_id>", responses=answers(Draft))
@permission("file")
def read_draft(path: DraftPath) -> Draft:
    """A draft as it was kept."""
    return drafts.read_draft(context(), actor(), path.draft_id)


@api.put("/api/transmittals/drafts/<draft_id>", responses=answers(DraftKept))
@permission("file")
def change_draft(path: DraftPath, body: KeepDraft) -> DraftKept:
    """Change a draft."""
    return drafts.change_draft(context(), actor(), path.draft_id, body)


@api.post("/api/transmittals/drafts/<draft_id>/discard", responses=answers())
@permission("file")
def discard_draft(path: DraftPath, body: SeenDraft) -> None:
    """Discard a draft."""
    drafts.discard_draft(context(), actor(), path.draft_id, body)


@api.get("/api/holders", responses=answers(HoldersPage))
@permission("member")
def list_holders(query: HoldersQuery) -> HoldersPage:
    """Who holds which revision of each document."""
    return holders.list_holders(context(), actor(), AskedHolders(**query.model_dump()))


@api.get("/api/documents/<document_id>/holders", responses=answers(DocumentHolders))
@permission("read")
def read_document_holders(path: DocumentPath) -> DocumentHolders:
    """Who holds which revision of a document, and all that was sent of it."""
    return holders.read_document_holders(context(), actor(), path.document_id)


@api.post("/api/holders/catch-up", responses=answers(CaughtUp))
@permission("file")
def catch_up(body: CatchUp) -> CaughtUp:
    """Drafts that bring companies up to date."""
    return catching_up.catch_up(context(), actor(), body)


@api.post("/api/hand-overs", responses=answers(HandedOver))
@permission("file")
def hand_over(body: HandOver) -> HandedOver:
    """Enter what was handed over on paper."""
    return catching_up.hand_over(context(), actor(), body)


@api.post("/api/hand-overs/<hand_over_id>/take-back", responses=answers())
@permission("file")
def take_hand_over_back(path: HandOverPath) -> None:
    """Take back a hand-over that was entered by mistake."""
    catching_up.take_hand_over_back(context(), actor(), path.hand_over_id)


@api.get("/api/transmittals/due", responses=answers(Due))
@permission("run")
def read_due(query: OfProject) -> Due:
    """What the distribution matrix owes, by company."""
    return distribution.read_due(context(), actor(), query.project_id)


@api.post("/api/transmittals/by-matrix", responses=answers(MatrixSays))
@permission("file")
def ask_matrix(body: AskMatrix) -> MatrixSays:
    """To whom the distribution matrix would have these sent."""
    return by_matrix.ask_matrix(context(), actor(), body)


@api.post("/api/transmittals/due", responses=answers(DuePrepared))
@permission("run")
def prepare_due(body: PrepareDue) -> DuePrepared:
    """Prepare what is due to companies: drafts, of which nothing is sent."""
    return distribution.prepare_due(context(), actor(), body)
