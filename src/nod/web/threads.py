"""Talk about things of any kind, over HTTP."""

from __future__ import annotations

from nod.services.acts.answers import FromOutside
from nod.services.threads import talk
from nod.services.threads.talk import Say, Talk
from nod.web.answers import answers, feature
from nod.web.guard import actor, context, permission

api = feature("threads")


class TalkPath(FromOutside):
    kind: str
    target: str


@api.get("/api/talk/<kind>/<target>", responses=answers(Talk))
@permission("read")
def read_talk(path: TalkPath) -> Talk:
    """What was said about a thing in its dossier."""
    return talk.read_talk(context(), actor(), path.kind, path.target)


@api.post("/api/talk/<kind>/<target>", responses=answers(Talk))
@permission("mark")
def say(path: TalkPath, body: Say) -> Talk:
    """Say something about a thing, where one may."""
    return talk.say(context(), actor(), path.kind, path.target, body)
