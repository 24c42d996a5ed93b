"""The daily summary: one mail for all projects, what wants an act first (handbook §13)."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date, datetime
from zoneinfo import ZoneInfo

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.notices import KINDS
from nod.core.trail.entries import Subject
from nod.services.acts.context import Act, Context
from nod.services.acts.projects import address_in
from nod.services.acts.seats import NOBODY
from nod.services.mail.mails import write_mail
from nod.services.things.things import may_know
from nod.services.trail.seals import latest_note
from nod.store.tables import MembershipRow, PersonRow, ProjectRow, SummaryLineRow


def send_summaries(context: Context) -> int:
    """Mails to those whose hour has come all that has gathered for them, once a day; returns how many mails."""
    now = context.clock.now()
    with context.database.read() as session:
        due = [person_id for person_id, day in _waiting(session, now) if day]
    for person_id in due:
        _send_summary(context, person_id, now)
    return len(due)


def _waiting(session: Session, now: datetime) -> Iterable[tuple[str, date | None]]:
    """Everybody with open lines, with their present day if their hour has come and today's has not been sent."""
    people = select(SummaryLineRow.person_id).where(SummaryLineRow.sent_at.is_(None)).distinct()
    for person in session.scalars(select(PersonRow).where(PersonRow.id.in_(people))).all():
        there = now.astimezone(_zone(session, person))
        ready = there.hour >= person.summary_hour and person.summary_sent_on != there.date()
        yield person.id, there.date() if ready else None


def _zone(session: Session, person: PersonRow) -> ZoneInfo:
    """The person's own, otherwise that of the project that has the oldest line for them."""
    if person.time_zone:
        return ZoneInfo(person.time_zone)
    query = (
        select(ProjectRow.time_zone)
        .join(SummaryLineRow, SummaryLineRow.project_id == ProjectRow.id)
        .where(SummaryLineRow.person_id == person.id, SummaryLineRow.sent_at.is_(None))
        .order_by(SummaryLineRow.at)
    )
    return ZoneInfo(session.scalars(query).first() or "UTC")


def _send_summary(context: Context, person_id: str, now: datetime) -> None:
    """Only of projects in which they still are. Asked for and marked as sent in one transaction."""
    with context.database.write() as session:
        day = dict(_waiting(session, now)).get(person_id)
        if day is None:
            return
        act = Act(context, session, NOBODY, now)
        query = (
            select(SummaryLineRow, ProjectRow)
            .join(ProjectRow, ProjectRow.id == SummaryLineRow.project_id)
            .where(SummaryLineRow.person_id == person_id, SummaryLineRow.sent_at.is_(None))
            .order_by(ProjectRow.number, SummaryLineRow.at)
        )
        wanted: list[str] = []
        told: list[str] = []
        for line, project in session.execute(query).all():
            line.sent_at = now
            member = session.get(MembershipRow, (project.id, person_id))
            here = member is not None and member.state == "active"
            about = [Subject(kind, thing_id) for kind, thing_id in line.about]
            if here and may_know(session, project.id, person_id, about):
                into = wanted if line.kind in KINDS and KINDS[line.kind].wants_act else told
                into += [line.words, f"  {address_in(context, project, line.link)}"]
        session.get_one(PersonRow, person_id).summary_sent_on = day
        if wanted or told:
            text = ["What has gathered for you since your last summary:", ""]
            text += ["What wants an act of yours:", "", *wanted, *([""] if told else [])] if wanted else []
            text += (["Besides:", ""] if wanted and told else []) + told
            if note := latest_note(session):
                text += [
                    "",
                    "The seal of the audit trail, to be kept: it proves later that nothing was rewritten.",
                    "",
                    note,
                ]
            write_mail(act, f"summary:{person_id}:{day.isoformat()}", person_id, f"Nod, {day.strftime('%-d %B')}", text)
