"""Letters and mailboxes: an answer by mail lands in its thread, a mail to the project begins one (handbook §11)."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access.levels import CONTROLLER
from nod.core.acts.refusals import NotFound
from nod.core.letters.kinds import usual_kind
from nod.core.letters.mailed import is_answer
from nod.core.letters.states import Deed, State, may
from nod.core.mail.addresses import read_address
from nod.core.threads.threads import unfolded
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.formats.mail.arrived import ArrivedMail
from nod.formats.mail.forwarded import without_mark
from nod.services.acts.context import Act
from nod.services.acts.seats import Actor, actor_of, take_seat
from nod.services.attachments.attachments import attach_mailed
from nod.services.letters.kind import LETTER, MESSAGE
from nod.services.letters.letter_rows import letter_kinds, named, part_in, parties_of
from nod.services.letters.writing import Party, Said, add_to_thread, begun_by_mail_at, number_it, recipient_code
from nod.services.mail_in.answers import MailAnswer, answered_by_mail, begun_by_mail, mail_shown
from nod.services.mail_in.bounces import on_bounce
from nod.services.things.things import see_thing
from nod.store.ids import new_id
from nod.store.tables import (
    LetterMessageRow,
    LetterRow,
    MailOutRow,
    MembershipRow,
    PersonRow,
    ProjectRow,
)

_NO_SUBJECT = "Without a subject"


def _is_in(session: Session, row: Any, person_id: str) -> bool:
    part = part_in(session, row, person_id, session.get_one(PersonRow, person_id).company_id)
    return row.state != State.DRAFT.value and (part.began or part.named or part.asked)


@answered_by_mail(LETTER.code, _is_in)
def take_answer(act: Act, row: LetterRow, answer: MailAnswer) -> str:
    """Written in its thread; the answer that was asked for where it says so in its first line."""
    project = act.session.get_one(ProjectRow, row.project_id)
    official = _is_official(act.session, row, answer)
    given: dict[Party, str] = {(each.kind, each.party_id): each.how for each in parties_of(act.session, row.id)}
    for party in _people_written_to(act, project, answer.mail):
        given.setdefault(party, "copied")
    _put(act, project, row, answer, given, official=official)
    return "the answer" if official else "written in the thread"


def _is_official(session: Session, row: LetterRow, answer: MailAnswer) -> bool:
    said = answer.said
    if not said.person_id or not is_answer(unfolded(said.text, said.folds)):
        return False
    part = part_in(session, row, said.person_id, session.get_one(PersonRow, said.person_id).company_id)
    return part.asked and may(State(row.state), part, Deed.ANSWER)


def _is_member(session: Session, project_id: str, person_id: str) -> bool:
    """Outside contacts with them; not who was removed."""
    member = session.get(MembershipRow, (project_id, person_id))
    return member is not None and member.state != "removed"


def _may_begin(session: Session, project_id: str, person_id: str) -> bool:
    """Members by their tools; outside contacts of a project that has letters."""
    member = session.get(MembershipRow, (project_id, person_id))
    if member is None or not _is_member(session, project_id, person_id):
        return False
    if member.state == "contact":
        return LETTER.tool in session.get_one(ProjectRow, project_id).rules["tools"]
    return LETTER.tool in take_seat(session, actor_of(session, person_id, "mail"), project_id).tools


@mail_shown(LETTER.code)
def _shows(session: Session, actor: Actor, letter_id: str, mail_in_id: str) -> bool:
    """Who was added on the way has the mails from there on."""
    here = (LetterMessageRow.letter_id == letter_id, LetterMessageRow.mail_id == mail_in_id)
    query = select(LetterMessageRow.id).where(*here)
    try:
        return all(see_thing(session, actor, MESSAGE, each) for each in session.scalars(query))
    except NotFound:
        return False


@begun_by_mail(_may_begin)
def begin_thread(act: Act, project_id: str, answer: MailAnswer) -> Subject:
    """Of the usual kind, from its sender to the people of the project to whom it went, or to its controllers if it went
    to nobody else; a mail that was sent on says itself who wrote it. Whoever sent it, or sent it on, or filed it, has
    begun the thread.
    """
    session, project = act.session, act.session.get_one(ProjectRow, project_id)
    mail = answer.mail
    kind = usual_kind(letter_kinds(project))
    subject = mail.forwarded.subject if mail.forwarded else mail.subject
    row = LetterRow(
        id=new_id(), project_id=project_id, kind=kind.code, state=State.DRAFT.value, number="",
        subject=" ".join(without_mark(subject).split())[:200] or _NO_SUBJECT, began_by=act.actor.person_id,
        company_id=act.actor.company_id, made_at=act.at, last_at=act.at, private=False, answer_id="", proposed="",
        cost_effect="", time_effect="", version=1,
    )  # fmt: skip
    session.add(row)
    session.flush()
    given: dict[Party, str] = dict.fromkeys(_people_written_to(act, project, mail), "to")
    sender = answer.said.person_id
    if sender and sender != row.began_by and _is_member(session, project_id, sender):
        given[("person", sender)] = "to"
    if not given:
        given = dict.fromkeys(_controllers(act, project), "to")
    number_it(act, row, kind, act.actor.company_code, recipient_code(act, given))
    _put(act, project, row, answer, given)
    return Subject(LETTER.code, row.id)


def _controllers(act: Act, project: ProjectRow) -> list[Party]:
    """By name, but whoever acts."""
    query = (
        select(MembershipRow)
        .join(PersonRow, PersonRow.id == MembershipRow.person_id)
        .where(MembershipRow.project_id == project.id, MembershipRow.state == "active")
        .order_by(PersonRow.name)
    )
    members = [each for each in act.session.scalars(query) if CONTROLLER in each.roles]
    return [("person", each.person_id) for each in members if each.person_id != act.actor.person_id]


def _people_written_to(act: Act, project: ProjectRow, mail: ArrivedMail) -> list[Party]:
    """The people of the project, outside contacts with them, among those to whom the mail went."""
    domain = act.context.settings.resolved_mail_domain
    emails = [email for _, email in mail.to if read_address(act.context.secret, email, domain) is None]
    query = (
        select(PersonRow.id, PersonRow.email)
        .join(MembershipRow, MembershipRow.person_id == PersonRow.id)
        .where(
            PersonRow.email.in_(emails[:200]), MembershipRow.project_id == project.id, MembershipRow.state != "removed"
        )
    )  # fmt: skip
    by_email = {email: id for id, email in act.session.execute(query)}
    found = [("person", by_email[each]) for each in dict.fromkeys(emails) if each in by_email]
    return [each for each in found if each[1] != act.actor.person_id]


def _put(
    act: Act, project: ProjectRow, row: LetterRow, answer: MailAnswer, given: dict[Party, str], *,
    official: bool = False,
) -> None:  # fmt: skip
    said, mail = answer.said, answer.mail
    message = _message(act, row, answer)
    act.session.add(message)
    act.session.flush()
    files = attach_mailed(act, MESSAGE, message, message.id, answer.files, said.person_id)
    told = {"by mail from": said.name, "mail sha256": said.sha256}
    if mail.forwarded:
        told["forwarded by"] = said.name
        told["written by, as the mail says"] = f"{message.author_name} <{message.author_email}>"
    reached = _already_reached(mail)
    add_to_thread(act, project, row, message, given, Said(official, files=files, told=told), reached=reached)


def _message(act: Act, row: LetterRow, answer: MailAnswer) -> LetterMessageRow:
    said, mail, sent_on = answer.said, answer.mail, answer.mail.forwarded
    inside = sent_on.text if sent_on else ""
    message = LetterMessageRow(
        id=new_id(), project_id=row.project_id, letter_id=row.id, place=0, author_id=said.person_id or None,
        author_name=said.name, author_email=mail.senders[0][1] if mail.senders else "", author_company=said.company,
        way="mail", subject=mail.subject[:500], text=f"{mail.text}\n\n{inside}".strip(),
        page="" if inside else mail.page, folds=[] if sent_on else [list(each) for each in mail.folds],
        mail_id=said.mail_id, to=[], written_at=begun_by_mail_at(mail.sent_at, said.at), begun={}, version=1,
    )  # fmt: skip
    if sent_on:
        message.forwarded_by = said.person_id or None
        message.author_id, message.author_name = None, sent_on.name
        message.author_email, message.author_company = sent_on.email, ""
        message.written_at = begun_by_mail_at(sent_on.sent_at, message.written_at)
        message.subject = sent_on.subject[:500]
    return message


def _already_reached(mail: ArrivedMail) -> Iterable[str]:
    """Those to whom the mail went by itself, and its sender."""
    return [email for _, email in (*mail.to, *mail.senders)]


@on_bounce(LETTER.code)
def note_bounced(act: Act, mail: MailOutRow, why: str) -> None:
    """In the trail of the thread; whoever wrote the message is told by the mail room."""
    row = act.session.get(LetterRow, mail.thing_id)
    if row is None:
        return
    after = {"to": mail.email, "because": why}
    others = (Subject("person", mail.person_id),)
    act.record(
        row.project_id, Fact(FactKind.LETTER_BOUNCED, Subject(LETTER.code, row.id), named(row), others, after=after)
    )
