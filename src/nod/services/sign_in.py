"""Signing in and out, and who is behind a cookie."""

from __future__ import annotations

import hashlib
import hmac
from dataclasses import dataclass
from datetime import datetime, timedelta

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from nod.core.access import Level
from nod.core.refusals import NotAllowed, NotSignedIn, TooMany
from nod.core.trail import Fact, Subject
from nod.services.answers import Answered, Command, VerdictShown, Who, people_by_id, show_verdicts
from nod.services.context import Actor, Context, actor_of, today_in
from nod.store import journal
from nod.store.ids import new_token
from nod.store.tables import CompanyRow, FailedSignInRow, MembershipRow, PersonRow, ProjectRow, SignInRow

WINDOW = timedelta(minutes=10)
MOST_WRONG_PER_NAME = 5
MOST_WRONG_PER_ADDRESS = 30


class SignIn(Command):
    email: str
    password: str


class Project(Answered):
    id: str
    number: str
    name: str
    time_zone: str
    roles: list[str]
    level: str
    today: str
    disciplines: dict[str, str]
    statuses: dict[str, str]
    verdict_set: list[VerdictShown]


class Me(Answered):
    """The person signed in. `csrf_token` goes with every request that changes something."""

    person: Who
    csrf_token: str
    projects: list[Project]
    live_port: int
    demo: bool
    now: datetime


@dataclass(frozen=True)
class SignedIn:
    """Behind a valid cookie."""

    actor: Actor
    csrf_token: str


def hasher(context: Context) -> PasswordHasher:
    """Argon2id; `password_cost` is its number of passes, lowered in tests."""
    cost = context.settings.password_cost
    return PasswordHasher(time_cost=cost, memory_cost=65536 if cost > 1 else 1024)


def sign_in(context: Context, command: SignIn, address: str) -> str:
    """Returns the cookie's token. Raises TooMany, or NotAllowed with the same words for every wrong pair."""
    now = context.clock.now()
    email = command.email.strip().lower()
    keys = (_key("name", address, email), _key("address", address))
    with context.database.read() as session:
        _check_tries(session, keys, now)
        person = session.scalars(select(PersonRow).where(PersonRow.email == email)).one_or_none()
    known = person is not None and person.password_hash and person.state == "active"
    if not _fits(context, command.password, person.password_hash if person and known else ""):
        with context.database.write() as session:
            session.add_all(FailedSignInRow(key=key, at=now) for key in keys)
        raise NotAllowed("wrong_password", "This e-mail address and password do not go together.")
    assert person is not None  # noqa: S101 - `known` was checked by `_fits`
    return _open(context, person.id, keys[0], now, address)


def _key(*parts: str) -> str:
    return hashlib.sha256("\n".join(parts).encode()).hexdigest()


def _check_tries(session: Session, keys: tuple[str, str], now: datetime) -> None:
    for key, most in zip(keys, (MOST_WRONG_PER_NAME, MOST_WRONG_PER_ADDRESS), strict=True):
        wrong = select(func.count()).where(FailedSignInRow.key == key, FailedSignInRow.at > now - WINDOW)
        if (session.scalar(wrong) or 0) >= most:
            raise TooMany(int(WINDOW.total_seconds()))


def _fits(context: Context, password: str, password_hash: str) -> bool:
    """Takes as long for a person who is not there as for one who is."""
    verifier = hasher(context)
    try:
        return verifier.verify(password_hash or verifier.hash("nobody"), password) and bool(password_hash)
    except (VerificationError, InvalidHashError):
        return False


def _open(context: Context, person_id: str, key: str, now: datetime, address: str) -> str:
    token = new_token()
    with context.database.write() as session:
        session.execute(
            delete(FailedSignInRow).where((FailedSignInRow.key == key) | (FailedSignInRow.at < now - WINDOW))
        )
        session.execute(delete(SignInRow).where(SignInRow.ends_at < now))
        ends_at = now + timedelta(hours=context.settings.session_hours)
        session.add(
            SignInRow(
                token_sha256=token_hash(token),
                person_id=person_id,
                csrf_token=new_token(),
                began_at=now,
                ends_at=ends_at,
            )
        )
        actor = actor_of(session, person_id, address)
        journal.record(session, now, actor.witness(), "", _signed("signed_in", actor))
    return token


def _signed(kind: str, actor: Actor) -> Fact:
    return Fact(kind, Subject("person", actor.person_id), actor.name, private_to=actor.person_id)


def sign_out(context: Context, token: str) -> None:
    who = who_is(context, token)
    with context.database.write() as session:
        session.execute(delete(SignInRow).where(SignInRow.token_sha256 == token_hash(token)))
        journal.record(session, context.clock.now(), who.actor.witness(), "", _signed("signed_out", who.actor))


def token_hash(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def who_is(context: Context, token: str, came_from: str = "browser") -> SignedIn:
    """Raises NotSignedIn for an unknown or outworn cookie or a removed person."""
    with context.database.read() as session:
        row = session.get(SignInRow, token_hash(token)) if token else None
        if row is None or row.ends_at <= context.clock.now():
            raise NotSignedIn
        if session.get_one(PersonRow, row.person_id).state != "active":
            raise NotSignedIn
        return SignedIn(actor_of(session, row.person_id, came_from), row.csrf_token)


def check_csrf(signed_in: SignedIn, token: str) -> None:
    """Raises NotAllowed unless the request carries the token that only Nod's own pages know."""
    if not hmac.compare_digest(signed_in.csrf_token, token):
        raise NotAllowed("csrf", "This page is out of date. Load it again.")


def read_me(context: Context, signed_in: SignedIn) -> Me:
    now = context.clock.now()
    person_id = signed_in.actor.person_id
    with context.database.read() as session:
        query = (
            select(MembershipRow, ProjectRow)
            .join(ProjectRow, ProjectRow.id == MembershipRow.project_id)
            .where(MembershipRow.person_id == person_id, MembershipRow.level > 0)
            .order_by(ProjectRow.number)
        )
        projects = [_project(member, project, now) for member, project in session.execute(query)]
        me = people_by_id(session, {person_id})[person_id]
    return Me(
        person=me,
        csrf_token=signed_in.csrf_token,
        projects=projects,
        live_port=context.settings.resolved_live_port,
        demo=context.settings.demo,
        now=now,
    )


def _project(member: MembershipRow, project: ProjectRow, now: datetime) -> Project:
    return Project(
        id=project.id,
        number=project.number,
        name=project.name,
        time_zone=project.time_zone,
        roles=list(member.roles),
        level=Level(member.level).name.lower(),
        today=today_in(project, now).isoformat(),
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
    with context.database.read() as session:
        query = (
            select(PersonRow, CompanyRow.name.label("company"))
            .join(CompanyRow, CompanyRow.id == PersonRow.company_id)
            .where(PersonRow.password_hash != "")
            .order_by(PersonRow.name)
        )
        people = [
            DemoPerson(name=person.name, email=person.email, job=person.job, company=company)
            for person, company in session.execute(query)
        ]
    return DemoSignIn(people=people, password=DEMO_PASSWORD)
