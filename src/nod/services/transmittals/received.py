"""Entering what another company says it sent, and telling it what came of that (handbook §10, coming in)."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import date
from typing import Any

from pydantic import Field
from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.core.transmittals.received import (
    MOST_LISTED,
    Compared,
    Listed,
    ListRead,
    read_list,
    receipt_lines,
    rows_of,
)
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting, check_version, today_in
from nod.services.acts.projects import rules_of
from nod.services.acts.seats import Actor, Seat
from nod.services.files.tables_in import table_in
from nod.services.intake.intake_check import see_batch
from nod.services.mail.mails import write_mail
from nod.services.transmittals.received_view import ReceivedLine, files_of, hold, hold_list, lines_shown
from nod.store.ids import new_id
from nod.store.tables import BatchRow, MembershipRow, PersonRow, ProjectRow, ReceivedLineRow, ReceivedRow

_LONGEST_NUMBER, _LONGEST_TEXT, _MOST_UNREAD = 80, 1_000_000, 50


class KeepReceived(Command):
    """A list as it was typed or pasted; with `keep` off it is only tried. `id` and `version` of the one it changes."""

    id: str = ""
    version: int = 0
    number: str = ""
    dated: date | None = Field(default=None, strict=False)
    text: str = Field(default="", max_length=_LONGEST_TEXT)
    keep: bool = False


class UnreadRow(Answered):
    row: int
    said: str
    words: str


class ListTried(Answered):
    """What the list says, held against the files; `more` names those that it does not list."""

    id: str
    lines: list[ReceivedLine]
    more: list[str]
    unread: list[UnreadRow]


class ListText(Answered):
    """Of a book, `sheet` is the one that was read, `sheets` are those that can be."""

    text: str
    sheet: str
    sheets: list[str]


class SendReceipt(Command):
    person_id: str
    version: int
    note: str = Field(default="", max_length=5000)


class RemoveReceived(Command):
    version: int


def text_of_file(
    context: Context, actor: Actor, batch_id: str, chunks: Iterable[bytes], sheet: str = ""
) -> ListText:  # fmt: skip
    """A list that came as XLSX or CSV, as text that can be looked at and typed over. `sheet`: see `read_table`."""
    with context.database.read() as session:
        see_batch(session, actor, batch_id)
    table = table_in(context, chunks, sheet=sheet)
    rows = ["\t".join("" if each is None else str(each) for each in row) for row in table.rows]
    return ListText(text="\n".join(rows)[:_LONGEST_TEXT], sheet=table.sheet, sheets=list(table.sheets))


def keep_received(context: Context, actor: Actor, batch_id: str, command: KeepReceived) -> ListTried:
    """Raises RuleBroken for a list without a document, a day to come, and a number that is missing when it is kept."""
    if not command.keep:
        with context.database.read() as session:
            batch, seat = see_batch(session, actor, batch_id)
            return _tried(session, seat, batch, command.text, "")
    with acting(context, actor) as act:
        batch, seat = see_batch(act.session, actor, batch_id)
        number = " ".join(command.number.split())[:_LONGEST_NUMBER]
        if not number:
            raise RuleBroken("received_number_missing", "Say which number the transmittal has with its sender.")
        if command.dated and command.dated > today_in(seat.project, act.at):
            raise RuleBroken("received_day_future", "The day of the transmittal is still to come.")
        row = _row(act, batch, command)
        before = _kept(act.session, row)
        row.number, row.dated = number, command.dated
        read = _read(seat.project, command.text)
        put_lines(act.session, row, read.lines)
        _record(act, batch, row, before)
        return _tried(act.session, seat, batch, command.text, row.id)


def _row(act: Act, batch: BatchRow, command: KeepReceived) -> ReceivedRow:
    if not command.id:
        row = ReceivedRow(
            id=new_id(), project_id=batch.project_id, batch_id=batch.id, number="", entered_by=act.actor.person_id,
            entered_at=act.at, version=0,
        )  # fmt: skip
        act.session.add(row)
        return row
    row = _of_batch(act.session, batch, command.id)
    check_version(command.version, row.version, row.number)
    if row.bag_sha256:
        raise RuleBroken("received_from_bag", "What the bag says is its sender’s word, and is not changed here.")
    if row.receipt_at:
        raise RuleBroken("received_receipted", "A receipt for it was sent: it stays as it was then.")
    return row


def _of_batch(session: Session, batch: BatchRow, received_id: str) -> ReceivedRow:
    row = session.get(ReceivedRow, received_id)
    if row is None or row.batch_id != batch.id:
        raise NotFound(received_id)
    return row


def put_lines(session: Session, row: ReceivedRow, lines: Sequence[Listed]) -> None:
    row.version += 1
    session.flush()
    session.execute(delete(ReceivedLineRow).where(ReceivedLineRow.received_id == row.id))
    session.add_all(
        ReceivedLineRow(
            received_id=row.id, place=place, number=each.number, revision=each.revision, title=each.title,
            status=each.status, file=each.file, sha256=each.sha256,
        )
        for place, each in enumerate(lines)
    )  # fmt: skip
    session.flush()


def _kept(session: Session, row: ReceivedRow) -> dict[str, Any]:
    """As the trail has it; empty for one that is not there yet."""
    if not row.number:
        return {}
    query = select(ReceivedLineRow).where(ReceivedLineRow.received_id == row.id).order_by(ReceivedLineRow.place)
    listed = [f"{each.number} {each.revision}".strip() or each.file for each in session.scalars(query)]
    return {"number": row.number, "dated": row.dated.isoformat() if row.dated else "", "documents": listed}


def _record(act: Act, batch: BatchRow, row: ReceivedRow, before: dict[str, Any]) -> None:
    after = _kept(act.session, row)
    if before == after:
        return
    kind = FactKind.RECEIVED_CHANGED if before else FactKind.RECEIVED_ENTERED
    fact = Fact(kind, Subject("batch", batch.id), f"{row.number} of {batch.came_from}", before=before, after=after)
    act.record(batch.project_id, fact)
    act.tell(batch.project_id, "intake", batch.id, {batch.folder_id})


def _read(project: ProjectRow, text: str) -> ListRead:
    rules = rules_of(project)
    read = read_list(rows_of(text), rules.convention, rules.scheme)
    if not read.lines:
        raise RuleBroken("received_list_empty", "The list names no document: a row has a number and a revision.")
    if len(read.lines) > MOST_LISTED:
        raise RuleBroken(
            "list_large", f"The list names {len(read.lines):,} documents; at most {MOST_LISTED:,} are read."
        )
    return read


def _tried(session: Session, seat: Seat, batch: BatchRow, text: str, received_id: str) -> ListTried:
    read = _read(seat.project, text)
    files, names = files_of(session, batch)
    compared = hold_list(session, seat, read.lines, files)
    return ListTried(
        id=received_id, lines=lines_shown(compared), more=[names[key] for key in compared.more],
        unread=[UnreadRow(row=each.row, said=each.said, words=each.words) for each in read.unread[:_MOST_UNREAD]],
    )  # fmt: skip


def send_receipt(context: Context, actor: Actor, received_id: str, command: SendReceipt) -> None:
    """Tells somebody of the project what of their transmittal came. Once: what was said then is in the trail."""
    with acting(context, actor) as act:
        row, batch, seat = _seen(act.session, actor, received_id)
        check_version(command.version, row.version, row.number)
        if row.receipt_at:
            raise RuleBroken("received_receipted", "A receipt for it was sent already.")
        member = act.session.get(MembershipRow, (row.project_id, command.person_id))
        if member is None or member.state == "removed":
            raise NotFound(command.person_id)
        person = act.session.get_one(PersonRow, command.person_id)
        held = hold(act.session, seat, batch)
        compared = Compared(held.compared[row.id].lines, held.more)
        said = list(receipt_lines(compared, held.names))
        row.receipt_at, row.receipt_to, row.version = act.at, person.id, row.version + 1
        note = command.note.strip()
        subject = f"{seat.project.name}: receipt for {row.number}"
        lines = _letter(person.name, actor.name, seat.project, batch, row, [*said, *(["", note] if note else [])])
        write_mail(act, f"receipt:{row.id}", person.id, subject, lines)
        after = {"to": person.email, "says": said, **({"note": note} if note else {})}
        about = f"{row.number} of {batch.came_from}"
        act.record(row.project_id, Fact(FactKind.RECEIPT_SENT, Subject("batch", batch.id), about, after=after))
        act.tell(batch.project_id, "intake", batch.id, {batch.folder_id})


def _letter(
    to: str, by: str, project: ProjectRow, batch: BatchRow, row: ReceivedRow, said: list[str]
) -> list[str]:  # fmt: skip
    on = batch.came_on or today_in(project, batch.arrived_at)
    of = f" of {row.dated.day} {row.dated:%B %Y}" if row.dated else ""
    came = f"Your transmittal {row.number}{of} came on {on.day} {on:%B %Y}."
    return [f"{to},", "", came, *said, "", f"{by}, {project.name}"]


def remove_received(context: Context, actor: Actor, received_id: str, command: RemoveReceived) -> None:
    """For one that was entered by mistake; what it said stays in the trail."""
    with acting(context, actor) as act:
        row, batch, _ = _seen(act.session, actor, received_id)
        check_version(command.version, row.version, row.number)
        if row.receipt_at:
            raise RuleBroken("received_receipted", "A receipt for it was sent: it stays.")
        about = f"{row.number} of {batch.came_from}"
        fact = Fact(FactKind.RECEIVED_REMOVED, Subject("batch", batch.id), about, before=_kept(act.session, row))
        act.session.execute(delete(ReceivedLineRow).where(ReceivedLineRow.received_id == row.id))
        act.session.delete(row)
        act.record(batch.project_id, fact)
        act.tell(batch.project_id, "intake", batch.id, {batch.folder_id})


def _seen(session: Session, actor: Actor, received_id: str) -> tuple[ReceivedRow, BatchRow, Seat]:
    """It is there for those who may file into its batch's folder. Raises NotFound, or NotAllowed for lesser readers."""
    row = session.get(ReceivedRow, received_id)
    if row is None:
        raise NotFound(received_id)
    try:
        batch, seat = see_batch(session, actor, row.batch_id)
    except NotFound as hidden:
        raise NotFound(received_id) from hidden
    return row, batch, seat
