"""What follows once an arrived file is known: its title block is read, sets are found out, drawings are compared.

Called inside the transaction that learned something: a file was looked into, a reader was drawn, a value was typed.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.intake.block_picks import Reading
from nod.core.intake.block_readers import BlockReader, as_ocr, choose_reader
from nod.core.intake.findings import OPEN_STATES, PDF, Rules
from nod.core.intake.own_numbers import own_numbers
from nod.core.intake.witnesses import FIELDS, first_choice
from nod.services.acts.projects import rules_of
from nod.services.compare import arrival_comparisons
from nod.services.sheet.title_blocks import SeenPage, first_pages, page_seen, pages_seen, readers_of
from nod.store import journal
from nod.store.tables import ArrivalRow, BatchRow, BlobRow, PageRow, ProjectRow

MOST_SHEETS = 2000
_SHORTENED = 200


def follow_up(session: Session, at: datetime, arrivals: Sequence[ArrivalRow]) -> None:
    """For those of `arrivals` that are open and known; each project's rules and readers are fetched once."""
    by_project: dict[str, list[ArrivalRow]] = {}
    for arrival in arrivals:
        if arrival.state in OPEN_STATES:
            by_project.setdefault(arrival.project_id, []).append(arrival)
    for project_id, rows in by_project.items():
        project = session.get_one(ProjectRow, project_id)
        rules, readers = rules_of(project), readers_of(session, project_id)
        known = _fetch(session, rows, words=bool(readers))
        # Nothing is asked between one row and the next, so nothing has to be written in between.
        with session.no_autoflush:
            for row in rows:
                blob = known.blobs[row.sha256]
                if blob.state == "known" and not blob.fault and blob.page_count:
                    _read(session, at, row, known, readers, rules)
        session.flush()
        arrival_comparisons.ask(session, at, project, rows)


@dataclass(frozen=True)
class _Known:
    """What is stored of the files of arrivals, by hash; `first` are their first pages with the words as they are kept.

    Unpacking words takes longer than all the rest, so these are left alone where nobody could read them. `companies`:
    by batch, from which company it came, and whether somebody has said so.
    """

    blobs: dict[str, BlobRow]
    first: dict[str, tuple[PageRow, bytes | None]]
    companies: dict[str, tuple[str, bool]]


def _fetch(session: Session, rows: Sequence[ArrivalRow], *, words: bool) -> _Known:
    """In a fixed number of queries."""
    hashes = {row.sha256 for row in rows}
    blobs = {each.sha256: each for each in session.scalars(select(BlobRow).where(BlobRow.sha256.in_(hashes)))}
    query = select(BatchRow.id, BatchRow.came_from, BatchRow.came_said)
    batches = session.execute(query.where(BatchRow.id.in_({row.batch_id for row in rows})))
    companies = {id: (company, said) for id, company, said in batches}
    return _Known(blobs, first_pages(session, hashes) if words else {}, companies)


def _read(
    session: Session, at: datetime, row: ArrivalRow, known: _Known, readers: list[BlockReader], rules: Rules
) -> None:
    blob, (company, said) = known.blobs[row.sha256], known.companies[row.batch_id]
    undecided = blob.media_type == PDF and blob.page_count > 1 and not row.kept_whole
    chosen = None
    if readers:
        page, packed = known.first[row.sha256]
        chosen = choose_reader(readers, *page_seen(page, packed), rules, company, said=said)
    if chosen:
        row.reader_id = chosen[0].id
        row.by_block = kept_readings(as_ocr(chosen[1]) if page.is_scan else chosen[1])
    elif not row.split_from:
        row.reader_id, row.by_block = "", {}
    settle(row)
    if undecided:
        numbers = sheet_numbers(pages_seen(session, row.sha256, MOST_SHEETS), readers, rules, company)
        row.sheets_inside = len(numbers)
        if numbers:
            payload = {"arrival_id": row.id, "numbers": numbers}
            journal.ask(session, at, "split", f"split:{row.id}:{row.version}", payload)


def kept_readings(readings: dict[str, Reading]) -> dict[str, dict[str, object]]:
    """As an arrival keeps them: by field the value, or why there is none."""
    return {
        field: {
            "value": each.value,
            "why": each.why,
            "sure": each.sure,
            "learned_from": each.learned_from,
            "by_ocr": each.by_ocr,
            "reader_of": each.reader_of,
        }
        for field, each in readings.items()
    }


def sheet_numbers(pages: Sequence[SeenPage], readers: list[BlockReader], rules: Rules, company: str) -> list[str]:
    """The number of each page of a set, read by a reader or found by its form; empty for what is no set."""
    by_form = own_numbers(pages, rules.convention)
    if by_form or not readers:
        return by_form
    numbers = []
    for words, size in pages:
        chosen = choose_reader(readers, words, size, rules, company)
        reading = chosen[1].get("number") if chosen else None
        numbers.append(reading.value if reading else "")
    return numbers if len({number for number in numbers if number}) > 1 else []


def settle(row: ArrivalRow) -> None:
    """What nobody chose or typed follows the witnesses; further fields have one only, the title block."""
    printed = {field: str(each.get("value", "")) for field, each in row.by_block.items()}
    for field in FIELDS:
        if field not in row.chosen:
            setattr(row, field, first_choice(field, row.by_name, printed)[:_SHORTENED])
    further = {field: value[:_SHORTENED] for field, value in printed.items() if field not in FIELDS}
    row.fields = {**further, **{field: value for field, value in row.fields.items() if field in row.chosen}}
