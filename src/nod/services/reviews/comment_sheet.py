"""The comment sheet of a review as it is shown: its lines, what may be done with each, and what is open."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.reviews.comments import CommentAct, Tally, refusal, tally
from nod.core.reviews.running import ReviewState
from nod.services.acts.answers import Answered, Who, people_by_id
from nod.services.acts.context import Context
from nod.services.acts.seats import Actor
from nod.services.reviews.comments import Parties, comment_of, parties_of, rows_of
from nod.services.reviews.kind import REVIEW
from nod.services.reviews.outside_links import released_to
from nod.services.reviews.responders import open_of_contacts
from nod.services.reviews.words_shown import words_for
from nod.services.things.things import see_thing
from nod.store.dialects.sqlite import one_of
from nod.store.tables import DocumentRow, ReviewCommentRow, ReviewRow, RevisionRow


class CommentShown(Answered):
    """`may` are the acts open to the viewer. `mark_id` where the comment is a mark on the sheet."""

    id: str
    number: int
    version: int
    document_id: str
    revision_id: str
    document: str
    revision: str
    place: str
    page: int | None
    mark_id: str
    by: Who
    raised_at: datetime
    text: str
    grave: str
    response: str
    response_from: str
    responded_by: Who | None
    responded_at: datetime | None
    state: str
    close_note: str
    closed_by: Who | None
    closed_at: datetime | None
    released_at: datetime | None
    may: list[str]


class TallyShown(Answered):
    """Of a document, a company, or all: raised − closed = open; `musts` are those of the open that must be done."""

    of: str
    raised: int
    closed: int
    open: int
    musts: int


class Commentable(Answered):
    document_id: str
    number: str


class ContactToAsk(Answered):
    """An outside contact with `open` comments on documents of theirs, `unsent` of which were not released to them yet.

    `asked` where they have a link to the others.
    """

    who: Who
    open: int
    unsent: int
    asked: bool


class CommentSheet(Answered):
    """`may_add_on` are the documents on which the viewer may add a comment now; `may_ask` whom they may ask outside.

    Not `whole` where comments on what still goes round are kept among the review's people.
    """

    review_id: str
    number: str
    name: str
    comments: list[CommentShown]
    all: TallyShown
    by_document: list[TallyShown]
    by_company: list[TallyShown]
    may_add_on: list[Commentable]
    may_ask: list[ContactToAsk]
    whole: bool


@dataclass(frozen=True)
class _Names:
    people: dict[str, Who]
    numbers: dict[str, str]
    codes: dict[str, str]


def read_comments(context: Context, actor: Actor, review_id: str) -> CommentSheet:
    with context.database.read() as session:
        row, seat = see_thing(session, actor, REVIEW, review_id)
        loaded, parties = parties_of(session, actor, row, seat)
        words = words_for(session, seat, row)
        rows = [each for each in rows_of(session, review_id) if words.of(each.document_id)]
        acts = seat.level >= Level.MARK and actor.looker is None
        names = _names(session, rows)
        shown = [_shown(each, names, parties if acts else None) for each in rows]
        running = loaded.value.state is ReviewState.RUNNING
        adds = [each.document_id for each in loaded.documents] if acts and running and parties.has_part else []
        numbers = _numbers(session, adds)
        return CommentSheet(
            review_id=row.id, number=row.number, name=row.name, comments=shown,
            all=_tally("all", rows), by_document=_by(rows, lambda each: names.numbers[each.document_id]),
            whole=words.everything,
            by_company=_by(rows, lambda each: names.people[each.by_id].company),
            may_add_on=[Commentable(document_id=each, number=numbers[each]) for each in adds],
            may_ask=_may_ask(session, row) if acts and (seat.runs or row.started_by == actor.person_id) else [],
        )  # fmt: skip


def _may_ask(session: Session, row: ReviewRow) -> list[ContactToAsk]:
    counts = open_of_contacts(session, row)
    people = people_by_id(session, set(counts))
    return [
        ContactToAsk(who=people[id], open=count, unsent=unsent, asked=bool(released_to(session, row, id)))
        for id, (count, unsent) in counts.items()
    ]


def _names(session: Session, rows: list[ReviewCommentRow]) -> _Names:
    people = {id for row in rows for id in (row.by_id, row.responded_by, row.closed_by) if id}
    codes = select(RevisionRow.id, RevisionRow.code).where(one_of(RevisionRow.id, [row.revision_id for row in rows]))
    return _Names(
        people_by_id(session, people), _numbers(session, [row.document_id for row in rows]),
        dict(session.execute(codes).all()),
    )  # fmt: skip


def _numbers(session: Session, ids: Iterable[str]) -> dict[str, str]:
    query = select(DocumentRow.id, DocumentRow.number).where(one_of(DocumentRow.id, list(ids)))
    return dict(session.execute(query).all())


def _shown(row: ReviewCommentRow, names: _Names, parties: Parties | None) -> CommentShown:
    may = []
    if parties is not None:
        who = parties.before(row.document_id)
        may = [act.value for act in CommentAct if refusal(comment_of(row), who, act) is None]
    return CommentShown(
        id=row.id, number=row.number, version=row.version, document_id=row.document_id, revision_id=row.revision_id,
        document=names.numbers[row.document_id], revision=names.codes[row.revision_id],
        place=row.place or (f"mark, page {row.page + 1}" if row.page is not None else ""), page=row.page,
        mark_id=row.mark_id, by=names.people[row.by_id], raised_at=row.raised_at, text=row.text, grave=row.grave,
        response=row.response, response_from=row.response_from,
        responded_by=names.people.get(row.responded_by or ""), responded_at=row.responded_at, state=row.state,
        close_note=row.close_note, closed_by=names.people.get(row.closed_by or ""), closed_at=row.closed_at,
        released_at=row.released_at, may=may,
    )  # fmt: skip


def _tally(of: str, rows: Iterable[ReviewCommentRow]) -> TallyShown:
    found: Tally = tally(comment_of(row) for row in rows)
    return TallyShown(of=of, raised=found.raised, closed=found.closed, open=found.open, musts=found.musts)


def _by(rows: list[ReviewCommentRow], key: Callable[[ReviewCommentRow], str]) -> list[TallyShown]:
    groups: dict[str, list[ReviewCommentRow]] = {}
    for row in rows:
        groups.setdefault(key(row), []).append(row)
    return [_tally(of, groups[of]) for of in sorted(groups)]
