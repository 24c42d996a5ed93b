"""Transmittals that came in, each held against the files that came with it and against the register (handbook §10)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.acts.counted import counted
from nod.core.transmittals.received import FOUND_WORDS, Came, Compared, Found, Listed, compare, receipt_lines
from nod.services.acts.answers import Answered, Who, people_by_id
from nod.services.acts.context import Context, today_in
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.services.intake.intake_check import see_batch
from nod.store.dialects.sqlite import one_of, unindexed
from nod.store.tables import (
    ArrivalRow,
    BatchRow,
    DocumentRow,
    ReceivedLineRow,
    ReceivedRow,
    RevisionRow,
)

_TAKEN_APART = ("unpacked", "split")


class ReceivedLine(Answered):
    """`found` one of `Found`, `words` what it says; `came_as` the revision that came instead."""

    number: str
    revision: str
    title: str
    file: str
    found: str
    words: str
    came_as: str
    arrival_id: str


class Received(Answered):
    """`here` counts the listed documents that came, or are in the register; `more` names the files that none lists.

    `proof` says in words how far it is proven who sent it, and `proven` whether it is; both say nothing of a list that
    was typed. `documents` counts the lines, which the log leaves out. `text` is the list as it can be typed again,
    `says` what a receipt tells of the files.
    """

    id: str
    version: int
    batch_id: str
    number: str
    company: str
    person: str
    dated: date | None
    came_on: date
    taken_in_by: Who
    purpose: str
    note: str
    from_bag: bool
    proven: bool
    proof: str
    faults: list[str]
    lines: list[ReceivedLine]
    documents: int
    here: int
    more: list[str]
    text: str
    says: list[str]
    receipt_at: datetime | None
    receipt_to: Who | None


class ReceivedLog(Answered):
    lines: list[Received]
    total: int


@dataclass(frozen=True)
class Held:
    """A batch against all the lists that came with it."""

    compared: dict[str, Compared]
    names: dict[str, str]
    more: list[str]


def of_batch(context: Context, actor: Actor, batch_id: str) -> ReceivedLog:
    """In the order in which they were entered."""
    with context.database.read() as session:
        batch, seat = see_batch(session, actor, batch_id)
        query = select(ReceivedRow).where(ReceivedRow.batch_id == batch.id).order_by(ReceivedRow.entered_at)
        found = show(session, seat, list(session.scalars(query)))
        return ReceivedLog(lines=found, total=len(found))


def list_received(context: Context, actor: Actor, project_id: str, start: int, limit: int) -> ReceivedLog:
    """Those of batches into whose folder one may file, the last that was entered first."""
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        seat.need(Level.FILE)
        there = (ReceivedRow.project_id == project_id, seat.sees(BatchRow.folder_id, Level.FILE))
        query = select(ReceivedRow).join(BatchRow, BatchRow.id == ReceivedRow.batch_id).where(*there)
        total = session.scalar(select(func.count()).select_from(query.subquery())) or 0
        rows = session.scalars(query.order_by(ReceivedRow.entered_at.desc()).offset(start).limit(limit))
        shown = [
            each.model_copy(update={"lines": [], "text": "", "says": []}) for each in show(session, seat, list(rows))
        ]
        return ReceivedLog(lines=shown, total=total)


def show(session: Session, seat: Seat, rows: Sequence[ReceivedRow]) -> list[Received]:
    batches = {
        batch.id: batch
        for batch in session.scalars(select(BatchRow).where(BatchRow.id.in_({row.batch_id for row in rows})))
    }
    held = {id: hold(session, seat, batch) for id, batch in batches.items()}
    people = people_by_id(session, {each.arrived_by for each in batches.values()} | {row.receipt_to for row in rows})
    return [_shown(session, seat, row, batches[row.batch_id], held[row.batch_id], people) for row in rows]


def _shown(
    session: Session, seat: Seat, row: ReceivedRow, batch: BatchRow, held: Held, people: dict[str, Who]
) -> Received:  # fmt: skip
    compared = held.compared[row.id]
    proof = _proof_words(session, row, batch) if row.bag_sha256 else ""
    return Received(
        id=row.id, version=row.version, batch_id=batch.id, number=row.number, company=batch.came_from,
        person=batch.came_person, dated=row.dated, came_on=batch.came_on or today_in(seat.project, batch.arrived_at),
        taken_in_by=people[batch.arrived_by], purpose=row.purpose, note=row.note, from_bag=bool(row.bag_sha256),
        proven=row.proof == "proven" and not row.faults, proof=proof, faults=list(row.faults),
        lines=lines_shown(compared),
        documents=len(compared.lines),
        here=sum(each.found in (Found.HERE, Found.FILED) for each in compared.lines),
        more=[held.names[key] for key in held.more], text=list_text([each.line for each in compared.lines]),
        says=list(receipt_lines(Compared(compared.lines, held.more), held.names)), receipt_at=row.receipt_at,
        receipt_to=people.get(row.receipt_to),
    )  # fmt: skip


def lines_shown(compared: Compared) -> list[ReceivedLine]:
    return [
        ReceivedLine(
            number=each.line.number, revision=each.line.revision, title=each.line.title, file=each.line.file,
            found=each.found.value, words=FOUND_WORDS[each.found],
            came_as=each.revision if each.found is Found.OTHER_REVISION else "", arrival_id=each.key,
        )
        for each in compared.lines
    ]  # fmt: skip


def list_text(lines: Sequence[Listed]) -> str:
    """As one types it, or pastes it out of a spreadsheet."""
    return "\n".join("\t".join((each.number, each.revision, each.title)).rstrip("\t") for each in lines)


def hold(session: Session, seat: Seat, batch: BatchRow) -> Held:
    """What is no list's file is surplus: with two lists in a batch, a file of one is none to the other."""
    files, names = files_of(session, batch)
    lists: dict[str, list[Listed]] = {}
    query = select(ReceivedLineRow).join(ReceivedRow, ReceivedRow.id == ReceivedLineRow.received_id)
    for each in session.scalars(query.where(ReceivedRow.batch_id == batch.id).order_by(ReceivedLineRow.place)):
        line = Listed(each.number, each.revision, each.title, each.status, each.file, each.sha256)
        lists.setdefault(each.received_id, []).append(line)
    ids = session.scalars(select(ReceivedRow.id).where(ReceivedRow.batch_id == batch.id))
    compared = {id: hold_list(session, seat, lists.get(id, []), files) for id in ids}
    none_lists = set.intersection(*(set(each.more) for each in compared.values())) if compared else set()
    return Held(compared, names, [each.key for each in files if each.key in none_lists])


def files_of(session: Session, batch: BatchRow) -> tuple[list[Came], dict[str, str]]:
    """The files of a batch that are something by themselves, and their names."""
    query = select(
        ArrivalRow.id, ArrivalRow.number, ArrivalRow.revision, ArrivalRow.sha256, ArrivalRow.file_name
    ).where(ArrivalRow.batch_id == batch.id, ArrivalRow.state.not_in(_TAKEN_APART))  # fmt: skip
    rows = session.execute(query.order_by(ArrivalRow.place)).all()
    files = [Came(row.id, row.number, row.revision, row.sha256) for row in rows]
    return files, {row.id: row.file_name for row in rows}


def hold_list(session: Session, seat: Seat, lines: Sequence[Listed], files: Sequence[Came]) -> Compared:
    """Of the register as far as one sees it: a list is no way to ask for what is hidden."""
    numbers = {each.number for each in lines if each.number}
    filed = (
        select(DocumentRow.number, RevisionRow.code)
        .join(RevisionRow, RevisionRow.document_id == DocumentRow.id)
        .where(
            DocumentRow.project_id == seat.project.id,
            one_of(DocumentRow.number, list(numbers)),
            seat.sees(unindexed(DocumentRow.folder_id)),
        )
    )
    return compare(lines, files, [(number, code) for number, code in session.execute(filed)])


def _proof_words(session: Session, row: ReceivedRow, batch: BatchRow) -> str:
    """Anybody can make a key: it says something of who sent only with what came under it before, or is asked for."""
    if row.proof == "none":
        return "It carries no proof that it stands in its sender’s trail."
    if row.proof == "broken":
        return "Its proof does not hold."
    before = (
        select(ReceivedRow.key, func.count())
        .join(BatchRow, BatchRow.id == ReceivedRow.batch_id)
        .where(
            ReceivedRow.project_id == row.project_id, BatchRow.came_from == batch.came_from, ReceivedRow.key != "",
            ReceivedRow.entered_at <= row.entered_at, ReceivedRow.id != row.id,
        )
        .group_by(ReceivedRow.key)
    )  # fmt: skip
    keys = {key: count for key, count in session.execute(before)}
    name, tag = row.key.split("+")[:2]
    said = f"It stands in its sender’s trail, sealed with the key {name} {tag}"
    if row.key in keys:
        return f"{said}, as {counted(keys[row.key], 'transmittal')} of {batch.came_from} before."
    if keys:
        return f"{said}. {batch.came_from} used another key before: ask them which is theirs."
    return f"{said}. It is the first with this key: ask {batch.came_from} another way whether it is theirs."
