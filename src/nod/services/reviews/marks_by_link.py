"""Marks of whoever answers in a review by a link: in ink, as themselves, read as the review's marks are (handbook §8).

They count to the step as those of any other do, and what somebody has answered stays.
"""

from __future__ import annotations

from dataclasses import dataclass

from pydantic import Field
from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from nod.core.acts.once import Once
from nod.core.acts.refusals import NotAllowed, NotFound
from nod.core.marks.readers import COMPANY, Group, for_group
from nod.core.reviews.path import Shows
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Context
from nod.services.acts.once import take_key
from nod.services.acts.tries import key_of, take_one
from nod.services.links.visits import Guest
from nod.services.marks.live_marks import tell
from nod.services.marks.mark_files import ink_on
from nod.services.marks.mark_threads import ink
from nod.services.marks.marks import NewMark, check_own, put_marks, take_away
from nod.services.marks.marks_view import Mark, show_to_nobody
from nod.services.marks.readers import is_open_ink, reads_with
from nod.services.reviews.by_link import asked_of, part_of, sheet_of
from nod.store.tables import DocumentRow, MarkRow, PersonRow, RevisionRow

_MOST_DRAWN = 600
"""In the time in which tries by one link are counted."""


class GuestMarks(Answered):
    """`mine`: ids of those that the guest can take away: their own, as long as nobody has answered them.

    `for_review`: what they draw is read by the people of the review, and not by everybody who sees the sheet.
    """

    marks: list[Mark]
    mine: list[str]
    for_review: bool


class DrawInPart(Command):
    marks: list[NewMark] = Field(min_length=1, max_length=50)


class SeenMark(Command):
    version: int


@dataclass(frozen=True)
class _Marking:
    """A sheet on which the guest answers now."""

    guest: Guest
    revision: RevisionRow
    document: DocumentRow


def read_marks(context: Context, secret: str, revision_id: str) -> GuestMarks:
    """The ink on a sheet that everybody reads, the guest's company, or the people of the review; never pencil."""
    with context.database.read() as session:
        guest, _ = sheet_of(context, session, secret, revision_id)
        return _shown(session, guest, revision_id)


def _shown(session: Session, guest: Guest, revision_id: str) -> GuestMarks:
    person = session.get_one(PersonRow, guest.link.person_id)
    among = or_(is_open_ink(), reads_with("review", guest.row.id), reads_with(COMPANY, person.company_id))
    rows = list(session.scalars(ink_on(revision_id, among)))
    shown = show_to_nobody(session, rows)
    pairs = zip(rows, shown, strict=True)
    return GuestMarks(
        marks=shown,
        mine=[mark.id for row, mark in pairs if row.thread.author_id == person.id and not mark.replies],
        for_review=_group(guest) is not None,
    )


def _marking(context: Context, session: Session, secret: str, revision_id: str) -> _Marking:
    """Raises NotFound for a sheet that does not go round, NotAllowed where nothing is asked on it now."""
    guest, revision = sheet_of(context, session, secret, revision_id)
    guest.need("answer")
    part = part_of(context, session, secret)
    document = session.scalars(select(DocumentRow).where(DocumentRow.id == revision.document_id)).one()
    if document.id not in asked_of(part):
        raise NotAllowed("not_asked", "Nothing is asked of you on this sheet now.", document.number)
    return _Marking(guest, revision, document)


def _group(guest: Guest) -> Group | None:
    """None for everybody. Where the project inks for a company first, those of the review read it, and not everybody.

    Ink for their own company alone, as a member may choose, would be an answer that nobody reads who asked.
    """
    narrow = guest.row.shows == Shows.END or guest.project.rules.get("ink_for") == COMPANY
    return Group("review", guest.row.id) if narrow else None


def draw_by_link(
    context: Context, secret: str, revision_id: str, command: DrawInPart, once: Once | None = None
) -> GuestMarks:  # fmt: skip
    """In ink, for those whom `GuestMarks.for_review` says.

    Raises RuleBroken where the step asks for words alone.
    """
    with context.database.write() as session:
        at = _marking(context, session, secret, revision_id)
        act = at.guest.act
        if once:
            take_key(session, at.guest.visit_id, once, act.at)
        take_one(session, key_of("guest in review", at.guest.link.id), _MOST_DRAWN, act.at)
        rows = put_marks(act, at.document, at.revision, command.marks)
        ink(act, at.document, rows, for_group(_group(at.guest)))
        tell(act, at.document, rows)
        return _shown(session, at.guest, revision_id)


def remove_by_link(context: Context, secret: str, mark_id: str, command: SeenMark) -> None:
    """Takes away what they drew themselves, until somebody has answered it."""
    with context.database.write() as session:
        row = session.scalars(select(MarkRow).where(MarkRow.id == mark_id)).one_or_none()
        if row is None or row.removed_at is not None or row.thread.shared_at is None:
            raise NotFound(mark_id)
        at = _marking(context, session, secret, row.revision_id)
        act = at.guest.act
        check_own(act, at.document, row, command.version, (row.thread.author_id or "", act.actor.person_id))
        take_away(act, at.document, row)
        tell(act, at.document, [row])
