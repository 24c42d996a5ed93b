"""What a project sets for its submittals: how they are numbered, the usual times, the kinds (handbook §9)."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import RuleBroken
from nod.core.submittals.numbers import NumberedBy
from nod.core.submittals.rules import SubmittalKind, SubmittalRules, check_rules
from nod.services.acts.answers import Command
from nod.services.acts.context import Context, acting
from nod.services.acts.seats import Actor
from nod.services.setup.setup import Saved, open_setup, saved
from nod.services.setup.setup_view import SubmittalSet
from nod.services.submittals.outlooks import submittal_rules, work_out
from nod.store.tables import SubmittalRow


class SetSubmittals(Command):
    version: int
    submittals: SubmittalSet


def set_submittals(context: Context, actor: Actor, project_id: str, command: SetSubmittals) -> Saved:
    """Every float follows. Raises RuleBroken for days that cannot be, and for a kind in use that is missing."""
    given = command.submittals
    kinds = tuple(
        SubmittalKind(each.code, " ".join(each.words.split()), each.for_information, _tidy(each.asked_as))
        for each in given.kinds
    )
    rules = SubmittalRules(
        NumberedBy(given.numbered_by), given.buffer, given.review, given.preparation, kinds, _tidy(given.articles),
        _tidy(given.aside),
    )  # fmt: skip
    with acting(context, actor) as act:
        _, project = open_setup(act, project_id, command.version)
        check_rules(rules)
        _check_used(act.session, project_id, rules)
        before, after = _kept(submittal_rules(project)), _kept(rules)
        project.rules = {**project.rules, "submittals": after}
        work_out(act.session, project, context)
        return saved(act, project, "submittals", before, after)


def _tidy(phrases: list[str]) -> tuple[str, ...]:
    said = (" ".join(each.casefold().split()) for each in phrases)
    return tuple(dict.fromkeys(filter(None, said)))


def _kept(rules: SubmittalRules) -> dict[str, Any]:
    return {
        "numbered_by": rules.numbered_by.value, "buffer": rules.buffer, "review": rules.review,
        "preparation": rules.preparation, "articles": list(rules.articles), "aside": list(rules.aside),
        "kinds": [{**asdict(each), "asked_as": list(each.asked_as)} for each in rules.kinds],
    }  # fmt: skip


def _check_used(session: Session, project_id: str, rules: SubmittalRules) -> None:
    used = session.scalars(select(SubmittalRow.kind).where(SubmittalRow.project_id == project_id).distinct())
    missing = sorted(set(used) - {each.code for each in rules.kinds})
    if missing:
        words = f"There are submittals of the kind {missing[0]}. It can be renamed, and stays."
        raise RuleBroken("submittal_kind_used", words, missing[0])
