"""Why somebody draws no marks on a sheet just now, though they may mark its documents: features say so."""

from __future__ import annotations

from collections.abc import Callable

from sqlalchemy.orm import Session

from nod.core.acts.refusals import RuleBroken
from nod.services.acts.context import Act

Hindrance = Callable[[Session, str, str], str]
"""For a person and a revision: why not, in words; empty for nothing."""

_HINDRANCES: list[Hindrance] = []


def hindrance(found: Hindrance) -> Hindrance:
    """Registers one."""
    _HINDRANCES.append(found)
    return found


def check_may_draw(act: Act, revision_id: str, about: str) -> None:
    """Raises RuleBroken(`words_only`) with the first that there is."""
    for each in _HINDRANCES:
        if words := each(act.session, act.actor.person_id, revision_id):
            raise RuleBroken("words_only", words, about)
