"""Letters as rows: one as somebody meets it, who is in it, its entries, with whom it is."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import and_, func, or_, select
from sqlalchemy.orm import Session

from nod.core.letters.kinds import LetterKind, kinds_read
from nod.core.letters.states import Deed, Part, State, check, may
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.context import Act, check_version
from nod.services.acts.seats import Actor, Seat
from nod.services.letters.kind import LETTER
from nod.services.letters.work_kinds import ANSWER, CLOSE
from nod.services.open_work.open_work import Wanted, set_open_work
from nod.services.things.things import see_thing, tell_thing
from nod.store.dialects.sqlite import one_of
from nod.store.tables import (
    CompanyRow,
    LetterMessageRow,
    LetterPartyRow,
    LetterRow,
    MembershipRow,
    PersonRow,
    ProjectRow,
)


@dataclass(frozen=True)
class Entered:
    """A thread as somebody meets it."""

    row: LetterRow
    seat: Seat
    part: Part

    def check(self, deed: Deed) -> None:
        """Raises NotAllowed or RuleBroken where they may not do this now."""
        check(State(self.row.state), self.part, deed)

    def may(self, deed: Deed) -> bool:
        return may(State(self.row.state), self.part, deed)


def enter(session: Session, actor: Actor, letter_id: str) -> Entered:
    """Raises NotFound for one that is not there for this person, NotAllowed without the tool."""
    row, seat = see_thing(session, actor, LETTER, letter_id)
    runs = seat.runs and actor.looker is None
    return Entered(
        row, seat, Part() if actor.looker else part_in(session, row, actor.person_id, actor.company_id, runs)
    )


def enter_for(act: Act, letter_id: str, version: int, deed: Deed) -> Entered:
    """To do something with it, as it was seen. Raises what `enter` does, what `Entered.check` does, and Stale."""
    entered = enter(act.session, act.actor, letter_id)
    entered.check(deed)
    check_version(version, entered.row.version, entered.row.number or entered.row.subject)
    return entered


def part_in(session: Session, row: LetterRow, person_id: str, company_id: str, runs: bool = False) -> Part:
    return parts_in(session, [row], person_id, company_id, runs)[row.id]


def parts_in(
    session: Session, rows: Sequence[LetterRow], person_id: str, company_id: str, runs: bool = False
) -> dict[str, Part]:
    """By thread, in a fixed number of queries. Of whoever is asked, everybody of their company who is in the thread may
    give the answer.
    """
    companies = company_ids(session, company_id)
    mine = or_(
        and_(LetterPartyRow.kind == "person", LetterPartyRow.party_id == person_id),
        and_(LetterPartyRow.kind == "company", LetterPartyRow.party_id.in_(companies)),
    )
    here = (one_of(LetterPartyRow.letter_id, [row.id for row in rows]), LetterPartyRow.last_place.is_(None), mine)
    named = set(session.scalars(select(LetterPartyRow.letter_id).where(*here)))
    asked = {row.asked_id for row in rows if row.asked_id}
    ours = select(PersonRow.id).where(one_of(PersonRow.id, asked), PersonRow.company_id.in_(companies))
    colleagues = set(session.scalars(ours)) if asked else set()
    return {
        row.id: Part(
            began=row.began_by == person_id,
            asked=row.asked_id == person_id or (row.id in named and row.asked_id in colleagues),
            named=row.id in named, runs=runs,
        )
        for row in rows
    }  # fmt: skip


def company_ids(session: Session, company_id: str) -> list[str]:
    """The company, and those that have been merged into it."""
    merged = session.scalars(select(CompanyRow.id).where(CompanyRow.merged_into == company_id))
    return [company_id, *merged]


def parties_of(session: Session, letter_id: str) -> list[LetterPartyRow]:
    """Those in it now, whom it goes to first."""
    query = select(LetterPartyRow).where(LetterPartyRow.letter_id == letter_id, LetterPartyRow.last_place.is_(None))
    return list(session.scalars(query.order_by(LetterPartyRow.how.desc(), LetterPartyRow.rank)))


def all_parties(session: Session, letter_id: str) -> list[LetterPartyRow]:
    query = select(LetterPartyRow).where(LetterPartyRow.letter_id == letter_id)
    return list(session.scalars(query))


def people_in(session: Session, project_id: str, parties: Iterable[tuple[str, str]]) -> list[str]:
    """Ids of all whom these parties, each a kind and an id, mean in the project: of a company, its people who sign in;
    outside contacts are meant by name alone.
    """
    found: list[str] = []
    for kind, id in parties:
        if kind == "person":
            found.append(id)
            continue
        now = session.get_one(CompanyRow, id).merged_into or id
        query = (
            select(PersonRow.id)
            .join(MembershipRow, MembershipRow.person_id == PersonRow.id)
            .where(
                MembershipRow.project_id == project_id, MembershipRow.state.in_(("active", "invited")),
                PersonRow.company_id.in_(company_ids(session, now)),
            )
            .order_by(PersonRow.name)
        )  # fmt: skip
        found += session.scalars(query)
    return list(dict.fromkeys(found))


def letter_kinds(project: ProjectRow) -> tuple[LetterKind, ...]:
    return kinds_read(project.rules.get("letters", {}).get("kinds"))


def kind_of_row(project: ProjectRow, row: LetterRow) -> LetterKind:
    """Also one that is out of use, or that the project does not know any more."""
    found = {each.code: each for each in letter_kinds(project)}
    return found.get(row.kind) or LetterKind(row.kind, row.kind)


def newest_place(session: Session, letter_id: str) -> int:
    """Of what was sent; 0 where nothing was."""
    query = select(func.max(LetterMessageRow.place)).where(LetterMessageRow.letter_id == letter_id)
    return session.scalar(query) or 0


def named(row: LetterRow) -> str:
    return f"{row.number} {row.subject}".strip()


def record(
    act: Act, row: LetterRow, kind: FactKind, after: dict[str, Any] | None = None, *,
    before: dict[str, Any] | None = None, others: Iterable[Subject] = (), why: str = "",
) -> None:  # fmt: skip
    """With all that a replay needs of where it stands then."""
    act.session.flush()
    fact = Fact(
        kind, Subject(LETTER.code, row.id), named(row), tuple(others), before or {}, after or {}, why,
        state=state_of(row, all_parties(act.session, row.id)),
    )  # fmt: skip
    act.record(row.project_id, fact)


def state_of(row: LetterRow, parties: Sequence[LetterPartyRow]) -> dict[str, Any]:
    """What entries keep for replaying."""
    return {
        "state": row.state, "kind": row.kind, "number": row.number, "private": row.private, "began": row.began_by,
        "asked": row.asked_id or "", "due": row.due_on.isoformat() if row.due_on else "", "answer": row.answer_id,
        "aware": row.aware_on.isoformat() if row.aware_on else "", "bar": row.bar_on.isoformat() if row.bar_on else "",
        "parties": sorted(
            f"{each.kind} {each.party_id} {each.how} {each.first_place} {each.last_place or ''}".strip()
            for each in parties
        ),
    }  # fmt: skip


def settle(act: Act, project: ProjectRow, row: LetterRow) -> None:
    """After an act: with whom it is, and that it has changed."""
    row.version += 1
    wanted = _wanted(project, row)
    set_open_work(act.session, row.project_id, Subject(LETTER.code, row.id), [wanted] if wanted else [])
    tell_thing(act, LETTER, row)


def _wanted(project: ProjectRow, row: LetterRow) -> Wanted | None:
    state = State(row.state)
    if state is State.WANTED and row.asked_id:
        return Wanted(
            ANSWER.code, [row.asked_id], waiter_id=row.began_by, since_at=row.since_at, due_on=row.due_on,
            counting=kind_of_row(project, row).counting,
        )  # fmt: skip
    return Wanted(CLOSE.code, [row.began_by], since_at=row.since_at) if state is State.ANSWERED else None
