"""The status of a revision, and with it what is in force: set by those who keep its folder, or by a review's end."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.acts.refusals import NotAllowed, RuleBroken
from nod.core.register.in_force import MAY_RELEASE, USES, Issued, Use, follows, force_of, use_of
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.access.visibility import see_revision
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting, check_version
from nod.services.acts.seats import Actor, Seat
from nod.services.register.in_force import is_released_by, refresh_in_force, uses_of
from nod.services.register.standing import verdict_of, verdicts_of
from nod.store.tables import DocumentRow, ProjectRow, RevisionRow

_LONGEST = 500


class SetStatus(Command):
    """`version` is the document's."""

    version: int
    status: str
    reason: str = ""


class StatusChoice(Answered):
    """A status that may be given: what it may be used for, and what would follow for what is in force."""

    status: str
    use: str
    then: str


class StatusSet(Answered):
    """What is in force of the document now; empty for nothing."""

    in_force: str


def set_status(context: Context, actor: Actor, revision_id: str, command: SetStatus) -> StatusSet:
    """Releases a revision, or takes its release back. Any revision of a document, not the latest alone.

    Raises NotAllowed below the level that releases, RuleBroken for a withdrawn document, the status it has, one that
    only a review gives, and for taking a release back without a reason.
    """
    with acting(context, actor) as act:
        revision, document, seat = see_revision(act.session, actor, revision_id, Level.KEEP)
        check_version(command.version, document.version, document.number)
        about = f"{document.number} {revision.code}"
        if document.withdrawn:
            raise RuleBroken("withdrawn", f"{document.number} is withdrawn. Bring it back first.", about)
        check_status(act.session, seat.project, revision, about, command.status)
        if command.status == revision.status:
            raise RuleBroken("status_same", f"{about} has the status {command.status} already.", about)
        reason = " ".join(command.reason.split())[:_LONGEST]
        if document.in_force_id == revision.id and not is_released_by(seat.project, command.status) and not reason:
            words = f"Say why {about} is no longer in force; the reason is kept."
            raise RuleBroken("reason_missing", words, about)
        record_status(act, document, revision, command.status, reason)
        put_status(act, seat.project, document, revision, command.status)
        document.version += 1
        refresh_in_force(act, seat.project, {document.id})
        act.tell(document.project_id, "register", document.folder_id, {document.folder_id})
        return StatusSet(in_force=document.in_force)


def record_status(act: Act, document: DocumentRow, revision: RevisionRow, status: str, why: str) -> None:
    fact = Fact(
        FactKind.STATUS_SET, Subject("document", document.id), f"{document.number} {revision.code}",
        (Subject("revision", revision.id),), {"status": revision.status}, {"status": status}, why,
    )  # fmt: skip
    act.record(document.project_id, fact)


def put_status(act: Act, project: ProjectRow, document: DocumentRow, revision: RevisionRow, status: str) -> None:
    """The rows alone: the entry, and what is in force, are the caller's."""
    revision.status = status
    if not is_released_by(project, status):
        revision.released_at = None
    elif revision.released_at is None:
        revision.released_at = act.at
    if document.revision_id == revision.id:
        document.status = status


def check_status(session: Session, project: ProjectRow, revision: RevisionRow, about: str, status: str) -> None:
    """Raises RuleBroken without one, for one that is none, and for one that only a review gives."""
    if not status:
        raise RuleBroken("status_wanted", "A document keeps a status.", about)
    rules = project.rules
    if status not in rules["statuses"]:
        raise RuleBroken("status_unknown", f"“{status}” is no status of this project.", about)
    if status not in rules["reviewed_statuses"] or status == revision.status:
        return
    good = {each["code"] for each in rules["verdict_set"] if each["may_be_used"]}
    if verdict_of(session, revision.id) not in good:
        words = f"{status} can be reached only by a review, and no review has released {about}."
        raise RuleBroken("status_needs_review", words, about)


def need_release(seat: Seat, document: DocumentRow, status: str) -> None:
    """Raises NotAllowed for a status to build from, given by somebody who only files."""
    if use_of(status, uses_of(seat.project)) is Use.BUILT and seat.at(document.folder_id) < MAY_RELEASE:
        words = f"{status} may be built from: it is given by a review, or by those who keep the folder."
        raise NotAllowed("may_not_release", words, document.number)


def may_set_of(
    session: Session, seat: Seat, actor: Actor, document: DocumentRow, rows: Sequence[RevisionRow]
) -> dict[str, list[StatusChoice]]:
    """By revision, the statuses that `set_status` would take from this person now."""
    if actor.looker or document.withdrawn or document.copy_of or seat.at(document.folder_id) < Level.KEEP:
        return {}
    rules, uses = seat.project.rules, uses_of(seat.project)
    good = {each["code"] for each in rules["verdict_set"] if each["may_be_used"]}
    verdicts = verdicts_of(session, [row.id for row in rows])
    issued = [
        Issued(row.id, row.place, use_of(row.status, uses), not row.as_history or row.released_at is not None)
        for row in rows
    ]
    codes = {row.id: row.code for row in rows}

    def follows_from(row: RevisionRow, status: str) -> StatusChoice:
        use = use_of(status, uses)
        then = force_of([Issued(row.id, row.place, use, True) if each.id == row.id else each for each in issued])
        words = follows(document.in_force, codes.get(then.in_force or "", ""))
        return StatusChoice(status=status, use=USES[use.code], then=words)

    return {
        row.id: [
            follows_from(row, status)
            for status in rules["statuses"]
            if status != row.status and (status not in rules["reviewed_statuses"] or verdicts.get(row.id) in good)
        ]
        for row in rows
    }
