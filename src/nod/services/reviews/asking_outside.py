"""Asking an outside contact for their response to what was said of their documents, by a link (handbook §8).

What is open on these is released to them by one act; what is said later waits for the next, and of other documents
they see nothing.
"""

from __future__ import annotations

from sqlalchemy import select

from nod.core.access.levels import Level
from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.core.reviews.comments import CommentState
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.answers import Command
from nod.services.acts.context import Context, acting
from nod.services.acts.seats import Actor
from nod.services.mail.mails import About, write_mail
from nod.services.reviews.kind import REVIEW
from nod.services.reviews.outside_links import link_for
from nod.services.reviews.responders import responds_on
from nod.services.reviews.roster import contact_ids
from nod.services.reviews.words_shown import words_for_all
from nod.services.things.things import see_thing, tell_thing
from nod.store.tables import DocumentRow, PersonRow, ReviewCommentRow


class AskResponses(Command):
    """`message` goes along in the mail."""

    person_id: str
    message: str = ""


_LONGEST_MESSAGE = 2000


def ask_responses(context: Context, actor: Actor, review_id: str, command: AskResponses) -> None:
    """By its starter, or whoever runs the project. Raises NotFound for no contact, RuleBroken with nothing to ask."""
    with acting(context, actor) as act:
        row, seat = see_thing(act.session, actor, REVIEW, review_id)
        seat.need(Level.MARK)
        if not (seat.runs or row.started_by == actor.person_id):
            raise NotAllowed("not_your_review", "This is for its starter, a lead or a controller.", row.number)
        person = act.session.get(PersonRow, command.person_id)
        if person is None or person.id not in contact_ids(act.session, row.project_id):
            raise NotFound(command.person_id)
        theirs = responds_on(act.session, row, person.id)
        query = (
            select(ReviewCommentRow, DocumentRow.number)
            .join(DocumentRow, DocumentRow.id == ReviewCommentRow.document_id)
            .where(ReviewCommentRow.review_id == row.id, ReviewCommentRow.state == CommentState.OPEN.value)
            .order_by(ReviewCommentRow.number)
        )
        words = words_for_all(act.session, row)
        said = [
            (each, number)
            for each, number in act.session.execute(query)
            if each.document_id in theirs and words.of(each.document_id)
        ]
        if not said:
            raise RuleBroken("nothing_to_respond_to", f"Nothing is open on documents of {person.name}.", row.number)
        message = command.message.strip()[:_LONGEST_MESSAGE]
        name = f"{row.number} {row.name}"
        lines = [
            f"{actor.name} asks for your response to what was said of your documents in {name}.",
            *(["", message] if message else []), "",
            *(f"  {each.number}. {number}: {each.text}" for each, number in said), "",
            "Look at it and answer here, without a sign-in:", "{link}",
        ]  # fmt: skip
        for each, _ in said:
            each.released_at = each.released_at or act.at
        about = [Subject("review", row.id)]
        after = {"of": person.name, "comments": [each.number for each, _ in said]}
        act.record(row.project_id, Fact(FactKind.RESPONSES_ASKED, about[0], name, after=after))
        key = f"responses:{row.id}:{person.id}:{act.at:%Y%m%dT%H%M%S%f}"
        subject = f"{seat.project.number}: your response is wanted · {name}"
        link = link_for(act, row, person.id, "respond")
        write_mail(act, key, person.id, subject, lines, link, about=About(seat.project, about[0]))
        tell_thing(act, REVIEW, row)
