"""The distribution matrix: which companies and roles get what, to act on or to know (handbook §10)."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from enum import StrEnum

from nod.core.acts.refusals import RuleBroken
from nod.core.transmittals.purposes import TO_KNOW

MOST_LINES = 200


class Share(StrEnum):
    """What a holder does with what it gets."""

    ACT = "act"
    KNOW = "know"


SHARE_WORDS: dict[Share, str] = {Share.ACT: "to act", Share.KNOW: "to know"}
WHENS: dict[str, str] = {
    "filed": "when it is filed",
    "accepted": "when a verdict lets it be used",
    "released": "when it comes in force",
}
"""From when on a revision is due. With a status, it is due at that status only."""
Holder = tuple[str, str]
"""`company` and its id, or `role` and its code."""


@dataclass(frozen=True)
class Line:
    """A class of documents, and what its holders get of it. Empty stands for any discipline, form and status.

    `purpose` is what those to act get it for; `since` leaves out revisions filed before that day. `sent_by` is the id
    of whoever let it go by itself, in their name; empty where a controller sends it.
    """

    discipline: str
    form: str
    status: str
    when: str
    purpose: str
    since: date | None = None
    shares: Mapping[Holder, Share] = field(default_factory=dict)
    sent_by: str = ""


@dataclass(frozen=True)
class Owed:
    """What one company is to get of one document."""

    share: Share
    purpose: str


@dataclass(frozen=True)
class Known:
    """What the lines may name."""

    disciplines: Collection[str]
    forms: Collection[str]
    statuses: Collection[str]
    purposes: Collection[str]
    holders: Collection[Holder]


def unite(before: Owed | None, line: Line, share: Share) -> Owed:
    """Cells of a company and of its people's roles unite over all lines: to act beats to know, the first line wins."""
    if before is not None and (before.share is Share.ACT or share is Share.KNOW):
        return before
    return Owed(share, line.purpose if share is Share.ACT else TO_KNOW)


def share_of(line: Line, company_id: str, roles: Iterable[str]) -> Share | None:
    """What a company gets by a line, by its own cell and those of the roles that its people have."""
    cells = [line.shares.get(("company", company_id)), *(line.shares.get(("role", role)) for role in roles)]
    if Share.ACT in cells:
        return Share.ACT
    return Share.KNOW if Share.KNOW in cells else None


def line_words(line: Line) -> str:
    """Like `A drawings at S3`, of codes."""
    what = " ".join(each for each in (line.discipline or "any discipline", line.form or "any form") if each)
    return f"{what}, {f'at {line.status}, ' if line.status else ''}{WHENS[line.when]}"


def check_lines(lines: Sequence[Line], known: Known) -> list[Line]:
    """Raises RuleBroken for one that names what is not there, or is there twice."""
    if len(lines) > MOST_LINES:
        raise RuleBroken("too_many_lines", f"The matrix has {MOST_LINES} lines at most.")
    seen = set()
    for line in lines:
        for what, code, codes in (
            ("discipline", line.discipline, known.disciplines),
            ("form", line.form, known.forms),
            ("status", line.status, known.statuses),
            ("purpose", line.purpose, known.purposes),
            ("moment", line.when, WHENS),
        ):
            if (code or what in ("purpose", "moment")) and code not in codes:
                raise RuleBroken("code_unknown", f"There is no {what} {code[:20]} in this project.", code[:20])
        if missing := [id for kind, id in line.shares if (kind, id) not in known.holders]:
            raise RuleBroken("holder_unknown", "A company or role of the matrix is not in this project.", missing[0])
        if line.sent_by and not (line.status and line.since):
            words = f"{line_words(line)}: say a status and from which day on, before it goes by itself."
            raise RuleBroken("by_itself_open", words, line_words(line))
        key = (line.discipline, line.form, line.status, line.when)
        if key in seen:
            raise RuleBroken("line_twice", f"There are two lines for {line_words(line)}.", line_words(line))
        seen.add(key)
    return list(lines)
