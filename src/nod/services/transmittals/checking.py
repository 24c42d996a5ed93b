"""What should make one stop before a transmittal goes out, line by line and for whom (handbook §10)."""

from __future__ import annotations

from collections.abc import Sequence

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access.audiences import for_folders
from nod.core.access.levels import Level
from nod.core.acts.counted import listed
from nod.core.transmittals.transmittals import SendableDocument, stops_of
from nod.services.acts.answers import Answered, Command, people_by_id
from nod.services.acts.context import Context
from nod.services.acts.seats import IN_PROJECT, Actor, take_seat
from nod.services.register.in_force import around_of
from nod.services.register.standing import verdicts_of
from nod.services.things.things import who_sees
from nod.services.transmittals.drafts import MOST_PEOPLE, MOST_REVISIONS
from nod.services.transmittals.purposes import purposes_of
from nod.services.transmittals.transmittals import sent_pairs
from nod.store.dialects.sqlite import one_of
from nod.store.tables import (
    DocumentRow,
    MembershipRow,
    PersonRow,
    ProjectRow,
    RecipientRow,
    ReviewDocumentRow,
    ReviewRow,
    RevisionRow,
    TransmittalDocumentRow,
    TransmittalRow,
)

_MOST_NAMED = 3


class CheckSending(Command):
    project_id: str
    revisions: list[str] = Field(max_length=MOST_REVISIONS)
    people: list[str] = Field(default_factory=list, max_length=MOST_PEOPLE)
    purpose: str


class LineStops(Answered):
    """`stops` of one revision are worth a second look; `notes` are good to know."""

    revision_id: str
    stops: list[str]
    notes: list[str]


class Sendable(Answered):
    """Of the lines that have something to say, in the order asked for; `stops` counts those with a stop."""

    lines: list[LineStops]
    stops: int


Pair = tuple[DocumentRow, RevisionRow]


def check_sending(context: Context, actor: Actor, command: CheckSending) -> Sendable:
    """Changes nothing. Raises as sending would for what one does not see or may not send."""
    with context.database.read() as session:
        seat = take_seat(session, actor, command.project_id)
        seat.need_tool("transmittals")
        seat.need(Level.FILE)
        pairs = sent_pairs(session, seat, command.revisions)
        stops = _stops(session, seat.project, pairs, command.purpose)
        notes = _notes(session, seat.project, pairs, command.people)
        lines = [
            LineStops(revision_id=row.id, stops=stops.get(row.id, []), notes=notes.get(row.id, []))
            for _, row in pairs
            if row.id in stops or row.id in notes
        ]
        return Sendable(lines=lines, stops=len(stops))


def _stops(session: Session, project: ProjectRow, pairs: Sequence[Pair], code: str) -> dict[str, list[str]]:
    verdicts = verdicts_of(session, [revision.id for _, revision in pairs])
    may = {each["code"]: each["may_be_used"] for each in project.rules["verdict_set"]}
    purpose = purposes_of(project).get(code)
    found = {}
    for document, revision in pairs:
        verdict = verdicts.get(revision.id, "")
        each = SendableDocument(
            document.number, revision.code, revision.status, around_of(document), verdict, may.get(verdict)
        )
        if words := stops_of(each, purpose):
            found[revision.id] = words
    return found


def _notes(
    session: Session, project: ProjectRow, pairs: Sequence[Pair], people: Sequence[str]
) -> dict[str, list[str]]:  # fmt: skip
    """In review, checked out, had already, and seen by this alone."""
    ids = [revision.id for _, revision in pairs]
    running = (
        select(ReviewDocumentRow.revision_id, ReviewRow.number)
        .join(ReviewRow, ReviewRow.id == ReviewDocumentRow.review_id)
        .where(one_of(ReviewDocumentRow.revision_id, ids), ReviewRow.state == "running")
    )
    reviews = dict(session.execute(running).all())
    had = _had(session, ids, people)
    blind = _blind(session, project.id, {document.folder_id for document, _ in pairs}, people)
    keepers = {id: who.name for id, who in people_by_id(session, {row.checked_out_by for row, _ in pairs}).items()}
    found: dict[str, list[str]] = {}
    for document, revision in pairs:
        notes = []
        if revision.id in reviews:
            notes.append(f"In {reviews[revision.id]}.")
        if document.checked_out_by in keepers:
            notes.append(f"Checked out by {keepers[document.checked_out_by]}.")
        if revision.id in had:
            notes.append(f"{_few(had[revision.id])} {_have(had[revision.id])} exactly this.")
        if blind.get(document.folder_id):
            names = blind[document.folder_id]
            notes.append(f"{_few(names)} could not see it in Nod, and {_get(names)} it by this.")
        if notes:
            found[revision.id] = notes
    return found


def _few(names: Sequence[str]) -> str:
    rest = len(names) - _MOST_NAMED
    return listed([*names[:_MOST_NAMED], f"{rest} more"] if rest > 0 else list(names))


def _have(names: Sequence[str]) -> str:
    return "has" if len(names) == 1 else "have"


def _get(names: Sequence[str]) -> str:
    return "gets" if len(names) == 1 else "get"


def _had(session: Session, revisions: Sequence[str], people: Sequence[str]) -> dict[str, list[str]]:
    """By revision, the names of those to whom it was sent before."""
    query = (
        select(TransmittalDocumentRow.revision_id, PersonRow.name)
        .join(TransmittalRow, TransmittalRow.id == TransmittalDocumentRow.transmittal_id)
        .join(RecipientRow, RecipientRow.transmittal_id == TransmittalRow.id)
        .join(PersonRow, PersonRow.id == RecipientRow.person_id)
        .where(
            one_of(TransmittalDocumentRow.revision_id, revisions), RecipientRow.person_id.in_(people),
            TransmittalRow.voided_at.is_(None),
        )
        .distinct()
        .order_by(PersonRow.name)
    )  # fmt: skip
    found: dict[str, list[str]] = {}
    for revision_id, name in session.execute(query):
        found.setdefault(revision_id, []).append(name)
    return found


def _blind(session: Session, project_id: str, folders: set[str], people: Sequence[str]) -> dict[str, list[str]]:
    """By folder, the names of those members who do not see it. Outside contacts see nothing in Nod anyway."""
    query = (
        select(PersonRow.id, PersonRow.name)
        .join(MembershipRow, MembershipRow.person_id == PersonRow.id)
        .where(
            MembershipRow.project_id == project_id, MembershipRow.state.in_(IN_PROJECT), PersonRow.id.in_(people)
        )
        .order_by(PersonRow.name)
    )  # fmt: skip
    members = session.execute(query).all()
    if not members:
        return {}
    found = {}
    for folder in folders:
        seeing = set(who_sees(session, project_id, for_folders(folder)))
        found[folder] = [name for id, name in members if id not in seeing]
    return found
