"""Registering a batch: what nothing stops is filed in one transaction, told to whom it concerns, put into a set."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any, Literal

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import RuleBroken
from nod.core.intake import checks as rules
from nod.core.intake.findings import OPEN_STATES
from nod.core.register.revisions import parse
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting, check_version
from nod.services.acts.given_up import given_up_for
from nod.services.acts.projects import rules_of
from nod.services.acts.seats import Actor, Seat
from nod.services.compare import arrival_comparisons
from nod.services.intake import from_whom
from nod.services.intake.intake_check import Checked, check_batch, open_rows, see_batch
from nod.services.intake.telling import Tell, tell_of
from nod.services.notices.follows import address_of_set
from nod.services.register import drawing_sets, filings, standing
from nod.services.register.filings import Folders
from nod.services.register.in_force import refresh_in_force
from nod.store.tables import ArrivalRow, BatchRow, DocumentRow, ProjectRow, RevisionRow

_LONGEST_NOTE = 2000


class RegisterBatch(Command):
    """`seen` lists the arrivals and versions the controller saw, so that nothing unseen is filed.

    `note` is kept with every revision and told to those in `tell`. The documents go into the drawing set `set_id`, or
    into a new one `new_set` of the day `set_on`; into none where both are empty.
    """

    seen: dict[str, int]
    note: str = ""
    tell: Tell = Field(default_factory=Tell)
    set_id: str = ""
    new_set: str = ""
    set_on: date | None = Field(default=None, strict=False)


class Outcome(Answered):
    """What registering did with one file."""

    id: str
    file_name: str
    result: Literal["registered", "already_there", "held"]
    reason: str


class Registered(Answered):
    """`told` is how many people were told; `put_into` the drawing set, if any."""

    outcomes: list[Outcome]
    told: int
    put_into: str


def register_batch(context: Context, actor: Actor, batch_id: str, command: RegisterBatch) -> Registered:
    """Files everything that nothing stops, in one transaction; the rest is held with its reason.

    Findings are made anew inside the transaction: what was fine a minute ago may be a silent change by now.
    Raises RuleBroken(`still_looking`) while the worker has not looked into every file, Stale for unseen changes.
    """
    with acting(context, actor) as act:
        batch, seat = see_batch(act.session, actor, batch_id)
        rows = open_rows(act.session, batch_id)
        for row in rows:
            check_version(command.seen.get(row.id, 0), row.version, row.file_name)
        checked = check_batch(act.session, seat, rows)
        unread = _never_read(act.session, checked)
        if any(each.arriving is None and each.row.id not in unread for each in checked):
            raise RuleBroken("still_looking", "Nod is still looking into some of these files. Wait a moment.")
        filing = _Filing(act, seat, batch, Folders(act, seat, batch), unread, command.note.strip()[:_LONGEST_NOTE])
        outcomes = filing.settle_all(checked)
        filed = _filed(act.session, rows)
        standing.refresh(act.session, set(filed))
        refresh_in_force(act, seat.project, set(filed))
        _compare_again(act, seat.project, rows)
        put_into, place = _into_set(act, seat, command, filing.documents)
        told = tell_of(act, seat.project, command.tell, filing.documents, filing.note, batch.came_from, place)
        act.tell(batch.project_id, "intake", batch.id, {batch.folder_id})
        for folder in sorted(set(filed.values())):
            act.tell(batch.project_id, "register", folder, {folder})
        return Registered(outcomes=outcomes, told=told, put_into=put_into)


def _into_set(act: Act, seat: Seat, command: RegisterBatch, documents: list[str]) -> tuple[str, str]:
    """Name and address of the set that they went into, if any. Raises as making and changing a drawing set do."""
    if not (command.set_id or command.new_set.strip()) or not documents:
        return "", ""
    row = drawing_sets.put_in(act, seat, command.set_id, command.new_set, command.set_on, documents)
    return row.name, address_of_set(row.id)


def _filed(session: Session, rows: list[ArrivalRow]) -> dict[str, str]:
    """The documents under which these were filed, with the folders of each."""
    filed = [row.revision_id for row in rows if row.revision_id]
    query = select(DocumentRow.id, DocumentRow.folder_id).join(RevisionRow, RevisionRow.document_id == DocumentRow.id)
    return {document: folder for document, folder in session.execute(query.where(RevisionRow.id.in_(filed)))}


def _compare_again(act: Act, project: ProjectRow, rows: list[ArrivalRow]) -> None:
    """What waits elsewhere under the same numbers now stands against other revisions."""
    numbers = {row.number for row in rows if row.state == "registered"}
    query = select(ArrivalRow).where(
        ArrivalRow.project_id == project.id, ArrivalRow.number.in_(numbers), ArrivalRow.state.in_(OPEN_STATES)
    )
    arrival_comparisons.ask(act.session, act.at, project, list(act.session.scalars(query)))


_GOVERNS_UNREAD = "Nod gave up reading the file that this goes with."
_NEVER_READ = "Nod gave up reading this file. Have it tried again, or ask for it anew."


def _never_read(session: Session, checked: list[Checked]) -> set[str]:
    """Files that nothing more will be found out about until somebody has them tried again: these are held."""
    unread = [each.row for each in checked if each.arriving is None]
    given_up = given_up_for(session, {f"look_into:{row.sha256}" for row in unread})
    return {row.id for row in unread if f"look_into:{row.sha256}" in given_up}


class _Filing:
    """The files of a batch on their way into the register; `documents` are those filed, in order, each once."""

    def __init__(
        self, act: Act, seat: Seat, batch: BatchRow, folders: Folders, unread: set[str], note: str
    ) -> None:  # fmt: skip
        self.act, self.project, self.batch, self.note = act, seat.project, batch, note
        self.documents: list[str] = []
        self._folders, self._unread = folders, unread
        self._came_at: datetime | None = None

    def settle_all(self, checked: list[Checked]) -> list[Outcome]:
        """Earlier revisions of a document go first, then what governs before what goes with it."""
        scheme = rules_of(self.project).scheme

        def order(each: Checked) -> tuple[Any, ...]:
            key = parse(scheme, each.row.revision)
            return (each.row.number, key is not None, key, bool(each.arriving and each.arriving.goes_with))

        for each in sorted(checked, key=order):
            self._settle(each)
        return [_outcome(each.row) for each in checked]

    def _settle(self, checked: Checked) -> None:
        row, act = checked.row, self.act
        row.version += 1
        if row.id in self._unread:
            _hold(act, row, _NEVER_READ)
        elif rules.is_stopped(checked.findings):
            _hold(act, row, rules.held_reason(checked.findings))
        elif rules.is_already_there(checked.findings):
            row.state, row.reason = "already_there", checked.findings[0].words
            act.record(row.project_id, Fact(FactKind.FILE_ALREADY_THERE, Subject("arrival", row.id), row.file_name))
        else:
            self._file(checked)

    def _file(self, checked: Checked) -> None:
        row, act = checked.row, self.act
        if self._came_at is None:
            self._came_at = from_whom.settle(act.session, self.project, self.batch)
        row.status = row.status or "S0"
        incoming = filings.incoming_of(self.batch, row, self._came_at, self.note)
        codes = {each.code for each in checked.findings}
        if codes & {"goes_with", "adds_rendition"}:
            rendition = filings.add_rendition(act, self.project, incoming)
            if rendition is None:
                _hold(act, row, _GOVERNS_UNREAD)
                return
            revision_id = rendition.revision_id
            self._filed(act.session.get_one(RevisionRow, revision_id).document_id)
        elif "as_history" in codes:
            revision_id = filings.file_history(act, self.project, incoming).id
        else:
            revision = filings.file_revision(act, self.project, incoming, self._folders.of(row))
            revision_id = revision.id
            self._filed(revision.document_id)
        row.state, row.reason, row.revision_id = "registered", "", revision_id

    def _filed(self, document_id: str) -> None:
        if document_id not in self.documents:
            self.documents.append(document_id)


def _outcome(row: ArrivalRow) -> Outcome:
    result = {"registered": "registered", "already_there": "already_there"}.get(row.state, "held")
    return Outcome.model_validate({"id": row.id, "file_name": row.file_name, "result": result, "reason": row.reason})


def _hold(act: Act, row: ArrivalRow, reason: str) -> None:
    if row.state == "held" and row.reason == reason:
        return
    row.held_at = row.held_at or act.at
    row.state, row.reason = "held", reason
    act.record(row.project_id, Fact(FactKind.FILE_HELD, Subject("arrival", row.id), row.file_name, why=reason))
