"""Links for people without an account, over HTTP: given by members, opened by whoever holds them."""

from __future__ import annotations

from flask import Response, request

from nod.services.acts.answers import FromOutside
from nod.services.links import guest_talk, links, visits
from nod.services.links.guest_talk import GuestSays, GuestTalk
from nod.services.links.links import GiveLink, GivenLinks, LinkLines, LinkOffer
from nod.services.links.visits import Entered, EnterLink, LinkFront, LookAtLink
from nod.services.register import by_link
from nod.services.register.by_link import GuestDocument
from nod.web.answers import ANY_FILE, PICTURES, answers, feature, file_answers, send, send_unkept
from nod.web.guard import actor, context, guest_secret, permission, press, tells_a_secret, whoever_is_signed_in

api = feature("links")


class LinkPath(FromOutside):
    link_id: str


class PagePath(FromOutside):
    page: int


class OfThing(FromOutside):
    kind: str
    target: str


class LinksQuery(FromOutside):
    project_id: str
    own: bool = True


@api.get("/api/links", responses=answers(LinkLines))
@permission("member")
def list_given_links(query: LinksQuery) -> LinkLines:
    """One's own links, or all of a project for those who run it."""
    return links.list_links(context(), actor(), query.project_id, own=query.own)


@api.get("/api/links/offer", responses=answers(LinkOffer))
@permission("file")
def read_offer(query: OfThing) -> LinkOffer:
    """What a link to a thing may allow."""
    return links.read_offer(context(), actor(), query.kind, query.target)


@api.post("/api/links", responses=answers(GivenLinks))
@permission("file")
@tells_a_secret
def give_links(body: GiveLink) -> GivenLinks:
    """Give a link to a thing."""
    return links.give_links(context(), actor(), body)


@api.post("/api/links/<link_id>/withdraw", responses=answers())
@permission("member")
def withdraw_link(path: LinkPath) -> None:
    """Withdraw a link, at once."""
    links.withdraw_link(context(), actor(), path.link_id)


@api.post("/api/guest/look", responses=answers(LinkFront))
@permission("link")
def look_at_link(body: LookAtLink) -> LinkFront:
    """What a link says before it is opened. Counts as no visit."""
    return visits.look_at_link(context(), body, request.remote_addr or "")


@api.post("/api/guest/enter", responses=answers(Entered))
@permission("link")
def enter_link(body: EnterLink) -> Entered:
    """Open a link, with a deliberate press."""
    signed_in = whoever_is_signed_in()
    return visits.enter_link(context(), body, request.remote_addr or "", signed_in.own if signed_in else None)


@api.get("/api/guest/document", responses=answers(GuestDocument))
@permission("link")
def read_guest_document() -> GuestDocument:
    """The document that a link leads to."""
    return by_link.read_document(context(), guest_secret())


@api.get("/api/guest/document/pages/<int:page>", responses=file_answers(*PICTURES))
@permission("link")
def read_guest_page(path: PagePath) -> Response:
    """A picture of one of its pages."""
    return send_unkept(by_link.read_page(context(), press(), guest_secret(), path.page))


@api.post("/api/guest/document/file", responses=file_answers(*ANY_FILE))
@permission("link")
def download_guest_document() -> Response:
    """Its file. A POST, because each download is recorded."""
    return send(by_link.download_document(context(), guest_secret()))


@api.get("/api/guest/talk", responses=answers(GuestTalk))
@permission("link")
def read_guest_talk() -> GuestTalk:
    """What was said about the thing that a link leads to."""
    return guest_talk.read_talk(context(), guest_secret())


@api.post("/api/guest/talk", responses=answers(GuestTalk))
@permission("link")
def say_as_guest(body: GuestSays) -> GuestTalk:
    """Say something about it, as a guest."""
    return guest_talk.say(context(), guest_secret(), body)
