"""What tests of sessions do again and again."""

from datetime import timedelta

from nod.services.acts.work import Lane
from nod.services.links import links
from nod.services.links.links import GiveLink
from nod.services.marks.marks import NewMark
from nod.services.sessions import making, marking, opening, presence, sessions_view
from nod.services.sessions.invitations import Party
from nod.services.sessions.making import MakeSession
from nod.services.sessions.marking import DrawInSession
from nod.services.sessions.opening import CloseSession
from nod.services.sessions.presence import Here
from nod.services.sessions.sessions_view import AskedSessions
from nod.worker import drain, handlers_with


def person(world, who, may="mark"):
    return Party(kind="person", id=world.actor(who).person_id, may=may)


def company(world, who, may="mark"):
    return Party(kind="company", id=world.actor(who).company_id, may=may)


def make(world, *revisions, parties=(), who="marit", hours=2, opens_in=None, name="Quay hall, level 1"):
    now = world.clock.now()
    opens_at = now + timedelta(hours=opens_in) if opens_in else None
    command = MakeSession(
        project_id=world.project_id, name=name, closes_at=(opens_at or now) + timedelta(hours=hours),
        opens_at=opens_at, revisions=list(revisions), parties=list(parties),
    )  # fmt: skip
    return making.make_session(world.context, world.actor(who), command).id


def seen(world, session_id, who="marit"):
    return sessions_view.read_session(world.context, world.actor(who), session_id)


def listed(world, who="marit", **asked):
    return sessions_view.list_sessions(world.context, world.actor(who), AskedSessions(world.project_id, **asked))


def draw(world, session_id, revision_id, who="leilani", text="What is this?", kind="pin", points=((100, 100),), **more):
    new = NewMark(page=0, kind=kind, points=list(points), text=text)
    command = DrawInSession(marks=[new], **more)
    (mark,) = marking.draw_in_session(world.context, world.actor(who), session_id, revision_id, command)
    return mark


def be_here(world, session_id, revision_id, who, **more):
    presence.be_here(world.context, world.actor(who), session_id, Here(revision_id=revision_id, **more))


def close(world, session_id, who="marit", open_becomes=""):
    command = CloseSession(version=seen(world, session_id, who).version, open_becomes=open_becomes)
    opening.close_session(world.context, world.actor(who), session_id, command)


def work(world):
    """All that the worker has to do now, but mail."""
    by_kind = {**handlers_with(world.context, world.press), "mail": lambda task: None}
    while drain(world.context, by_kind, "test", Lane.SEND, Lane.REST):
        pass


def link_to(world, session_id, *allows, who="marit", **more):
    """The secret of a link that anybody may open."""
    command = GiveLink(kind="session", target=session_id, for_kind="anyone", allows=list(allows), **more)
    return links.give_links(world.context, world.actor(who), command).links[0].address.rpartition("/")[2]
