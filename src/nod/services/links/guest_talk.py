"""What a guest may read and say about the thing that their link leads to."""

from __future__ import annotations

from nod.core.acts.refusals import NotFound
from nod.core.threads.threads import Way, check_text
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Context
from nod.services.acts.tries import key_of, take_one
from nod.services.links.rooms import room_of
from nod.services.links.visits import guest_of
from nod.services.threads.said import Outside, Reply
from nod.services.threads.talk import say_from_outside, what_was_said

_MOST_SAID = 60


class GuestTalk(Answered):
    """The earlier first."""

    said: list[Reply]


class GuestSays(Command):
    text: str


def read_talk(context: Context, secret: str) -> GuestTalk:
    """Raises NotFound for what is not talked about, NotAllowed where the link does not allow it."""
    with context.database.read() as session:
        guest = guest_of(context, session, secret)
        if not guest.kind.has_talk:
            raise NotFound
        guest.need("comment")
        return GuestTalk(said=what_was_said(session, guest.kind, guest.row))


def say(context: Context, secret: str, command: GuestSays) -> GuestTalk:
    """In their own name, as a guest."""
    text = check_text(command.text, required=True)
    with context.database.write() as session:
        guest = guest_of(context, session, secret)
        if not guest.kind.has_talk:
            raise NotFound
        guest.need("comment")
        act = guest.act
        take_one(session, key_of("guest says", guest.link.id), _MOST_SAID, act.at)
        outside = Outside(Way.LINK, guest.name, act.at, act.actor.company_code)
        say_from_outside(act, guest.kind, guest.row, text, outside)
        if room := room_of(guest.kind.code):
            room.heard(act, guest.row, guest.name, text)
        return GuestTalk(said=what_was_said(session, guest.kind, guest.row))
