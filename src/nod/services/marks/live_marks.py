"""Acts on marks tell of them live, and the event brings the marks along: nobody has to fetch the sheet's anew."""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from sqlalchemy.orm import Session

from nod.core.access.audiences import Audience, Eyes, is_seen
from nod.core.trail.entries import Subject
from nod.services.acts.context import Act
from nod.services.acts.live import Load, loader
from nod.services.marks.linked_things import all_links_of
from nod.services.marks.mark_rows import audience_of_mark
from nod.services.marks.marks_view import Mark, as_seen_by, show_to_nobody
from nod.services.things.kinds import kind_of
from nod.services.things.things import Thing, audience_of_thing
from nod.store.journal import audience_from, audience_kept
from nod.store.tables import DocumentRow, MarkRow, ThreadLinkRow

MOST_MARKS = 50
MOST_CHARACTERS = 20_000
"""Of what one event brings along; more is left to be fetched."""


@dataclass(frozen=True)
class LinkTold:
    """A link as it is shown, who made it, who sees what it leads to, and the tool that this needs, if any."""

    shown: dict[str, Any]
    made_by: str
    audience: Audience
    tool: str

    def is_there(self, eyes: Eyes) -> bool:
        return is_seen(self.audience, eyes) and (not self.tool or self.tool in eyes.tools)


@dataclass(frozen=True)
class MarkTold:
    """A mark as nobody's own and without links, with all that differs from person to person."""

    shown: dict[str, Any]
    author_id: str
    links: tuple[LinkTold, ...]

    def seen_by(self, eyes: Eyes) -> dict[str, Any]:
        me = "" if eyes.borrowed else eyes.person_id
        mine = bool(me) and self.author_id == me
        runs = (eyes.leads or eyes.steward) and not eyes.borrowed
        may_open = bool(self.shown["readers"]) and (mine or runs)
        links = [{**each.shown, "mine": bool(me) and each.made_by == me} for each in self.links if each.is_there(eyes)]
        may_change = mine and not self.shown["replies"]
        return {**self.shown, "mine": mine, "may_change": may_change, "may_open": may_open, "links": links}


@dataclass(frozen=True)
class MarksTold:
    """The marks that an event is about, and ids of those that are not on the sheet any more."""

    marks: tuple[MarkTold, ...]
    gone: tuple[str, ...]
    _kept: dict[tuple[Any, ...], str] = field(default_factory=dict, compare=False)

    def seen_by(self, eyes: Eyes) -> str:
        """Nearly everybody sees the same: what was put together for one is kept for the others."""
        key = self._difference(eyes)
        if key not in self._kept:
            marks = [each.seen_by(eyes) for each in self.marks]
            self._kept[key] = json.dumps({"marks": marks, "gone": self.gone})[1:-1]
        return self._kept[key]

    def _difference(self, eyes: Eyes) -> tuple[Any, ...]:
        """All by which what two people see of these can differ."""
        links = [one for each in self.marks for one in each.links]
        named = {each.author_id for each in self.marks}.union(one.made_by for one in links)
        me = eyes.person_id if eyes.person_id in named and not eyes.borrowed else ""
        runs = (eyes.leads or eyes.steward) and not eyes.borrowed and any(each.shown["readers"] for each in self.marks)
        return me, runs, tuple(one.is_there(eyes) for one in links)


@loader("marks")
def marks_told(kept: Mapping[str, Any]) -> Load:
    """As `_kept` keeps them."""
    return MarksTold(
        tuple(
            MarkTold(
                each["shown"],
                each["author"],
                tuple(
                    LinkTold(one["shown"], one["made_by"], audience_from(one["audience"]), one["tool"])
                    for one in each["links"]
                ),
            )
            for each in kept["marks"]
        ),
        tuple(kept["gone"]),
    )


def tell(act: Act, document: DocumentRow, rows: Iterable[MarkRow], asked: Sequence[MarkRow] = ()) -> list[Mark]:
    """Tells of what has become of marks: once to all for ink, once to each author for pencil, once to each readers.

    Answers with those of them that are `asked` for, as the one who acts sees them.
    """
    act.session.flush()
    told: dict[tuple[str, Audience], list[MarkRow]] = {}
    for row in rows:
        told.setdefault((row.revision_id, audience_of_mark(act.session, document, row.thread)), []).append(row)
    wanted = {row.id for row in asked}
    shown: dict[str, Mark] = {}
    for (revision_id, audience), here in told.items():
        few = len(here) <= MOST_MARKS
        there = [row for row in here if row.removed_at is None and (few or row.id in wanted)]
        shown |= {row.id: mark for row, mark in zip(there, show_to_nobody(act.session, there), strict=True)}
        load = _kept(act.session, here, shown)
        act.tell_audience(document.project_id, "marks", revision_id, audience, load)
    return as_seen_by(act.session, act.actor, asked, [shown[row.id] for row in asked])


def _kept(session: Session, rows: list[MarkRow], shown: Mapping[str, Mark]) -> dict[str, Any] | None:
    """What an event brings along; None where that is too much."""
    if len(rows) > MOST_MARKS:
        return None
    links: dict[str, list[dict[str, Any]]] = {}
    for link, target in all_links_of(session, {row.thread_id for row in rows}):
        links.setdefault(link.thread_id, []).append(_link(session, link, target))
    marks = [
        {
            "shown": shown[row.id].model_dump(mode="json"),
            "author": row.thread.author_id or "",
            "links": links.get(row.thread_id, []),
        }
        for row in rows
        if row.id in shown
    ]
    kept = {"marks": marks, "gone": [row.id for row in rows if row.id not in shown]}
    return kept if len(json.dumps(kept)) <= MOST_CHARACTERS else None


def _link(session: Session, link: ThreadLinkRow, target: Thing) -> dict[str, Any]:
    kind = kind_of(link.kind)
    # Who sees a mark sees its links to the web.
    audience = audience_of_thing(session, Subject(link.kind, link.target)) or Audience()
    return {
        "shown": {"id": link.id, **target.model_dump(mode="json")},
        "made_by": link.made_by,
        "audience": audience_kept(audience),
        "tool": kind.tool if kind else "",
    }
