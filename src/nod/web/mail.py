"""The post room's mail over HTTP, in the demo."""

from __future__ import annotations

from pydantic import RootModel

from nod.services.mail import post_room
from nod.services.mail.post_room import Mail
from nod.web.answers import answers, feature
from nod.web.guard import context, permission

api = feature("post_room")


class Mails(RootModel[list[Mail]]):
    pass


@api.get("/api/post-room", responses=answers(Mails))
@permission("signed in")
def list_mail() -> list[Mail]:
    """All mail that left Nod, newest first. Only in the demo."""
    return post_room.list_mail(context())
