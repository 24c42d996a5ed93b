"""Submittals as rows: one as somebody meets it, its entries, with whom it is, who is told."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.submittals.numbers import shown_number
from nod.core.submittals.states import Deed, Party, State, check, may
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.context import Act, check_version
from nod.services.acts.seats import Actor, Seat
from nod.services.notices.notices import Notice, tell_person
from nod.services.open_work.open_work import Wanted, begin_open_work, set_open_work
from nod.services.submittals.kind import SUBMITTAL, companies_now
from nod.services.submittals.outlooks import work_out
from nod.services.submittals.outside import is_contact, write_outside
from nod.services.submittals.part_rows import parts_kept
from nod.services.submittals.work_kinds import ANSWER, CLOSE, GIVE, PREPARE, TO_ASK
from nod.services.things.things import see_thing, tell_thing
from nod.store.tables import (
    CompanyRow,
    PersonRow,
    ProjectRow,
    SubmittalCopiedRow,
    SubmittalRoundRow,
    SubmittalRow,
)


@dataclass(frozen=True)
class Entered:
    """A submittal as somebody meets it."""

    row: SubmittalRow
    seat: Seat
    party: Party

    @property
    def state(self) -> State:
        return State(self.row.state)

    def check(self, deed: Deed) -> None:
        """Raises NotAllowed or RuleBroken where they may not do this now."""
        check(
            self.state, self.party, deed, for_information=self.row.for_information,
            on_route=self.row.review_id is not None,
        )  # fmt: skip

    def may(self, deed: Deed) -> bool:
        return may(
            self.state, self.party, deed, for_information=self.row.for_information,
            on_route=self.row.review_id is not None,
        )  # fmt: skip


def enter(session: Session, actor: Actor, submittal_id: str) -> Entered:
    """Raises NotFound for one that is not there for this person, NotAllowed without the tool."""
    row, seat = see_thing(session, actor, SUBMITTAL, submittal_id)
    return Entered(row, seat, party_of(session, row, actor, seat))


def enter_for(act: Act, actor: Actor, submittal_id: str, version: int, deed: Deed) -> Entered:
    """To do something with it, as it was seen. Raises what `enter` does, what `Entered.check` does, and Stale."""
    entered = enter(act.session, actor, submittal_id)
    entered.check(deed)
    check_version(version, entered.row.version, entered.row.number)
    return entered


def party_of(session: Session, row: SubmittalRow, actor: Actor, seat: Seat) -> Party:
    """Through another's eyes there is nothing one may do but look."""
    if actor.looker is not None:
        return Party()
    company = session.get_one(CompanyRow, row.company_id)
    ours = actor.company_id in (company.id, company.merged_into)
    asked = row.person_id == actor.person_id
    return Party(runs=seat.runs, responsible=ours or asked, approver=row.approver_id == actor.person_id)


def deeds(session: Session, rows: Sequence[SubmittalRow], actor: Actor, seat: Seat) -> dict[str, list[str]]:
    """By id, what somebody may do now with each."""
    found = {row.id: Entered(row, seat, party_of(session, row, actor, seat)) for row in rows}
    return {id: [deed.value for deed in Deed if each.may(deed)] for id, each in found.items()}


def rounds_of(session: Session, submittal_id: str) -> list[SubmittalRoundRow]:
    """The first first."""
    query = select(SubmittalRoundRow).where(SubmittalRoundRow.submittal_id == submittal_id)
    return list(session.scalars(query.order_by(SubmittalRoundRow.revision)))


def last_round(session: Session, row: SubmittalRow) -> SubmittalRoundRow | None:
    """That of the present revision; None where it has not been sent in."""
    query = select(SubmittalRoundRow).where(
        SubmittalRoundRow.submittal_id == row.id, SubmittalRoundRow.revision == row.revision
    )
    return session.scalars(query).one_or_none()


def named(row: SubmittalRow) -> str:
    return f"{shown_number(row.number, row.revision)} {row.title}"


def record(
    act: Act, row: SubmittalRow, kind: FactKind, after: dict[str, Any] | None = None, *,
    before: dict[str, Any] | None = None, others: Iterable[Subject] = (), why: str = "",
) -> None:  # fmt: skip
    """With all that a replay needs of where it stands then."""
    act.session.flush()
    fact = Fact(
        kind, Subject(SUBMITTAL.code, row.id), named(row), tuple(others), before or {}, after or {}, why,
        state=state_of(row, copied_of(act.session, row.id)) | parts_kept(act.session, row.id),
    )  # fmt: skip
    act.record(row.project_id, fact)


def state_of(row: SubmittalRow, copied: Sequence[SubmittalCopiedRow]) -> dict[str, Any]:
    """What entries keep for replaying."""
    goes_round = {"review": row.review_id} if row.review_id else {}
    return goes_round | {
        "state": row.state, "revision": row.revision, "verdict": row.verdict, "company": row.company_id,
        "person": row.person_id or "", "approver": row.approver_id or "", "keeper": row.keeper_id,
        "delivered": row.delivered_on.isoformat() if row.delivered_on else "",
        "copied": sorted(f"{each.kind} {each.party_id}" for each in copied),
    }  # fmt: skip


def copied_of(session: Session, submittal_id: str) -> list[SubmittalCopiedRow]:
    query = select(SubmittalCopiedRow).where(SubmittalCopiedRow.submittal_id == submittal_id)
    return list(session.scalars(query.order_by(SubmittalCopiedRow.copied_at, SubmittalCopiedRow.party_id)))


def settle(act: Act, project: ProjectRow, rows: Sequence[SubmittalRow], also: Iterable[str] = ()) -> None:
    """After an act: what is worked out of these, with whom they are, and that they have changed.

    `also`: ids of others whose outlook has changed with them.
    """
    for row in rows:
        row.version += 1
    work_out(act.session, project, act.context, {row.id for row in rows} | set(also))
    for row in rows:
        want(act.session, row)
        tell_thing(act, SUBMITTAL, row)


def begin(act: Act, project: ProjectRow, rows: Sequence[SubmittalRow]) -> None:
    """Of many new ones at once, what `settle` does for each; live, the log is told as a whole."""
    for row in rows:
        row.version += 1
    work = [(Subject(SUBMITTAL.code, row.id), Wanted(TO_ASK.code, [row.keeper_id], since_at=act.at)) for row in rows]
    begin_open_work(act.session, project.id, work)
    work_out(act.session, project, act.context, {row.id for row in rows})


def want(session: Session, row: SubmittalRow) -> None:
    """Sets with whom it is."""
    state = State(row.state)
    due = last.due_on if (last := last_round(session, row)) else None
    wanted = _wanted(row, state, due)
    set_open_work(session, row.project_id, Subject(SUBMITTAL.code, row.id), [wanted] if wanted else [])


def _wanted(row: SubmittalRow, state: State, due: date | None) -> Wanted | None:
    keeper, since = [row.keeper_id], row.since_at
    if state is State.PLANNED:
        return Wanted(TO_ASK.code, keeper, since_at=since)
    if state in (State.ASKED, State.PREPARING):
        people, companies = ([row.person_id], []) if row.person_id else ([], [row.company_id])
        return Wanted(
            PREPARE.code, people, companies, waiter_id=row.keeper_id, since_at=since, due_on=row.latest_on
        )  # fmt: skip
    if state is State.SENT_IN:
        return Wanted(GIVE.code, keeper, since_at=since)
    if state is State.UNDER_REVIEW and row.review_id:
        return None
    if state is State.UNDER_REVIEW and row.approver_id:
        return Wanted(ANSWER.code, [row.approver_id], waiter_id=row.keeper_id, since_at=since, due_on=due)
    return Wanted(CLOSE.code, keeper, since_at=since) if state is State.ANSWERED else None


def tell_those(act: Act, row: SubmittalRow, what: str, lines: Sequence[str], *, but: Iterable[str] = ()) -> None:
    """Who is copied in, who is asked for it, who answers and who keeps it hear of a step; not `but` these."""
    project = act.session.get_one(ProjectRow, row.project_id)
    people = [row.keeper_id, row.person_id, row.approver_id, *_people_copied(act.session, row)]
    without = set(but)
    act.session.flush()
    said = [f"{act.actor.name} {what}.", *lines]
    for person_id in dict.fromkeys(filter(None, people)):
        if person_id not in without:
            _tell(act, row, project, person_id, Telling("submittal", "submittal", what, said))


def ask_person(act: Act, row: SubmittalRow, person_id: str, subject: str, lines: Sequence[str]) -> None:
    """Tells somebody that it is with them, with all that they need to know."""
    project = act.session.get_one(ProjectRow, row.project_id)
    act.session.flush()
    _tell(act, row, project, person_id, Telling("submittal_mine", "submittal-ask", subject, lines))


@dataclass(frozen=True)
class Telling:
    """A notice's kind and key, and what it says in its subject and its lines."""

    kind: str
    key: str
    subject: str
    lines: Sequence[str]


def _tell(act: Act, row: SubmittalRow, project: ProjectRow, person_id: str, said: Telling) -> None:
    """With all details; outside contacts, who have no account, with their link."""
    key = f"{said.key}:{row.id}:{row.version}:{person_id}"
    subject, lines = f"{project.number}: {named(row)}: {said.subject}", [*said.lines, "", *details(act.session, row)]
    if is_contact(act.session, project.id, person_id):
        if person_id in _by_name(act.session, row):
            write_outside(act, row, person_id, key, subject, lines)
        return
    about = [Subject(SUBMITTAL.code, row.id)]
    tell_person(act, project, said.kind, person_id, Notice(key, subject, lines, f"/submittals/{row.id}", about))


def _by_name(session: Session, row: SubmittalRow) -> set[str]:
    """Contacts are told where they are named themselves, not with their company."""
    copied = {each.party_id for each in copied_of(session, row.id) if each.kind == "person"}
    return copied | {each for each in (row.person_id, row.approver_id) if each}


def _people_copied(session: Session, row: SubmittalRow) -> list[str]:
    return people_of(session, [(each.kind, each.party_id) for each in copied_of(session, row.id)])


def people_of(session: Session, parties: Iterable[tuple[str, str]]) -> list[str]:
    """Ids of all whom these parties mean, each a kind and an id; companies as they are now."""
    given = list(parties)
    companies = {row.id for row in companies_now(session, {id for kind, id in given if kind == "company"}).values()}
    query = select(PersonRow.id).where(PersonRow.company_id.in_(companies)).order_by(PersonRow.name)
    return [id for kind, id in given if kind == "person"] + list(session.scalars(query))


def quoted(note: str) -> list[str]:
    """What somebody said, as lines of a mail."""
    return ["", note.strip()] if note.strip() else []


def details(session: Session, row: SubmittalRow) -> list[str]:
    """All that a mail says of it."""
    company = companies_now(session, {row.company_id})[row.company_id]
    told = [
        ("Number", shown_number(row.number, row.revision)), ("Title", row.title),
        ("Section", " ".join(filter(None, (row.section, row.paragraph)))), ("Responsible", company.name),
        ("What", row.description), ("Required on site", _day(row.required_on)),
        ("To be sent in by", _day(row.latest_on) if State(row.state) in (State.ASKED, State.PREPARING) else ""),
    ]  # fmt: skip
    return [f"{label}: {words}" for label, words in told if words]


def _day(on: date | None) -> str:
    return f"{on:%a %-d %B %Y}" if on else ""
