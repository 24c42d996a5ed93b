"""Within how long the contract wants an answer, counted from receipt (handbook §8, the contract's clock)."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime, time

from nod.core.acts.refusals import RuleBroken
from nod.core.acts.working_days import Calendar, Counting, ProjectClock, due_on

KINDS: dict[str, str] = {"review": "reviews", "submittal": "submittals", "rfi": "RFIs", "letter": "letters"}
SILENCE: dict[str, str] = {
    "nothing": "silence means nothing",
    "no_objection": "silence means no objection",
    "tell_lead": "leads are told of silence",
}
MOST_DAYS, MOST_TERMS = 365, 100


@dataclass(frozen=True)
class Term:
    """One line of the table. `company_id` is whose papers it is for, empty for all others.

    `moves`: a last day that is not worked moves to the next that is. `from_hour`: what is received at that hour of the
    project's zone, or later, counts as received on the next working day; None where only the day counts.
    """

    kind: str
    company_id: str
    days: int
    counting: Counting
    moves: bool = False
    from_hour: int | None = None
    silence: str = "nothing"


def check_terms(terms: Iterable[Term]) -> tuple[Term, ...]:
    """Raises RuleBroken for a line that cannot be, and for two of one kind and company."""
    found: dict[tuple[str, str], Term] = {}
    for each in terms:
        if each.kind not in KINDS or each.silence not in SILENCE:
            raise RuleBroken("term_unfit", "Say what the time is for, and what silence means.", each.kind)
        if not 1 <= each.days <= MOST_DAYS:
            raise RuleBroken("term_unfit", f"An answer is due within 1 to {MOST_DAYS} days.", str(each.days))
        if each.from_hour is not None and not 0 <= each.from_hour <= 23:
            raise RuleBroken("term_unfit", "An hour is one of 0 to 23.", str(each.from_hour))
        if (each.kind, each.company_id) in found:
            words = f"There are two times for {KINDS[each.kind]} of one company."
            raise RuleBroken("term_twice", words, each.kind)
        found[each.kind, each.company_id] = each
    if len(found) > MOST_TERMS:
        raise RuleBroken("too_many_codes", f"There are more than {MOST_TERMS} of them.")
    return tuple(found.values())


def term_for(terms: Iterable[Term], kind: str, company_id: str) -> Term | None:
    """The company's own, otherwise the one for all; None where the contract says nothing."""
    of_kind = {each.company_id: each for each in terms if each.kind == kind}
    return of_kind.get(company_id) or of_kind.get("")


def received_on(at: datetime, term: Term, clock: ProjectClock) -> date:
    """The day that counts as that of receipt."""
    local = at.astimezone(clock.zone)
    if term.from_hour is not None and local.time() >= time(term.from_hour):
        return clock.calendar.add_working_days(local.date(), 1)
    return local.date()


def answer_by(received: date, term: Term, calendar: Calendar) -> date:
    """The last day on which an answer is in time."""
    last = due_on(received, term.days, term.counting, calendar)
    return calendar.add_working_days(last, 0) if term.moves else last


def term_words(term: Term) -> str:
    """Like `14 days from receipt; a last day off moves; received from 16:00 on counts as the next working day`."""
    days = "working days" if term.counting is Counting.WORKING else "days"
    parts = [f"{term.days} {days if term.days != 1 else days[:-1]} from receipt"]
    if term.moves:
        parts.append("a last day off moves to the next working day")
    if term.from_hour is not None:
        parts.append(f"received from {term.from_hour}:00 on counts as the next working day")
    return "; ".join(parts)
