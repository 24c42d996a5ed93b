"""The post room over HTTP, in the demo."""

from __future__ import annotations

from pydantic import RootModel

from nod.services.acts.answers import FromOutside
from nod.services.mail import post_room
from nod.services.mail.post_room import Bounce, Mail, OutsideMail, OutsideSent
from nod.web.answers import answers, feature
from nod.web.guard import context, permission

api = feature("post_room")


class Mails(RootModel[list[Mail]]):
    pass


class RoomPath(FromOutside):
    mail_id: str


@api.get("/api/post-room", responses=answers(Mails))
@permission("signed in")
def list_mail() -> list[Mail]:
    """All mail that left Nod, newest first. Only in the demo."""
    return post_room.list_mail(context())


@api.post("/api/post-room", responses=answers(OutsideSent))
@permission("signed in")
def send_from_outside(body: OutsideMail) -> OutsideSent:
    """Write to Nod as somebody outside, in answer to a mail or not. Only in the demo."""
    return post_room.send_from_outside(context(), body)


@api.post("/api/post-room/<mail_id>/bounce", responses=answers(OutsideSent))
@permission("signed in")
def bounce_mail(path: RoomPath, body: Bounce) -> OutsideSent:
    """Have a mail come back, as its reader's server would. Only in the demo."""
    return post_room.bounce_mail(context(), path.mail_id, body)
