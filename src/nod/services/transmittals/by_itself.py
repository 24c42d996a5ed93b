"""What the matrix sends by itself, where the project says so of a status: to whom it is due, when it comes to be."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from typing import Any

from sqlalchemy.orm import Session

from nod.core.acts.refusals import Refusal
from nod.core.trail.entries import Subject
from nod.core.transmittals.distribution import Line
from nod.services.acts.context import Act
from nod.services.acts.seats import Seat, actor_of, take_seat
from nod.services.acts.work import Concern, Job, Lane, Payload, work
from nod.services.notices.followers import also_told
from nod.services.transmittals.distribution import (
    Company,
    DueOne,
    by_owed,
    companies_here,
    drafted_of,
    due_of,
    matrix_of,
    recipients_by,
)
from nod.services.transmittals.drafts import MOST_REVISIONS
from nod.services.transmittals.transmittals import SendTransmittal, send_in
from nod.store.tables import ProjectRow

_NOTE = "Sent by the distribution matrix of the project."
_MOST_AT_ONCE = 5000


@also_told
def send_what_is_due(act: Act, project: ProjectRow, bodies: Sequence[dict[str, Any]], told_of: str) -> None:
    """After an act on documents, whatever it was: what is due now that was not is found by the work itself."""
    if any(line.sent_by for line in matrix_of(project)):
        ids = sorted(set(_documents(bodies)))
        for first in range(0, len(ids), _MOST_AT_ONCE):
            payload = {"project_id": project.id, "document_ids": ids[first : first + _MOST_AT_ONCE]}
            act.ask("distribute", f"distribute:{told_of}:{first}", payload)


def _documents(bodies: Iterable[dict[str, Any]]) -> Iterable[str]:
    for body in bodies:
        yield from (each["id"] for each in (body["subject"], *body["others"]) if each["kind"] == "document")
        yield from body.get("state", {}).get("in_force", {})


def _concerns(session: Session, payload: Payload) -> list[Concern]:
    subject = Subject("project", payload["project_id"])
    return [Concern(payload["project_id"], subject, "the distribution matrix", "/setup/distribution")]


@work("distribute", Lane.SEND, "sending by the distribution matrix", _concerns)
def distribute(job: Job, payload: Payload) -> None:
    """Harmless when done twice: what was sent is due no more. An act a company, so that nobody waits for all of them.

    Nothing goes in the name of one who does not run the project any more: it stays due, for a controller to send.
    """
    with job.context.database.read() as session:
        project = session.get_one(ProjectRow, payload["project_id"])
        senders = list(dict.fromkeys(each.sent_by for each in matrix_of(project) if each.sent_by))
        codes = [each.code for each in companies_here(session, project.id)]
    for sender in senders:
        for code in codes:
            job.go_on()
            with job.context.database.write() as session:
                act = Act(job.context, session, actor_of(session, sender, "the worker"), job.context.clock.now())
                _send_to(act, payload, code)


def _send_to(act: Act, payload: Payload, code: str) -> None:
    """What is due to one company, by the lines of whoever acts; they are read anew, as they may have been changed."""
    try:
        seat = take_seat(act.session, act.actor, payload["project_id"])
        seat.need_tool("transmittals")
        seat.need_to_run()
    except Refusal:
        return
    lines = [each for each in matrix_of(seat.project) if each.sent_by == act.actor.person_id]
    for company in companies_here(act.session, seat.project.id):
        if company.code == code:
            due = due_of(act.session, seat.project, lines, [company], payload["document_ids"])[company.id]
            drafted = drafted_of(act.session, seat, act.actor)
            _send(act, seat, lines, company, due, drafted.get(code, set()))


def _send(
    act: Act, seat: Seat, lines: Sequence[Line], company: Company, due: Mapping[str, DueOne], drafted: Collection[str]
) -> None:
    for owed, ones in by_owed(due, drafted).items():
        ids = [each.document_id for each in ones]
        people = recipients_by(act.session, seat, lines, company, owed.share, ids)
        command = SendTransmittal(
            project_id=seat.project.id, revisions=[each.revision_id for each in ones][:MOST_REVISIONS], people=people,
            purpose=owed.purpose, note=_NOTE,
        )  # fmt: skip
        try:
            send_in(act, command, by_itself=True)
        except Refusal:
            # It asks before it writes. What its sender may not send out stays due.
            continue
