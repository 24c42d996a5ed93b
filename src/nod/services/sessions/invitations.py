"""Inviting to a session: who may do what, who sees what they would not otherwise, how they are told (handbook §7)."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any, Literal
from zoneinfo import ZoneInfo

from pydantic import Field
from sqlalchemy import Select, or_, select
from sqlalchemy.orm import Session

from nod.core.access.levels import RUNNING_ROLES, Effect, Level
from nod.core.acts.counted import counted
from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.sessions.sessions import MAY_WORDS, MOST_PARTIES, Deed
from nod.core.trail.entries import FactKind, Subject
from nod.formats.files.calendar_file import MEDIA_TYPE, Meeting, write_meeting
from nod.services.acts.answers import Command, people_by_id
from nod.services.acts.context import Act, Context, acting, check_version
from nod.services.acts.projects import address_in
from nod.services.acts.seats import IN_PROJECT, Actor, reach_of_all
from nod.services.files.new_files import keep_made
from nod.services.mail.mails import Enclosure
from nod.services.notices.notices import Notice, tell_person
from nod.services.sessions.session_rows import enter, record, sheets_of, tell
from nod.store.dialects.sqlite import one_of
from nod.store.tables import (
    CompanyRow,
    DocumentRow,
    MembershipRow,
    PersonRow,
    ProjectRow,
    SessionPartyRow,
    SessionRow,
)


class Party(Command):
    """A person or a company, by id, and what they may do: each includes what stands before it."""

    kind: Literal["person", "company"]
    id: str
    may: Literal["look", "comment", "mark"]


class ChangeParties(Command):
    """Those who are invited besides, or may do something else from now on, and those who are not any more."""

    version: int
    invited: list[Party] = Field(default_factory=list, max_length=MOST_PARTIES)
    taken_out: list[str] = Field(default_factory=list, max_length=MOST_PARTIES)


def change_parties(context: Context, actor: Actor, session_id: str, command: ChangeParties) -> None:
    with acting(context, actor) as act:
        entered = enter(act.session, actor, session_id)
        row = entered.row
        entered.check(Deed.CHANGE)
        check_version(command.version, row.version, row.number)
        documents = [document for sheet, _, document in sheets_of(act.session, row.id) if sheet.left_at is None]
        for document in documents:
            entered.seat.need_at(document.folder_id, Level.MARK, document.number)
        _take_out(act, row, command.taken_out)
        invite(act, row, command.invited)
        row.version += 1
        tell(act, row)


def _take_out(act: Act, row: SessionRow, ids: Sequence[str]) -> None:
    query = select(SessionPartyRow).where(SessionPartyRow.session_id == row.id, SessionPartyRow.party_id.in_(ids))
    for party in act.session.scalars(query).all():
        act.session.delete(party)
        act.session.flush()
        others = [Subject(party.kind, party.party_id)]
        name = _named(act.session, party.kind, party.party_id)
        record(
            act, row, FactKind.SESSION_UNINVITED, before={"who": name}, others=others,
            state={"party": f"{party.kind} {party.party_id}"},
        )  # fmt: skip


def invite(act: Act, row: SessionRow, parties: Sequence[Party]) -> None:
    """With an entry for each, and those told who were not invited before. Raises NotFound for nobody of the project."""
    told: list[str] = []
    known = set(act.session.scalars(_people_of(row.project_id)))
    for each in parties:
        name = _invitable(act.session, row.project_id, each)
        party = act.session.get(SessionPartyRow, (row.id, each.kind, each.id))
        if party is not None and party.may == each.may:
            continue
        before = party.may if party else ""
        if party is None:
            party = SessionPartyRow(
                session_id=row.id, kind=each.kind, party_id=each.id, may=each.may, invited_by=act.actor.person_id,
                invited_at=act.at,
            )  # fmt: skip
            act.session.add(party)
            told += [person for person in persons_of(act.session, [each]) if person in known]
        party.may = each.may
        record(
            act, row, FactKind.SESSION_INVITED, {"who": name, "may": MAY_WORDS[each.may]},
            before={"may": MAY_WORDS[before]} if before else {}, others=[Subject(each.kind, each.id)],
            state={"party": f"{each.kind} {each.id}", "may": each.may},
        )  # fmt: skip
    _check_count(act.session, row)
    write_to(act, row, told)


def _check_count(session: Session, row: SessionRow) -> None:
    session.flush()
    query = select(SessionPartyRow.party_id).where(SessionPartyRow.session_id == row.id)
    if len(session.scalars(query).all()) > MOST_PARTIES:
        raise RuleBroken("too_many_parties", f"At most {MOST_PARTIES} people and companies are invited.", row.number)


def _people_of(project_id: str) -> Select[Any]:
    return select(MembershipRow.person_id).where(
        MembershipRow.project_id == project_id, MembershipRow.state.in_(IN_PROJECT)
    )


def _invitable(session: Session, project_id: str, party: Party) -> str:
    """Their name. Raises NotFound for who has no part in the project, RuleBroken for who has no account."""
    if party.kind == "company":
        company = session.get(CompanyRow, party.id)
        if company is None or not persons_of(session, [party], project_id):
            raise NotFound(party.id)
        return company.code
    member = session.get(MembershipRow, (project_id, party.id))
    if member is None or member.state == "removed":
        raise NotFound(party.id)
    name = session.get_one(PersonRow, party.id).name
    if member.state not in IN_PROJECT:
        words = f"{name} has no account. Give them the session's link, and they come as a guest."
        raise RuleBroken("no_account", words, name)
    return name


def _named(session: Session, kind: str, id: str) -> str:
    return session.get_one(CompanyRow, id).code if kind == "company" else session.get_one(PersonRow, id).name


def persons_of(session: Session, parties: Iterable[Party], project_id: str = "") -> list[str]:
    """Ids of all whom these parties mean; with a project, those who have a part in it."""
    people = [each.id for each in parties if each.kind == "person"]
    companies = [each.id for each in parties if each.kind == "company"]
    now = select(CompanyRow.id).where(or_(CompanyRow.id.in_(companies), CompanyRow.merged_into.in_(companies)))
    query = select(PersonRow.id).where(or_(PersonRow.id.in_(people), PersonRow.company_id.in_(now)))
    if project_id:
        query = query.where(PersonRow.id.in_(_people_of(project_id)))
    return list(session.scalars(query.order_by(PersonRow.name)))


def parties_of(session: Session, session_id: str) -> list[Party]:
    query = select(SessionPartyRow).where(SessionPartyRow.session_id == session_id)
    rows = session.scalars(query.order_by(SessionPartyRow.invited_at, SessionPartyRow.party_id))
    return [Party(kind=row.kind, id=row.party_id, may=row.may) for row in rows]  # type: ignore[arg-type]


def widened_words(
    session: Session, project: ProjectRow, documents: Sequence[DocumentRow], parties: Sequence[Party]
) -> str:
    """Who will see what they could not see otherwise, in one sentence; empty for nobody."""
    people = persons_of(session, parties, project.id)
    reach = reach_of_all(session, project, people)
    runs = _who_run(session, project.id, people)
    more = {
        person: count
        for person in people
        if person not in runs and (count := sum(not _sees(reach[person], document.folder_id) for document in documents))
    }
    if not more:
        return ""
    who = people_by_id(session, set(more))
    named = [f"{each.name} ({each.company})" for each in sorted(who.values(), key=lambda each: each.name)]
    shown = ", ".join(named[:6]) + (f" and {counted(len(named) - 6, 'other')}" if len(named) > 6 else "")
    least, most = min(more.values()), max(more.values())
    sheets = counted(most, "sheet") if least == most else f"{least} to {most} sheets"
    return f"{shown} will see {sheets} that they could not see otherwise, at these revisions, while it is open."


def _sees(reach: Mapping[str, Effect], folder_id: str) -> bool:
    effect = reach.get(folder_id)
    return effect is not None and effect.level >= Level.READ


def _who_run(session: Session, project_id: str, people: Sequence[str]) -> set[str]:
    query = select(MembershipRow).where(MembershipRow.project_id == project_id, one_of(MembershipRow.person_id, people))
    return {row.person_id for row in session.scalars(query) if RUNNING_ROLES & set(row.roles)}


def meeting_of(context: Context, project: ProjectRow, row: SessionRow, host: str) -> Meeting:
    address = address_in(context, project, f"/sessions/{row.id}")
    words = f"{project.number} {project.name}, hosted by {host}. {row.note}".strip()
    return Meeting(
        uid=f"session-{row.id}@nod", sequence=row.version, name=f"{row.number} {row.name}",
        words=f"{words}\n{address}", address=address, begins_at=row.opened_at or row.opens_at, ends_at=row.closes_at,
        stamped_at=context.clock.now(),
    )  # fmt: skip


def write_to(act: Act, row: SessionRow, people: Iterable[str], *, moved: bool = False) -> None:
    """The invitation, or its other time, with the calendar file."""
    wanted = [each for each in dict.fromkeys(people) if each not in ("", act.actor.person_id, row.host_id)]
    if not wanted:
        return
    project = act.session.get_one(ProjectRow, row.project_id)
    host = people_by_id(act.session, {row.host_id})[row.host_id]
    zone = ZoneInfo(project.time_zone)
    begins, ends = (at.astimezone(zone) for at in (row.opened_at or row.opens_at, row.closes_at))
    sheets = sheets_of(act.session, row.id)
    what = "gave another time to" if moved else "invites you to"
    lines = [
        f"{act.actor.name} {what} the session {row.number}, {row.name}.",
        f"Its host is {host.name} ({host.company}).",
        f"It is open from {begins:%a %-d %B %Y, %H:%M} to {ends:%a %-d %B, %H:%M} ({zone}).",
        *(["", row.note] if row.note else []),
        "",
        f"{counted(len(sheets), 'sheet')}:",
        *(f"  {document.number} {revision.code}  {revision.title}" for _, revision, document in sheets[:20]),
        *([f"  and {len(sheets) - 20} more"] if len(sheets) > 20 else []),
        "",
        "The calendar file goes along. The session is here:",
    ]
    enclosed = [_calendar(act, project, row, host.name)]
    act.session.flush()
    subject = f"{project.number}: {'another time for' if moved else 'you are invited to'} {row.number}, {row.name}"
    for person_id in wanted:
        key = f"invited:{row.id}:{person_id}:{row.version}"
        notice = Notice(
            key, subject, lines, f"/sessions/{row.id}", [Subject("session", row.id)], enclosed=tuple(enclosed)
        )
        tell_person(act, project, "invited", person_id, notice)


def _calendar(act: Act, project: ProjectRow, row: SessionRow, host: str) -> Enclosure:
    content = write_meeting(meeting_of(act.context, project, row, host))
    stored = act.context.blobs.put([content])
    keep_made(act.context, act.session, stored, MEDIA_TYPE)
    return Enclosure(stored.sha256, f"{row.number}.ics", MEDIA_TYPE)
