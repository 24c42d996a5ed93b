"""The kinds of letters in Set-up: how each is numbered, what it wants, by when it is served (handbook §11)."""

from __future__ import annotations

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import RuleBroken
from nod.core.acts.working_days import Counting
from nod.core.letters.bars import BarIn
from nod.core.letters.kinds import MOST_KINDS, LetterKind, NumberedBy, check_kinds, kept_kinds
from nod.services.acts.answers import Command
from nod.services.acts.context import Context, acting
from nod.services.acts.seats import Actor
from nod.services.letters.letter_rows import letter_kinds
from nod.services.setup.setup import Saved, open_setup, saved
from nod.services.setup.setup_view import LetterKindSet
from nod.store.tables import LetterRow


class SetLetterKinds(Command):
    version: int
    kinds: list[LetterKindSet] = Field(max_length=MOST_KINDS)


def set_letter_kinds(context: Context, actor: Actor, project_id: str, command: SetLetterKinds) -> Saved:
    """What was sent keeps its days. Raises RuleBroken for a kind in use that is missing: that is put out of use."""
    kinds = [
        LetterKind(
            each.code.strip(), " ".join(each.words.split()), NumberedBy(each.numbered_by), each.answer_days,
            Counting(each.counting), each.asks, each.out_of_use, each.bar, BarIn(each.bar_in), each.looked_at,
        )
        for each in command.kinds
    ]  # fmt: skip
    with acting(context, actor) as act:
        _, project = open_setup(act, project_id, command.version)
        before = {"kinds": kept_kinds(letter_kinds(project))}
        after = {"kinds": kept_kinds(check_kinds(kinds))}
        _check_used(act.session, project_id, kinds)
        project.rules = {**project.rules, "letters": {**project.rules.get("letters", {}), **after}}
        return saved(act, project, "kinds of letters", before, after)


def _check_used(session: Session, project_id: str, kinds: list[LetterKind]) -> None:
    used = session.scalars(select(LetterRow.kind).where(LetterRow.project_id == project_id).distinct())
    missing = sorted(set(used) - {each.code for each in kinds})
    if missing:
        words = f"There are letters of the kind {missing[0]}. It can be renamed or put out of use, and stays."
        raise RuleBroken("letter_kind_used", words, missing[0])
