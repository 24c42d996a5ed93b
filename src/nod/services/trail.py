"""Reading the audit trail: the log of a project, the timeline of a thing (handbook §14)."""

from __future__ import annotations

import json
from datetime import date, datetime, timedelta
from typing import Any

from pydantic import BaseModel
from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from nod.core.access import sees_whole_trail
from nod.core.calendar import end_of_day
from nod.core.refusals import NotAllowed
from nod.core.trail import KIND_WORDS
from nod.services.answers import Answered
from nod.services.context import Actor, Context, Seat, project_clock, take_seat
from nod.store import journal
from nod.store.tables import AuditEntryRow, AuditSubjectRow, MembershipRow, PersonRow

_PAGE = 200


class TrailView(BaseModel):
    """Which entries: by subject, person, kind and days; `before_seq` pages backwards."""

    project_id: str
    subject_id: str = ""
    person_id: str = ""
    kind: str = ""
    from_on: date | None = None
    until_on: date | None = None
    before_seq: int | None = None


class Entry(Answered):
    """One act. `leaf` is its hash in the tree, `words` says the kind."""

    seq: int
    at: datetime
    who: str
    company: str
    came_from: str
    kind: str
    words: str
    subject_kind: str
    subject_id: str
    about: str
    before: dict[str, Any]
    after: dict[str, Any]
    why: str
    private: bool
    leaf: str


class Choice(Answered):
    code: str
    words: str


class TrailPage(Answered):
    """Newest first. `size` and `root` are the whole tree's."""

    entries: list[Entry]
    more: bool
    size: int
    root: str
    people: list[Choice]
    kinds: list[Choice]


def read_log(context: Context, actor: Actor, view: TrailView) -> TrailPage:
    """A page of the project's log. Without a subject it is for leads and controllers."""
    with context.database.read() as session:
        seat = take_seat(session, actor, view.project_id)
        if not view.subject_id and not sees_whole_trail(seat.roles):
            raise NotAllowed("level_too_low", "The whole log is for leads and controllers.", seat.project.name)
        rows = list(session.scalars(_query(session, actor, seat, view)))
        head = journal.trail_head(session)
        return TrailPage(
            entries=[_entry(row) for row in rows[:_PAGE]],
            more=len(rows) > _PAGE,
            size=head.size,
            root=head.root().hex(),
            people=_people(session, view.project_id),
            kinds=[Choice(code=code, words=words) for code, words in sorted(KIND_WORDS.items(), key=lambda kv: kv[1])],
        )


def _query(session: Session, actor: Actor, seat: Seat, view: TrailView) -> Any:
    """What a viewer may not see is left out by the query: another's pencil and sign-ins."""
    query = select(AuditEntryRow).where(
        AuditEntryRow.project_id == view.project_id,
        or_(AuditEntryRow.private_to == "", AuditEntryRow.private_to == actor.person_id),
    )
    if view.subject_id:
        about = select(AuditSubjectRow.seq).where(AuditSubjectRow.subject_id == view.subject_id)
        query = query.where(AuditEntryRow.seq.in_(about))
    if view.person_id:
        query = query.where(AuditEntryRow.person_id == view.person_id)
    if view.kind:
        query = query.where(AuditEntryRow.kind == view.kind)
    zone = project_clock(session, seat.project).zone
    if view.from_on:
        query = query.where(AuditEntryRow.at >= end_of_day(view.from_on - timedelta(days=1), zone))
    if view.until_on:
        query = query.where(AuditEntryRow.at < end_of_day(view.until_on, zone))
    if view.before_seq:
        query = query.where(AuditEntryRow.seq < view.before_seq)
    return query.order_by(AuditEntryRow.seq.desc()).limit(_PAGE + 1)


def _people(session: Session, project_id: str) -> list[Choice]:
    query = (
        select(PersonRow.id, PersonRow.name)
        .join(MembershipRow, MembershipRow.person_id == PersonRow.id)
        .where(MembershipRow.project_id == project_id)
        .order_by(PersonRow.name)
    )
    return [Choice(code=row.id, words=row.name) for row in session.execute(query)]


def _entry(row: AuditEntryRow) -> Entry:
    body = json.loads(row.body)
    return Entry(
        seq=row.seq,
        at=row.at,
        who=body["who"]["name"],
        company=body["who"]["company"],
        came_from=body["from"],
        kind=row.kind,
        words=KIND_WORDS.get(row.kind, row.kind),
        subject_kind=body["subject"]["kind"],
        subject_id=body["subject"]["id"],
        about=body["about"],
        before=body["before"],
        after=body["after"],
        why=body["why"],
        private=bool(row.private_to),
        leaf=row.leaf_sha256.hex(),
    )
