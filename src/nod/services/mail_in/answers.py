"""What an answer by mail means to a thing: each feature says it for its own kind, otherwise it is said in its Talk."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import NotFound
from nod.core.trail.entries import Subject
from nod.formats.mail.arrived import ArrivedMail
from nod.services.acts.context import Act
from nod.services.acts.seats import Actor, actor_of, take_seat
from nod.services.files.new_files import NewBlob
from nod.services.things.kinds import ThingKind, kind_of
from nod.services.things.things import may_know, project_of
from nod.services.threads.said import ByMail
from nod.services.threads.talk import say_by_mail
from nod.store.tables import MailOutRow, MembershipRow


@dataclass(frozen=True)
class MailAnswer:
    """`said` has words and author; `files` are names and stored files that came along.

    `asked_at`: when the mail of Nod's was written that it answers; None where somebody has handed it on by hand.
    `mail` is all that was read of it.
    """

    said: ByMail
    files: list[tuple[str, NewBlob]]
    asked_at: datetime | None = None
    mail: ArrivedMail = field(default_factory=ArrivedMail)

    @property
    def says_something(self) -> bool:
        return bool(self.said.text.strip() or self.files)


Take = Callable[[Act, Any, MailAnswer], str]
"""For the row of a thing: does what the answer means, and says what that was, as in `acknowledged`."""
May = Callable[[Session, Any, str], bool]
"""For the row of a thing and a person's id: whether they may answer there, though they do not sit in the project."""

_TAKES: dict[str, tuple[Take, May]] = {}

Begin = Callable[[Act, str, MailAnswer], Subject]
"""Begins a thing of a project, by its id, out of a mail that belongs to nothing yet; returns what it began."""
MayBegin = Callable[[Session, str, str], bool]
"""For the ids of a project and a person: whether their mail may begin something there."""


@dataclass(frozen=True)
class Beginning:
    may: MayBegin
    begin: Begin


_BEGINNINGS: list[Beginning] = []

Shown = Callable[[Session, Actor, str, str], bool]
"""For the ids of a thing and a mail: whether what became of it there is to be seen by somebody who sees the thing."""

_SHOWN: dict[str, Shown] = {}


def mail_shown(kind_code: str) -> Callable[[Shown], Shown]:
    """Registers it for a kind of thing of which somebody may see a part only."""

    def register(shown: Shown) -> Shown:
        _SHOWN[kind_code] = shown
        return shown

    return register


def is_shown(session: Session, actor: Actor, thing: Subject, mail_in_id: str) -> bool:
    return thing.kind not in _SHOWN or _SHOWN[thing.kind](session, actor, thing.id, mail_in_id)


def begun_by_mail(may: MayBegin) -> Callable[[Begin], Begin]:
    """Registers what a mail to the project begins that answers nothing. Raises ValueError for a second one."""

    def register(begin: Begin) -> Begin:
        if _BEGINNINGS:
            raise ValueError("There is something that mail begins already")
        _BEGINNINGS.append(Beginning(may, begin))
        return begin

    return register


def may_begin(session: Session, project_id: str, person_id: str) -> bool:
    return any(each.may(session, project_id, person_id) for each in _BEGINNINGS)


def begin_by_mail(act: Act, project_id: str, answer: MailAnswer) -> Subject:
    """Raises NotFound where nothing is begun by mail."""
    for each in _BEGINNINGS:
        return each.begin(act, project_id, answer)
    raise NotFound(project_id)


def answered_by_mail(kind: str, may: May) -> Callable[[Take], Take]:
    """Registers what an answer by mail means to the things of a kind."""

    def register(take: Take) -> Take:
        _TAKES[kind] = (take, may)
        return take

    return register


def thing_row(session: Session, subject: Subject) -> tuple[ThingKind[Any], Any]:
    """Raises NotFound for what is no thing, is not there, or is nothing that can be answered."""
    kind = kind_of(subject.kind)
    row = session.scalars(select(kind.row).where(kind.columns.id == subject.id)).one_or_none() if kind else None
    if kind is None or row is None or not (kind.has_talk or kind.code in _TAKES):
        raise NotFound(subject.id)
    return kind, row


def may_answer(session: Session, subject: Subject, person_id: str, sent: MailOutRow | None) -> bool:
    """Members as in Nod itself; who has no account there, only where the thing was sent to them."""
    try:
        kind, row = thing_row(session, subject)
    except NotFound:
        return False
    member = session.get(MembershipRow, (project_of(row), person_id))
    if member is None or member.state == "removed":
        return False
    _, may = _TAKES.get(subject.kind, (None, None))
    if may is not None and may(session, row, person_id):
        return True
    if member.state != "active":
        return sent is not None and sent.person_id == person_id and may_know(
            session, project_of(row), person_id, [subject]
        )  # fmt: skip
    seat = take_seat(session, actor_of(session, person_id, "mail"), project_of(row))
    return kind.is_on(seat) and kind.may_talk(seat, row) and may_know(session, project_of(row), person_id, [subject])


def take_answer(act: Act, subject: Subject, answer: MailAnswer) -> str:
    """Hands an answer on; returns what it meant, in words."""
    kind, row = thing_row(act.session, subject)
    take, _ = _TAKES.get(subject.kind, (None, None))
    if take is not None:
        return take(act, row, answer)
    say_by_mail(act, kind, row, answer.said, answer.files)
    return "said in its Talk"
