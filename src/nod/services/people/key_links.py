"""Mailed links that let somebody set a password: an invitation, or a forgotten password. Each works once."""

from __future__ import annotations

from datetime import datetime, timedelta

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.acts.secret_words import same_secret
from nod.core.people.passwords import check_password
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context
from nod.services.acts.seats import NOBODY, actor_of
from nod.services.acts.tries import key_of, take_one
from nod.services.mail.mails import SecretLink, write_mail
from nod.services.open_work.open_work import renamed
from nod.services.people import sign_in
from nod.services.people.ending import end_all
from nod.store.ids import new_id
from nod.store.tables import KeyLinkRow, MembershipRow, PersonRow, ProjectRow

INVITATION, FORGOTTEN = "invitation", "forgotten"
_LIVES = {INVITATION: timedelta(days=14), FORGOTTEN: timedelta(hours=2)}
_MOST_ASKED_PER_ADDRESS = 10


class KeyLinkShown(Answered):
    """What the page of a link says before a password is set."""

    kind: str
    name: str
    email: str
    project: str
    ends_at: datetime


class UseKeyLink(Command):
    """The person's name can be put right while accepting an invitation."""

    password: str
    name: str = ""


class AskForPassword(Command):
    email: str


def make_link(act: Act, kind: str, person: PersonRow, project_id: str = "") -> KeyLinkRow:
    """A new link; older ones of the same kind are worth nothing from now on."""
    end_links(act, kind, person.id)
    link = KeyLinkRow(
        id=new_id(), kind=kind, person_id=person.id, project_id=project_id, made_at=act.at,
        ends_at=act.at + _LIVES[kind],
    )  # fmt: skip
    act.session.add(link)
    act.session.flush()
    return link


def end_links(act: Act, kind: str, person_id: str) -> None:
    """Links of this kind that the person has not used are worth nothing from now on."""
    act.session.execute(
        update(KeyLinkRow)
        .where(KeyLinkRow.person_id == person_id, KeyLinkRow.kind == kind, KeyLinkRow.used_at.is_(None))
        .values(used_at=act.at)
    )


def key_link(link_id: str) -> SecretLink:
    """Where a password is set."""
    return SecretLink(f"/k/{link_id}.", f"key link:{link_id}")


def link_token(context: Context, link_id: str) -> str:
    """What stands in the address for a link: which one, and the secret."""
    return f"{link_id}.{key_link(link_id).token(context)}"


def _find(context: Context, session: Session, token: str) -> KeyLinkRow:
    """Raises NotFound for anything but a link of ours, RuleBroken for one that was used or has run out."""
    link_id = token.partition(".")[0]
    if not same_secret(link_token(context, link_id), token):
        raise NotFound
    link = session.get(KeyLinkRow, link_id)
    if link is None or session.get_one(PersonRow, link.person_id).state != "active":
        raise NotFound
    if link.used_at:
        raise RuleBroken("link_used", "This link has been used, or a newer one was sent. Ask for another.")
    if link.ends_at <= context.clock.now():
        raise RuleBroken("link_outworn", "This link has run out. Ask for another.")
    return link


def read_link(context: Context, token: str) -> KeyLinkShown:
    with context.database.read() as session:
        link = _find(context, session, token)
        person = session.get_one(PersonRow, link.person_id)
        project = session.get(ProjectRow, link.project_id) if link.project_id else None
        return KeyLinkShown(
            kind=link.kind, name=person.name, email=person.email,
            project=f"{project.number} {project.name}" if project else "", ends_at=link.ends_at,
        )  # fmt: skip


def use_link(context: Context, token: str, command: UseKeyLink, address: str) -> str:
    """Sets the password and signs the person in, ending all their other sign-ins. Returns the cookie's token.

    It is empty for whoever has a second factor: they sign in with its code.
    """
    with context.database.read() as session:
        email = session.get_one(PersonRow, _find(context, session, token).person_id).email
    check_password(command.password, email)
    password_hash = sign_in.hasher(context).hash(command.password)
    now = context.clock.now()
    with context.database.write() as session:
        link = _find(context, session, token)
        link.used_at = now
        person = session.get_one(PersonRow, link.person_id)
        person.password_hash = password_hash
        if link.kind == INVITATION and command.name.strip():
            person.name = " ".join(command.name.split())[:120]
            renamed(session, person.id)
        act = Act(context, session, actor_of(session, person.id, address), now)
        end_all(act, person.id)
        _accept(act, person, link)
        person_id, second_factor = person.id, person.second_factor_on
    return "" if second_factor else sign_in.open_session(context, person_id, now, address)


def _accept(act: Act, person: PersonRow, link: KeyLinkRow) -> None:
    """Whoever sets a password becomes active wherever they were invited."""
    subject = Subject("person", person.id)
    act.record("", Fact(FactKind.PASSWORD_SET, subject, person.name, after={"by": link.kind}, private_to=person.id))
    invited = select(MembershipRow).where(MembershipRow.person_id == person.id, MembershipRow.state == "invited")
    for member in act.session.scalars(invited):
        member.state = "active"
        fact = Fact(
            FactKind.INVITATION_ACCEPTED, subject, person.name, before={"state": "invited"}, after={"state": "active"}
        )
        act.record(member.project_id, fact)
        act.tell(member.project_id, "people", member.project_id)


def ask_for_password(context: Context, command: AskForPassword, address: str) -> None:
    """Mails a link to whoever has a sign-in under this address. The answer is the same for everybody."""
    now = context.clock.now()
    email = command.email.strip().lower()
    with context.database.write() as session:
        take_one(session, key_of("forgotten", address), _MOST_ASKED_PER_ADDRESS, now)
        person = session.scalars(select(PersonRow).where(PersonRow.email == email)).one_or_none()
        if person is None or person.state != "active" or not person.password_hash:
            return
        act = Act(context, session, actor_of(session, person.id, address), now)
        link = make_link(act, FORGOTTEN, person)
        lines = [
            "Somebody, probably you, asked for a new password for Nod.",
            "",
            "Set it here within two hours:",
            "{link}",
            "",
            "If it was not you, nothing has changed: your password stays as it is.",
        ]
        write_mail(act, f"key_link:{link.id}", person.id, "A new password for Nod", lines, key_link(link.id))
        act.record("", Fact(FactKind.PASSWORD_ASKED, Subject("person", person.id), person.name, private_to=person.id))


def mail_invitation(act: Act, person: PersonRow, project: ProjectRow, message: str) -> None:
    """With a link to set a password for those who have none; the others are told and can go in at once."""
    by = act.actor.name if act.actor != NOBODY else "Nod"
    new = not person.password_hash
    link = make_link(act, INVITATION, person, project.id) if new else None
    lines = [
        f"{by} has added you to {project.number} {project.name} in Nod.",
        *(["", message] if message else []),
        "",
        *(
            ["Set a password here and go in. The link works once, for 14 days:", "{link}"]
            if new
            else ["Sign in as you are used to:", act.context.settings.resolved_public_url]
        ),
    ]
    key = f"key_link:{link.id}" if link else f"added:{project.id}:{person.id}:{act.at.isoformat()}"
    subject = f"{project.number}: {by} has added you to {project.name}"
    write_mail(act, key, person.id, subject, lines, key_link(link.id) if link else None)
