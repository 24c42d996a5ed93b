"""Outside contacts in a submittal: asked for it, to answer it, or copied in, by a link of their own (handbook §9)."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from sqlalchemy.orm import Session

from nod.core.submittals.states import State
from nod.core.trail.entries import Subject
from nod.services.acts.context import Act
from nod.services.links.part_links import link_for
from nod.services.mail.mails import About, write_mail
from nod.services.submittals.kind import SUBMITTAL
from nod.store.tables import MembershipRow, PersonRow, ProjectRow, SubmittalCopiedRow, SubmittalRow


def names_person(session: Session, row: Any, person_id: str) -> bool:
    """Asked for it, asked to answer it, or copied in by name."""
    if person_id in (row.person_id, row.approver_id):
        return True
    return session.get(SubmittalCopiedRow, (row.id, "person", person_id)) is not None


def is_contact(session: Session, project_id: str, person_id: str) -> bool:
    found = session.get(MembershipRow, (project_id, person_id))
    return found is not None and found.state == "contact"


def asked_to(row: SubmittalRow, person_id: str) -> str:
    """What a link allows its contact besides looking: to send in, to answer, or to say something."""
    if person_id == row.approver_id and State(row.state) is State.UNDER_REVIEW:
        return "answer"
    return "send" if person_id == row.person_id else "comment"


_OPEN = {
    "send": "Send it in here, without a sign-in:",
    "answer": "Look at what was sent in and answer here, without a sign-in:",
    "comment": "Look at it here, without a sign-in:",
}


def write_outside(
    act: Act, row: SubmittalRow, person_id: str, key: str, subject: str, lines: Sequence[str]
) -> None:  # fmt: skip
    """A mail with the contact's link. Not of their own act, nor to who has left."""
    person = act.session.get_one(PersonRow, person_id)
    if person_id == act.actor.person_id or person.state != "active":
        return
    project = act.session.get_one(ProjectRow, row.project_id)
    to, thing = asked_to(row, person_id), Subject(SUBMITTAL.code, row.id)
    link_for(act, project.id, thing, row.keeper_id, person_id, "comment")
    link = link_for(act, project.id, thing, row.keeper_id, person_id, to)
    by_mail = ["", *_BY_MAIL] if to == "answer" and not row.for_information else []
    text = [*lines, "", _OPEN[to], "{link}", *by_mail]
    write_mail(act, key, person_id, subject, text, link, about=About(project, thing))


_BY_MAIL = (
    "Or answer this mail: begin with the letter of the verdict in a line of its own, and attach what you answer.",
)
