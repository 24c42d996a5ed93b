"""Drafts of transmittals: kept, shared among those of a company who send, gone when they are sent (handbook §10)."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime
from typing import Literal

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.acts.counted import counted
from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.answers import Answered, Command, Who, people_by_id
from nod.services.acts.context import Act, Context, acting, check_version
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.services.things.things import see_thing, tell_thing
from nod.services.transmittals.kind import DRAFT
from nod.services.transmittals.purposes import purposes_of
from nod.store.ids import new_id
from nod.store.tables import ProjectRow, TransmittalDraftRow

MOST_REVISIONS, MOST_PEOPLE, LONGEST_NOTE = 5000, 500, 4000
_MOST_DRAFTS = 200


MarksAlong = Literal["", "marked", "summary"]


class RecordAlong(Command):
    """The record of a session that goes with its sheets."""

    session_id: str
    part: int = Field(ge=1)


class DraftContent(Command):
    """As `SendTransmittal`, of which anything may still be missing; `replaces` is a transmittal that was voided."""

    revisions: list[str] = Field(default_factory=list, max_length=MOST_REVISIONS)
    people: list[str] = Field(default_factory=list, max_length=MOST_PEOPLE)
    copied: list[str] = Field(default_factory=list, max_length=MOST_PEOPLE)
    purpose: str = "information"
    note: str = Field(default="", max_length=LONGEST_NOTE)
    answer_wanted_on: date | None = Field(default=None, strict=False)
    natives: bool = False
    stamped: bool = False
    marks: MarksAlong = ""
    record: RecordAlong | None = None
    view_only: bool = False
    expires_on: date | None = Field(default=None, strict=False)
    review_id: str | None = None
    replaces: str = ""


class KeepDraft(DraftContent):
    """`version` is the one that was changed; 0 for a new one, in `project_id`."""

    version: int = 0
    project_id: str = ""


class SeenDraft(Command):
    version: int


class DraftLine(Answered):
    id: str
    why: str
    purpose: str
    documents: int
    people: list[Who]
    changed_by: Who
    changed_at: datetime
    version: int


class Draft(Answered):
    """With what was kept of it. `content` names revisions and people by id."""

    line: DraftLine
    content: DraftContent


class DraftKept(Answered):
    id: str
    version: int


def list_drafts(context: Context, actor: Actor, project_id: str) -> list[DraftLine]:
    """Those of one's company, the one changed last first; none for whoever does not send."""
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        if "transmittals" not in seat.tools or seat.level < Level.FILE:
            return []
        query = select(TransmittalDraftRow).where(TransmittalDraftRow.project_id == project_id, DRAFT.seen(seat))
        return _lines(session, session.scalars(query.order_by(TransmittalDraftRow.changed_at.desc())).all())


def _lines(session: Session, rows: Sequence[TransmittalDraftRow]) -> list[DraftLine]:
    contents = {row.id: DraftContent.model_validate(row.content, strict=False) for row in rows}
    named = {row.changed_by for row in rows} | {each for one in contents.values() for each in one.people}
    people = people_by_id(session, named)
    return [
        DraftLine(
            id=row.id, why=row.why, purpose=_purpose_words(session, row, contents[row.id]),
            documents=len(contents[row.id].revisions),
            people=[people[each] for each in contents[row.id].people if each in people],
            changed_by=people[row.changed_by], changed_at=row.changed_at, version=row.version,
        )
        for row in rows
    ]  # fmt: skip


def _purpose_words(session: Session, row: TransmittalDraftRow, content: DraftContent) -> str:
    """Empty for one that the project has no more."""
    purpose = purposes_of(session.get_one(ProjectRow, row.project_id)).get(content.purpose)
    return purpose.words if purpose else ""


def read_draft(context: Context, actor: Actor, draft_id: str) -> Draft:
    with context.database.read() as session:
        row, seat = see_thing(session, actor, DRAFT, draft_id)
        seat.need(Level.FILE)
        return Draft(
            line=_lines(session, [row])[0], content=DraftContent.model_validate(row.content, strict=False)
        )  # fmt: skip


def make_draft(context: Context, actor: Actor, command: KeepDraft) -> DraftKept:
    with acting(context, actor) as act:
        seat = act.enter(command.project_id, Level.FILE, "transmittals")
        row = add_draft(act, seat, _content_of(command))
        return DraftKept(id=row.id, version=row.version)


def _content_of(command: KeepDraft) -> DraftContent:
    kept = command.model_dump(exclude={"version", "project_id"})
    return DraftContent.model_validate(kept, strict=False)


def add_draft(act: Act, seat: Seat, content: DraftContent, why: str = "") -> TransmittalDraftRow:
    """Of the actor's company. `why` says what proposed it."""
    project_id = seat.project.id
    query = select(TransmittalDraftRow.id).where(
        TransmittalDraftRow.project_id == project_id, TransmittalDraftRow.company_id == act.actor.company_id
    )
    if len(act.session.scalars(query.limit(_MOST_DRAFTS)).all()) >= _MOST_DRAFTS:
        words = f"There are {_MOST_DRAFTS} drafts already. Send or discard some first."
        raise RuleBroken("too_many_drafts", words, act.actor.company_code)
    row = TransmittalDraftRow(
        id=new_id(), project_id=project_id, company_id=act.actor.company_id, content=content.model_dump(mode="json"),
        why=why, made_by=act.actor.person_id, made_at=act.at, changed_by=act.actor.person_id, changed_at=act.at,
        version=1,
    )  # fmt: skip
    act.session.add(row)
    act.session.flush()
    _note(act, row, FactKind.DRAFT_KEPT, content)
    return row


def change_draft(context: Context, actor: Actor, draft_id: str, command: KeepDraft) -> DraftKept:
    """Raises Stale where a colleague has changed it since."""
    with acting(context, actor) as act:
        row = _open(act, draft_id, command.version)
        content = _content_of(command)
        row.content, row.version = content.model_dump(mode="json"), row.version + 1
        row.changed_by, row.changed_at = actor.person_id, act.at
        act.session.flush()
        _note(act, row, FactKind.DRAFT_KEPT, content)
        return DraftKept(id=row.id, version=row.version)


def discard_draft(context: Context, actor: Actor, draft_id: str, command: SeenDraft) -> None:
    with acting(context, actor) as act:
        row = _open(act, draft_id, command.version)
        _note(act, row, FactKind.DRAFT_DISCARDED, DraftContent.model_validate(row.content, strict=False))
        act.session.delete(row)


def sent_from(act: Act, draft_id: str, version: int) -> None:
    """The draft is gone with its sending. Raises RuleBroken where a colleague has sent or discarded it already."""
    try:
        row = _open(act, draft_id, version)
    except NotFound as gone:
        words = "This draft was sent or discarded meanwhile. Look at the list before you send it again."
        raise RuleBroken("draft_gone", words) from gone
    tell_thing(act, DRAFT, row)
    act.session.delete(row)


def _open(act: Act, draft_id: str, version: int) -> TransmittalDraftRow:
    row, seat = see_thing(act.session, act.actor, DRAFT, draft_id)
    seat.need(Level.FILE)
    check_version(version, row.version, "draft")
    return row


def _note(act: Act, row: TransmittalDraftRow, kind: FactKind, content: DraftContent) -> None:
    people = people_by_id(act.session, set(content.people))
    after = {"documents": len(content.revisions), "to": [each.name for each in people.values()], "why": row.why}
    about = f"draft, {counted(len(content.revisions), 'document')}"
    act.record(row.project_id, Fact(kind, Subject("transmittal_draft", row.id), about, after=after))
    tell_thing(act, DRAFT, row)
