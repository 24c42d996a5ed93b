"""Block readers as the project keeps them: drawn, tried on a whole batch, changed, removed (handbook §5.3)."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.intake.block_picks import Reading, compile_pattern
from nod.core.intake.block_readers import CORNERS, NOT_COMPARED, read_page, score
from nod.core.intake.findings import OPEN_STATES
from nod.core.intake.witnesses import FIELDS
from nod.core.trail.entries import Fact, FactKind, Subject, changed
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting, check_version
from nod.services.acts.projects import rules_of
from nod.services.acts.seats import Actor
from nod.services.intake import arrivals
from nod.services.intake.intake_check import see_batch
from nod.services.register.further_fields import further_columns
from nod.services.sheet.title_blocks import page_seen, to_core
from nod.store.ids import new_id
from nod.store.tables import ArrivalRow, BatchRow, BlockReaderRow, PageRow, PageWordsRow, ProjectRow

MOST_ZONES = 30


class ZoneShown(Command, Answered):
    """A zone: millimetres from a corner of the page as seen. See `core.intake.block_readers.Zone`."""

    field: str
    corner: Literal["upper left", "upper right", "lower left", "lower right"]
    across_mm: float
    down_mm: float
    width_mm: float
    height_mm: float
    label: str = ""
    pattern: str = ""
    lines: Literal["joined", "closed up", "first", "last"] = "joined"


class ReaderShown(Answered):
    id: str
    version: int
    name: str
    company: str
    width_mm: float
    height_mm: float
    zones: list[ZoneShown]
    learned: int


class ReadField(Answered):
    """A field that a zone can read, and what it is called."""

    field: str
    words: str


class Readers(Answered):
    """`fields` are those that a zone can read; `not_compared` is the field of a zone left out of comparisons."""

    readers: list[ReaderShown]
    fields: list[ReadField]
    not_compared: str


def read_fields(project: ProjectRow) -> dict[str, str]:
    """What a zone can read in this project, with its words: what witnesses speak of, then further fields."""
    further = {field: column.head for field, column in further_columns(project).items()}
    return {**{field: field.capitalize() for field in FIELDS}, **further}


class TryReader(Command):
    """Zones as they are being drawn, for pages of the given size."""

    width_mm: float
    height_mm: float
    zones: list[ZoneShown]


class KeepReader(Command):
    """`reader_id` empty for a new one. `batch_id` is the batch over which it was drawn and which is read anew."""

    batch_id: str
    reader_id: str = ""
    version: int = 0
    name: str
    company: str
    width_mm: float
    height_mm: float
    zones: list[ZoneShown]


class ReaderKept(Answered):
    id: str
    version: int


class FieldRead(Answered):
    """`value` is empty where nothing is read, and `why` says so. Not `sure`: it breaks a rule of the project."""

    value: str
    why: str
    sure: bool


class PageTried(Answered):
    arrival_id: str
    file_name: str
    page: int
    fields: dict[str, FieldRead]
    failed: int


class ReaderTried(Answered):
    """Pages of the size, those that fail first. `other_sizes` counts the pages that are no business of the reader."""

    pages: list[PageTried]
    read_well: int
    other_sizes: int
    without_text: int


def list_readers(context: Context, actor: Actor, batch_id: str) -> Readers:
    """The project's readers, for one who works on this batch."""
    with context.database.read() as session:
        batch, seat = see_batch(session, actor, batch_id)
        query = select(BlockReaderRow).where(
            BlockReaderRow.project_id == batch.project_id, BlockReaderRow.removed.is_(False)
        )
        rows = session.scalars(query.order_by(BlockReaderRow.company, BlockReaderRow.name))
        fields = [ReadField(field=field, words=words) for field, words in read_fields(seat.project).items()]
        return Readers(readers=[_shown(row) for row in rows], fields=fields, not_compared=NOT_COMPARED)


def _shown(row: BlockReaderRow) -> ReaderShown:
    return ReaderShown(
        id=row.id, version=row.version, name=row.name, company=row.company, width_mm=row.width_mm,
        height_mm=row.height_mm, zones=[ZoneShown(**each) for each in row.zones], learned=len(row.learned),
    )  # fmt: skip


def try_reader(context: Context, actor: Actor, batch_id: str, command: TryReader) -> ReaderTried:
    """What the zones read on every page of the batch that has the size; nothing is kept."""
    with context.database.read() as session:
        _, seat = see_batch(session, actor, batch_id)
        _check_zones(command.zones, seat.project)
        rules = rules_of(seat.project)
        reader = to_core("", "", (command.width_mm, command.height_mm), [z.model_dump() for z in command.zones], ())
        tried: list[PageTried] = []
        well = others = silent = 0
        for arrival, page, packed in _pages_of(session, batch_id):
            words, size = page_seen(page, packed)
            if not reader.fits(size):
                others += 1
                continue
            readings = read_page(reader, words, size, rules)
            shown = _tried(arrival, page.place, readings)
            silent += not words.texts
            well += score(reader, readings) >= 0.999
            tried.append(shown)
        tried.sort(key=lambda each: -each.failed)
        return ReaderTried(pages=tried, read_well=well, other_sizes=others, without_text=silent)


def _pages_of(session: Session, batch_id: str) -> Sequence[Any]:
    query = (
        select(ArrivalRow, PageRow, PageWordsRow.words)
        .join(PageRow, PageRow.sha256 == ArrivalRow.sha256)
        .outerjoin(PageWordsRow, (PageWordsRow.sha256 == PageRow.sha256) & (PageWordsRow.place == PageRow.place))
        .where(ArrivalRow.batch_id == batch_id, ArrivalRow.state.in_(OPEN_STATES))
        .order_by(ArrivalRow.place, PageRow.place)
    )
    return session.execute(query).all()


def _tried(arrival: ArrivalRow, page: int, readings: dict[str, Reading]) -> PageTried:
    fields = {name: FieldRead(value=r.value, why=r.why, sure=r.sure) for name, r in readings.items()}
    failed = sum(1 for each in readings.values() if not each.value or not each.sure)
    return PageTried(arrival_id=arrival.id, file_name=arrival.file_name, page=page, fields=fields, failed=failed)


def _check_zones(zones: list[ZoneShown], project: ProjectRow) -> None:
    if not 1 <= len(zones) <= MOST_ZONES:
        raise RuleBroken("zones_missing", f"A block reader has from 1 to {MOST_ZONES} zones.")
    known = {*read_fields(project), NOT_COMPARED}
    for zone in zones:
        if zone.field not in known:
            raise RuleBroken("zone_field", f"“{zone.field}” is not a field that a zone can read.", zone.field)
        if not (1 <= zone.width_mm <= 2000 and 1 <= zone.height_mm <= 2000) or zone.corner not in CORNERS:
            raise RuleBroken(
                "zone_size", f"The zone for {zone.field} is smaller than 1 mm or off the sheet.", zone.field
            )
        if not (-50 <= zone.across_mm <= 2000 and -50 <= zone.down_mm <= 2000):
            raise RuleBroken(
                "zone_size", f"The zone for {zone.field} is smaller than 1 mm or off the sheet.", zone.field
            )
        if zone.pattern:
            compile_pattern(zone.pattern)


def keep_reader(context: Context, actor: Actor, command: KeepReader) -> ReaderKept:
    """Keeps the reader and reads the open files of its batch anew; what somebody typed or chose stays."""
    name, company = command.name.strip()[:80], command.company.strip()[:120]
    with acting(context, actor) as act:
        batch, seat = see_batch(act.session, actor, command.batch_id)
        _check_zones(command.zones, seat.project)
        if not name:
            raise RuleBroken("name_missing", "Give the reader a name, like “Tallow Reed, A1”.")
        row = _row(act, batch, command)
        before = {"name": row.name, "zones": row.zones} if command.reader_id else {}
        row.name, row.company = name, company
        row.width_mm, row.height_mm = command.width_mm, command.height_mm
        row.zones = [zone.model_dump() for zone in command.zones]
        act.session.flush()
        old, new = changed(before, {"name": row.name, "zones": row.zones})
        kind = FactKind.READER_CHANGED if before else FactKind.READER_MADE
        act.record(batch.project_id, Fact(kind, Subject("block_reader", row.id), name, before=old, after=new))
        open_rows = select(ArrivalRow).where(ArrivalRow.batch_id == batch.id, ArrivalRow.state.in_(OPEN_STATES))
        arrivals.follow_up(act.session, act.at, list(act.session.scalars(open_rows)))
        act.tell(batch.project_id, "intake", batch.id, {batch.folder_id})
        return ReaderKept(id=row.id, version=row.version)


def _row(act: Act, batch: BatchRow, command: KeepReader) -> BlockReaderRow:
    if not command.reader_id:
        row = BlockReaderRow(id=new_id(), project_id=batch.project_id, company="", name="", zones=[], version=1)
        act.session.add(row)
        return row
    row = _find(act.session, batch.project_id, command.reader_id)
    check_version(command.version, row.version, row.name)
    row.version += 1
    return row


def _find(session: Session, project_id: str, reader_id: str) -> BlockReaderRow:
    row = session.get(BlockReaderRow, reader_id)
    if row is None or row.project_id != project_id or row.removed:
        raise NotFound(reader_id)
    return row


class RemoveReader(Command):
    batch_id: str
    version: int


def remove_reader(context: Context, actor: Actor, reader_id: str, command: RemoveReader) -> None:
    """It reads no more; what it has read stays as it is."""
    with acting(context, actor) as act:
        batch, seat = see_batch(act.session, actor, command.batch_id)
        seat.need(Level.FILE)
        row = _find(act.session, batch.project_id, reader_id)
        check_version(command.version, row.version, row.name)
        row.removed, row.version = True, row.version + 1
        act.record(batch.project_id, Fact(FactKind.READER_REMOVED, Subject("block_reader", row.id), row.name))
