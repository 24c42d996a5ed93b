"""Drafts that something else proposes: a review's end, by the work that it leaves to be done."""

from __future__ import annotations

from sqlalchemy.orm import Session

from nod.core.acts.refusals import Refusal
from nod.core.trail.entries import Subject
from nod.services.acts.context import Act
from nod.services.acts.seats import actor_of, take_seat
from nod.services.acts.work import Concern, Job, Lane, Payload, work
from nod.services.transmittals.drafts import DraftContent, add_draft
from nod.store.tables import TransmittalDraftRow


def _concerns(session: Session, payload: Payload) -> list[Concern]:
    about = f"a draft of what left {payload['number']}"
    link = f"/reviews/{payload['review_id']}"
    subject = Subject("review", payload["review_id"])
    return [Concern(payload["project_id"], subject, about, link, person_id=payload["starter_id"])]


@work("draft_transmittal", Lane.SEND, "drafting a transmittal", _concerns)
def draft_transmittal(job: Job, payload: Payload) -> None:
    """For the company of whoever started the review. Harmless when done twice: a proposal is there once.

    Nothing is drafted for one who has left the project since.
    """
    why = f"what left {payload['number']}"
    with job.context.database.write() as session:
        act = Act(job.context, session, actor_of(session, payload["starter_id"], "the worker"), job.context.clock.now())
        try:
            seat = take_seat(session, act.actor, payload["project_id"])
        except Refusal:
            return
        content = DraftContent(
            revisions=payload["revisions"], people=payload["people"], note=payload["note"],
            review_id=payload["review_id"],
        )  # fmt: skip
        same = session.query(TransmittalDraftRow).filter_by(project_id=payload["project_id"], why=why).all()
        if not any(row.content["revisions"] == payload["revisions"] for row in same):
            add_draft(act, seat, content, why)
