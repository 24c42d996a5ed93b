"""The arithmetic of a submittal in words, with the figures that it was worked out from (handbook §9)."""

from __future__ import annotations

from datetime import date

from nod.core.acts.counted import counted
from nod.core.submittals.arithmetic import Case, LeadIn, Outlook, Stage, Times


def latest_words(case: Case, found: Outlook) -> str:
    """Like `required 30 Jul 2027 − lead 30 − review 2 × 10 − preparation 10 − buffer 5 = 30 Apr 2027, 38 working days
    from today`."""
    times = case.times
    parts = [f"required {day(case.required)}", lead_words(times)]
    if times.review:
        parts.append(f"review {_times(times.rounds, times.review)}")
    if times.rounds > 1 and times.preparation:
        parts.append(f"preparation {_times(times.rounds - 1, times.preparation)}")
    if times.buffer:
        parts.append(f"buffer {times.buffer}")
    words = f"{' − '.join(parts)} = {day(found.latest)}"
    return words if found.to_latest is None else f"{words}, {away(found.to_latest)}"


def lead_words(times: Times) -> str:
    return f"lead {times.lead}" if times.lead_in is LeadIn.WORKING_DAYS else f"lead {counted(times.lead, 'week')}"


def forecast_words(case: Case, found: Outlook, pace: str, overdue: int = 0) -> str:
    """On what day it is expected on site, and from what that follows; `pace` says where the answer time comes from.

    `overdue`: how many working days an answer is late by that.
    """
    times, at = case.times, case.standing
    if at.stage is Stage.DELIVERED:
        return f"delivered {day(found.forecast)}"
    if at.stage is Stage.PROCEED:
        return f"{day(at.since or found.forecast)} + {lead_words(times)} = on site {day(found.forecast)}"
    another = f"preparation {times.preparation} + answer {case.expected}"
    if at.stage is Stage.NOT_SENT:
        rounds = f"answer {_times(times.rounds, case.expected)}"
        if times.rounds > 1:
            rounds += f" + preparation {_times(times.rounds - 1, times.preparation)}"
        start = "today" if found.to_latest is not None and not at.since else "planned send-in"
        return f"{start} + {rounds} + {lead_words(times)} = on site {day(found.forecast)} ({pace})"
    if at.stage is Stage.SENT:
        left = max(0, times.rounds - at.round)
        more = f" + {left} × ({another})" if left else ""
        late = f"answer {counted(overdue, 'working day')} late, " if overdue else ""
        answer = day(found.answer) if found.answer else ""
        return f"{late}answer expected {answer}{more} + {lead_words(times)} = on site {day(found.forecast)} ({pace})"
    left = max(1, times.rounds - at.round)
    since = day(at.since) if at.since else ""
    return f"answered {since} + {left} × ({another}) + {lead_words(times)} = on site {day(found.forecast)} ({pace})"


def float_words(found: Outlook) -> str:
    """How much there is to spare, and which of the two makes it so."""
    if found.float_days < 0:
        words = f"{counted(-found.float_days, 'working day')} late"
    elif found.float_days == 0:
        words = "nothing to spare: this is the last day"
    else:
        words = f"{counted(found.float_days, 'working day')} to spare"
    by_latest = found.to_latest is not None and found.to_latest <= found.to_spare
    return f"{words}, by {'the latest send-in' if by_latest else 'the forecast'}"


def away(days: int) -> str:
    if days == 0:
        return "which is today"
    return f"{counted(abs(days), 'working day')} {'from today' if days > 0 else 'ago'}"


def day(on: date) -> str:
    return f"{on:%-d %b %Y}"


def _times(count: int, days: int) -> str:
    return str(days) if count == 1 else f"{count} × {days}"
