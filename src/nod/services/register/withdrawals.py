"""Withdrawing a document with a reason, and bringing it back; renaming one so that its old number still finds it."""

from __future__ import annotations

from sqlalchemy import exists, select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.acts.refusals import RuleBroken
from nod.core.intake.findings import OPEN_STATES
from nod.core.register.numbers import check_number
from nod.core.trail.entries import Fact, FactKind, Subject, changed
from nod.services.access.visibility import see_document
from nod.services.acts.answers import Command
from nod.services.acts.context import Act, Context, acting, check_version
from nod.services.acts.projects import rules_of
from nod.services.acts.seats import Actor, Seat
from nod.services.compare import arrival_comparisons
from nod.services.register.changes import need_free
from nod.services.register.copies_kept import follow_name, follow_withdrawal
from nod.services.register.filings import take_parts
from nod.services.register.finding_words import gather_words
from nod.services.register.in_force import refresh_in_force
from nod.store.tables import (
    ArrivalRow,
    DocumentRow,
    FormerNumberRow,
    ProjectRow,
    ReviewDocumentRow,
    ReviewRow,
    held_under,
)

_LONGEST = 500


class Withdraw(Command):
    version: int
    reason: str


class SeenDocument(Command):
    version: int


class RenameDocument(Command):
    version: int
    number: str
    reason: str


def _open(act: Act, document_id: str, version: int, *, copies: bool = False) -> tuple[DocumentRow, Seat]:
    row, seat = see_document(act.session, act.actor, document_id, Level.KEEP, copies=copies)
    check_version(version, row.version, row.number)
    return row, seat


def _reason(given: str, words: str, about: str) -> str:
    reason = " ".join(given.split())[:_LONGEST]
    if not reason:
        raise RuleBroken("reason_missing", words, about)
    return reason


def withdraw(context: Context, actor: Actor, document_id: str, command: Withdraw) -> None:
    """It leaves the lists and stays readable, and so do its copies; a copy alone is taken out of its folder.

    Raises RuleBroken while a review of it runs or another has it out.
    """
    with acting(context, actor) as act:
        row, _ = _open(act, document_id, command.version, copies=True)
        if row.withdrawn:
            raise RuleBroken("withdrawn", f"{row.number} is withdrawn already.", row.number)
        reason = _reason(command.reason, "Say why it is withdrawn; the reason stays with it.", row.number)
        need_free(row, actor)
        if _in_review(act.session, row.id):
            raise RuleBroken("in_review", f"A review of {row.number} is running. Cancel it first.", row.number)
        row.withdrawn, row.withdrawn_at, row.withdrawn_why = True, act.at, reason
        _done(act, row, FactKind.DOCUMENT_WITHDRAWN, reason)


def _in_review(session: Session, document_id: str) -> bool:
    running = exists().where(
        ReviewDocumentRow.document_id == document_id,
        ReviewRow.id == ReviewDocumentRow.review_id,
        ReviewRow.state == "running",
    )
    return bool(session.scalar(select(running)))


def _done(act: Act, row: DocumentRow, kind: FactKind, why: str = "") -> None:
    row.version += 1
    subjects = (Subject("revision", row.revision_id),)
    act.record(row.project_id, Fact(kind, Subject("document", row.id), row.number, subjects, why=why))
    if not row.copy_of:
        refresh_in_force(act, act.session.get_one(ProjectRow, row.project_id), {row.id})
        follow_withdrawal(act, row)
    act.tell(row.project_id, "register", row.folder_id, {row.folder_id})


def bring_back(context: Context, actor: Actor, document_id: str, command: SeenDocument) -> None:
    """A withdrawn document stands in the register again, as it was."""
    with acting(context, actor) as act:
        row, _ = _open(act, document_id, command.version, copies=True)
        if not row.withdrawn:
            raise RuleBroken("not_withdrawn", f"{row.number} is not withdrawn.", row.number)
        if row.copy_of and _is_withdrawn(act.session, row.copy_of):
            raise RuleBroken("withdrawn", f"{row.number} is withdrawn where it came from.", row.number)
        row.withdrawn, row.withdrawn_at, row.withdrawn_why = False, None, ""
        _done(act, row, FactKind.DOCUMENT_BROUGHT_BACK)


def _is_withdrawn(session: Session, document_id: str) -> bool:
    return bool(session.scalar(select(DocumentRow.withdrawn).where(DocumentRow.id == document_id)))


def rename_document(context: Context, actor: Actor, document_id: str, command: RenameDocument) -> None:
    """A new number that keeps the convention. Covers and ZIPs that were sent keep saying the old one.

    Raises RuleBroken for a number that breaks the convention, is another's, or was another's before.
    """
    with acting(context, actor) as act:
        row, seat = _open(act, document_id, command.version)
        number = command.number.strip()
        reason = _reason(command.reason, "Say why the number changes; it is kept with the old one.", row.number)
        need_free(row, actor)
        faults = check_number(rules_of(seat.project).convention, number)
        if faults:
            raise RuleBroken("number_breaks_convention", faults[0].words, number)
        _check_unused(act.session, row, number)
        before = _said(row)
        _keep_old(act, row, number, reason)
        row.number = number
        take_parts(row, seat.project)
        row.version += 1
        gather_words(act.session, row)
        follow_name(act, row, reason)
        old, new = changed(before, _said(row))
        subjects = (Subject("revision", row.revision_id),)
        fact = Fact(FactKind.DOCUMENT_RENAMED, Subject("document", row.id), number, subjects, old, new, reason)
        act.record(row.project_id, fact)
        _check_arrivals(act, seat, {number, before["number"]})
        act.tell(row.project_id, "register", row.folder_id, {row.folder_id})


def _said(row: DocumentRow) -> dict[str, str]:
    return {key: getattr(row, key) for key in ("number", "discipline", "originator", "form", "zone", "level")}


def _check_unused(session: Session, row: DocumentRow, number: str) -> None:
    if number == row.number:
        raise RuleBroken("number_same", f"It has the number {number} already.", number)
    here = select(DocumentRow.id).where(held_under(row.project_id, number))
    former = session.get(FormerNumberRow, (row.project_id, number))
    if session.scalar(here) or (former and former.document_id != row.id):
        raise RuleBroken("number_in_use", f"The number {number} is, or was, another document's.", number)


def _keep_old(act: Act, row: DocumentRow, number: str, reason: str) -> None:
    """Going back to a number of one's own makes it the present one again."""
    taken_back = act.session.get(FormerNumberRow, (row.project_id, number))
    if taken_back:
        act.session.delete(taken_back)
    act.session.add(
        FormerNumberRow(project_id=row.project_id, number=row.number, document_id=row.id, until_at=act.at, why=reason)
    )
    act.session.flush()


def _check_arrivals(act: Act, seat: Seat, numbers: set[str]) -> None:
    """What waits in Intake under either number stands against another line now."""
    query = select(ArrivalRow).where(
        ArrivalRow.project_id == seat.project.id, ArrivalRow.number.in_(numbers), ArrivalRow.state.in_(OPEN_STATES)
    )
    arrival_comparisons.ask(act.session, act.at, seat.project, list(act.session.scalars(query)))
