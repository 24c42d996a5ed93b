"""The bell, and what one follows, over HTTP."""

from __future__ import annotations

from nod.services.acts.answers import FromOutside
from nod.services.notices import follows, unread
from nod.services.notices.follows import Following, Follows
from nod.services.notices.unread import Bell, LookedAt
from nod.web.answers import answers, feature
from nod.web.guard import actor, context, permission

api = feature("notices")


class ProjectQuery(FromOutside):
    project_id: str


class FollowPath(FromOutside):
    kind: str
    target: str


@api.get("/api/notices", responses=answers(Bell))
@permission("member")
def read_bell(query: ProjectQuery) -> Bell:
    """What I was told in the project, the newest first."""
    return unread.read_bell(context(), actor(), query.project_id)


@api.post("/api/notices/looked-at", responses=answers())
@permission("member")
def note_looked_at(body: LookedAt) -> None:
    """I have looked at a thing: what tells of it is read."""
    unread.note_looked_at(context(), actor(), body)


@api.get("/api/follows", responses=answers(Follows))
@permission("member")
def list_follows(query: ProjectQuery) -> Follows:
    """What I follow in the project."""
    return follows.list_follows(context(), actor(), query.project_id)


@api.get("/api/follows/<kind>/<target>", responses=answers(Following))
@permission("member")
def read_following(path: FollowPath, query: ProjectQuery) -> Following:
    """Whether I follow it, and who does."""
    return follows.read_following(context(), actor(), query.project_id, path.kind, path.target)


@api.post("/api/follows/<kind>/<target>", responses=answers(Following))
@permission("member")
def follow(path: FollowPath, query: ProjectQuery) -> Following:
    """Follow a thing, a folder, or every mark of the project."""
    return follows.follow(context(), actor(), query.project_id, path.kind, path.target)


@api.delete("/api/follows/<kind>/<target>", responses=answers(Following))
@permission("member")
def unfollow(path: FollowPath, query: ProjectQuery) -> Following:
    """Follow it no more."""
    return follows.unfollow(context(), actor(), query.project_id, path.kind, path.target)
