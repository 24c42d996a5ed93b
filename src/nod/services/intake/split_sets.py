"""Sets taken apart: a file whose pages carry different numbers becomes an arrival a sheet, and can be put back."""

from __future__ import annotations

import tempfile
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any

from sqlalchemy import func, insert, select
from sqlalchemy.orm import Session

from nod.core.access.audiences import for_folders
from nod.core.acts.counted import counted
from nod.core.acts.refusals import RuleBroken
from nod.core.intake.file_names import base_name
from nod.core.intake.findings import OPEN_STATES, PDF
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.formats.intake.pdf_split import CannotSplit
from nod.formats.sheet.pdf_look import CannotDraw
from nod.services.acts.answers import Command
from nod.services.acts.arrived_files import of_arrival
from nod.services.acts.context import Context, acting, check_version
from nod.services.acts.projects import rules_of
from nod.services.acts.seats import SYSTEM, Actor
from nod.services.acts.work import Job, Lane, work
from nod.services.intake import arrivals, scans
from nod.services.intake.intake_check import see_arrival
from nod.services.press.press import Press, PressStopped
from nod.services.sheet.title_blocks import pages_seen, readers_of
from nod.store import journal
from nod.store.blobs import StoredBlob
from nod.store.ids import new_id
from nod.store.tables import ArrivalRow, BatchRow, BlobRow, PageRow, PageWordsRow, ProjectRow

_AT_ONCE = 4


class SeenArrival(Command):
    version: int


@dataclass(frozen=True)
class _Sheet:
    place: int
    blob: StoredBlob
    number: str


@work("split", Lane.LOOK, "taking the set apart", of_arrival)
def split_set(job: Job, payload: dict[str, Any]) -> None:
    """What was read of each page goes along with it; nothing is read twice."""
    context, arrival_id = job.context, payload["arrival_id"]
    with context.database.read() as session:
        row = session.get(ArrivalRow, arrival_id)
        if row is None or row.state not in OPEN_STATES or row.kept_whole:
            return
        sha256 = row.sha256
        numbers = payload.get("numbers") or _numbers(session, row)
    try:
        sheets = _taken_apart(context, job.press, sha256, numbers)
    except (PressStopped, CannotSplit, CannotDraw):
        _give_up(context, arrival_id)
        return
    with context.database.write() as session:
        _store(context, session, arrival_id, sheets)


def _numbers(session: Session, row: ArrivalRow) -> list[str]:
    """The number of each page, where somebody asked for the split and nothing has proposed it."""
    company = session.get_one(BatchRow, row.batch_id).came_from
    pages = pages_seen(session, row.sha256, arrivals.MOST_SHEETS)
    rules = rules_of(session.get_one(ProjectRow, row.project_id))
    return arrivals.sheet_numbers(pages, readers_of(session, row.project_id), rules, company)


def _taken_apart(context: Context, press: Press, sha256: str, numbers: list[str]) -> list[_Sheet]:
    with tempfile.TemporaryDirectory(dir=context.settings.data_dir) as aside:
        with context.blobs.local(sha256) as path:
            count = press.split(path, Path(aside))

        def keep(place: int) -> _Sheet:
            blob = context.blobs.put_file(Path(aside) / f"{place}.pdf")
            thumbnail = context.tiles.thumbnail_path(sha256, place)
            if thumbnail.is_file():
                context.tiles.keep(context.tiles.thumbnail_path(blob.sha256, 0), thumbnail.read_bytes())
            return _Sheet(place, blob, numbers[place] if place < len(numbers) else "")

        # Most of the time goes by waiting for the disk to say that it has it.
        with ThreadPoolExecutor(_AT_ONCE) as pool:
            return list(pool.map(keep, range(count)))


def _give_up(context: Context, arrival_id: str) -> None:
    """The file stays whole, and says so."""
    with context.database.write() as session:
        row = session.get_one(ArrivalRow, arrival_id)
        row.kept_whole, row.sheets_inside, row.version = True, 0, row.version + 1
        fact = Fact(
            FactKind.SET_KEPT_WHOLE, Subject("arrival", row.id), row.file_name, why="It could not be taken apart."
        )
        journal.record(session, context.clock.now(), SYSTEM, row.project_id, fact)


def _store(context: Context, session: Session, arrival_id: str, sheets: list[_Sheet]) -> None:
    now = context.clock.now()
    row = session.get_one(ArrivalRow, arrival_id)
    if row.state not in OPEN_STATES or row.kept_whole:
        return
    batch = session.get_one(BatchRow, row.batch_id)
    first = (session.scalar(select(func.max(ArrivalRow.place)).where(ArrivalRow.batch_id == batch.id)) or 0) + 1
    _know(session, now, row.sha256, sheets)
    made = [_arrival(row, sheet, first + sheet.place) for sheet in sheets]
    session.add_all(made)
    row.state, row.version = "split", row.version + 1
    row.reason = f"Taken apart into {counted(len(sheets), 'sheet')}."
    session.flush()
    others = tuple(Subject("arrival", each.id) for each in made)
    fact = Fact(FactKind.SET_SPLIT, Subject("arrival", row.id), row.file_name, others, after={"sheets": len(sheets)})
    journal.record(session, now, SYSTEM, row.project_id, fact)
    arrivals.follow_up(session, now, made)
    journal.tell(session, now, batch.project_id, "intake", batch.id, for_folders(batch.folder_id), by="")


def _know(session: Session, now: datetime, whole: str, sheets: list[_Sheet]) -> None:
    """The blobs of the sheets with what is known of each from the set, in a fixed number of statements."""
    new = {sheet.blob.sha256: sheet for sheet in sheets}
    there = select(BlobRow.sha256).where(BlobRow.sha256.in_(new))
    for sha256 in session.scalars(there):
        del new[sha256]
    if not new:
        return
    source = session.get_one(BlobRow, whole)
    layers = source.contents.get("layers", [])
    contents = {"layers": layers, "labels": [], "encryption": "", "active": []}
    pages = _kept_of(session, PageRow.__table__, whole)
    words = _kept_of(session, PageWordsRow.__table__, whole)
    session.execute(
        insert(BlobRow), [_blob(now, each, pages[each.place], contents, source.ocr) for each in new.values()]
    )
    for table, kept in ((PageRow, pages), (PageWordsRow, words)):
        rows = [{**kept[s.place], "sha256": s.blob.sha256, "place": 0} for s in new.values() if s.place in kept]
        if rows:
            session.execute(insert(table), rows)
    if source.ocr == scans.READING:
        for each in new.values():
            scans.ask(session, now, each.blob.sha256)


def _kept_of(session: Session, table: Any, sha256: str) -> dict[int, dict[str, Any]]:
    """By page, what a table keeps of a file."""
    return {
        row["place"]: dict(row) for row in session.execute(select(table).where(table.c.sha256 == sha256)).mappings()
    }


def _blob(now: datetime, sheet: _Sheet, page: dict[str, Any], contents: dict[str, Any], ocr: str) -> dict[str, Any]:
    return {
        "sha256": sheet.blob.sha256, "size_bytes": sheet.blob.size_bytes, "media_type": PDF, "stored_at": now,
        "state": "known", "page_count": 1, "pages_read": 1, "has_text": page["word_count"] > 0, "contents": contents,
        "fault": "", "fault_words": "", "active_content": "", "ocr": ocr if page["is_scan"] else "",
    }  # fmt: skip


def _arrival(row: ArrivalRow, sheet: _Sheet, place: int) -> ArrivalRow:
    stem = base_name(row.file_name).removesuffix(".pdf").removesuffix(".PDF")
    found = {"number": {"value": sheet.number, "why": "", "sure": True, "learned_from": ""}} if sheet.number else {}
    return ArrivalRow(
        id=new_id(), batch_id=row.batch_id, project_id=row.project_id, place=place,
        file_name=f"{stem}, page {sheet.place + 1}.pdf", sha256=sheet.blob.sha256, number="", revision="", status="",
        title="", folder_path=row.folder_path, by_name={}, by_block=found, chosen={}, split_from=row.id,
        split_place=sheet.place, state="waiting", version=1,
    )  # fmt: skip


def put_together(context: Context, actor: Actor, arrival_id: str, command: SeenArrival) -> None:
    """The set is one file again. Raises RuleBroken once one of its sheets has left Intake."""
    with acting(context, actor) as act:
        row, batch, _ = see_arrival(act.session, actor, arrival_id)
        check_version(command.version, row.version, row.file_name)
        sheets = list(act.session.scalars(select(ArrivalRow).where(ArrivalRow.split_from == row.id)))
        if row.state != "split" or any(each.state not in OPEN_STATES for each in sheets):
            words = "Some of its sheets have left Intake, so it cannot be put together any more."
            raise RuleBroken("set_in_use", words, row.file_name)
        for each in sheets:
            each.state, each.reason, each.version = "joined", "Part of the set again.", each.version + 1
        row.state, row.reason, row.kept_whole, row.sheets_inside = "waiting", "", True, 0
        row.version += 1
        act.record(row.project_id, Fact(FactKind.SET_PUT_TOGETHER, Subject("arrival", row.id), row.file_name))
        act.session.flush()
        arrivals.follow_up(act.session, act.at, [row])
        act.tell(row.project_id, "intake", row.batch_id, {batch.folder_id})


def ask_split(context: Context, actor: Actor, arrival_id: str, command: SeenArrival) -> None:
    """Has a file of several pages taken apart after all."""
    with acting(context, actor) as act:
        row, batch, _ = see_arrival(act.session, actor, arrival_id)
        check_version(command.version, row.version, row.file_name)
        blob = act.session.get_one(BlobRow, row.sha256)
        if row.state not in OPEN_STATES or blob.page_count < 2 or blob.media_type != PDF:
            raise RuleBroken("not_a_set", "Only an open file of several pages can be taken apart.", row.file_name)
        row.kept_whole, row.sheets_inside, row.version = False, blob.page_count, row.version + 1
        act.record(row.project_id, Fact(FactKind.SET_SPLIT_ASKED, Subject("arrival", row.id), row.file_name))
        act.ask("split", f"split:{row.id}:{row.version}", {"arrival_id": row.id})
        act.tell(row.project_id, "intake", row.batch_id, {batch.folder_id})
