"""Visits by links: what is behind one is asked anew each time, and a deliberate press counts as opened."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import NotAllowed, NotFound, NotSignedIn, RuleBroken
from nod.core.links.links import LinkState, why_closed
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.answers import Answered, Command, Who, people_by_id
from nod.services.acts.context import Act, Context
from nod.services.acts.seats import Actor, actor_of, take_seat
from nod.services.acts.tries import check_tries, count_tries, forgive, key_of, take_one
from nod.services.links.rooms import room_of
from nod.services.people import sign_in
from nod.services.things.kinds import ThingKind, kind_of
from nod.services.things.things import may_know
from nod.store.ids import new_id, new_token
from nod.store.tables import CompanyRow, GuestRow, LinkRow, MembershipRow, PersonRow, ProjectRow

MOST_TRIES_PER_ADDRESS, MOST_VISITS_AT_ONCE = 60, 200
MOST_PASSWORDS_PER_ADDRESS, MOST_PASSWORDS_PER_LINK = 10, 100
_ONE_VISIT = timedelta(hours=1)
_LIVES = timedelta(hours=12)

OnEntering = Callable[["Guest"], None]
_ON_ENTERING: dict[str, OnEntering] = {}


def on_entering(kind: str) -> Callable[[OnEntering], OnEntering]:
    """Registers what a kind of thing notes, with its own entry, when somebody opens a link to it."""

    def register(note: OnEntering) -> OnEntering:
        _ON_ENTERING[kind] = note
        return note

    return register


class LookAtLink(Command):
    """The end of the link's address."""

    token: str


class LinkFront(Answered):
    """What a link says before it is opened: little, as whoever looks may be a machine. `closed`: see `why_closed`."""

    project: str
    given_by: Who | None
    kind: str
    kind_words: str
    to: Who | None
    needs_name: bool
    needs_password: bool
    needs_sign_in: bool
    ends_at: datetime | None
    closed: str


class EnterLink(Command):
    token: str
    name: str = ""
    password: str = ""


class Entered(Answered):
    """`guest` is the secret of this visit, sent with everything that follows."""

    guest: str
    kind: str
    target: str
    name: str
    allows: list[str]


@dataclass(frozen=True)
class Guest:
    """Whoever came by a link: a principal of their own, who may do what it `allows` with its one thing."""

    act: Act
    link: LinkRow
    project: ProjectRow
    kind: ThingKind[Any]
    row: Any
    name: str
    visit_id: str

    def need(self, allowed: str) -> None:
        """Raises NotAllowed for what the link does not allow."""
        if allowed not in self.link.allows:
            raise NotAllowed("link_not_for_that", "This link does not allow that.", self.kind.name(self.row))


def state_of(session: Session, link: LinkRow) -> LinkState:
    """As it is now: the giver's access, the thing's audience, the person and the project."""
    person = session.get(PersonRow, link.person_id) if link.person_id else None
    member = session.get(MembershipRow, (link.project_id, link.person_id)) if link.person_id else None
    gone = link.for_kind == "named" and (
        person is None or person.state == "removed" or member is None or member.state == "removed"
    )
    return LinkState(
        link.withdrawn_at is not None, link.ends_at, link.visits, link.most_visits, gone, _opens(session, link)
    )


def _opens(session: Session, link: LinkRow) -> bool:
    """In the named person's own right, where the thing itself names them; otherwise in that of who gave it."""
    kind, room = kind_of(link.thing_kind), room_of(link.thing_kind)
    row = _thing(session, link)
    if kind is None or room is None or row is None:
        return False
    if link.person_id and room.names(session, row, link.person_id):
        return not kind.tool or kind.tool in session.get_one(ProjectRow, link.project_id).rules["tools"]
    try:
        seat = take_seat(session, actor_of(session, link.made_by), link.project_id)
    except NotFound:
        return False
    sees = may_know(session, link.project_id, link.made_by, [Subject(kind.code, link.thing_id)]) or seat.eyes.steward
    return kind.is_on(seat) and sees and room.may_give(seat, row)


def _thing(session: Session, link: LinkRow) -> Any:
    kind = kind_of(link.thing_kind)
    return session.scalars(select(kind.row).where(kind.columns.id == link.thing_id)).one_or_none() if kind else None


def _find(session: Session, token: str) -> LinkRow:
    """Raises NotFound for no link of Nod's."""
    row = session.scalars(select(LinkRow).where(LinkRow.token_sha256 == sign_in.token_hash(token))).one_or_none()
    if row is None:
        raise NotFound
    return row


def note_wrong(context: Context, address: str) -> None:
    """A secret that leads nowhere was tried from an address. Raises TooMany."""
    with context.database.write() as session:
        take_one(session, key_of("link", address), MOST_TRIES_PER_ADDRESS, context.clock.now())


def look_at_link(context: Context, command: LookAtLink, address: str) -> LinkFront:
    """Counts as no visit."""
    try:
        with context.database.read() as session:
            return _front(context, session, _find(session, command.token))
    except NotFound:
        note_wrong(context, address)
        raise


def _front(context: Context, session: Session, link: LinkRow) -> LinkFront:
    closed = why_closed(state_of(session, link), context.clock.now())
    people = people_by_id(session, {link.made_by} | ({link.person_id} if link.person_id else set()))
    project = session.get_one(ProjectRow, link.project_id)
    kind = kind_of(link.thing_kind)
    return LinkFront(
        project=f"{project.number} {project.name}", given_by=people.get(link.made_by), kind=link.thing_kind,
        kind_words=kind.words if kind else "", to=people.get(link.person_id or ""),
        needs_name=link.for_kind == "anyone", needs_password=bool(link.password_hash),
        needs_sign_in=link.for_kind == "signed_in", ends_at=link.ends_at, closed=closed,
    )  # fmt: skip


def enter_link(context: Context, command: EnterLink, address: str, signed_in: Actor | None) -> Entered:
    """A deliberate press. Raises RuleBroken for a closed link, a missing name or a wrong password."""
    try:
        with context.database.read() as session:
            link = _find(session, command.token)
            link_id, password_hash = link.id, link.password_hash
    except NotFound:
        note_wrong(context, address)
        raise
    if password_hash:
        _check_password(context, link_id, address, command.password, password_hash)
    with context.database.write() as session:
        return _enter(context, session, session.get_one(LinkRow, link_id), command.name, signed_in)


def _check_password(context: Context, link_id: str, address: str, given: str, password_hash: str) -> None:
    """Counted before it is known whether it is right, and forgiven if it is: others with the link are not shut out.

    Raises RuleBroken for a wrong one, TooMany for who has tried too often.
    """
    most = {
        key_of("link password", link_id, address): MOST_PASSWORDS_PER_ADDRESS,
        key_of("link password", link_id): MOST_PASSWORDS_PER_LINK,
    }
    with context.database.write() as session:
        check_tries(session, most, context.clock.now())
        counted = count_tries(session, list(most), context.clock.now())
    if not sign_in.fits(context, given, password_hash):
        raise RuleBroken("wrong_link_password", "This is not the password of the link.")
    with context.database.write() as session:
        forgive(session, counted)


def _enter(context: Context, session: Session, link: LinkRow, typed: str, signed_in: Actor | None) -> Entered:
    now = context.clock.now()
    if closed := why_closed(state_of(session, link), now):
        raise RuleBroken("link_closed", closed)
    take_one(session, key_of("link visits", link.id), MOST_VISITS_AT_ONCE, now)
    person_id, name = _who(session, link, typed, signed_in)
    secret = new_token()
    guest = GuestRow(
        id=new_id(), link_id=link.id, name=name, person_id=person_id, secret_sha256=sign_in.token_hash(secret),
        began_at=now,
    )  # fmt: skip
    session.add(guest)
    # Somebody named who comes back within the hour, say in another browser, is on the same visit.
    again = link.person_id and link.last_visit_at and now - link.last_visit_at < _ONE_VISIT
    session.flush()
    found = _guest(context, session, link, guest)
    if not again:
        link.visits, link.last_visit_at = link.visits + 1, now
        _note_visit(found)
    return Entered(guest=secret, kind=link.thing_kind, target=link.thing_id, name=name, allows=link.allows)


def _note_visit(found: Guest) -> None:
    link = found.link
    if note := _ON_ENTERING.get(link.thing_kind):
        note(found)
    else:
        subject = Subject(link.thing_kind, link.thing_id)
        fact = Fact(FactKind.LINK_OPENED, subject, found.kind.name(found.row), (Subject("link", link.id),))
        found.act.record(link.project_id, fact)
    found.act.tell(link.project_id, "links", link.project_id, only=link.made_by)


def _who(session: Session, link: LinkRow, typed: str, signed_in: Actor | None) -> tuple[str | None, str]:
    """Raises RuleBroken without a name where one has to be typed, NotSignedIn where one has to be."""
    if link.person_id:
        return link.person_id, session.get_one(PersonRow, link.person_id).name
    if link.for_kind == "signed_in":
        if signed_in is None:
            raise NotSignedIn
        return signed_in.person_id, signed_in.name
    name = " ".join(typed.split())[:80]
    if len(name) < 2:
        raise RuleBroken("name_missing", "Say who you are: your name is kept with what you do here.")
    return None, name


def guest_of(context: Context, session: Session, secret: str) -> Guest:
    """Asked anew with everything that is done. Raises NotFound for no visit of ours, or a link that has closed."""
    query = select(GuestRow).where(GuestRow.secret_sha256 == sign_in.token_hash(secret))
    row = session.scalars(query).one_or_none()
    now = context.clock.now()
    if row is None or now - row.began_at > _LIVES:
        raise NotFound
    link = session.get_one(LinkRow, row.link_id)
    state = state_of(session, link)
    # Who has been let in stays while it is open to them, also on the last of its visits.
    counted = LinkState(state.withdrawn, state.ends_at, 0, None, state.person_gone, state.giver_sees)
    if why_closed(counted, now):
        raise NotFound
    return _guest(context, session, link, row)


def open_visit(context: Context, secret: str) -> str:
    """The id of a visit whose link is still open; empty for none."""
    if not secret:
        return ""
    try:
        with context.database.read() as session:
            return guest_of(context, session, secret).visit_id
    except NotFound:
        return ""


def _guest(context: Context, session: Session, link: LinkRow, row: GuestRow) -> Guest:
    kind = kind_of(link.thing_kind)
    thing = _thing(session, link)
    if kind is None or thing is None:
        raise NotFound
    project = session.get_one(ProjectRow, link.project_id)
    act = Act(context, session, _principal(session, link, row), context.clock.now())
    return Guest(act, link, project, kind, thing, row.name, row.id)


def _principal(session: Session, link: LinkRow, row: GuestRow) -> Actor:
    """A person as themselves; anybody else as a guest of the company that gave the link, by the name they typed."""
    if row.person_id:
        return actor_of(session, row.person_id, f"link {link.id}")
    giver = session.get_one(PersonRow, link.made_by)
    company = session.get_one(CompanyRow, giver.company_id)
    return Actor("", row.name, "", f"guest of {company.code}", f"link {link.id}")
