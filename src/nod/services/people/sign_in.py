"""Signing in and out, and who is behind a cookie."""

from __future__ import annotations

import hashlib
import hmac
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from functools import lru_cache
from zoneinfo import ZoneInfo

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from sqlalchemy import delete, or_, select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import NotAllowed, NotFound, NotSignedIn
from nod.core.acts.secret_words import same_secret
from nod.core.acts.working_days import local_date
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.answers import Answered, Command, VerdictShown, Who, people_by_id, show_verdicts
from nod.services.acts.context import Context
from nod.services.acts.seats import IN_PROJECT, Actor, Seat, actor_of, take_seat
from nod.services.acts.tries import check_tries, count_tries, forgive, key_of
from nod.services.people import second_factor
from nod.store import journal
from nod.store.ids import new_token
from nod.store.tables import CompanyRow, MembershipRow, PersonRow, ProjectRow, SignInRow

MOST_WRONG_PER_NAME = 5
MOST_WRONG_PER_ADDRESS = 30
MOST_WRONG_PER_ACCOUNT = 50
_MOST_KNOWN = 6


@dataclass(frozen=True)
class Browser:
    """Where somebody signs in from: the address, and what a browser was given when its people signed in before."""

    address: str
    known: tuple[str, ...] = ()


class SignIn(Command):
    """`code` is the authenticator's, for those who have set a second factor."""

    email: str
    password: str
    code: str = ""


class Project(Answered):
    id: str
    number: str
    name: str
    time_zone: str
    roles: list[str]
    level: str
    runs: bool
    leads: bool
    tools: list[str]
    today: str
    disciplines: dict[str, str]
    statuses: dict[str, str]
    verdict_set: list[VerdictShown]


class Me(Answered):
    """The person signed in. `csrf_token` goes with every request that changes something.

    `looker` is who really looks, while it is through another's eyes.
    """

    person: Who
    email: str
    steward: bool
    looker: str
    csrf_token: str
    projects: list[Project]
    live_port: int
    live_url: str
    demo: bool
    now: datetime


@dataclass(frozen=True)
class SignedIn:
    """Behind a valid cookie."""

    actor: Actor
    csrf_token: str
    own: Actor
    """The one who signed in, whoever's eyes they look through."""


def hasher(context: Context) -> PasswordHasher:
    """Argon2id; `password_cost` is its number of passes, lowered in tests."""
    cost = context.settings.password_cost
    return PasswordHasher(time_cost=cost, memory_cost=65536 if cost > 1 else 1024)


def sign_in(context: Context, command: SignIn, browser: Browser) -> tuple[str, tuple[str, ...]]:
    """The cookie's token, and what the browser is known by from now on.

    Raises TooMany, or NotAllowed with the same words for every wrong pair. A try is counted before the password is
    looked at, so that many at the same moment are as many, and forgiven when it was right.
    """
    now = context.clock.now()
    email = command.email.strip().lower()
    with context.database.read() as session:
        person = session.scalars(select(PersonRow).where(PersonRow.email == email)).one_or_none()
    most_by_key = _limits(context, email, person, browser)
    with context.database.write() as session:
        check_tries(session, most_by_key, now)
        counted = count_tries(session, list(most_by_key), now)
    known = person is not None and person.password_hash and person.state == "active"
    right = fits(context, command.password, person.password_hash if person and known else "")
    if person is None or not right:
        raise NotAllowed("wrong_password", "This e-mail address and password do not go together.")
    if person.second_factor_on:
        if not command.code:
            # The right password: not a wrong try, and the same person comes back with a code.
            with context.database.write() as session:
                forgive(session, counted)
            raise NotAllowed("code_wanted", "Type the six figures that your authenticator app shows.")
        if not second_factor.take_code(context, person.id, command.code, now):
            raise NotAllowed("wrong_code", "This code is not, or no longer, the one your app shows.")
    with context.database.write() as session:
        forgive(session, counted, next(iter(most_by_key)))
    mark = _known_by(context, person.id)
    others = [each for each in browser.known if each != mark]
    return open_session(context, person.id, now, browser.address), (mark, *others[: _MOST_KNOWN - 1])


def _limits(context: Context, email: str, person: PersonRow | None, browser: Browser) -> dict[str, int]:
    """How many wrong tries count against the next one, by key; the first key is this person's at this place.

    A browser in which the person has signed in before has a limit of its own: nobody elsewhere, and nobody at the same
    address, can use up its tries (OWASP, slow down online guessing attacks with device cookies).
    """
    mark = _known_by(context, person.id) if person else ""
    if mark and mark in browser.known:
        return {key_of("known", mark): MOST_WRONG_PER_NAME}
    return {
        key_of("name", browser.address, email): MOST_WRONG_PER_NAME,
        key_of("address", browser.address): MOST_WRONG_PER_ADDRESS,
        key_of("account", email): MOST_WRONG_PER_ACCOUNT,
    }


def _known_by(context: Context, person_id: str) -> str:
    """Says that a person has signed in with this browser, to nobody but Nod."""
    return hmac.new(context.secret, f"known browser:{person_id}".encode(), hashlib.sha256).hexdigest()[:32]


@lru_cache(maxsize=4)
def _nobodys_hash(cost: int, memory: int) -> str:
    return PasswordHasher(time_cost=cost, memory_cost=memory).hash("nobody")


def fits(context: Context, password: str, password_hash: str) -> bool:
    """Takes as long for a person who is not there as for one who is: one hash in either case."""
    verifier = hasher(context)
    against = password_hash or _nobodys_hash(verifier.time_cost, verifier.memory_cost)
    try:
        return verifier.verify(against, password) and bool(password_hash)
    except (VerificationError, InvalidHashError):
        return False


def open_session(context: Context, person_id: str, now: datetime, address: str) -> str:
    """Returns the new cookie's token."""
    token = new_token()
    with context.database.write() as session:
        session.execute(delete(SignInRow).where(SignInRow.ends_at < now))
        ends_at = now + timedelta(hours=context.settings.session_hours)
        session.add(
            SignInRow(
                token_sha256=token_hash(token),
                person_id=person_id,
                csrf_token=new_token(),
                began_at=now,
                ends_at=ends_at,
                came_from=address,
                seen_at=now,
            )
        )
        actor = actor_of(session, person_id, address)
        journal.record(session, now, actor.witness(), "", _signed(FactKind.SIGNED_IN, actor))
    return token


def _signed(kind: FactKind, actor: Actor) -> Fact:
    return Fact(kind, Subject("person", actor.person_id), actor.name, private_to=actor.person_id)


def sign_out(context: Context, token: str) -> None:
    who = who_is(context, token)
    with context.database.write() as session:
        session.execute(delete(SignInRow).where(SignInRow.token_sha256 == token_hash(token)))
        journal.record(session, context.clock.now(), who.own.witness(), "", _signed(FactKind.SIGNED_OUT, who.own))


def token_hash(token: str) -> str:
    return hashlib.sha256(token.encode(errors="surrogatepass")).hexdigest()


def who_is(context: Context, token: str, came_from: str = "browser") -> SignedIn:
    """Raises NotSignedIn for an unknown or outworn cookie or a removed person."""
    return who_is_until(context, token, came_from)[0]


def who_is_until(context: Context, token: str, came_from: str = "browser") -> tuple[SignedIn, datetime]:
    """Who is behind a cookie, and until when they are unless something changes. Raises NotSignedIn."""
    if not token:
        raise NotSignedIn
    key = token_hash(token)
    with context.database.read() as session:
        found, ends_at = context.database.remember_people(
            session, ("who", key, came_from), lambda: _who_holds(session, key, came_from)
        )
    if ends_at <= context.clock.now():
        raise NotSignedIn
    return found, ends_at


def _who_holds(session: Session, key: str, came_from: str) -> tuple[SignedIn, datetime]:
    """And until when, whatever the time is now."""
    row = session.get(SignInRow, key)
    if row is None or session.get_one(PersonRow, row.person_id).state != "active":
        raise NotSignedIn
    own = actor_of(session, row.person_id, came_from)
    return SignedIn(_eyes(session, own, row), row.csrf_token, own), row.ends_at


def _eyes(session: Session, own: Actor, row: SignInRow) -> Actor:
    """Another's, as long as the project may still be seen so; otherwise one's own."""
    if not row.sees_as:
        return own
    try:
        take_seat(session, own, row.sees_in).need_to_lead()
    except (NotAllowed, NotFound):
        return own
    other = actor_of(session, row.sees_as, own.came_from)
    return replace(other, steward=False, looker=own.witness(), only_project=row.sees_in)


def check_csrf(signed_in: SignedIn, token: str) -> None:
    """Raises NotAllowed unless the request carries the token that only Nod's own pages know."""
    if not same_secret(signed_in.csrf_token, token):
        raise NotAllowed("csrf", "This page is out of date. Load it again.")


def read_me(context: Context, signed_in: SignedIn) -> Me:
    now, actor = context.clock.now(), signed_in.actor
    with context.database.read() as session:
        person, email, projects = context.database.remember_people(
            session, ("me", actor), lambda: _known_of(session, actor)
        )
    return Me(
        person=person,
        email=email,
        steward=actor.steward,
        looker=actor.looker.name if actor.looker else "",
        csrf_token=signed_in.csrf_token,
        projects=[each.model_copy(update={"today": _today(each.time_zone, now)}) for each in projects],
        live_port=context.settings.resolved_live_port,
        live_url=context.settings.live_url,
        demo=context.settings.demo,
        now=now,
    )


def _known_of(session: Session, actor: Actor) -> tuple[Who, str, list[Project]]:
    """All of it that is the same at any time."""
    seats = [take_seat(session, actor, project_id) for project_id in _projects(session, actor)]
    person = session.get_one(PersonRow, actor.person_id)
    return people_by_id(session, {person.id})[person.id], person.email, [_project(seat) for seat in seats]


def _today(time_zone: str, now: datetime) -> str:
    return local_date(now, ZoneInfo(time_zone)).isoformat()


def _projects(session: Session, actor: Actor) -> list[str]:
    """Those the person has a seat in, by number."""
    query = select(ProjectRow.id).order_by(ProjectRow.number)
    if actor.only_project:
        query = query.where(ProjectRow.id == actor.only_project)
    if not actor.steward:
        states = IN_PROJECT if actor.looker else ("active",)
        active = select(MembershipRow.project_id).where(
            MembershipRow.person_id == actor.person_id, MembershipRow.state.in_(states)
        )
        query = query.where(ProjectRow.id.in_(active))
    return list(session.scalars(query))


def _project(seat: Seat) -> Project:
    """But for the day that it is."""
    project = seat.project
    return Project(
        id=project.id,
        number=project.number,
        name=project.name,
        time_zone=project.time_zone,
        roles=list(seat.roles),
        level=seat.level.name.lower(),
        runs=seat.runs,
        leads="lead" in seat.roles,
        tools=sorted(seat.tools),
        today="",
        disciplines=project.rules["disciplines"],
        statuses=project.rules["statuses"],
        verdict_set=show_verdicts(project.rules["verdict_set"]),
    )


DEMO_PASSWORD = "ferry-terminal"  # noqa: S105 - printed on the demo's sign-in page


class DemoPerson(Answered):
    name: str
    email: str
    job: str
    company: str


class DemoSignIn(Answered):
    """What the sign-in page shows in the demo; empty otherwise."""

    people: list[DemoPerson]
    password: str


def demo_people(context: Context) -> DemoSignIn:
    if not context.settings.demo:
        return DemoSignIn(people=[], password="")
    in_a_project = select(MembershipRow.person_id).where(MembershipRow.state == "active")
    with context.database.read() as session:
        query = (
            select(PersonRow, CompanyRow.name.label("company"))
            .join(CompanyRow, CompanyRow.id == PersonRow.company_id)
            .where(PersonRow.password_hash != "", PersonRow.state == "active")
            .where(or_(PersonRow.steward, PersonRow.id.in_(in_a_project)))
            .order_by(PersonRow.name)
        )
        people = [
            DemoPerson(name=person.name, email=person.email, job=person.job, company=company)
            for person, company in session.execute(query)
        ]
    return DemoSignIn(people=people, password=DEMO_PASSWORD)
