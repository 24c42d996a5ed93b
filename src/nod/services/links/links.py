"""Giving links to things, listing them with their visits, and withdrawing them."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime
from typing import Any, Literal
from zoneinfo import ZoneInfo

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.core.acts.working_days import end_of_day
from nod.core.links.links import FOR, MOST_VISITS, check_allows, why_closed
from nod.core.people.passwords import check_password
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.answers import Answered, Command, Who, people_by_id
from nod.services.acts.context import Act, Context, acting
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.services.links.rooms import LinkRoom, room_of
from nod.services.links.visits import state_of
from nod.services.mail.mails import About, SecretLink, write_mail
from nod.services.people import sign_in
from nod.services.things.kinds import ThingKind, kind_of
from nod.services.things.things import Thing, any_seen, see_thing, things_of
from nod.store.ids import new_id
from nod.store.tables import GuestRow, LinkRow, MembershipRow, PersonRow

_MOST_AT_ONCE = 50
_MOST_LISTED = 500
_MOST_VISITS_SHOWN = 50


class GiveLink(Command):
    """`people` for `named` links, one each. `ends_on` is the last day, in the project's zone."""

    kind: str
    target: str
    for_kind: Literal["named", "signed_in", "anyone"]
    people: list[str] = Field(default_factory=list)
    allows: list[str] = Field(default_factory=list)
    ends_on: date | None = Field(default=None, strict=False)
    password: str = ""
    most_visits: int | None = Field(default=None, ge=1, le=MOST_VISITS)


class GivenLink(Answered):
    """`address` is the whole one; whoever is named has it by mail."""

    id: str
    address: str
    to: Who | None


class GivenLinks(Answered):
    links: list[GivenLink]


class Visit(Answered):
    at: datetime
    name: str


class LinkLine(Answered):
    """`closed` says why it opens nothing any more, empty while it does. `visits` are the latest."""

    id: str
    thing: Thing
    for_kind: str
    for_words: str
    to: Who | None
    allows: list[str]
    made_by: Who
    made_at: datetime
    ends_at: datetime | None
    has_password: bool
    opened: int
    most_visits: int | None
    visits: list[Visit]
    closed: str
    may_withdraw: bool


class LinkLines(Answered):
    """The latest first, at most 500."""

    links: list[LinkLine]


class LinkOffer(Answered):
    """What a link to a thing may allow, and to whom of the project it can be given by name."""

    offers: list[str]
    people: list[Who]


def secret_of(link_id: str) -> SecretLink:
    return SecretLink("/l/", f"link:{link_id}")


def read_offer(context: Context, actor: Actor, kind: str, target: str) -> LinkOffer:
    """Raises NotFound for what is not there or has no links, NotAllowed for those who may not give any."""
    with context.database.read() as session:
        _, _, seat, room = _giving(session, actor, kind, target)
        query = select(MembershipRow.person_id).where(
            MembershipRow.project_id == seat.project.id, MembershipRow.state != "removed"
        )
        people = people_by_id(session, set(session.scalars(query)))
        return LinkOffer(offers=list(room.offers), people=sorted(people.values(), key=lambda each: each.name))


def _giving(session: Session, actor: Actor, kind: str, target: str) -> tuple[ThingKind[Any], Any, Seat, LinkRoom]:
    found, room = kind_of(kind), room_of(kind)
    if found is None or room is None:
        raise NotFound(target)
    row, seat = see_thing(session, actor, found, target)
    if not room.may_give(seat, row):
        raise NotAllowed("level_too_low", "Links are given by those who may send it out.", found.name(row))
    return found, row, seat, room


def see_to_give(session: Session, actor: Actor, kind: str, target: str) -> tuple[Any, Seat]:
    """A thing that a link may be given to, and the seat of whoever asks. Raises as `read_offer` does."""
    _, row, seat, _ = _giving(session, actor, kind, target)
    return row, seat


def give_links(context: Context, actor: Actor, command: GiveLink) -> GivenLinks:
    """One link, or one for each of the named people, who get it by mail. Raises RuleBroken for what makes no sense."""
    password_hash = ""
    if command.password:
        check_password(command.password, "")
        password_hash = sign_in.hasher(context).hash(command.password)
    with acting(context, actor) as act:
        kind, row, seat, room = _giving(act.session, actor, command.kind, command.target)
        allows = check_allows(command.allows, room.offers)
        ends_at = end_of_day(command.ends_on, ZoneInfo(seat.project.time_zone)) if command.ends_on else None
        if ends_at is not None and ends_at <= act.at:
            raise RuleBroken("link_over", "Its last day is over already.", str(command.ends_on))
        given = []
        for person in _to(act, seat, command):
            link = LinkRow(
                id=new_id(), project_id=seat.project.id, thing_kind=kind.code, thing_id=command.target,
                for_kind=command.for_kind, person_id=person.id if person else None, allows=allows,
                made_by=actor.person_id, made_at=act.at, ends_at=ends_at, password_hash=password_hash,
                most_visits=command.most_visits, token_sha256="",
            )  # fmt: skip
            link.token_sha256 = sign_in.token_hash(secret_of(link.id).token(context))
            act.session.add(link)
            act.session.flush()
            _record(act, FactKind.LINK_GIVEN, link, kind.name(row), {"for": _for_words(link, person), "allows": allows})
            if person:
                _mail(act, seat, link, person, kind, row)
            given.append((link, person))
        act.tell(seat.project.id, "links", seat.project.id, only=actor.person_id)
        who = people_by_id(act.session, {person.id for _, person in given if person})
        return GivenLinks(
            links=[
                GivenLink(
                    id=link.id, address=secret_of(link.id).address(context), to=who[person.id] if person else None
                )
                for link, person in given
            ]
        )


def _to(act: Act, seat: Seat, command: GiveLink) -> Sequence[PersonRow | None]:
    if command.for_kind != "named":
        return [None]
    ids = list(dict.fromkeys(command.people))
    if not 1 <= len(ids) <= _MOST_AT_ONCE:
        raise RuleBroken("nobody_named", f"Name at least one person, and at most {_MOST_AT_ONCE}.")
    people = []
    for each in ids:
        member = act.session.get(MembershipRow, (seat.project.id, each))
        if member is None or member.state == "removed":
            raise NotFound(each)
        people.append(act.session.get_one(PersonRow, each))
    return people


def _for_words(link: LinkRow, person: PersonRow | None) -> str:
    return person.name if person else FOR[link.for_kind]


def _mail(act: Act, seat: Seat, link: LinkRow, person: PersonRow, kind: ThingKind[Any], row: Any) -> None:
    name = kind.name(row)
    lines = [
        f"{act.actor.name} ({act.actor.company_code}) gives you a link to the {kind.words} {name}.",
        "",
        "Open it here. No account is needed:",
        "{link}",
        *(["", "You need the password that goes with it."] if link.password_hash else []),
        *(["", f"It works until {link.ends_at.astimezone(ZoneInfo(seat.project.time_zone)):%-d %B %Y %H:%M}."]
          if link.ends_at else []),
    ]  # fmt: skip
    subject = f"{seat.project.number}: {kind.number(row) or name}, from {act.actor.name}"
    about = About(seat.project, Subject(kind.code, link.thing_id), by_hand=True)
    write_mail(act, f"link:{link.id}", person.id, subject, lines, secret_of(link.id), about=about)


def list_links(context: Context, actor: Actor, project_id: str, *, own: bool) -> LinkLines:
    """One's own, or all of the project for those who run it, to things that are there for them."""
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        there = any_seen(seat, LinkRow.thing_kind, LinkRow.thing_id)
        query = select(LinkRow).where(LinkRow.project_id == project_id, there)
        if own or not seat.runs:
            query = query.where(LinkRow.made_by == (actor.private_id or "-"))
        rows = list(session.scalars(query.order_by(LinkRow.made_at.desc(), LinkRow.id).limit(_MOST_LISTED)))
        things = things_of(session, seat, {(row.thing_kind, row.thing_id) for row in rows})
        people = people_by_id(session, {row.made_by for row in rows} | {row.person_id for row in rows if row.person_id})
        visits = _visits(session, [row.id for row in rows])
        now = context.clock.now()
        return LinkLines(
            links=[
                LinkLine(
                    id=row.id, thing=thing, for_kind=row.for_kind, for_words=FOR[row.for_kind],
                    to=people.get(row.person_id or ""), allows=row.allows, made_by=people[row.made_by],
                    made_at=row.made_at, ends_at=row.ends_at, has_password=bool(row.password_hash), opened=row.visits,
                    most_visits=row.most_visits, visits=visits.get(row.id, []),
                    closed=why_closed(state_of(session, row), now), may_withdraw=row.withdrawn_at is None,
                )
                for row in rows
                if (thing := things.get((row.thing_kind, row.thing_id)))
            ]
        )  # fmt: skip


def _visits(session: Session, ids: list[str]) -> dict[str, list[Visit]]:
    found: dict[str, list[Visit]] = {}
    query = select(GuestRow).where(GuestRow.link_id.in_(ids)).order_by(GuestRow.began_at.desc(), GuestRow.id)
    for row in session.scalars(query):
        visits = found.setdefault(row.link_id, [])
        if len(visits) < _MOST_VISITS_SHOWN:
            visits.append(Visit(at=row.began_at, name=row.name))
    return found


def withdraw_link(context: Context, actor: Actor, link_id: str) -> None:
    """At once. Raises NotAllowed but for its giver and who runs the project."""
    with acting(context, actor) as act:
        row = act.session.get(LinkRow, link_id)
        if row is None:
            raise NotFound(link_id)
        seat = take_seat(act.session, actor, row.project_id)
        if row.made_by != actor.person_id and not seat.runs:
            raise NotAllowed("not_your_link", "Only who gave a link, a lead or a controller can withdraw it.")
        if row.made_by != actor.person_id and not things_of(act.session, seat, [(row.thing_kind, row.thing_id)]):
            raise NotFound(link_id)
        kind = kind_of(row.thing_kind)
        thing = _thing_of(act.session, row)
        if row.withdrawn_at is None and kind is not None:
            row.withdrawn_at, row.withdrawn_by = act.at, actor.person_id
            row.version += 1
            about = kind.name(thing) if thing else "what is not there any more"
            _record(act, FactKind.LINK_WITHDRAWN, row, about, {})
            act.tell(row.project_id, "links", row.project_id, only=row.made_by)


def _thing_of(session: Session, link: LinkRow) -> Any:
    """None for what was taken away meanwhile."""
    kind = kind_of(link.thing_kind)
    query = select(kind.row).where(kind.columns.id == link.thing_id) if kind else None
    return session.scalars(query).one_or_none() if query is not None else None


def _record(act: Act, fact: FactKind, link: LinkRow, about: str, after: dict[str, Any]) -> None:
    subject = Subject(link.thing_kind, link.thing_id)
    others = (Subject("link", link.id), *([Subject("person", link.person_id)] if link.person_id else []))
    act.record(link.project_id, Fact(fact, subject, about, others, after=after))
