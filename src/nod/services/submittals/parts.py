"""Setting the items of a submittal, each with its own verdict, and its lots, each with its own days (handbook §9)."""

from __future__ import annotations

from datetime import date
from typing import Literal, TypeVar

from pydantic import Field

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.submittals.arithmetic import LeadIn
from nod.core.submittals.parts import MOST_PARTS, check_names
from nod.core.submittals.rules import check_days
from nod.core.submittals.states import Deed
from nod.core.trail.entries import FactKind
from nod.services.acts.answers import Command
from nod.services.acts.context import Context, acting
from nod.services.acts.seats import Actor
from nod.services.submittals.making import LONGEST_LINE, tidy_text
from nod.services.submittals.part_rows import delivered_as_a_whole, items_of, lots_of
from nod.services.submittals.submittal_rows import enter_for, record, settle
from nod.store.ids import new_id
from nod.store.tables import SubmittalItemRow, SubmittalLotRow

Row = TypeVar("Row")


class ItemGiven(Command):
    """`id` of one that there is; empty for a new one."""

    id: str = ""
    title: str
    paragraph: str = ""


class SetItems(Command):
    version: int
    items: list[ItemGiven] = Field(max_length=MOST_PARTS + 1)


class LotGiven(Command):
    """What is `null` is as the submittal has it. `id` of one that there is; empty for a new one."""

    id: str = ""
    name: str
    required_on: date | None = Field(default=None, strict=False)
    lead: int | None = None
    lead_in: Literal["working days", "weeks"] = "working days"


class SetLots(Command):
    version: int
    lots: list[LotGiven] = Field(max_length=MOST_PARTS + 1)


def set_items(context: Context, actor: Actor, submittal_id: str, command: SetItems) -> None:
    """All of them, in their order. Raises RuleBroken where one that has a verdict is left out."""
    with acting(context, actor) as act:
        entered = enter_for(act, actor, submittal_id, command.version, Deed.EDIT)
        row = entered.row
        titles = check_names([each.title for each in command.items], "item")
        there = {each.id: each for each in items_of(act.session, row.id)}
        before = [each.title for each in there.values()]
        gone = there.keys() - {each.id for each in command.items}
        for id in gone:
            if there[id].verdict:
                raise RuleBroken("part_settled", f"{there[id].title} has been answered, and stays.", there[id].title)
            act.session.delete(there[id])
        for place, (given, title) in enumerate(zip(command.items, titles, strict=True)):
            kept = _there(there, given.id) or SubmittalItemRow(id=new_id(), submittal_id=row.id, verdict="")
            kept.place, kept.title = place, title
            kept.paragraph = tidy_text("paragraph", given.paragraph, LONGEST_LINE)
            act.session.add(kept)
        record(act, row, FactKind.SUBMITTAL_ITEMS_SET, {"items": titles}, before={"items": before})
        settle(act, entered.seat.project, [row])


def set_lots(context: Context, actor: Actor, submittal_id: str, command: SetLots) -> None:
    """All of them, in their order. Raises RuleBroken where one that was delivered is left out."""
    with acting(context, actor) as act:
        entered = enter_for(act, actor, submittal_id, command.version, Deed.EDIT)
        row = entered.row
        names = check_names([each.name for each in command.lots], "lot")
        there = {each.id: each for each in lots_of(act.session, [row.id]).get(row.id, [])}
        before = [each.name for each in there.values()]
        for id in there.keys() - {each.id for each in command.lots}:
            if there[id].delivered_on:
                raise RuleBroken("part_settled", f"{there[id].name} has been delivered, and stays.", there[id].name)
            act.session.delete(there[id])
        for place, (given, name) in enumerate(zip(command.lots, names, strict=True)):
            kept = _there(there, given.id) or SubmittalLotRow(id=new_id(), submittal_id=row.id)
            kept.place, kept.name, kept.required_on = place, name, given.required_on
            kept.lead = None if given.lead is None else check_days(given.lead)
            kept.lead_in = LeadIn(given.lead_in).value
            act.session.add(kept)
        act.session.flush()
        if now := lots_of(act.session, [row.id]).get(row.id, []):
            row.delivered_on = delivered_as_a_whole(now)
        record(act, row, FactKind.SUBMITTAL_LOTS_SET, {"lots": names}, before={"lots": before})
        settle(act, entered.seat.project, [row])


def _there(rows: dict[str, Row], id: str) -> Row | None:
    """Raises NotFound for an id of another submittal's."""
    if id and id not in rows:
        raise NotFound(id)
    return rows.get(id)
