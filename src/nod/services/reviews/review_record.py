"""The record of a review, as it stands when it is taken: made from what the viewer sees, and in the trail."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from zoneinfo import ZoneInfo

from sqlalchemy import ColumnElement, and_, or_, select
from sqlalchemy.orm import Session

from nod.core.reviews.record import Hand, Record, RecordDocument, RecordMark, RecordStep, Said
from nod.core.trail.entries import FactKind
from nod.services.acts.answers import named
from nod.services.acts.context import Context, acting
from nod.services.acts.seats import Actor, Seat
from nod.services.marks.mark_files import clips_of
from nod.services.marks.mark_rows import is_read_by
from nod.services.marks.readers import is_open_ink, reads_with
from nod.services.press.press import Press
from nod.services.reviews import review_rows, reviews_view
from nod.services.reviews.kind import REVIEW
from nod.services.reviews.reviews import record
from nod.services.reviews.reviews_view import PlaceShown, Review, ReviewedDocument, SlipRow
from nod.services.things.things import see_thing
from nod.store.dialects.sqlite import one_of
from nod.store.tables import MarkRow, PersonRow, ProjectRow, ThreadRow


@dataclass(frozen=True)
class RecordMade:
    content: bytes
    name: str


_QUOTAS = {"any": "any one of", "all": "all of", "some": "at least"}
_STATES = {
    "asked": "not answered", "handed_in": "handed in", "not_needed": "not needed",
    "crossed": "crossed out, the stage began again",
}  # fmt: skip


MOST_CLIPS = 100
"""How many marks of a review have a picture; what was said of the rest is in words alone."""


def take_record(context: Context, press: Press, actor: Actor, review_id: str) -> RecordMade:
    """As a PDF. Each taking is an entry of the trail."""
    from nod.formats.files.review_record import write_record

    shown = reviews_view.read_review(context, actor, review_id)
    clips = _clips(context, press, actor, shown)
    with acting(context, actor) as act:
        row, seat = see_thing(act.session, actor, REVIEW, review_id)
        loaded = review_rows.load(act.session, row)
        marks = _marks(act.session, seat, shown, clips)
        made = _record(seat.project, shown, marks, actor.name, act.at)
        record(act, loaded, FactKind.REVIEW_RECORD_TAKEN, {"state": row.state})
    return RecordMade(write_record(made), f"{shown.number}_record.pdf")


def _clips(context: Context, press: Press, actor: Actor, review: Review) -> dict[str, bytes]:
    """Drawn before the act, so that nobody waits for it."""
    revisions = [each.revision_id for each in review.documents]
    with context.database.read() as session:
        marked = set(session.scalars(select(MarkRow.revision_id).where(one_of(MarkRow.revision_id, revisions))))
    found: dict[str, bytes] = {}
    for revision_id in (each for each in revisions if each in marked):
        if len(found) < MOST_CLIPS:
            found |= clips_of(
                context, press, actor, revision_id, MOST_CLIPS - len(found), lambda seat: _of(seat, review.id)
            )
    return found


def _record(
    project: ProjectRow, review: Review, marks: Mapping[str, Sequence[RecordMark]], by: str, at: datetime
) -> Record:  # fmt: skip
    zone = ZoneInfo(project.time_zone)

    def when(instant: datetime | None) -> str:
        return instant.astimezone(zone).strftime("%-d %b %Y, %H:%M") if instant else ""

    ended = {"running": "still running", "closed": "closed", "cancelled": "cancelled", "recalled": "recalled"}
    facts = [
        ("Route", review.route_name),
        ("Started by", f"{named(review.started_by)}, {when(review.started_at)}"),
        ("State", f"{ended[review.state]} {when(review.ended_at)}".strip()),
    ]
    if review.why_cancelled:
        facts.append(("Why", review.why_cancelled))
    if review.transmittals:
        facts.append(("Sent out with", ", ".join(review.transmittals)))
    given = {step.verdicts for step in review.slip if step.act == "decide"}
    return Record(
        project=f"{project.number} {project.name}",
        number=review.number,
        name=review.name,
        facts=tuple(facts),
        message=review.message,
        steps=tuple(_steps(review.slip, when)),
        documents=tuple(_document(review, each, marks.get(each.revision_id, ())) for each in review.documents),
        verdicts=tuple((each.code, each.words) for each in review.verdict_set if each.of_set in given),
        taken=f"Taken by {by} on {when(at)} ({project.time_zone})",
    )


def _day(on: date | None) -> str:
    return on.strftime("%-d %b %Y") if on else ""


When = Callable[[datetime | None], str]


def _steps(slip: Sequence[SlipRow], when: When) -> Iterable[RecordStep]:
    for step in slip:
        what = "verdict on each document" if step.act == "decide" else "comments"
        many = f"{_QUOTAS[step.quota]} {step.needed if step.quota == 'some' else ''} {step.asks}"
        days = f"{step.days} {'working ' if step.counting == 'working' else ''}day{'' if step.days == 1 else 's'}"
        facts = [f"{'sums up, ' if step.sums_up else ''}{what}", " ".join(many.split()), days]
        if step.began_at:
            facts.append(f"begun {when(step.began_at)}, due {_day(step.due_on)}")
        if step.ended_at:
            facts.append(f"{step.state} {when(step.ended_at)}")
        if step.why_ended:
            facts.append(f"ended without the rest: {step.why_ended}")
        hands = tuple(_hand(each, when) for each in step.places)
        yield RecordStep(str(step.stage + 1), step.name, " · ".join(facts), hands)


def _hand(place: PlaceShown, when: When) -> Hand:
    who = named(place.who) + (f", for {place.for_whom.name}" if place.for_whom else "")
    return Hand(who, _STATES[place.state], " ".join(place.verdicts), when(place.at), place.note)


def _document(review: Review, document: ReviewedDocument, marks: Sequence[RecordMark]) -> RecordDocument:
    words = {each.code: each.words for each in review.verdict_set}
    said = tuple(
        Said(
            f"{review.slip[each['step']].name}, {review.slip[each['step']].places[each['place']].who.name}",
            each["verdict"], each["comment"],
        )
        for each in document.said
    )  # fmt: skip
    state = ", back to its author" if document.state == "back" else ""
    return RecordDocument(
        document.number, document.revision, document.title, document.verdict,
        words.get(document.verdict, "") + state, said, tuple(marks),
    )  # fmt: skip


def _of(seat: Seat, review_id: str) -> ColumnElement[bool]:
    """Of threads: ink for everybody, and what its people keep, as far as the seat reads it."""
    return or_(is_open_ink(), and_(reads_with("review", review_id), is_read_by(seat)))


def _marks(
    session: Session, seat: Seat, review: Review, clips: Mapping[str, bytes]
) -> dict[str, list[RecordMark]]:  # fmt: skip
    """The ink on each revision, in its order; pencil is nobody's but its author's."""
    query = (
        select(MarkRow, ThreadRow, PersonRow.name)
        .join(ThreadRow, ThreadRow.id == MarkRow.thread_id)
        .outerjoin(PersonRow, PersonRow.id == ThreadRow.author_id)
        .where(
            one_of(MarkRow.revision_id, [each.revision_id for each in review.documents]),
            MarkRow.removed_at.is_(None), ThreadRow.shared_at.is_not(None), _of(seat, review.id),
        )
        .order_by(MarkRow.page, MarkRow.seq)
    )  # fmt: skip
    found: dict[str, list[RecordMark]] = {}
    for mark, thread, author in session.execute(query):
        label = f"Mark {mark.pin_number}" if mark.pin_number else f"Mark on page {mark.page + 1}"
        words = thread.text or mark.label or mark.kind
        clip = clips.get(mark.id, b"")
        shown = RecordMark(label, thread.author_name or author or "", words, thread.state, clip)
        found.setdefault(mark.revision_id, []).append(shown)
    return found
