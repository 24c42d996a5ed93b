"""Who is told of what is said in a thread: those whom it names, and those who have said something there."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from sqlalchemy import select

from nod.core.access.audiences import Audience
from nod.core.threads.threads import Way, mentioned
from nod.core.trail.entries import Subject
from nod.services.acts.answers import people_by_id
from nod.services.acts.context import Act
from nod.services.notices.notices import Notice, tell_person
from nod.services.things.things import may_know, who_sees
from nod.store.tables import ProjectRow, ReplyRow, ThreadRow


@dataclass(frozen=True)
class Place:
    """Where something is said: `number` and `name` of the thing, for whom it is there, and a path that opens it.

    `met_in`: what lets somebody in who does not see the thing otherwise.
    """

    project: ProjectRow
    about: Subject
    audience: Audience
    number: str
    name: str
    link: str
    met_in: Subject | None = None


def tell_of_saying(
    act: Act, place: Place, kind: str, person_id: str, did: str, text: str, key: str, *, why: str = ""
) -> None:
    """`did` follows the name of the one who acts; `why` is said to who is told."""
    subject = f"{place.project.number}: {act.actor.name} {did} on {place.number}"
    lines = [f"{act.actor.name} {did} on {place.name}:", "", text or "No words, but files: see them there."]
    notice = Notice(f"{key}:{person_id}", subject, lines, place.link, [_about(act, place, person_id)], why)
    tell_person(act, place.project, kind, person_id, notice)


def _about(act: Act, place: Place, person_id: str) -> Subject:
    if place.met_in and not may_know(act.session, place.project.id, person_id, [place.about]):
        return place.met_in
    return place.about


def tell_named(act: Act, place: Place, text: str, did: str, key: str) -> None:
    """Those named as `@Name`, only among those who see the thing."""
    if "@" not in text:
        return
    people = people_by_id(act.session, set(who_sees(act.session, place.project.id, place.audience)))
    for person in mentioned(text, {each: who.name for each, who in people.items()}):
        tell_of_saying(act, place, "mention", person, did, text, key)


def tell_talkers(act: Act, place: Place, thread: ThreadRow, reply: ReplyRow, did: str, told: Iterable[str]) -> None:
    """Those who have answered in the thread before, but for those `told` otherwise."""
    query = select(ReplyRow.author_id).where(
        ReplyRow.thread_id == thread.id, ReplyRow.way == Way.PERSON, ReplyRow.seq < reply.seq
    )
    already = set(told)
    for person_id in sorted({each for each in act.session.scalars(query) if each and each not in already}):
        tell_of_saying(
            act, place, "answer", person_id, did, reply.text, f"answer:{reply.id}", why="you have answered there"
        )
