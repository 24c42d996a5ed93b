"""The people of a project over HTTP."""

from __future__ import annotations

from nod.services.acts.answers import FromOutside
from nod.services.acts.handing_over import OpenWorkList
from nod.services.people import members, newcomers, people
from nod.services.people.members import ChangeMember, RemoveMember
from nod.services.people.newcomers import AddPeople, PeopleAdded
from nod.services.people.people import People, PeopleRead, ProposedCode, ReadPeople, Suggestions
from nod.web.answers import answers, feature
from nod.web.guard import actor, context, permission

api = feature("members")


class ProjectPath(FromOutside):
    project_id: str


class MemberPath(FromOutside):
    project_id: str
    person_id: str


class WordsQuery(FromOutside):
    words: str = ""


class NameQuery(FromOutside):
    name: str = ""


@api.get("/api/projects/<project_id>/people", responses=answers(People))
@permission("run")
def list_people(path: ProjectPath) -> People:
    """People, roles, tools and companies of a project."""
    return people.list_people(context(), actor(), path.project_id)


@api.get("/api/projects/<project_id>/people/suggestions", responses=answers(Suggestions))
@permission("lead")
def suggest_people(path: ProjectPath, query: WordsQuery) -> Suggestions:
    """People the workspace knows, by the beginning of a name or address."""
    return people.suggest_people(context(), actor(), path.project_id, query.words)


@api.get("/api/projects/<project_id>/company-code", responses=answers(ProposedCode))
@permission("lead")
def propose_code(path: ProjectPath, query: NameQuery) -> ProposedCode:
    """A free code for a company of this name."""
    return people.propose(context(), actor(), path.project_id, query.name)


@api.post("/api/people/read", responses=answers(PeopleRead))
@permission("lead")
def read_pasted(body: ReadPeople) -> PeopleRead:
    """What was typed or pasted, line by line. Changes nothing."""
    return people.read_pasted(context(), actor(), body)


@api.post("/api/people", responses=answers(PeopleAdded))
@permission("lead")
def add_people(body: AddPeople) -> PeopleAdded:
    """Add people and send their invitations."""
    return newcomers.add_people(context(), actor(), body)


@api.post("/api/projects/<project_id>/people/<person_id>/invitation", responses=answers())
@permission("lead")
def send_again(path: MemberPath) -> None:
    """Send an invitation again."""
    newcomers.send_again(context(), actor(), path.project_id, path.person_id)


@api.post("/api/projects/<project_id>/people/<person_id>", responses=answers())
@permission("lead")
def change_member(path: MemberPath, body: ChangeMember) -> None:
    """Change a person's roles and tools."""
    members.change_member(context(), actor(), path.project_id, path.person_id, body)


@api.get("/api/projects/<project_id>/people/<person_id>/open-work", responses=answers(OpenWorkList))
@permission("lead")
def list_open_work(path: MemberPath) -> OpenWorkList:
    """What is with a person."""
    return members.list_open_work(context(), actor(), path.project_id, path.person_id)


@api.post("/api/projects/<project_id>/people/<person_id>/remove", responses=answers())
@permission("lead")
def remove_member(path: MemberPath, body: RemoveMember) -> None:
    """Remove a person, handing over what is with them."""
    members.remove_member(context(), actor(), path.project_id, path.person_id, body)
