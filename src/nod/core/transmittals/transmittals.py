"""Transmittals: what has to be known before one is sent (handbook §10)."""

from __future__ import annotations

from dataclasses import dataclass

from nod.core.register.in_force import Around, standing_of
from nod.core.transmittals.purposes import Purpose


@dataclass(frozen=True)
class SendableDocument:
    """A document at the revision that is about to be sent. `may_be_used` is None without a verdict."""

    number: str
    revision: str
    status: str
    around: Around
    verdict: str
    may_be_used: bool | None


def stops_of(each: SendableDocument, purpose: Purpose | None) -> list[str]:
    """What should make one stop before sending it: that it is superseded, withdrawn, not released, or refused;

    and that it is not for this purpose.
    """
    found = []
    standing = standing_of(each.revision, each.around)
    if standing.kind in ("superseded", "withdrawn", "not_released"):
        found.append(standing.words)
    elif standing.kind == "unreleased" and purpose and purpose.released:
        found.append("Not released.")
    if each.may_be_used is False:
        found.append(f"Verdict {each.verdict}: it may not be used.")
    if purpose and purpose.statuses and each.status not in purpose.statuses:
        found.append(f"Status {each.status} is not {purpose.words[:1].lower()}{purpose.words[1:]}.")
    return found


def transmittal_number(company_code: str, running: int) -> str:
    """Like `HBC-T-0031`."""
    return f"{company_code}-T-{running:04d}"


def review_number(running: int) -> str:
    """Like `RV-0001`."""
    return f"RV-{running:04d}"


@dataclass(frozen=True)
class CoverLine:
    """One document as sent."""

    number: str
    revision: str
    status: str
    title: str
    verdict: str
    sheet_size: str


@dataclass(frozen=True)
class Cover:
    """All that the cover sheet says; dates as they are to be printed. `address` tells what of it still holds.

    `along` says what goes with the documents, see `along_words`.
    """

    number: str
    project: str
    sender: str
    purpose: str
    sent: str
    answer_wanted: str
    recipients: tuple[str, ...]
    note: str
    lines: tuple[CoverLine, ...]
    seal: str = ""
    address: str = ""
    copied: tuple[str, ...] = ()
    along: str = ""
