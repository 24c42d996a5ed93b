"""Links of marks as they are seen: to what a mark can lead, to what it does, and from there back to the sheet."""

from __future__ import annotations

from collections.abc import Iterable

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import NotFound
from nod.core.acts.web_addresses import is_web_address
from nod.core.marks.mark_files import FiledLink
from nod.services.access.visibility import see_revision
from nod.services.acts.answers import Answered, Who, named, people_by_id
from nod.services.acts.context import Context
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.services.marks.mark_rows import is_read_by, marks_with_threads
from nod.services.things.kinds import thing_kinds
from nod.services.things.things import Thing, all_things_of, find_things, things_of
from nod.services.threads.said import Author, author_ids, author_of
from nod.store.tables import DocumentRow, MarkRow, RevisionRow, ThreadLinkRow, ThreadRow

_LONGEST = 120
_MOST = 200
_MOST_OFFERED = 8


WEB = "web"


class LinkTargets(Answered):
    targets: list[Thing]


class MarkLink(Thing):
    """A link of a mark; `mine` allows taking it away."""

    id: str
    mine: bool


class LinkedMark(Answered):
    """A mark that is linked to a thing, and the sheet it stands on."""

    mark_id: str
    revision_id: str
    number: str
    title: str
    revision: str
    kind: str
    words: str
    author: Author
    in_pencil: bool


class LinkedMarks(Answered):
    marks: list[LinkedMark]


def web_target(address: str) -> Thing:
    return Thing(kind=WEB, target=address, number="", words=address, kind_words="web address", address=address)


def find_targets(context: Context, actor: Actor, revision_id: str, words: str) -> LinkTargets:
    """What the words may mean, documents first; a web address means itself."""
    asked = words.strip()
    if is_web_address(asked):
        return LinkTargets(targets=[web_target(asked)])
    with context.database.read() as session:
        _, document, seat = see_revision(session, actor, revision_id)
        found = [thing for kind in thing_kinds() for thing in find_things(session, seat, kind, asked, _MOST_OFFERED)]
        return LinkTargets(targets=[each for each in found if each.target != document.id])


def targets_of(session: Session, seat: Seat, asked: Iterable[tuple[str, str]]) -> dict[tuple[str, str], Thing]:
    """Those of `asked` (kind and id, or web address) that are there for a seat, in a fixed number of queries."""
    wanted = set(asked)
    web = {(kind, target): web_target(target) for kind, target in wanted if kind == WEB}
    return web | things_of(session, seat, wanted)


def links_of(session: Session, actor: Actor, threads: Iterable[str]) -> dict[str, list[MarkLink]]:
    """By thread, in the order they were made; without those that lead to what is not there for this person."""
    found: dict[str, list[MarkLink]] = {}
    for link, target in _leading(session, actor, threads):
        mine = link.made_by == actor.person_id and actor.looker is None
        found.setdefault(link.thread_id, []).append(MarkLink(id=link.id, mine=mine, **target.model_dump()))
    return found


def filed_links(session: Session, actor: Actor, threads: Iterable[str]) -> dict[str, list[FiledLink]]:
    """As `links_of`, as files hold them."""
    leading = _leading(session, actor, threads)
    people = people_by_id(session, {link.made_by for link, _ in leading})
    found: dict[str, list[FiledLink]] = {}
    for link, target in leading:
        author = named(people[link.made_by])
        filed = FiledLink(link.id, target.kind, target.target, target.words, author, link.made_at)
        found.setdefault(link.thread_id, []).append(filed)
    return found


def all_links_of(session: Session, threads: Iterable[str]) -> list[tuple[ThreadLinkRow, Thing]]:
    """In the order they were made, for whomever: who is shown one must see what it leads to."""
    links = _link_rows(session, threads)
    web = {(each.kind, each.target): web_target(each.target) for each in links if each.kind == WEB}
    targets = web | all_things_of(session, [(each.kind, each.target) for each in links])
    return [(each, targets[each.kind, each.target]) for each in links if (each.kind, each.target) in targets]


def _link_rows(session: Session, threads: Iterable[str]) -> list[ThreadLinkRow]:
    query = select(ThreadLinkRow).where(ThreadLinkRow.thread_id.in_(set(threads)), ThreadLinkRow.removed_at.is_(None))
    return list(session.scalars(query.order_by(ThreadLinkRow.made_at, ThreadLinkRow.seq)))


def _leading(session: Session, actor: Actor, threads: Iterable[str]) -> list[tuple[ThreadLinkRow, Thing]]:
    links = _link_rows(session, threads)
    if not links:
        return []
    seat = take_seat(session, actor, links[0].project_id)
    targets = targets_of(session, seat, [(link.kind, link.target) for link in links])
    asked = ((link, targets.get((link.kind, link.target))) for link in links)
    return [(link, target) for link, target in asked if target]


def list_linked_marks(context: Context, actor: Actor, project_id: str, kind: str, target: str) -> LinkedMarks:
    """The marks that lead to a thing, on sheets that this person sees, each where it stands newest.

    Raises NotFound where the thing itself is not there for them.
    """
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        if (kind, target) not in targets_of(session, seat, [(kind, target)]):
            raise NotFound(target)
        query = (
            marks_with_threads()
            .add_columns(DocumentRow, RevisionRow.code)
            .join(ThreadLinkRow, ThreadLinkRow.thread_id == ThreadRow.id)
            .join(DocumentRow, DocumentRow.id == MarkRow.document_id)
            .join(RevisionRow, RevisionRow.id == MarkRow.revision_id)
            .where(
                ThreadLinkRow.kind == kind, ThreadLinkRow.target == target, ThreadLinkRow.removed_at.is_(None),
                ThreadLinkRow.project_id == project_id, MarkRow.removed_at.is_(None), seat.sees(DocumentRow.folder_id),
                is_read_by(seat),
            )
            .order_by(RevisionRow.filed_at.desc(), ThreadRow.said_at.desc())
            .limit(_MOST)
        )  # fmt: skip
        newest: dict[str, tuple[MarkRow, DocumentRow, str]] = {}
        for row, document, code in session.execute(query):
            newest.setdefault(row.thread_id, (row, document, code))
        people = people_by_id(session, author_ids(row.thread for row, _, _ in newest.values()))
        return LinkedMarks(marks=[_shown(row, document, code, people) for row, document, code in newest.values()])


def _shown(row: MarkRow, document: DocumentRow, code: str, people: dict[str, Who]) -> LinkedMark:
    return LinkedMark(
        mark_id=row.id, revision_id=row.revision_id, number=document.number, title=document.title, revision=code,
        kind=row.kind, words=row.thread.text[:_LONGEST], author=author_of(row.thread, people),
        in_pencil=row.thread.shared_at is None,
    )  # fmt: skip
