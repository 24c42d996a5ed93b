"""The workspace over HTTP, for its stewards."""

from __future__ import annotations

from nod.services.acts.answers import FromOutside
from nod.services.people import second_factor
from nod.services.people.second_factor import ResetSecondFactor
from nod.services.setup import workspace
from nod.services.setup.workspace import (
    ChangeCompany,
    ChangePerson,
    MakeProject,
    MergeCompanies,
    ProjectMade,
    Workspace,
)
from nod.web.answers import answers, feature
from nod.web.guard import actor, context, permission

api = feature("workspace")


class CompanyPath(FromOutside):
    company_id: str


class PersonPath(FromOutside):
    person_id: str


@api.get("/api/workspace", responses=answers(Workspace))
@permission("steward")
def read_workspace() -> Workspace:
    """All projects, companies and people."""
    return workspace.read_workspace(context(), actor())


@api.post("/api/workspace/projects", responses=answers(ProjectMade))
@permission("steward")
def make_project(body: MakeProject) -> ProjectMade:
    """Begin a project from a starter."""
    return workspace.make_project(context(), actor(), body)


@api.post("/api/workspace/companies/<company_id>", responses=answers())
@permission("steward")
def change_company(path: CompanyPath, body: ChangeCompany) -> None:
    """Change a company."""
    workspace.change_company(context(), actor(), path.company_id, body)


@api.post("/api/workspace/companies/merge", responses=answers())
@permission("steward")
def merge_companies(body: MergeCompanies) -> None:
    """Merge two companies that were typed twice."""
    workspace.merge_companies(context(), actor(), body)


@api.post("/api/workspace/people/<person_id>/second-factor/reset", responses=answers())
@permission("steward")
def reset_second_factor(path: PersonPath, body: ResetSecondFactor) -> None:
    """Switch somebody's second factor off who has lost it, with a reason; they are told, and signed out."""
    second_factor.reset(context(), actor(), path.person_id, body)


@api.post("/api/workspace/people/<person_id>", responses=answers())
@permission("steward")
def change_person(path: PersonPath, body: ChangePerson) -> None:
    """Change a person of the workspace."""
    workspace.change_person(context(), actor(), path.person_id, body)
