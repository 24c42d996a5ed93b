"""The next revision of a document: a file by the door of Intake, or an earlier revision brought back."""

from __future__ import annotations

from collections.abc import Iterable

from nod.core.access.levels import Level
from nod.core.acts.refusals import RuleBroken
from nod.core.intake import file_names as names
from nod.core.intake.witnesses import Witness
from nod.core.register import revisions
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.access.visibility import see_document, see_revision
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting, check_version
from nod.services.acts.projects import rules_of
from nod.services.acts.seats import Actor, Seat
from nod.services.compare import arrival_comparisons
from nod.services.files.new_files import NewBlob, keep_blob, store_file
from nod.services.intake.intake import new_arrival
from nod.services.register import filings, standing
from nod.services.register.changes import need_free
from nod.services.register.in_force import refresh_in_force
from nod.services.register.releases import need_release
from nod.store.ids import new_id
from nod.store.tables import BatchRow, CompanyRow, DocumentRow, RevisionRow

_LONGEST_NOTE, _LONGEST_PURPOSE = 2000, 120


class RevisionSaid(Command):
    """What whoever brings the file says of it."""

    file_name: str
    revision: str
    status: str
    title: str = ""
    purpose: str = ""
    note: str = ""


class RevisionBegun(Answered):
    """The batch of Intake in which the file is being looked into."""

    batch_id: str
    arrival_id: str


class BringBackRevision(Command):
    """`version` is the document's; `code` and `status` those of the new revision."""

    version: int
    code: str
    status: str
    reason: str


class RevisionFiled(Answered):
    revision_id: str


def begin_revision(
    context: Context, actor: Actor, document_id: str, said: RevisionSaid, chunks: Iterable[bytes]
) -> RevisionBegun:
    """Takes the file in as a batch of its own; it is checked like all others, then registered from there.

    Raises RuleBroken for a withdrawn document and for one that another has checked out.
    """
    with context.database.read() as session:
        row, _ = see_document(session, actor, document_id, Level.FILE)
        _need_open(row, actor)
    about = names.base_name(said.file_name)
    arrived = store_file(context, about, chunks)
    with acting(context, actor) as act:
        row, seat = see_document(act.session, actor, document_id, Level.FILE)
        _need_open(row, actor)
        return _take_in(act, seat, row, said, arrived)


def _need_open(row: DocumentRow, actor: Actor) -> None:
    if row.withdrawn:
        raise RuleBroken("withdrawn", f"{row.number} is withdrawn. Bring it back first.", row.number)
    need_free(row, actor)


def _take_in(act: Act, seat: Seat, row: DocumentRow, said: RevisionSaid, blob: NewBlob) -> RevisionBegun:
    batch = BatchRow(
        id=new_id(), project_id=row.project_id, folder_id=row.folder_id, source="check-in" if row.checked_out_by else
        "new revision", came_from=act.session.get_one(CompanyRow, act.actor.company_id).name,
        arrived_by=act.actor.person_id, arrived_at=act.at, came_said=True,
    )  # fmt: skip
    act.session.add(batch)
    act.session.flush()
    after = {"source": batch.source, "for": row.number}
    others = (Subject("document", row.id),)
    act.record(
        batch.project_id, Fact(FactKind.BATCH_OPENED, Subject("batch", batch.id), batch.came_from, others, after=after)
    )
    keep_blob(act, blob)
    arrival = new_arrival(act, batch, seat.project, names.base_name(said.file_name), blob.sha256, "")
    typed = {"number": row.number, "revision": said.revision.strip(), "status": said.status.strip()}
    typed["title"] = " ".join(said.title.split()) or row.title
    for field, value in typed.items():
        setattr(arrival, field, value[:200])
    arrival.chosen = dict.fromkeys(typed, Witness.TYPED.value)
    # One document was meant: a file of several pages is this document, not a set to be taken apart.
    arrival.kept_whole = True
    arrival.purpose, arrival.note = said.purpose.strip()[:_LONGEST_PURPOSE], said.note.strip()[:_LONGEST_NOTE]
    act.session.flush()
    arrival_comparisons.ask(act.session, act.at, seat.project, [arrival])
    act.tell(batch.project_id, "intake", batch.id, {batch.folder_id})
    return RevisionBegun(batch_id=batch.id, arrival_id=arrival.id)


def bring_back_revision(context: Context, actor: Actor, revision_id: str, command: BringBackRevision) -> RevisionFiled:
    """A new revision with the content of an earlier one, and a note of where it came from.

    Raises RuleBroken for the current revision, a code that does not follow, a status that is none or needs a review.
    """
    with acting(context, actor) as act:
        old, row, seat = see_revision(act.session, actor, revision_id, Level.FILE)
        check_version(command.version, row.version, row.number)
        _need_open(row, actor)
        _check_codes(seat, row, old, command)
        reason = command.reason.strip()[:_LONGEST_NOTE]
        note = f"The content of {old.code} again. {reason}".strip()
        incoming = filings.Incoming(
            number=row.number, title=row.title, revision=command.code, status=command.status, scale=old.scale,
            sha256=old.sha256, file_name=old.file_name, came_from=old.came_from, arrived_at=old.arrived_at,
            came_person=old.came_person, came_by=old.came_by,
            purpose=old.purpose, note=note, from_id=old.id, others=(Subject("revision", old.id),),
        )  # fmt: skip
        filed = filings.file_revision(act, seat.project, incoming, row.folder_id)
        standing.refresh(act.session, {row.id})
        refresh_in_force(act, seat.project, {row.id})
        act.tell(row.project_id, "register", row.folder_id, {row.folder_id})
        return RevisionFiled(revision_id=filed.id)


def _check_codes(seat: Seat, row: DocumentRow, old: RevisionRow, command: BringBackRevision) -> None:
    rules = rules_of(seat.project)
    if old.id == row.revision_id:
        raise RuleBroken("revision_current", f"{old.code} is the latest revision.", row.number)
    new, current = (revisions.parse(rules.scheme, code) for code in (command.code, row.revision))
    if new is None or (current and new <= current):
        following = revisions.next_codes(rules.scheme, row.revision)[0]
        words = f"“{command.code}” does not follow {row.revision}. Next is {following}."
        raise RuleBroken("revision_order", words, row.number)
    if command.status not in rules.statuses:
        raise RuleBroken("status_unknown", f"“{command.status}” is no status of this project.", row.number)
    if command.status in rules.reviewed_statuses:
        words = f"{command.status} can be reached only by a review."
        raise RuleBroken("status_needs_review", words, row.number)
    need_release(seat, row, command.status)
