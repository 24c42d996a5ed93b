"""What Intake shows: batches, their files, and the findings, always made from the register as it is now."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime
from types import MappingProxyType

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.intake.findings import NAMES, OPEN_STATES, Arriving, Registered
from nod.core.intake.renditions import kind_of
from nod.core.intake.witnesses import FIELDS
from nod.services.acts.answers import Answered, Who, people_by_id
from nod.services.acts.context import Context
from nod.services.acts.given_up import GivenUp, given_up_for
from nod.services.acts.seats import Actor, take_seat
from nod.services.intake import from_whom
from nod.services.intake.from_whom import CameShown
from nod.services.intake.intake_check import Checked, check_batch, see_batch
from nod.services.register.further_fields import value_of
from nod.store.tables import ArrivalRow, BatchRow, BlobRow, BlockReaderRow, ProjectRow


class FindingShown(Answered):
    """`name` is short, for where many are counted; `witness` whose value the mend is, empty for a typed one."""

    weight: str
    name: str
    witness: str
    code: str
    words: str
    field: str
    mend: str


class WitnessShown(Answered):
    """What each witness says of a field; `why` tells why the title block says nothing. `chosen` is empty until then.

    `now` is what the file would be filed with; `unsure` that its name may have been read wrongly, `block_unsure` its
    title block. A field of which only the title block speaks has no other witness.
    """

    field: str
    words: str
    now: str
    by_ocr: bool
    by_name: str
    by_block: str
    block_unsure: bool
    why: str
    by_register: str
    learned: bool
    unsure: bool
    chosen: str


class ComparedShown(Answered):
    """How the drawing stands to `revision` of the register."""

    revision: str
    strict: bool
    known: bool
    places: int
    bare: int


class Arrival(Answered):
    """One file as Intake shows it. While `looking`, the findings are those of the name alone.

    `pages_read` counts up while a long file is looked into; `sheets_inside` is more than 0 while a set is taken apart.
    `kind` is what it is among the files of a revision; `goes_with` names the file that governs where it is not itself.
    """

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
    pages_read: int
    sheet_size: str
    scale: str
    folder_path: str
    split_from: str
    kept_whole: bool
    sheets_inside: int
    can_look: bool
    kind: str
    goes_with: str
    as_history: bool
    reader_id: str
    witnesses: list[WitnessShown]
    compared: ComparedShown | None
    weight: str
    findings: list[FindingShown]
    given_up: list[GivenUp]


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
    folder_id: str
    source: str
    keep_tree: bool
    has_tree: bool
    left_out: int


class Batch(Answered):
    """`left_out` of its line counts files of systems and archivers that were not taken in.

    `unsure_readers`: what is to be said of readers that read half of their sheets or more unsurely.
    """

    line: BatchLine
    came: CameShown
    arrivals: list[Arrival]
    unsure_readers: list[str]


NONE: Mapping[str, GivenUp] = MappingProxyType({})


def show_arrival(checked: Checked, given_up: Mapping[str, GivenUp] = NONE) -> Arrival:
    """`given_up` by the key of the work, see `work_on`."""
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
        pages_read=checked.blob.pages_read,
        sheet_size=checked.sheet_size,
        scale=row.scale,
        folder_path=row.folder_path,
        split_from=row.split_from,
        kept_whole=row.kept_whole,
        sheets_inside=row.sheets_inside,
        can_look=checked.blob.state == "known" and not checked.blob.fault and checked.blob.page_count > 0,
        kind=kind_of(checked.blob.media_type, row.file_name),
        goes_with=checked.arriving.goes_with if checked.arriving else "",
        as_history=row.as_history,
        reader_id=row.reader_id,
        witnesses=_witnesses(checked),
        compared=_compared(checked),
        weight=checked.findings[0].weight if checked.findings else "fine",
        findings=[
            FindingShown(
                weight=each.weight,
                name=NAMES[each.code],
                witness=each.witness,
                code=each.code,
                words=each.words,
                field=each.field,
                mend=each.mend,
            )
            for each in checked.findings
        ],
        given_up=[given_up[key] for key in work_on(row) if key in given_up],
    )


def work_on(row: ArrivalRow) -> list[str]:
    """The keys of what the worker does with a file by itself."""
    return [f"look_into:{row.sha256}", f"unpack:{row.id}", f"read_scan:{row.sha256}", f"split:{row.id}:{row.version}"]


def _witnesses(checked: Checked) -> list[WitnessShown]:
    row, register = checked.row, checked.registered
    held = _held(row.number, register) if register and not register.for_others else {}
    shown = []
    further = {field: words for field, words in checked.further.items() if field in row.by_block or field in row.fields}
    for field, words in {**{field: field.capitalize() for field in FIELDS}, **further}.items():
        printed = row.by_block.get(field, {})
        shown.append(
            WitnessShown(
                field=field, words=words, now=value_of(row, field), by_ocr=bool(printed.get("by_ocr")),
                by_name=row.by_name.get(field, ""), by_block=printed.get("value", ""),
                block_unsure=bool(printed.get("value")) and not printed.get("sure", True),
                why=printed.get("why", ""), by_register=held.get(field, ""),
                learned=bool(printed.get("learned_from")),
                unsure=field in row.by_name.get("unsure", "").split(), chosen=row.chosen.get(field, ""),
            )
        )  # fmt: skip
    return shown


def _held(number: str, register: Registered) -> dict[str, str]:
    """The register's witness, by field."""
    return {
        "number": number,
        "revision": register.current_revision,
        "status": register.status,
        "title": register.title,
        "scale": register.scale,
    }


def _compared(checked: Checked) -> ComparedShown | None:
    found, pair = checked.arriving.compared if checked.arriving else None, checked.pair
    if not found or not pair:
        return None
    return ComparedShown(
        revision=pair.revision,
        strict=pair.strict,
        known=found.known and not found.fault,
        places=found.places,
        bare=found.bare,
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
    trees = select(ArrivalRow.batch_id).where(ArrivalRow.batch_id.in_(ids), ArrivalRow.folder_path != "")
    with_tree = set(session.scalars(trees.distinct()))
    query = select(ArrivalRow.batch_id, ArrivalRow.state, func.count()).where(ArrivalRow.batch_id.in_(ids))
    counts = {(batch, state): count for batch, state, count in session.execute(query.group_by("batch_id", "state"))}
    people = people_by_id(session, {batch.arrived_by for batch in batches})

    def count(batch: BatchRow, *states: str) -> int:
        return sum(counts.get((batch.id, state), 0) for state in states)

    proposed = {
        batch.id: from_whom.proposed_company(session, session.get_one(ProjectRow, batch.project_id), batch)[0]
        for batch in batches
        if not batch.came_said
    }
    return [
        BatchLine(
            id=batch.id,
            came_from=proposed.get(batch.id, batch.came_from),
            arrived_by=people[batch.arrived_by],
            arrived_at=batch.arrived_at,
            total=count(batch, *OPEN_STATES, "registered", "already_there", "discarded", "sent_back"),
            open=count(batch, *OPEN_STATES),
            held=count(batch, "held"),
            registered=count(batch, "registered"),
            folder_id=batch.folder_id,
            source=batch.source,
            keep_tree=batch.keep_tree,
            has_tree=batch.id in with_tree,
            left_out=batch.left_out,
        )
        for batch in batches
    ]


def read_batch(context: Context, actor: Actor, batch_id: str) -> Batch:
    with context.database.read() as session:
        batch, seat = see_batch(session, actor, batch_id)
        query = select(ArrivalRow).where(ArrivalRow.batch_id == batch_id, ArrivalRow.state != "joined")
        rows = list(session.scalars(query.order_by(ArrivalRow.place)))
        open_rows = [row for row in rows if row.state in OPEN_STATES]
        checked = {each.row.id: each for each in check_batch(session, seat, open_rows)}
        settled = _settled(session, [row for row in rows if row.id not in checked])
        given_up = given_up_for(session, [key for row in open_rows for key in work_on(row)])
        arrivals = [show_arrival(checked.get(row.id) or settled[row.id], given_up) for row in rows]
        came = from_whom.shown(session, seat.project, batch)
        unsure = _unsure_readers(session, open_rows)
        return Batch(line=_lines(session, [batch])[0], came=came, arrivals=arrivals, unsure_readers=unsure)


def _unsure_readers(session: Session, rows: Sequence[ArrivalRow]) -> list[str]:
    """Of each reader that left something open, or read something unfit, on half of its sheets or more."""
    by_reader: dict[str, list[bool]] = {}
    for row in rows:
        if row.reader_id:
            unsure = any(not each.get("value") or not each.get("sure", True) for each in row.by_block.values())
            by_reader.setdefault(row.reader_id, []).append(unsure)
    doubtful = {id: found for id, found in by_reader.items() if 2 * sum(found) >= len(found) > 1}
    query = select(BlockReaderRow.id, BlockReaderRow.name).where(BlockReaderRow.id.in_(doubtful))
    return [
        f"The title block reader {name} is unsure on {sum(doubtful[id])} of {len(doubtful[id])} sheets."
        for id, name in session.execute(query.order_by(BlockReaderRow.name))
    ]


def _settled(session: Session, rows: list[ArrivalRow]) -> dict[str, Checked]:
    """Files that have left Intake: shown as they left, without findings."""
    hashes = {row.sha256 for row in rows}
    blobs = {blob.sha256: blob for blob in session.scalars(select(BlobRow).where(BlobRow.sha256.in_(hashes)))}
    gone = Arriving("", "", "", "", "")
    return {row.id: Checked(row, blobs[row.sha256], "", gone, []) for row in rows}
