"""Checking out and in: while somebody works on a document, others read it and file no revision (handbook §4)."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.acts.refusals import RuleBroken
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.access.visibility import see_document
from nod.services.acts.answers import Answered, Command, Who, people_by_id
from nod.services.acts.context import Act, Context, acting, check_version
from nod.services.acts.seats import Actor, take_seat
from nod.services.notices.notices import Notice, tell_person
from nod.services.register import standing
from nod.services.register.changes import need_free
from nod.store.tables import DocumentRow, ProjectRow

_LONGEST = 500


class CheckOut(Command):
    version: int
    note: str = ""


class EndCheckOut(Command):
    """`reason` is wanted where it is another's."""

    version: int
    reason: str = ""


class CheckOutLine(Answered):
    """A document that somebody has checked out. `may_end` by putting back one's own or breaking another's."""

    document_id: str
    number: str
    title: str
    revision: str
    version: int
    by: Who
    since: datetime
    note: str
    mine: bool
    may_end: bool


def list_check_outs(context: Context, actor: Actor, project_id: str) -> list[CheckOutLine]:
    """The longest first."""
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        query = select(DocumentRow).where(
            DocumentRow.project_id == project_id, DocumentRow.checked_out_by != "", seat.sees(DocumentRow.folder_id)
        )
        rows = list(session.scalars(query.order_by(DocumentRow.checked_out_at)))
        people = people_by_id(session, {row.checked_out_by for row in rows})
        return [
            CheckOutLine(
                document_id=row.id, number=row.number, title=row.title, revision=row.revision, version=row.version,
                by=people[row.checked_out_by], since=row.checked_out_at or row.filed_at, note=row.checked_out_note,
                mine=row.checked_out_by == actor.person_id and not row.checked_out_session,
                may_end=not row.checked_out_session
                and (row.checked_out_by == actor.person_id or seat.at(row.folder_id) >= Level.KEEP),
            )
            for row in rows
        ]  # fmt: skip


def check_out(context: Context, actor: Actor, document_id: str, command: CheckOut) -> None:
    """Raises RuleBroken where it is checked out already, or withdrawn."""
    with acting(context, actor) as act:
        row, _ = see_document(act.session, actor, document_id, Level.FILE)
        if row.withdrawn:
            raise RuleBroken("withdrawn", f"{row.number} is withdrawn. Bring it back first.", row.number)
        if row.checked_out_by:
            words = f"{row.number} is checked out by {_name(act.session, row.checked_out_by)} already."
            raise RuleBroken("checked_out", words, row.number)
        check_version(command.version, row.version, row.number)
        row.checked_out_by, row.checked_out_at = actor.person_id, act.at
        row.checked_out_note = command.note.strip()[:_LONGEST]
        row.version += 1
        _record(act, row, FactKind.DOCUMENT_CHECKED_OUT, {"revision": row.revision, "comment": row.checked_out_note})


def _name(session: Session, person_id: str) -> str:
    return people_by_id(session, {person_id})[person_id].name


def _record(act: Act, row: DocumentRow, kind: FactKind, after: dict[str, str], why: str = "") -> None:
    subjects = (Subject("revision", row.revision_id),)
    act.record(row.project_id, Fact(kind, Subject("document", row.id), row.number, subjects, {}, after, why))
    standing.refresh(act.session, {row.id})
    act.tell(row.project_id, "register", row.folder_id, {row.folder_id})


def end_check_out(context: Context, actor: Actor, document_id: str, command: EndCheckOut) -> None:
    """Puts back one's own without a new revision; breaks another's, which its holder is told.

    Raises RuleBroken where nobody has it, or a session, or where another's is broken without a reason.
    """
    with acting(context, actor) as act:
        row, _ = see_document(act.session, actor, document_id, Level.FILE)
        if not row.checked_out_by:
            raise RuleBroken("not_checked_out", f"Nobody has {row.number} checked out.", row.number)
        if row.checked_out_session:
            need_free(row, actor)
        mine = row.checked_out_by == actor.person_id
        if not mine:
            see_document(act.session, actor, document_id, Level.KEEP)
        check_version(command.version, row.version, row.number)
        reason = command.reason.strip()[:_LONGEST]
        if not mine and not reason:
            raise RuleBroken("reason_missing", "Say why the check-out is broken; its holder reads it.", row.number)
        holder = row.checked_out_by
        row.checked_out_by, row.checked_out_at, row.checked_out_note = "", None, ""
        row.version += 1
        if mine:
            _record(act, row, FactKind.CHECK_OUT_PUT_BACK, {})
            return
        _record(act, row, FactKind.CHECK_OUT_BROKEN, {"was with": _name(act.session, holder)}, reason)
        _tell_holder(act, row, holder, reason)


def _tell_holder(act: Act, row: DocumentRow, holder: str, reason: str) -> None:
    lines = [
        f"{act.actor.name} broke your check-out of {row.number}, {row.title}.",
        f"Reason: {reason}",
        "",
        "Others can file its next revision now. If you worked on it, speak to them before you send yours.",
    ]
    project = act.session.get_one(ProjectRow, row.project_id)
    subject = f"{project.number}: your check-out of {row.number} was broken"
    notice = Notice(
        f"check_out:{row.id}:{row.version}",
        subject,
        lines,
        f"/register?document={row.id}",
        [Subject("document", row.id)],
    )
    tell_person(act, project, "check_out", holder, notice)
