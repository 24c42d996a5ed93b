"""Changes on the way: a review is cancelled or recalled, a step ended, a place given to another (handbook §8)."""

from __future__ import annotations

from collections.abc import Iterable

from sqlalchemy import select, update

from nod.core.access.levels import Level
from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.reviews import acts
from nod.core.reviews.running import Turn
from nod.core.trail.entries import FactKind
from nod.services.acts.answers import Command, Who, people_by_id
from nod.services.acts.context import Act, Context, acting, check_version
from nod.services.acts.seats import Actor, Seat
from nod.services.reviews import review_mails, review_rows
from nod.services.reviews.contract import put_contract
from nod.services.reviews.kind import REVIEW
from nod.services.reviews.review_rows import LoadedReview, authors_of
from nod.services.reviews.reviews import LONGEST_TEXT, moment_of, numbers_of, open_step, record, settle, somebody
from nod.services.reviews.starting import check_not_under_review
from nod.services.things.things import see_thing
from nod.store.dialects.sqlite import one_of
from nod.store.tables import DocumentRow, PersonRow, ReviewDocumentRow


class CancelReview(Command):
    version: int
    reason: str


class RecallReview(Command):
    version: int
    reason: str = ""


class EndStep(Command):
    reason: str


class PutIn(Command):
    """`gone_id` is whose place it was; '' puts somebody in beside the others."""

    gone_id: str = ""
    person_id: str
    reason: str


class HandOn(Command):
    person_id: str
    note: str = ""


class SwapIn(Command):
    """Ids of the documents whose latest revision goes on instead of the one under review."""

    version: int
    documents: list[str]


def _open(act: Act, review_id: str, version: int) -> tuple[LoadedReview, Seat]:
    row, seat = see_thing(act.session, act.actor, REVIEW, review_id)
    seat.need(Level.MARK)
    check_version(version, row.version, row.number)
    return review_rows.load(act.session, row, whole=True), seat


def _end(act: Act, loaded: LoadedReview, turn: Turn, kind: FactKind, words: str) -> None:
    loaded.row.why_cancelled = loaded.row.why_cancelled.strip()[:LONGEST_TEXT]
    review_mails.tell_cancelled(act, loaded, words)
    record(act, loaded, kind, {"state": turn.review.state.value}, loaded.row.why_cancelled, {"state": "running"})
    settle(act, loaded, turn)


def cancel_review(context: Context, actor: Actor, review_id: str, command: CancelReview) -> None:
    """By its starter, a lead or a controller, with a reason."""
    with acting(context, actor) as act:
        loaded, seat = _open(act, review_id, command.version)
        turn = acts.cancel(loaded.value, somebody(act, loaded.row, seat), command.reason, act.at)
        loaded.row.why_cancelled = command.reason
        _end(act, loaded, turn, FactKind.REVIEW_CANCELLED, "cancelled")


def recall_review(context: Context, actor: Actor, review_id: str, command: RecallReview) -> None:
    """By its starter, while nothing is decided."""
    with acting(context, actor) as act:
        loaded, seat = _open(act, review_id, command.version)
        turn = acts.recall(loaded.value, somebody(act, loaded.row, seat), act.at)
        loaded.row.why_cancelled = command.reason
        _end(act, loaded, turn, FactKind.REVIEW_RECALLED, "recalled")


def end_step(context: Context, actor: Actor, review_id: str, step_id: str, command: EndStep) -> None:
    """By a lead or a controller, with a reason; what was handed in counts."""
    with acting(context, actor) as act:
        loaded, seat, at = open_step(act, review_id, step_id)
        moment = moment_of(act, seat, loaded)
        turn = acts.end_step(loaded.value, somebody(act, loaded.row, seat), at, command.reason, moment)
        loaded.steps[at].why_ended = command.reason.strip()[:LONGEST_TEXT]
        record(act, loaded, FactKind.STEP_ENDED, {"step": loaded.steps[at].name}, loaded.steps[at].why_ended)
        settle(act, loaded, turn)


def put_in(context: Context, actor: Actor, review_id: str, step_id: str, command: PutIn) -> None:
    """By a lead or a controller, with a reason: another in somebody's place, or beside the rest."""
    with acting(context, actor) as act:
        loaded, seat, at = open_step(act, review_id, step_id)
        if not command.reason.strip():
            raise RuleBroken("reason_missing", "Say why somebody else is put in.")
        who = somebody(act, loaded.row, seat)
        turn = acts.put_in(loaded.value, who, at, command.gone_id, command.person_id)
        _give_place(act, seat, loaded, turn, at, command.gone_id, command.person_id, command.reason)


def hand_on(context: Context, actor: Actor, review_id: str, step_id: str, command: HandOn) -> None:
    """One's own place is another's from now on."""
    with acting(context, actor) as act:
        loaded, seat, at = open_step(act, review_id, step_id)
        turn = acts.hand_on(loaded.value, somebody(act, loaded.row, seat), at, command.person_id)
        _give_place(act, seat, loaded, turn, at, actor.person_id, command.person_id, command.note)


def list_newcomers(context: Context, actor: Actor, review_id: str, step_id: str) -> list[Who]:
    """Who could take a place in a step: those who may mark all of it, are not in it, and filed nothing they would
    decide on."""
    with context.database.read() as session:
        row, seat = see_thing(session, actor, REVIEW, review_id)
        loaded = review_rows.load(session, row)
        at = loaded.at(step_id)
        if at is None:
            raise NotFound(step_id)
        roster = review_rows.roster_of(session, seat.project, loaded)
        run = loaded.value.steps[at]
        # To give a sheet to somebody outside is for those who run the project.
        all_of_them = [*roster.everybody(), *(roster.contacts() if seat.runs else ())]
        ids = [each for each in all_of_them if roster.may_mark(each) and acts.is_free(loaded.value, run, each)]
        found = people_by_id(session, set(ids))
        return [found[each] for each in ids]


def _give_place(
    act: Act, seat: Seat, loaded: LoadedReview, turn: Turn, at: int, gone_id: str, person_id: str, why: str
) -> None:
    """Raises NotFound for a stranger, RuleBroken for somebody who could not answer."""
    roster = review_rows.roster_of(act.session, seat.project, loaded)
    person = act.session.get(PersonRow, person_id)
    if person is None or not (roster.is_there(person_id) or (seat.runs and roster.is_contact(person_id))):
        raise NotFound(person_id)
    if not roster.may_mark(person_id):
        words = f"{person.name} may not mark all documents of {loaded.row.number}. Set their access, or take another."
        raise RuleBroken("reviewer_cannot_mark", words, loaded.row.number)
    gone = act.session.get(PersonRow, gone_id) if gone_id else None
    before = {"with": gone.name} if gone else {}
    after = {"step": loaded.steps[at].name, "with": person.name}
    record(act, loaded, FactKind.PLACE_GIVEN, after, why.strip()[:LONGEST_TEXT], before)
    loaded = settle(act, loaded, turn)
    review_mails.tell_newcomer(act, loaded, at, person_id)


def swap_in(context: Context, actor: Actor, review_id: str, command: SwapIn) -> None:
    """The latest revisions go on; the stage begins again, and what was answered in it stays, crossed out."""
    with acting(context, actor) as act:
        loaded, seat = _open(act, review_id, command.version)
        swapped = _newer(act, loaded, command.documents)
        authors = authors_of(act.session, loaded.row.project_id, list(swapped.values()))
        by_document = {document: authors[revision] for document, revision in swapped.items()}
        moment = moment_of(act, seat, loaded)
        turn = acts.swap(loaded.value, somebody(act, loaded.row, seat), by_document, moment)
        for document_id, revision_id in swapped.items():
            of_it = (ReviewDocumentRow.review_id == review_id, ReviewDocumentRow.document_id == document_id)
            act.session.execute(update(ReviewDocumentRow).where(*of_it).values(revision_id=revision_id))
        of_review = select(ReviewDocumentRow.revision_id).where(ReviewDocumentRow.review_id == review_id)
        put_contract(act.session, seat.project, loaded.row, list(act.session.scalars(of_review)))
        numbers = numbers_of(act, list(swapped))
        record(act, loaded, FactKind.REVISION_SWAPPED, {"documents": [numbers[each] for each in swapped]})
        settle(act, loaded, turn)


def _newer(act: Act, loaded: LoadedReview, documents: Iterable[str]) -> dict[str, str]:
    """The latest revision of each. Raises RuleBroken for one that is the latest already, or is none of the review's."""
    wanted = list(dict.fromkeys(documents))
    now = {each.document_id: each.revision_id for each in loaded.documents}
    query = select(DocumentRow.id, DocumentRow.revision_id).where(one_of(DocumentRow.id, wanted))
    latest = {document: revision for document, revision in act.session.execute(query) if document in now}
    if not wanted or set(latest) != set(wanted) or any(now[each] == latest[each] for each in wanted):
        # The same words whether it is none of the review's, or there is nothing newer.
        raise RuleBroken("nothing_newer", "Choose documents of which a newer revision has arrived.", loaded.row.number)
    check_not_under_review(act.session, latest)
    return latest
