"""Talk: what is said about a thing in its dossier, whatever it is (handbook §2: dossier)."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access.audiences import Audience
from nod.core.acts.refusals import NotAllowed, NotFound
from nod.core.threads.threads import Way, check_text, unfolded
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.answers import Answered, Command, Who, people_by_id
from nod.services.acts.context import Act, Context, acting
from nod.services.acts.seats import Actor, Seat
from nod.services.attachments.attachments import attach, attach_mailed
from nod.services.files.new_files import NewBlob
from nod.services.things.audiences import audience_of
from nod.services.things.kinds import ThingKind, kind_of
from nod.services.things.things import id_of, project_of, see_thing, who_sees
from nod.services.threads.said import (
    ByMail,
    Outside,
    Reply,
    add_outside_reply,
    add_reply,
    replies_of,
)
from nod.services.threads.thread_notices import Place, tell_named, tell_talkers
from nod.store.ids import new_id
from nod.store.tables import ProjectRow, ReplyRow, ThreadRow

TALK = "talk"


class Talk(Answered):
    """What was said about a thing, the earlier first. `people` see it, and can be named as `@Name`."""

    said: list[Reply]
    people: list[Who]
    may_talk: bool


class Say(Command):
    """`attachments` are files that one has added to the thing; with any, the text may be empty."""

    text: str
    attachments: list[str] = Field(default_factory=list)


def read_talk(context: Context, actor: Actor, kind: str, thing_id: str) -> Talk:
    """Raises NotFound for what is not there for this person or is not talked about."""
    with context.database.read() as session:
        found, row, seat = _find(session, actor, kind, thing_id)
        return _show(session, found, row, seat, actor)


def say(context: Context, actor: Actor, kind: str, thing_id: str, command: Say) -> Talk:
    """Raises NotAllowed below the level at which one may speak there."""
    text = check_text(command.text, required=not command.attachments)
    with acting(context, actor) as act:
        found, row, seat = _find(act.session, actor, kind, thing_id)
        if not found.may_talk(seat, row):
            raise NotAllowed("level_too_low", "You may read this, and not write there.", found.name(row))
        thread = _thread(act, found, row)
        reply = add_reply(act, thread, text, said_on=getattr(row, "revision_id", ""))
        files = attach(act, Subject(kind, thing_id), reply.id, command.attachments)
        _told(act, found, row, thread, reply, text, files)
        return _show(act.session, found, row, seat, actor)


def say_by_mail(act: Act, kind: ThingKind[Any], row: Any, said: ByMail, files: Sequence[tuple[str, NewBlob]]) -> None:
    """What somebody wrote by mail, with the files that came along. The caller has asked whether they may say it."""
    thread = _thread(act, kind, row)
    outside = Outside(Way.MAIL, said.name, said.at, said.company)
    revision_id = getattr(row, "revision_id", "")
    reply = add_outside_reply(act, thread, said.person_id, said.text, outside, revision_id, said)
    told = attach_mailed(act, kind, row, reply.id, files, said.person_id)
    _told(
        act,
        kind,
        row,
        thread,
        reply,
        unfolded(said.text, said.folds),
        told,
        {"by mail from": said.name, "mail sha256": said.sha256},
    )


def say_from_outside(act: Act, kind: ThingKind[Any], row: Any, text: str, outside: Outside) -> None:
    """What a guest says. The caller has asked whether they may, and how long it is."""
    thread = _thread(act, kind, row)
    reply = add_outside_reply(act, thread, act.actor.person_id, text, outside, getattr(row, "revision_id", ""))
    _told(act, kind, row, thread, reply, text, [])


def what_was_said(session: Session, kind: ThingKind[Any], row: Any) -> list[Reply]:
    thread = _thread_row(session, kind, row)
    return replies_of(session, [thread.id]).get(thread.id, []) if thread else []


def _told(
    act: Act, kind: ThingKind[Any], row: Any, thread: ThreadRow, reply: ReplyRow, text: str,
    files: list[dict[str, str]], more: dict[str, str] | None = None,
) -> None:  # fmt: skip
    """In the trail, live, and to those whom it names or who have said something there."""
    subject = Subject(kind.code, id_of(row))
    audience = audience_of(act.session, kind.audience, subject.id)
    project = act.session.get_one(ProjectRow, project_of(row))
    number = kind.number(row) or kind.title(row)
    place = Place(project, subject, audience, number, kind.name(row), kind.tab(row, TALK))
    tell_named(act, place, text, "named you", f"mention:{reply.id}")
    tell_talkers(act, place, thread, reply, "said something where you have, too,", [])
    after: dict[str, Any] = {"text": text} | ({"files": files} if files else {}) | (more or {})
    act.record(project.id, Fact(FactKind.TALKED, subject, kind.name(row), after=after))
    act.tell_audience(project.id, TALK, subject.id, audience)


def _find(session: Session, actor: Actor, kind: str, thing_id: str) -> tuple[ThingKind[Any], Any, Seat]:
    found = kind_of(kind)
    if found is None or not found.has_talk:
        raise NotFound(thing_id)
    row, seat = see_thing(session, actor, found, thing_id)
    return found, row, seat


def _thread(act: Act, kind: ThingKind[Any], row: Any) -> ThreadRow:
    """The one of this thing, begun by whoever says the first word."""
    thread = _thread_row(act.session, kind, row)
    if thread is None:
        thread = ThreadRow(
            id=new_id(), project_id=project_of(row), kind=TALK, on_kind=kind.code, on_id=id_of(row), said_at=act.at,
            shared_at=act.at, author_id=act.actor.person_id or None, way=Way.PERSON.value,
        )  # fmt: skip
        act.session.add(thread)
        act.session.flush()
    return thread


def _thread_row(session: Session, kind: ThingKind[Any], row: Any) -> ThreadRow | None:
    query = select(ThreadRow).where(
        ThreadRow.kind == TALK, ThreadRow.on_kind == kind.code, ThreadRow.on_id == id_of(row)
    )
    return session.scalars(query).one_or_none()


def _show(session: Session, kind: ThingKind[Any], row: Any, seat: Seat, actor: Actor) -> Talk:
    said = what_was_said(session, kind, row)
    audience: Audience = audience_of(session, kind.audience, id_of(row))
    people = people_by_id(session, set(who_sees(session, seat.project.id, audience)))
    may = actor.looker is None and kind.may_talk(seat, row)
    return Talk(said=said, people=sorted(people.values(), key=lambda each: each.name), may_talk=may)
