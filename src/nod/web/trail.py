"""The audit trail over HTTP."""

from __future__ import annotations

from flask import Response, request
from pydantic import Field

from nod.services.acts.answers import FromOutside
from nod.services.trail import proofs, trail
from nod.services.trail.proofs import AskProof, CheckProof, OfProject, ProofChecked
from nod.services.trail.seals import SealShown
from nod.services.trail.trail import TrailPage, TrailView
from nod.web.answers import TABLES, answers, feature, file_answers
from nod.web.guard import actor, context, permission

api = feature("trail")


class ProjectQuery(FromOutside):
    project_id: str


class ProofForm(FromOutside):
    """See `services.trail.proofs.AskProof`; as a form of the browser sends it."""

    project_id: str
    leaf: str
    since: int = Field(default=0, ge=0)


class Sealed(FromOutside):
    """The latest seal, if there is one yet."""

    seal: SealShown | None


@api.get("/api/audit", responses=answers(TrailPage))
@permission("member")
def read_log(query: TrailView) -> TrailPage:
    """A page of the log, or of the timeline of one thing."""
    return trail.read_log(context(), actor(), query)


@api.post("/api/audit/export", responses=file_answers(*TABLES))
@permission("member")
def export_log(form: TrailView) -> Response:
    """What the filters leave, as CSV. A POST, because each export is recorded."""
    text = trail.export_log(context(), actor(), form)
    response = Response(text, mimetype="text/csv")
    response.headers["Content-Disposition"] = "attachment; filename=activity.csv"
    return response


@api.get("/api/audit/seal", responses=answers(Sealed))
@permission("run")
def read_seal(query: ProjectQuery) -> Sealed:
    """The latest seal of the trail, and the key that it is checked with."""
    return Sealed(seal=proofs.read_seal(context(), actor(), query.project_id))


@api.post("/api/audit/seal", responses=answers(SealShown))
@permission("run")
def seal_now(body: OfProject) -> SealShown:
    """Seal the trail as it is now."""
    return proofs.seal_now(context(), actor(), body)


@api.post("/api/audit/proof", responses=file_answers("application/json"))
@permission("member")
def ask_proof(form: ProofForm) -> Response:
    """A proof that an entry stands under a seal, as a file that anybody can check."""
    response = Response(
        proofs.ask_proof(context(), actor(), AskProof(**form.model_dump())), mimetype="application/json"
    )
    response.headers["Content-Disposition"] = "attachment; filename=proof.json"
    return response


@api.post("/api/proofs/check", responses=answers(ProofChecked))
@permission("public")
def check_proof(body: CheckProof) -> ProofChecked:
    """What a proof proves, in words."""
    return proofs.check_proof(context(), body, request.remote_addr or "")
