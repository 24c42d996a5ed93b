"""Acts on a review's comment sheet: raised with what is handed in or by itself, responded to, closed, graded."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal

from pydantic import Field
from sqlalchemy import func, or_, select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.core.reviews import comments
from nod.core.reviews.comments import Comment, CommentAct, CommentState, Grave, Party, check_usable, in_the_way
from nod.core.reviews.path import StepAct
from nod.core.reviews.running import Answer, PlaceState, ReviewState
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.answers import Command
from nod.services.acts.context import Act, Context, acting, check_version
from nod.services.acts.seats import Actor, Seat
from nod.services.marks.readers import is_open_ink, reads_with
from nod.services.notices.notices import Notice, tell_person
from nod.services.reviews import review_rows
from nod.services.reviews.kind import REVIEW
from nod.services.reviews.review_rows import LoadedReview
from nod.services.reviews.words_shown import says, words_for, words_for_all
from nod.services.things.things import see_thing, tell_thing
from nod.store.bulk import add_rows
from nod.store.dialects.sqlite import one_of
from nod.store.ids import new_id
from nod.store.tables import (
    DocumentRow,
    MarkRow,
    ProjectRow,
    ReviewCommentRow,
    ReviewRow,
    ReviewStepRow,
    RevisionRow,
    ThreadRow,
)

LONGEST_TEXT, LONGEST_NAME = 4000, 120


class AddComment(Command):
    document_id: str
    text: str = Field(max_length=LONGEST_TEXT)
    grave: Literal["must", "should", "note"] = "should"
    place: str = Field(default="", max_length=LONGEST_NAME)


class ActOnComment(Command):
    """`text` is the response, or the note with which it is closed or opened again; `grave` only for grading.

    `response_from` names the author outside for whom somebody takes the response in.
    """

    version: int
    act: Literal["respond", "close", "reopen", "grade"]
    text: str = Field(default="", max_length=LONGEST_TEXT)
    grave: Literal["must", "should", "note"] = "should"
    response_from: str = Field(default="", max_length=LONGEST_NAME)


def comment_of(row: ReviewCommentRow) -> Comment:
    return Comment(
        row.number, row.document_id, Grave(row.grave), row.by_id, CommentState(row.state), bool(row.response)
    )


@dataclass(frozen=True)
class Parties:
    """What somebody is before the comments of a review; `responds` are documents of theirs besides what they filed."""

    loaded: LoadedReview
    person: str
    runs: bool
    responds: frozenset[str] = frozenset()

    def before(self, document_id: str) -> Party:
        value = self.loaded.value
        under = value.documents.get(document_id)
        decides = any(
            run.step.act is StepAct.DECIDE
            and any(place.person == self.person and place.state in _HAS_A_SAY for place in run.places)
            for run in value.steps
        )
        author = document_id in self.responds or bool(under and self.person in under.authors)
        return Party(self.person, self.runs, author, decides)

    @property
    def has_part(self) -> bool:
        """Whoever is, or was, asked in it, started it, or runs the project."""
        asked = any(place.person == self.person for run in self.loaded.value.steps for place in run.places)
        return self.runs or asked or self.loaded.row.started_by == self.person


_HAS_A_SAY = (PlaceState.ASKED, PlaceState.HANDED_IN)


def rows_of(session: Session, review_id: str) -> list[ReviewCommentRow]:
    query = select(ReviewCommentRow).where(ReviewCommentRow.review_id == review_id)
    return list(session.scalars(query.order_by(ReviewCommentRow.number)))


def musts_of(session: Session, review_id: str) -> dict[str, tuple[int, ...]]:
    """By document, the numbers of what must be done and is open."""
    query = select(ReviewCommentRow).where(
        ReviewCommentRow.review_id == review_id, ReviewCommentRow.grave == Grave.MUST.value,
        ReviewCommentRow.state == CommentState.OPEN.value,
    )  # fmt: skip
    return in_the_way(comment_of(row) for row in session.scalars(query))


def check_hand_in(
    session: Session, loaded: LoadedReview, answers: Sequence[Answer], graves: Mapping[str, str]
) -> None:  # fmt: skip
    """Raises RuleBroken for a verdict that would let a document be used though something on it must be done."""
    waiting = musts_of(session, loaded.row.id)
    query = select(DocumentRow.id, DocumentRow.number).where(one_of(DocumentRow.id, list(loaded.value.documents)))
    names = dict(session.execute(query).all())
    new = {id: Grave(grave) for id, grave in graves.items()}
    check_usable(answers, new, waiting, loaded.value.verdicts, names)


def raise_handed_in(
    act: Act, loaded: LoadedReview, step: ReviewStepRow, answers: Sequence[Answer], graves: Mapping[str, str]
) -> None:
    """What was said of each document, and what was marked and inked on it since the step began, become lines."""
    said = {each.document_id: each.comment.strip() for each in answers}
    asked = [each for each in loaded.documents if each.document_id in said]
    marks = _marks(act, step, [each.revision_id for each in asked])
    new = [
        _New(
            document_id=each.document_id, revision_id=each.revision_id, text=text, mark_id=mark, page=page,
            grave=graves.get(each.document_id, Grave.SHOULD.value) if not mark else Grave.SHOULD.value,
        )
        for each in asked
        for text, mark, page in (
            *([(said[each.document_id], "", None)] if said[each.document_id] else []), *marks.get(each.revision_id, ())
        )
    ]  # fmt: skip
    _raise(act, loaded, new)


def _marks(act: Act, step: ReviewStepRow, revisions: Sequence[str]) -> dict[str, list[tuple[str, str, int]]]:
    """By revision, what the actor has inked there since the step began and is no line yet: words, id, page.

    Nothing of what they keep to their company.
    """
    lines = select(ReviewCommentRow.mark_id).where(ReviewCommentRow.revision_id == MarkRow.revision_id)
    query = (
        select(MarkRow.revision_id, ThreadRow.text, MarkRow.id, MarkRow.page)
        .join(ThreadRow, ThreadRow.id == MarkRow.thread_id)
        .where(
            one_of(MarkRow.revision_id, revisions), MarkRow.removed_at.is_(None), MarkRow.carried_from == "",
            ThreadRow.author_id == act.actor.person_id, ThreadRow.said_at >= step.began_at,
            ThreadRow.shared_at.is_not(None), or_(is_open_ink(), reads_with("review", step.review_id)),
            ThreadRow.text != "", MarkRow.id.not_in(lines),
        )
        .order_by(MarkRow.page, MarkRow.seq)
    )  # fmt: skip
    found: dict[str, list[tuple[str, str, int]]] = {}
    for revision_id, text, mark_id, page in act.session.execute(query):
        found.setdefault(revision_id, []).append((text, mark_id, page))
    return found


@dataclass(frozen=True)
class _New:
    """A line to be raised, by whoever acts and now unless it says otherwise. There may be hundreds in a hand-in."""

    document_id: str
    revision_id: str
    text: str
    grave: str
    mark_id: str = ""
    page: int | None = None
    place: str = ""
    by_id: str = ""
    raised_at: datetime | None = None
    response: str = ""
    response_from: str = ""
    responded_by: str | None = None
    responded_at: datetime | None = None
    from_id: str = ""


def _raise(act: Act, loaded: LoadedReview, new: Sequence[_New]) -> None:
    """Numbered on from the last; one entry for all of them, as there may be hundreds in a hand-in."""
    if not new:
        return
    review = loaded.row
    last = act.session.scalar(select(func.max(ReviewCommentRow.number)).where(ReviewCommentRow.review_id == review.id))
    first, by_whom = (last or 0) + 1, {"by_id": act.actor.person_id, "raised_at": act.at}
    rows = [
        {
            **vars(each), **({} if each.by_id else by_whom), "id": new_id(), "review_id": review.id, "number": number,
            "state": CommentState.OPEN.value, "close_note": "", "version": 1,
        }
        for number, each in enumerate(new, first)
    ]  # fmt: skip
    add_rows(act.session, ReviewCommentRow, tuple(rows[0]), [tuple(row.values()) for row in rows])
    said = [{"number": row["number"], "grave": row["grave"], "comment": row["text"]} for row in rows]
    subjects = [Subject("comment", row["id"]) for row in rows]
    subjects += [
        Subject(*each) for row in new for each in (("document", row.document_id), ("revision", row.revision_id))
    ]
    subjects += says(review)
    final = rows[-1]["number"]
    about = f"{review.number} comment {first}" if first == final else f"{review.number} comments {first} to {final}"
    fact = Fact(
        FactKind.COMMENT_RAISED, Subject("review", review.id), about, tuple(dict.fromkeys(subjects)),
        after={"comments": said},
    )  # fmt: skip
    act.record(review.project_id, fact)


def _record(
    act: Act, review: ReviewRow, row: ReviewCommentRow, kind: FactKind, before: dict[str, Any], after: dict[str, Any],
    why: str = "",
) -> None:  # fmt: skip
    subjects = (
        Subject("comment", row.id), Subject("document", row.document_id), Subject("revision", row.revision_id),
        *says(review),
    )  # fmt: skip
    about = f"{review.number} comment {row.number}"
    act.record(review.project_id, Fact(kind, Subject("review", review.id), about, subjects, before, after, why))


def add_comment(context: Context, actor: Actor, review_id: str, command: AddComment) -> None:
    """By whoever has a part in a running review, beside what they hand in."""
    with acting(context, actor) as act:
        loaded, parties = _open(act, review_id)
        if not parties.has_part:
            raise NotAllowed("not_your_review", "Whoever has a part in the review comments on it.", loaded.row.number)
        if loaded.value.state is not ReviewState.RUNNING:
            raise RuleBroken("review_over", "This review is over.", loaded.row.number)
        text = command.text.strip()
        under = next((each for each in loaded.documents if each.document_id == command.document_id), None)
        if under is None:
            raise NotFound(command.document_id)
        if not text:
            raise RuleBroken("words_missing", "Say what the comment is.", loaded.row.number)
        new = _New(under.document_id, under.revision_id, text, command.grave, place=command.place.strip())
        _raise(act, loaded, [new])
        tell_thing(act, REVIEW, loaded.row)


def _open(act: Act, review_id: str) -> tuple[LoadedReview, Parties]:
    row, seat = see_thing(act.session, act.actor, REVIEW, review_id)
    seat.need(Level.MARK)
    return _with_parties(act.session, act.actor, row, seat)


def _with_parties(session: Session, actor: Actor, row: ReviewRow, seat: Seat) -> tuple[LoadedReview, Parties]:
    loaded = review_rows.load(session, row)
    return loaded, Parties(loaded, actor.person_id, seat.runs)


def act_on_comment(context: Context, actor: Actor, comment_id: str, command: ActOnComment) -> None:
    """Respond, close, open again, or say anew how grave it is. Raises NotFound, NotAllowed, Stale, RuleBroken."""
    with acting(context, actor) as act:
        row = act.session.get(ReviewCommentRow, comment_id)
        if row is None:
            raise NotFound(comment_id)
        try:
            loaded, parties = _open(act, row.review_id)
        except NotFound as hidden:
            raise NotFound(comment_id) from hidden
        seat = act.enter(loaded.row.project_id)
        if not words_for(act.session, seat, loaded.row).of(row.document_id):
            raise NotFound(comment_id)
        change_comment(act, loaded, parties, row, command)
        tell_thing(act, REVIEW, loaded.row)


def change_comment(
    act: Act, loaded: LoadedReview, parties: Parties, row: ReviewCommentRow, command: ActOnComment
) -> None:
    """One line; the caller tells who watches."""
    about = f"{loaded.row.number} comment {row.number}"
    wanted = CommentAct(command.act)
    refused = comments.refusal(comment_of(row), parties.before(row.document_id), wanted)
    if isinstance(refused, NotAllowed):
        raise refused
    check_version(command.version, row.version, about)
    if refused:
        raise refused
    text = command.text.strip()
    if wanted is CommentAct.RESPOND:
        _respond(act, loaded, row, text, command.response_from.strip())
    elif wanted is CommentAct.GRADE:
        _record(act, loaded.row, row, FactKind.COMMENT_GRADED, {"grave": row.grave}, {"grave": command.grave})
        row.grave = command.grave
    else:
        _close(act, loaded, row, text, closing=wanted is CommentAct.CLOSE)
    row.version += 1


def _respond(act: Act, loaded: LoadedReview, row: ReviewCommentRow, text: str, response_from: str) -> None:
    if not text:
        raise RuleBroken("words_missing", "Say what your response is.", f"comment {row.number}")
    after = {"response": text} | ({"response_from": response_from} if response_from else {})
    before = {"response": row.response} if row.response else {}
    _record(act, loaded.row, row, FactKind.COMMENT_RESPONDED, before, after)
    row.response, row.response_from, row.responded_by, row.responded_at = (
        text, response_from, act.actor.person_id, act.at,
    )  # fmt: skip
    who = response_from or act.actor.name
    _tell(act, loaded, row, [row.by_id], f"{who} has responded", text, "you made the comment")


def _close(act: Act, loaded: LoadedReview, row: ReviewCommentRow, note: str, *, closing: bool) -> None:
    was, row.state = row.state, (CommentState.CLOSED if closing else CommentState.OPEN).value
    kind = FactKind.COMMENT_CLOSED if closing else FactKind.COMMENT_OPENED_AGAIN
    after = {"state": row.state} | ({"note": note} if note else {})
    _record(act, loaded.row, row, kind, {"state": was}, after)
    row.close_note = note
    row.closed_by, row.closed_at = (act.actor.person_id, act.at) if closing else (None, None)
    if not closing and words_for_all(act.session, loaded.row).of(row.document_id):
        authors = sorted(loaded.value.documents[row.document_id].authors)
        _tell(act, loaded, row, authors, f"{act.actor.name} has opened it again", note, "the document is yours")


def _tell(
    act: Act, loaded: LoadedReview, row: ReviewCommentRow, people: Iterable[str], did: str, said: str, why: str
) -> None:
    review = loaded.row
    project = act.session.get_one(ProjectRow, review.project_id)
    number = act.session.scalar(select(DocumentRow.number).where(DocumentRow.id == row.document_id))
    name = f"{review.number} comment {row.number}"
    text = [f"{name}, {number}: {did}.", "", f"“{row.text}”", *(["", said] if said else [])]
    link = f"/reviews/{review.id}?tab=comments"
    about = [Subject("review", review.id)]
    for person_id in people:
        key = f"comment:{row.id}:{row.version}:{person_id}"
        notice = Notice(key, f"{project.number}: {did} · {name}", text, link, about, why)
        tell_person(act, project, "answer", person_id, notice)


def carry_musts(act: Act, loaded: LoadedReview) -> None:
    """What must be done, and is open from earlier reviews of these documents, goes along to this one."""
    ids = [each.document_id for each in loaded.documents]
    query = (
        select(ReviewCommentRow)
        .join(ReviewRow, ReviewRow.id == ReviewCommentRow.review_id)
        .where(
            one_of(ReviewCommentRow.document_id, ids), ReviewCommentRow.grave == Grave.MUST.value,
            ReviewCommentRow.state == CommentState.OPEN.value, ReviewCommentRow.review_id != loaded.row.id,
        )
        .order_by(ReviewRow.number, ReviewCommentRow.number)
    )  # fmt: skip
    revisions = {each.document_id: each.revision_id for each in loaded.documents}
    new = []
    for old in act.session.scalars(query).all():
        review = act.session.get_one(ReviewRow, old.review_id)
        old.state = CommentState.CARRIED.value
        old.version += 1
        _record(act, review, old, FactKind.COMMENT_CARRIED, {"state": "open"}, {"to": loaded.row.number})
        new.append(
            _New(
                document_id=old.document_id, revision_id=revisions[old.document_id], text=old.text, grave=old.grave,
                page=old.page, place=_where_from(act.session, review, old), by_id=old.by_id,
                raised_at=old.raised_at, response=old.response, response_from=old.response_from,
                responded_by=old.responded_by, responded_at=old.responded_at, from_id=old.id,
            )
        )  # fmt: skip
    _raise(act, loaded, new)


def _where_from(session: Session, review: ReviewRow, old: ReviewCommentRow) -> str:
    code = session.scalar(select(RevisionRow.code).where(RevisionRow.id == old.revision_id))
    return f"from {review.number} comment {old.number}, on {code}"


def parties_of(session: Session, actor: Actor, row: ReviewRow, seat: Seat) -> tuple[LoadedReview, Parties]:
    """A review with what somebody is before its comments."""
    return _with_parties(session, actor, row, seat)
