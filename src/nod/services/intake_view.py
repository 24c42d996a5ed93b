"""What Intake shows: batches, their files, and the findings, always made from the register as it is now."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from nod.core import intake as rules
from nod.core.access import Level
from nod.core.intake import Arriving, Finding
from nod.core.refusals import NotFound
from nod.services.answers import Answered, Who, people_by_id
from nod.services.context import Context
from nod.services.projects import rules_of
from nod.services.seats import Actor, Seat, take_seat
from nod.store.tables import ArrivalRow, BatchRow, BlobRow, DocumentRow, PageRow, RevisionRow


class FindingShown(Answered):
    weight: str
    code: str
    words: str
    field: str
    mend: str


class Arrival(Answered):
    """One file as Intake shows it. While `looking`, the findings are those of the name alone."""

    id: str
    version: int
    file_name: str
    sha256: str
    size_bytes: int
    number: str
    revision: str
    status: str
    title: str
    state: str
    reason: str
    held_at: datetime | None
    looking: bool
    page_count: int
    sheet_size: str
    weight: str
    findings: list[FindingShown]


class BatchLine(Answered):
    """A batch in the list: how many of its files are still open, and how many of those are stopped."""

    id: str
    came_from: str
    arrived_by: Who
    arrived_at: datetime
    total: int
    open: int
    held: int
    registered: int


class Batch(Answered):
    line: BatchLine
    arrivals: list[Arrival]


@dataclass(frozen=True)
class Checked:
    """A row with its findings; `arriving` is None while its content is not known yet."""

    row: ArrivalRow
    blob: BlobRow
    sheet_size: str
    arriving: Arriving | None
    findings: list[Finding]


def see_batch(session: Session, actor: Actor, batch_id: str) -> tuple[BatchRow, Seat]:
    """A batch is there for those who may file into its folder. Raises NotFound, or NotAllowed for lesser readers."""
    batch = session.get(BatchRow, batch_id)
    if batch is None:
        raise NotFound(batch_id)
    seat = take_seat(session, actor, batch.project_id)
    if seat.at(batch.folder_id) is Level.NONE:
        raise NotFound(batch_id)
    seat.need_at(batch.folder_id, Level.FILE, seat.project.name)
    return batch, seat


def check_batch(session: Session, seat: Seat, rows: Sequence[ArrivalRow]) -> list[Checked]:
    """Findings for all rows in a fixed number of queries, as this seat may know them."""
    found = rules_of(seat.project)
    hashes = {row.sha256 for row in rows}
    blobs = {blob.sha256: blob for blob in session.scalars(select(BlobRow).where(BlobRow.sha256.in_(hashes)))}
    first_pages = select(PageRow.sha256, PageRow.size_name).where(PageRow.sha256.in_(hashes), PageRow.place == 0)
    sizes = {row.sha256: row.size_name for row in session.execute(first_pages)}
    register = _registered(session, seat, {row.number for row in rows})
    twins = Counter((row.number, row.revision) for row in rows if row.number and row.revision)
    checked = []
    for row in rows:
        blob, size = blobs[row.sha256], sizes.get(row.sha256, "")
        arriving = _arriving(row, blob, size, twins[(row.number, row.revision)] - 1)
        findings = rules.check(arriving, register.get(row.number), found)
        checked.append(Checked(row, blob, size, arriving if blob.state == "known" else None, findings))
    return checked


def _arriving(row: ArrivalRow, blob: BlobRow, size: str, twins: int) -> Arriving:
    return Arriving(
        number=row.number,
        revision=row.revision,
        status=row.status,
        title=row.title,
        sha256=row.sha256,
        fault=blob.fault,
        fault_words=blob.fault_words,
        page_size=size,
        has_text=blob.has_text or blob.state != "known",
        active_content=tuple(blob.active_content.split("; ")) if blob.active_content else (),
        twins_in_batch=max(twins, 0),
    )


def _registered(session: Session, seat: Seat, numbers: set[str]) -> dict[str, rules.Registered]:
    """What is held under these numbers; of a document that may not be seen or revised, only that it is not for them."""
    query = (
        select(DocumentRow, RevisionRow.code, RevisionRow.sha256)
        .join(RevisionRow, RevisionRow.document_id == DocumentRow.id)
        .where(DocumentRow.project_id == seat.project.id, DocumentRow.number.in_(numbers))
    )
    found: dict[str, rules.Registered] = {}
    for document, code, sha256 in session.execute(query):
        if seat.at(document.folder_id) < Level.FILE:
            found[document.number] = rules.Registered("", "", "", {}, for_others=True)
            continue
        known = found.setdefault(
            document.number, rules.Registered(document.title, document.revision, document.sheet_size, {})
        )
        known.revisions[code] = sha256
    return found


def show_arrival(checked: Checked) -> Arrival:
    row = checked.row
    return Arrival(
        id=row.id,
        version=row.version,
        file_name=row.file_name,
        sha256=row.sha256,
        size_bytes=checked.blob.size_bytes,
        number=row.number,
        revision=row.revision,
        status=row.status,
        title=row.title,
        state=row.state,
        reason=row.reason,
        held_at=row.held_at,
        looking=checked.arriving is None,
        page_count=checked.blob.page_count,
        sheet_size=checked.sheet_size,
        weight=checked.findings[0].weight if checked.findings else "fine",
        findings=[
            FindingShown(weight=each.weight, code=each.code, words=each.words, field=each.field, mend=each.mend)
            for each in checked.findings
        ],
    )


def list_batches(context: Context, actor: Actor, project_id: str) -> list[BatchLine]:
    """The latest hundred batches; those with open files first."""
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        seat.need(Level.FILE)
        query = (
            select(BatchRow)
            .where(BatchRow.project_id == project_id, seat.sees(BatchRow.folder_id, Level.FILE))
            .order_by(BatchRow.arrived_at.desc())
        )
        batches = list(session.scalars(query.limit(100)))
        lines = _lines(session, batches)
    return sorted(lines, key=lambda line: line.open == 0)


def _lines(session: Session, batches: list[BatchRow]) -> list[BatchLine]:
    ids = {batch.id for batch in batches}
    query = select(ArrivalRow.batch_id, ArrivalRow.state, func.count()).where(ArrivalRow.batch_id.in_(ids))
    counts = {(batch, state): count for batch, state, count in session.execute(query.group_by("batch_id", "state"))}
    people = people_by_id(session, {batch.arrived_by for batch in batches})

    def count(batch: BatchRow, *states: str) -> int:
        return sum(counts.get((batch.id, state), 0) for state in states)

    return [
        BatchLine(
            id=batch.id,
            came_from=batch.came_from,
            arrived_by=people[batch.arrived_by],
            arrived_at=batch.arrived_at,
            total=count(batch, "waiting", "held", "registered", "already_there", "discarded"),
            open=count(batch, "waiting", "held"),
            held=count(batch, "held"),
            registered=count(batch, "registered"),
        )
        for batch in batches
    ]


def read_batch(context: Context, actor: Actor, batch_id: str) -> Batch:
    with context.database.read() as session:
        batch, seat = see_batch(session, actor, batch_id)
        query = select(ArrivalRow).where(ArrivalRow.batch_id == batch_id).order_by(ArrivalRow.place)
        rows = list(session.scalars(query))
        open_rows = [row for row in rows if row.state in ("waiting", "held")]
        checked = {each.row.id: each for each in check_batch(session, seat, open_rows)}
        settled = _settled(session, [row for row in rows if row.id not in checked])
        arrivals = [show_arrival(checked.get(row.id) or settled[row.id]) for row in rows]
        return Batch(line=_lines(session, [batch])[0], arrivals=arrivals)


def _settled(session: Session, rows: list[ArrivalRow]) -> dict[str, Checked]:
    """Files that have left Intake: shown as they left, without findings."""
    hashes = {row.sha256 for row in rows}
    blobs = {blob.sha256: blob for blob in session.scalars(select(BlobRow).where(BlobRow.sha256.in_(hashes)))}
    gone = Arriving("", "", "", "", "")
    return {row.id: Checked(row, blobs[row.sha256], "", gone, []) for row in rows}
