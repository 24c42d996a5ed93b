"""Linking marks to things of any kind and to web addresses (handbook §6)."""

from __future__ import annotations

from sqlalchemy import select

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.acts.web_addresses import check_web_address
from nod.core.trail.entries import FactKind, Subject
from nod.services.acts.answers import Command
from nod.services.acts.context import Act, Context, acting
from nod.services.acts.seats import Actor, take_seat
from nod.services.marks.linked_things import WEB, targets_of, web_target
from nod.services.marks.live_marks import tell
from nod.services.marks.mark_rows import places_of
from nod.services.marks.marks import record, visible_mark
from nod.services.marks.marks_view import Mark, show_marks
from nod.services.things.things import Thing
from nod.store.ids import new_id
from nod.store.tables import DocumentRow, MarkRow, ThreadLinkRow

MOST_LINKS = 50


class LinkMark(Command):
    """`kind` is that of a thing, or `web`; `target` is the id of a thing of the project, or a web address."""

    kind: str
    target: str


def link_mark(context: Context, actor: Actor, mark_id: str, command: LinkMark) -> Mark:
    """Anybody who may mark links ink; pencil only its author. A link that is there already is left as it is."""
    with acting(context, actor) as act:
        row, document = visible_mark(act, mark_id)
        target = find_target(act, document, command.kind, command.target)
        if target.target == row.thread_id:
            raise RuleBroken("links_to_itself", "A mark does not lead to itself.", document.number)
        of_mark = select(ThreadLinkRow).where(
            ThreadLinkRow.thread_id == row.thread_id, ThreadLinkRow.removed_at.is_(None)
        )
        links = list(act.session.scalars(of_mark))
        if len(links) >= MOST_LINKS:
            raise RuleBroken("too_many_links", f"A mark has at most {MOST_LINKS} links.", document.number)
        if (target.kind, target.target) not in {(link.kind, link.target) for link in links}:
            add_link(act, document, row, target)
            return tell(act, document, places_of(act.session, row), [row])[0]
        return show_marks(act.session, actor, [row])[0]


def add_link(act: Act, document: DocumentRow, row: MarkRow, target: Thing, author: str = "") -> None:
    """`author` as a file names them that the link was taken in from."""
    link = ThreadLinkRow(
        id=new_id(), thread_id=row.thread_id, project_id=document.project_id, kind=target.kind,
        target=target.target, made_by=act.actor.person_id, made_at=act.at,
    )  # fmt: skip
    act.session.add(link)
    act.session.flush()
    after = {"to": target.words} | ({"author": author} if author else {})
    record(act, document, row, FactKind.MARK_LINKED, after=after, others=_subject(link))


def find_target(act: Act, document: DocumentRow, kind: str, target: str) -> Thing:
    """What a mark on the document may lead to. Raises RuleBroken, and NotFound for what is not there for them."""
    if kind == WEB:
        return web_target(check_web_address(target))
    if target == document.id:
        raise RuleBroken("links_to_itself", "The mark is on this document already.", document.number)
    seat = take_seat(act.session, act.actor, document.project_id)
    found = targets_of(act.session, seat, [(kind, target)])
    if (kind, target) not in found:
        raise NotFound(target)
    return found[kind, target]


def unlink_mark(context: Context, actor: Actor, mark_id: str, link_id: str) -> Mark:
    """Takes away a link of one's own. Raises NotFound for another's."""
    with acting(context, actor) as act:
        row, document = visible_mark(act, mark_id)
        link = act.session.scalars(select(ThreadLinkRow).where(ThreadLinkRow.id == link_id)).one_or_none()
        mine = link is not None and link.thread_id == row.thread_id and link.made_by == actor.person_id
        if link is None or not mine or link.removed_at:
            raise NotFound(link_id)
        link.removed_at = act.at
        act.session.flush()
        seat = take_seat(act.session, actor, document.project_id)
        known = targets_of(act.session, seat, [(link.kind, link.target)])
        words = known[link.kind, link.target].words if (link.kind, link.target) in known else link.target
        record(act, document, row, FactKind.MARK_UNLINKED, before={"to": words}, others=_subject(link))
        return tell(act, document, places_of(act.session, row), [row])[0]


def _subject(link: ThreadLinkRow) -> tuple[Subject, ...]:
    return () if link.kind == WEB else (Subject(link.kind, link.target),)
