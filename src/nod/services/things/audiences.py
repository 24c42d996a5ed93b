"""Who sees a thing, as a condition of a query (decision 0007): `core.access.audiences.is_seen` for whole tables.

The queries name their own aliases: one that shared a table with the query around it would silently look at the row
at hand instead of at all rows.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from sqlalchemy import ColumnElement, False_, Select, String, True_, and_, bindparam, exists, false, or_, select, true
from sqlalchemy.orm import Session

from nod.core.access.audiences import Audience, Eyes

Of = Callable[[Any], Select[Any]]
"""For a column with ids of things, or for one id: a query of one column of text."""

Named = Callable[[Eyes], Select[Any]]
"""For somebody's eyes: a query of the ids of the things that name them or their company."""

Flag = Callable[[Any], ColumnElement[bool]] | bool
"""The same for everything of a kind, or a condition for a column with ids of things, or for one id."""


@dataclass(frozen=True)
class AudienceOf:
    """Where the audience of a kind's things is kept, see `Audience`.

    `named_in` is the same as `people` and `companies` asked from the other side, for kinds with so many things that
    those who name somebody are better found once than asked of each. Whoever runs the project is asked about the few
    that are kept from them, one by one.
    """

    folders: tuple[Of, ...] = ()
    people: tuple[Of, ...] = ()
    companies: tuple[Of, ...] = ()
    is_open: Flag = True
    leads: Flag = True
    stewards: Flag = True
    named_in: Named | None = None


def seen(of: AudienceOf, thing_id: Any, eyes: Eyes) -> ColumnElement[bool]:
    """A condition for those things of a column with ids that are there for these eyes."""
    leads, stewards = _flag(of.leads, thing_id), _flag(of.stewards, thing_id)
    is_open = _flag(of.is_open, thing_id)
    by_folders = _by_folders(of, thing_id, eyes)
    named = _named(of, thing_id, eyes)
    running = _any(leads if eyes.leads else false(), stewards if eyes.steward else false())
    more = _any(running, _all(named, _any(is_open, by_folders)))
    if eyes.borrowed:
        more = _all(leads, stewards, more)
    return _any(_all(is_open, by_folders), more)


def _any(*parts: ColumnElement[bool]) -> ColumnElement[bool]:
    """`or_` without what says nothing: for those who see all, the query asks nothing."""
    if any(isinstance(each, True_) for each in parts):
        return true()
    telling = [each for each in parts if not isinstance(each, False_)]
    return or_(*telling) if telling else false()


def _all(*parts: ColumnElement[bool]) -> ColumnElement[bool]:
    if any(isinstance(each, False_) for each in parts):
        return false()
    telling = [each for each in parts if not isinstance(each, True_)]
    return and_(*telling) if telling else true()


def _flag(flag: Flag, thing_id: Any) -> ColumnElement[bool]:
    if isinstance(flag, bool):
        return true() if flag else false()
    return flag(thing_id)


def _by_folders(of: AudienceOf, thing_id: Any, eyes: Eyes) -> ColumnElement[bool]:
    if eyes.folders is None:
        return true()
    return _all(*(~_any_in(folders(thing_id), None, eyes.folders) for folders in of.folders))


def _named(of: AudienceOf, thing_id: Any, eyes: Eyes) -> ColumnElement[bool]:
    if of.named_in is not None and not isinstance(thing_id, str) and not (eyes.leads or eyes.steward):
        found: ColumnElement[bool] = thing_id.in_(of.named_in(eyes))
        return found
    people = (_any_in(query(thing_id), eyes.person_id, None) for query in of.people)
    companies = (_any_in(query(thing_id), eyes.company_id, None) for query in of.companies)
    return _any(*people, *companies)


def _any_in(query: Select[Any], wanted: str | None, without: frozenset[str] | None) -> ColumnElement[bool]:
    """Whether the query has the value `wanted`, or one that is not among `without`."""
    (column,) = query.exported_columns
    condition = column.not_in(sorted(without)) if without is not None else column == wanted
    return exists(query.where(condition))


@lru_cache(maxsize=256)
def _asked(of: AudienceOf) -> tuple[list[list[Select[Any]]], list[Select[Any] | bool]]:
    """The queries for one thing, made once for a kind: putting them together takes longer than asking them."""
    asked: Any = bindparam("thing_id", type_=String)
    # A review of hundreds names the same folder hundreds of times.
    values = [[query(asked).distinct() for query in queries] for queries in (of.folders, of.people, of.companies)]
    flags = [each if isinstance(each, bool) else select(each(asked)) for each in (of.is_open, of.leads, of.stewards)]
    return values, flags


def audience_of(session: Session, of: AudienceOf, thing_id: str) -> Audience:
    """Of one thing, as a value: for what is told of it."""
    here = {"thing_id": thing_id}

    def values(queries: list[Select[Any]]) -> frozenset[str]:
        return frozenset(each for query in queries for each in session.scalars(query, here))

    def holds(flag: Select[Any] | bool) -> bool:
        return flag if isinstance(flag, bool) else bool(session.scalar(flag, here))

    (folders, people, companies), (is_open, leads, stewards) = _asked(of)
    return Audience(values(folders), values(people), values(companies), holds(is_open), holds(leads), holds(stewards))
