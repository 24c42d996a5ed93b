"""Correcting what was read in Intake: a cell, a column, a whole batch, in one act that can be taken back."""

from __future__ import annotations

from typing import Any

from pydantic import Field

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.intake.block_readers import learned_key
from nod.core.intake.findings import HISTORY
from nod.core.intake.witnesses import FIELDS, Witness
from nod.core.trail.entries import Fact, FactKind, Subject, changed
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting, check_version
from nod.services.acts.seats import Actor
from nod.services.compare import arrival_comparisons
from nod.services.intake import arrivals
from nod.services.intake.intake_check import need_open, see_batch
from nod.services.register.further_fields import further_columns, value_of
from nod.store.tables import ArrivalRow, BlockReaderRow

MOST_CHANGES = 5000
_LONGEST = 200
_MOST_LEARNED = 2000


class Correction(Command):
    """New values of one file; a field left out stays.

    `taken` says whose value it is: a witness; `typed` where left out; empty to leave the field to the witnesses.
    """

    id: str
    version: int
    values: dict[str, str] = Field(default_factory=dict)
    taken: dict[str, str] = Field(default_factory=dict)


class CorrectArrivals(Command):
    changes: list[Correction]


class Corrected(Answered):
    """`undo` are the corrections that would take these back."""

    undo: list[Correction]


def correct_arrivals(context: Context, actor: Actor, batch_id: str, command: CorrectArrivals) -> Corrected:
    """All or none. Each file keeps in the trail whose value was taken; what a reader read wrongly it learns."""
    with acting(context, actor) as act:
        batch, seat = see_batch(act.session, actor, batch_id)
        if len(command.changes) > MOST_CHANGES:
            raise RuleBroken("too_many_changes", f"At most {MOST_CHANGES} files are corrected at once.")
        rows: list[ArrivalRow] = []
        known = {*FIELDS, HISTORY, *further_columns(seat.project)}
        undo = []
        for change in command.changes:
            row = act.session.get(ArrivalRow, change.id)
            if row is None or row.batch_id != batch.id:
                raise NotFound(change.id)
            need_open(row)
            check_version(change.version, row.version, row.file_name)
            undo.append(_correct(act, row, change, known))
            rows.append(row)
        act.session.flush()
        arrival_comparisons.ask(act.session, act.at, seat.project, rows)
        act.tell(batch.project_id, "intake", batch.id, {batch.folder_id})
        return Corrected(undo=undo)


def _correct(act: Act, row: ArrivalRow, change: Correction, known: set[str]) -> Correction:
    wrong = ({*change.values, *change.taken} - known) or (set(change.taken.values()) - {"", *Witness})
    if wrong:
        raise RuleBroken("field_unknown", "There is no such field to correct.", ", ".join(sorted(wrong)))
    values = {field: value.strip()[:_LONGEST] for field, value in change.values.items()}
    before, after = changed({field: value_of(row, field) for field in values}, values)
    was = {field: str(row.chosen.get(field, "")) for field in {*values, *change.taken}}
    _choose(row, change)
    for field, value in after.items():
        if field in FIELDS:
            setattr(row, field, value)
        elif field == HISTORY:
            row.as_history = value == "yes"
        else:
            row.fields = {**row.fields, field: value}
    learned = [field for field, value in after.items() if _learn(act, row, field, value)]
    if "" in change.taken.values():
        arrivals.settle(row)
    row.version += 1
    if after or was != {field: str(row.chosen.get(field, "")) for field in was}:
        taken = {field: row.chosen.get(field, "left to the witnesses") for field in was}
        taken |= {"learned by the reader": ", ".join(learned)} if learned else {}
        fact = Fact(
            FactKind.READING_CORRECTED,
            Subject("arrival", row.id),
            row.file_name,
            before=before,
            after={**after, "taken": taken},
        )
        act.record(row.project_id, fact)
    return Correction(id=row.id, version=row.version, values=before, taken=was)


def _choose(row: ArrivalRow, change: Correction) -> None:
    chosen: dict[str, Any] = dict(row.chosen)
    for field in {*change.values, *change.taken}:
        witness = change.taken.get(field, Witness.TYPED.value)
        if witness:
            chosen[field] = witness
        else:
            chosen.pop(field, None)
    row.chosen = chosen


def _learn(act: Act, row: ArrivalRow, field: str, value: str) -> bool:
    """A reading of the title block that somebody typed over is read so from now on; taken back, it is forgotten.

    Returns whether something was learned.
    """
    printed = row.by_block.get(field, {})
    read = str(printed.get("learned_from") or printed.get("value", ""))
    reader = act.session.get(BlockReaderRow, row.reader_id) if row.reader_id and read else None
    if reader is None:
        return False
    key = learned_key(field, read, str(row.by_block.get("number", {}).get("value", "")))
    others = [each for each in reader.learned if each[:2] != [field, key]]
    typed = row.chosen.get(field) == Witness.TYPED and bool(value) and value != read
    reader.learned = [*others, [field, key, value]][-_MOST_LEARNED:] if typed else others
    return typed
