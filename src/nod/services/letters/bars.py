"""Notices that are not served yet: by when they must be, and who sees to it (handbook §11)."""

from __future__ import annotations

from datetime import date

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.letters.bars import bar_on
from nod.core.letters.kinds import LetterKind
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.context import Act, project_clock, today_in
from nod.services.letters.kind import LETTER
from nod.services.letters.letter_rows import company_ids, letter_kinds
from nod.services.letters.work_kinds import SERVE
from nod.services.letters.written import LetterWritten
from nod.services.open_work.open_work import Wanted, set_open_work
from nod.services.things.things import tell_thing
from nod.store.tables import LetterRow, MembershipRow, PersonRow, ProjectRow


def bar_of(session: Session, project: ProjectRow, kind: LetterKind, aware_on: date) -> date:
    """By when a notice is served in time."""
    return bar_on(aware_on, kind.bar, kind.bar_in, project_clock(session, project).calendar)


def keep_bar(act: Act, project: ProjectRow, row: LetterRow, written: LetterWritten) -> None:
    """Of a draft, from the day one became aware: by when it is served. That stands on the Desk of whoever writes it,
    and of the leads of their company, unless it is private.
    """
    kind = {each.code: each for each in letter_kinds(project)}.get(written.kind)
    aware = written.aware_on
    counts = kind is not None and kind.bar and aware is not None and aware <= today_in(project, act.at)
    bar = bar_of(act.session, project, kind, aware) if counts and kind and aware else None
    holders = tuple(_who_sees_to_it(act.session, row, private=written.private)) if bar else ()
    before, was_private = _days_of(row), row.private
    row.aware_on, row.bar_on, row.private = aware if bar else None, bar, written.private
    if before == _days_of(row) and was_private == row.private:
        return
    if before != _days_of(row):
        _note(act, row, before)
    wanted = [Wanted(SERVE.code, holders, since_at=act.at, due_on=bar, counting=kind.counting)] if bar and kind else []
    set_open_work(act.session, row.project_id, Subject(LETTER.code, row.id), wanted)
    tell_thing(act, LETTER, row)


def _days_of(row: LetterRow) -> dict[str, str]:
    """What the trail says of them, empty for none."""
    told = {"aware": row.aware_on, "time bar": row.bar_on}
    return {label: day.isoformat() for label, day in told.items() if day}


def _note(act: Act, row: LetterRow, before: dict[str, str]) -> None:
    """For whoever writes it alone, also once it is served: the days it was thought to have are nobody else's."""
    subject = Subject(LETTER.code, row.id)
    fact = Fact(
        FactKind.LETTER_BAR_SET, subject, row.subject, before=before, after=_days_of(row), private_to=row.began_by
    )
    act.record(row.project_id, fact)


def _who_sees_to_it(session: Session, row: LetterRow, *, private: bool) -> list[str]:
    if private:
        return [row.began_by]
    query = (
        select(MembershipRow)
        .join(PersonRow, PersonRow.id == MembershipRow.person_id)
        .where(
            MembershipRow.project_id == row.project_id, MembershipRow.state == "active",
            PersonRow.company_id.in_(company_ids(session, row.company_id)),
        )
        .order_by(PersonRow.name)
    )  # fmt: skip
    leads = [each.person_id for each in session.scalars(query) if "lead" in each.roles]
    return list(dict.fromkeys([row.began_by, *leads]))
