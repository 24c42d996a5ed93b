"""Mail that did not reach somebody: by the mail server's refusal, or by what a server tells later (RFC 3464)."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from nod.core.access.audiences import Audience
from nod.core.mail.statuses import status_words
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.context import Act
from nod.services.acts.seats import NOBODY
from nod.services.acts.work import Concern, Job, Lane, Payload, work
from nod.services.mail.mails import REFUSED
from nod.services.notices.notices import Notice, tell_person
from nod.services.things.kinds import kind_of
from nod.services.things.things import all_things_of
from nod.store.tables import MailOutRow, ProjectRow


@dataclass(frozen=True)
class Refusal:
    """Why a mail did not arrive: the enhanced status code and what the server said."""

    status: str
    said: str

    @property
    def words(self) -> str:
        return status_words(self.status, self.said)


OnBounce = Callable[[Act, MailOutRow, str], None]
"""Notes on a thing that a mail about it did not reach its reader; the words say why."""
_ON_BOUNCE: dict[str, OnBounce] = {}


def on_bounce(kind: str) -> Callable[[OnBounce], OnBounce]:
    """Registers what a kind of thing notes when a mail about one of them comes back."""

    def register(note: OnBounce) -> OnBounce:
        _ON_BOUNCE[kind] = note
        return note

    return register


def _concerns(session: Session, payload: Payload) -> list[Concern]:
    row = session.get(MailOutRow, payload["mail_id"])
    if row is None:
        return []
    return [Concern(row.project_id, Subject("person", row.person_id), f"mail to {row.email}", "/mail?tab=back")]


@work(REFUSED, Lane.SEND, "noting that a mail was refused", _concerns)
def note_refusal(job: Job, payload: Payload) -> None:
    """What the mail server said when the mail was handed to it."""
    now = job.context.clock.now()
    with job.context.database.write() as session:
        act = Act(job.context, session, NOBODY, now)
        row = session.get_one(MailOutRow, payload["mail_id"])
        note_bounce(act, row, Refusal(payload["status"], payload["said"]), {})


def note_bounce(act: Act, row: MailOutRow, refusal: Refusal, told_by: dict[str, Any]) -> None:
    """On the mail, its thing and in the trail, once; whoever had it written is told. `told_by` goes into the entry."""
    if row.trouble:
        return
    row.trouble, row.trouble_at = refusal.words, act.at
    project = act.session.get_one(ProjectRow, row.project_id)
    thing = Subject(row.thing_kind, row.thing_id) if row.thing_id else Subject("project", project.id)
    shown = all_things_of(act.session, [(thing.kind, thing.id)]).get((thing.kind, thing.id))
    after = {"to": row.email, "because": refusal.words, "said": refusal.said[:300], **told_by}
    name = shown.words if shown else project.name
    act.record(project.id, Fact(FactKind.MAIL_BOUNCED, thing, name, (Subject("person", row.person_id),), after=after))
    act.tell_audience(project.id, "mail", project.id, Audience(is_open=False))
    if note := _ON_BOUNCE.get(row.thing_kind):
        note(act, row, refusal.words)
    if row.written_by and shown and kind_of(thing.kind):
        lines = [
            f"The mail about {shown.words} to {row.email} came back: {refusal.words}.",
            "",
            "Give another address there and send it again:",
        ]
        subject = f"{project.number}: {shown.number or shown.words} did not reach {row.email}"
        notice = Notice(f"bounced:{row.id}", subject, lines, shown.address, [thing])
        tell_person(act, project, "bounced", row.written_by, notice)
