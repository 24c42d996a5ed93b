"""Drawing sets: a stage, an issue, a package; sheets in an order of their own (handbook §4)."""

from __future__ import annotations

from datetime import date
from typing import Any

from pydantic import Field
from sqlalchemy import Select, delete, func, select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.trail.entries import Fact, FactKind, Subject, changed
from nod.services.access.visibility import refuse_copy
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting, check_version
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.services.register.register_list import AskedView, read_view
from nod.store import register_query
from nod.store.ids import new_id
from nod.store.tables import DocumentRow, DrawingSetRow, SetSheetRow

MOST_SHEETS = 5000


class MakeSet(Command):
    project_id: str
    name: str
    on: date | None = Field(default=None, strict=False)


class ChangeSet(Command):
    version: int
    name: str
    on: date | None = Field(default=None, strict=False)


class SetSheets(Command):
    """The sheets of a set in their order; those that the giver does not see stay behind them."""

    version: int
    documents: list[str]


class AddByView(Command):
    """Every document that a view of the register leaves, in the order of their numbers."""

    version: int
    words: str = ""
    filters: str = ""


class SeenSet(Command):
    version: int


class SetMade(Answered):
    id: str


class SetLine(Answered):
    """`sheets` counts those one sees."""

    id: str
    name: str
    on: date | None
    sheets: int
    version: int


class SetSheet(Answered):
    id: str
    number: str
    title: str
    revision_id: str
    revision: str
    status: str
    withdrawn: bool


class DrawingSet(Answered):
    id: str
    name: str
    on: date | None
    version: int
    may_change: bool
    sheets: list[SetSheet]


class SheetsSet(Answered):
    """`before` is the order that would take the change back."""

    version: int
    before: list[str]


def list_sets(context: Context, actor: Actor, project_id: str) -> list[SetLine]:
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        counts = (
            select(SetSheetRow.set_id, func.count())
            .join(DocumentRow, DocumentRow.id == SetSheetRow.document_id)
            .where(DocumentRow.project_id == project_id, seat.sees(DocumentRow.folder_id))
            .group_by(SetSheetRow.set_id)
        )
        found = dict(session.execute(counts).all())
        query = select(DrawingSetRow).where(DrawingSetRow.project_id == project_id, ~DrawingSetRow.removed)
        return [
            SetLine(id=row.id, name=row.name, on=row.on, sheets=found.get(row.id, 0), version=row.version)
            for row in session.scalars(query.order_by(DrawingSetRow.name))
        ]


def read_set(context: Context, actor: Actor, set_id: str) -> DrawingSet:
    with context.database.read() as session:
        row, seat = _see(session, actor, set_id)
        return DrawingSet(
            id=row.id, name=row.name, on=row.on, version=row.version, may_change=seat.level >= Level.FILE,
            sheets=[
                SetSheet(
                    id=each.id, number=each.number, title=each.title, revision_id=each.revision_id,
                    revision=each.revision, status=each.status, withdrawn=each.withdrawn,
                )
                for each in session.scalars(_sheets(seat, set_id))
            ],
        )  # fmt: skip


def _see(session: Session, actor: Actor, set_id: str) -> tuple[DrawingSetRow, Seat]:
    row = session.get(DrawingSetRow, set_id)
    if row is None or row.removed:
        raise NotFound(set_id)
    try:
        return row, take_seat(session, actor, row.project_id)
    except NotFound as hidden:
        raise NotFound(set_id) from hidden


def _sheets(seat: Seat, set_id: str) -> Select[DocumentRow]:
    query = select(DocumentRow).join(SetSheetRow, SetSheetRow.document_id == DocumentRow.id)
    return query.where(SetSheetRow.set_id == set_id, seat.sees(DocumentRow.folder_id)).order_by(SetSheetRow.place)


def make_set(context: Context, actor: Actor, command: MakeSet) -> SetMade:
    """Raises RuleBroken without a name and for one that is taken."""
    with acting(context, actor) as act:
        act.enter(command.project_id, Level.FILE)
        return SetMade(id=_make(act, command.project_id, command.name, command.on).id)


def _make(act: Act, project_id: str, given: str, on: date | None) -> DrawingSetRow:
    name = _name(act, project_id, given, "")
    row = DrawingSetRow(id=new_id(), project_id=project_id, name=name, on=on, removed=False)
    act.session.add(row)
    act.session.flush()
    _record(act, row, FactKind.SET_MADE, after={"on": on.isoformat() if on else ""})
    return row


def put_in(
    act: Act, seat: Seat, set_id: str, new_name: str, on: date | None, documents: list[str]
) -> DrawingSetRow:  # fmt: skip
    """Documents go behind what is in a set, or into a new one; part of the transaction that filed them.

    Raises NotFound for a set that is not there, RuleBroken for a name that is taken and a set that grows too large.
    """
    row = _see(act.session, act.actor, set_id)[0] if set_id else _make(act, seat.project.id, new_name, on)
    if row.project_id != seat.project.id:
        raise NotFound(set_id)
    there = [each.id for each in act.session.scalars(_sheets(seat, row.id))]
    row.version += 1
    _put(act, row, seat, list(dict.fromkeys([*there, *documents])))
    return row


def _name(act: Act, project_id: str, given: str, own_id: str) -> str:
    name = " ".join(given.split())[:80]
    if not name:
        raise RuleBroken("name_missing", "Give the drawing set a name.")
    query = select(DrawingSetRow.id).where(
        DrawingSetRow.project_id == project_id, DrawingSetRow.name == name, ~DrawingSetRow.removed
    )
    if set(act.session.scalars(query)) - {own_id}:
        raise RuleBroken("set_exists", f"There is a drawing set {name} already.", name)
    return name


def _record(
    act: Act,
    row: DrawingSetRow,
    kind: FactKind,
    before: dict[str, Any] | None = None,
    after: dict[str, Any] | None = None,
    documents: tuple[str, ...] = (),
) -> None:
    others = tuple(Subject("document", id) for id in documents)
    act.record(row.project_id, Fact(kind, Subject("drawing_set", row.id), row.name, others, before or {}, after or {}))
    act.tell(row.project_id, "sets", row.id)


def _open(act: Act, set_id: str, version: int) -> tuple[DrawingSetRow, Seat]:
    row, seat = _see(act.session, act.actor, set_id)
    seat.need(Level.FILE)
    check_version(version, row.version, row.name)
    row.version += 1
    return row, seat


def change_set(context: Context, actor: Actor, set_id: str, command: ChangeSet) -> None:
    with acting(context, actor) as act:
        row, _ = _open(act, set_id, command.version)
        before = {"name": row.name, "on": row.on.isoformat() if row.on else ""}
        row.name, row.on = _name(act, row.project_id, command.name, row.id), command.on
        after = {"name": row.name, "on": row.on.isoformat() if row.on else ""}
        old, new = changed(before, after)
        _record(act, row, FactKind.SET_CHANGED, old, new)


def remove_set(context: Context, actor: Actor, set_id: str, command: SeenSet) -> None:
    """The set alone: its sheets stay where they are, and what was in it stays known."""
    with acting(context, actor) as act:
        row, _ = _open(act, set_id, command.version)
        row.removed = True
        _record(act, row, FactKind.SET_REMOVED)


def bring_back_set(context: Context, actor: Actor, set_id: str) -> None:
    """A set that was taken away stands again, with its sheets. Raises RuleBroken where its name was given away."""
    with acting(context, actor) as act:
        row = act.session.get(DrawingSetRow, set_id)
        if row is None:
            raise NotFound(set_id)
        try:
            seat = take_seat(act.session, actor, row.project_id)
        except NotFound as hidden:
            raise NotFound(set_id) from hidden
        seat.need(Level.FILE)
        if not row.removed:
            raise RuleBroken("set_there", f"The drawing set {row.name} is there.", row.name)
        _name(act, row.project_id, row.name, row.id)
        row.removed = False
        row.version += 1
        _record(act, row, FactKind.SET_BROUGHT_BACK)


def set_sheets(context: Context, actor: Actor, set_id: str, command: SetSheets) -> SheetsSet:
    """Raises NotFound for a document that is not there for this person."""
    with acting(context, actor) as act:
        row, seat = _open(act, set_id, command.version)
        return _put(act, row, seat, list(dict.fromkeys(command.documents)))


def add_by_view(context: Context, actor: Actor, set_id: str, command: AddByView) -> SheetsSet:
    """Adds what is not in the set yet, behind what is."""
    with acting(context, actor) as act:
        row, seat = _open(act, set_id, command.version)
        view = read_view(act.session, seat, AskedView(row.project_id, command.words, command.filters))
        found = register_query.ids(act.session, view, MOST_SHEETS + 1)
        there = [each.id for each in act.session.scalars(_sheets(seat, set_id))]
        return _put(act, row, seat, list(dict.fromkeys([*there, *found])))


def _put(act: Act, row: DrawingSetRow, seat: Seat, wanted: list[str]) -> SheetsSet:
    if len(wanted) > MOST_SHEETS:
        raise RuleBroken("set_large", f"A drawing set holds at most {MOST_SHEETS} sheets.", row.name)
    known = select(DocumentRow).where(DocumentRow.project_id == row.project_id, seat.sees(DocumentRow.folder_id))
    seen = {each.id: each for each in act.session.scalars(known.where(DocumentRow.id.in_(wanted)))}
    for each in wanted:
        if each not in seen:
            raise NotFound(each)
        refuse_copy(seen[each])
    before = [each.id for each in act.session.scalars(_sheets(seat, row.id))]
    everything = select(SetSheetRow.document_id).where(SetSheetRow.set_id == row.id).order_by(SetSheetRow.place)
    hidden = [each for each in act.session.scalars(everything) if each not in set(before)]
    act.session.execute(delete(SetSheetRow).where(SetSheetRow.set_id == row.id))
    act.session.add_all(
        SetSheetRow(set_id=row.id, document_id=each, place=place) for place, each in enumerate([*wanted, *hidden])
    )
    act.session.flush()
    touched = tuple(sorted(set(before) ^ set(wanted)))
    known_as = select(DocumentRow.id, DocumentRow.number).where(DocumentRow.id.in_(touched))
    numbers = dict(act.session.execute(known_as).all())
    after = {
        "added": [numbers[each] for each in wanted if each not in set(before)],
        "taken out": [numbers[each] for each in before if each not in set(wanted)],
        "sheets": len(wanted),
    }
    _record(act, row, FactKind.SET_SHEETS_PUT, {"sheets": len(before)}, after, touched)
    return SheetsSet(version=row.version, before=before)
