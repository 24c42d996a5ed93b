"""Held files: their tray, sending them back with what was found, discarding them with a reason (handbook §5.6)."""

from __future__ import annotations

from collections import Counter
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.acts.refusals import NotFound, RuleBroken, Stale
from nod.core.register.numbers import check_number
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.answers import Answered, Command, Who, people_by_id
from nod.services.acts.context import Act, Context, acting, check_version, today_in
from nod.services.acts.projects import rules_of
from nod.services.acts.seats import Actor, take_seat
from nod.services.intake.intake_check import Checked, check_batch, need_open, see_batch
from nod.services.mail.mails import write_mail
from nod.store.ids import new_id
from nod.store.tables import ArrivalRow, BatchRow, CompanyRow, MembershipRow, PersonRow, ProjectRow

_MOST_HELD = 2000


class HeldLine(Answered):
    """A held file, oldest first in the tray; `days` since it was held."""

    id: str
    batch_id: str
    version: int
    file_name: str
    number: str
    revision: str
    title: str
    came_from: str
    reason: str
    held_at: datetime
    days: int


class DiscardFiles(Command):
    """`seen` maps each file to the version that was seen."""

    seen: dict[str, int]
    reason: str


class SendBack(Command):
    """`person_id` gets one mail that lists every file with what was found."""

    seen: dict[str, int]
    person_id: str
    note: str = ""


class Senders(Answered):
    """People to whom files of a batch can go back: those of the company they came from first."""

    people: list[Who]


def list_held(context: Context, actor: Actor, project_id: str) -> list[HeldLine]:
    """Everything held in batches into whose folder this person may file."""
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        seat.need(Level.FILE)
        query = (
            select(ArrivalRow, BatchRow.came_from)
            .join(BatchRow, BatchRow.id == ArrivalRow.batch_id)
            .where(
                ArrivalRow.project_id == project_id,
                ArrivalRow.state == "held",
                seat.sees(BatchRow.folder_id, Level.FILE),
            )
            .order_by(ArrivalRow.held_at)
        )
        today = today_in(seat.project, context.clock.now())
        return [
            HeldLine(
                id=row.id, batch_id=row.batch_id, version=row.version, file_name=row.file_name, number=row.number,
                revision=row.revision, title=row.title, came_from=came_from, reason=row.reason, held_at=row.held_at,
                days=(today - today_in(seat.project, row.held_at)).days,
            )
            for row, came_from in session.execute(query.limit(_MOST_HELD))
            if row.held_at
        ]  # fmt: skip


def list_senders(context: Context, actor: Actor, batch_id: str) -> Senders:
    with context.database.read() as session:
        batch, _ = see_batch(session, actor, batch_id)
        query = (
            select(PersonRow.id, CompanyRow.name)
            .join(MembershipRow, MembershipRow.person_id == PersonRow.id)
            .join(CompanyRow, CompanyRow.id == PersonRow.company_id)
            .where(
                MembershipRow.project_id == batch.project_id, MembershipRow.state.in_(("active", "invited", "contact"))
            )
        )
        companies = {person_id: company for person_id, company in session.execute(query)}
        people = people_by_id(session, set(companies))
        authors = _author_companies(session, batch)

        def late(person_id: str, company_name: str, code: str) -> tuple[bool, bool, bool]:
            # One's own files are not sent back to oneself, unless one wants it.
            return person_id == actor.person_id, code not in authors, company_name != batch.came_from

        first = sorted(people.values(), key=lambda who: (*late(who.id, companies[who.id], who.company), who.name))
        return Senders(people=first)


def _author_companies(session: Session, batch: BatchRow) -> set[str]:
    """The companies that the numbers of its files name as their originators."""
    project = session.get_one(ProjectRow, batch.project_id)
    convention = rules_of(project).convention
    rows = session.scalars(select(ArrivalRow.number).where(ArrivalRow.batch_id == batch.id).distinct())
    kept = [convention.split(number) for number in rows if not check_number(convention, number)]
    return {fields["originator"] for fields in kept if "originator" in fields}


def discard_files(context: Context, actor: Actor, batch_id: str, command: DiscardFiles) -> None:
    """The files leave Intake with a reason; their bytes and their lines in the trail stay."""
    reason = command.reason.strip()
    with acting(context, actor) as act:
        batch, _, checked = _seen(act, batch_id, command.seen)
        if not reason:
            raise RuleBroken("reason_missing", "Say why the files are discarded.")
        for each in checked:
            _leave(act, each.row, "discarded", reason)
        act.tell(batch.project_id, "intake", batch.id, {batch.folder_id})


def send_back(context: Context, actor: Actor, batch_id: str, command: SendBack) -> None:
    """The files leave Intake, and whoever sent them reads what was found and what to do."""
    with acting(context, actor) as act:
        batch, project_name, checked = _seen(act, batch_id, command.seen)
        person = _member(act.session, batch.project_id, command.person_id)
        note = command.note.strip()
        for each in checked:
            _leave(act, each.row, "sent_back", _reason(person.name, each, note))
        lines = _letter(person.name, actor.name, batch, project_name, checked, note)
        count = len(checked)
        subject = f"{project_name}: {count} file{'s' if count > 1 else ''} sent back"
        write_mail(act, f"sent_back:{new_id()}", person.id, subject, lines)
        act.tell(batch.project_id, "intake", batch.id, {batch.folder_id})


def _seen(act: Act, batch_id: str, seen: dict[str, int]) -> tuple[BatchRow, str, list[Checked]]:
    batch, seat = see_batch(act.session, act.actor, batch_id)
    query = select(ArrivalRow).where(ArrivalRow.batch_id == batch.id, ArrivalRow.id.in_(seen))
    rows = list(act.session.scalars(query.order_by(ArrivalRow.place)))
    if not rows:
        raise RuleBroken("no_files", "Choose at least one file.", batch.came_from)
    if len(rows) != len(seen):
        raise Stale(batch.came_from)
    for row in rows:
        need_open(row)
        check_version(seen[row.id], row.version, row.file_name)
    return batch, seat.project.name, check_batch(act.session, seat, rows)


def _member(session: Session, project_id: str, person_id: str) -> PersonRow:
    member = session.get(MembershipRow, (project_id, person_id))
    if member is None or member.state == "removed":
        raise NotFound(person_id)
    return session.get_one(PersonRow, person_id)


def _leave(act: Act, row: ArrivalRow, state: str, reason: str) -> None:
    row.state, row.reason, row.version = state, reason, row.version + 1
    kind = {"discarded": FactKind.FILE_DISCARDED, "sent_back": FactKind.FILE_SENT_BACK}[state]
    act.record(row.project_id, Fact(kind, Subject("arrival", row.id), row.file_name, why=reason))


def _found(each: Checked) -> list[str]:
    words = [finding.words for finding in each.findings if finding.weight in ("stop", "look")]
    return [word for word, _ in Counter(words).items() if word]


def _reason(name: str, each: Checked, note: str) -> str:
    return f"Sent back to {name}. " + " ".join([*(_found(each) or []), note]).strip()


def _letter(to: str, by: str, batch: BatchRow, project: str, checked: list[Checked], note: str) -> list[str]:
    count = len(checked)
    files = "this file" if count == 1 else f"these {count} files"
    lines = [f"{to},", "", f"{by} sends back {files} of {project}. They are not in the register.", ""]
    if note:
        lines += [note, ""]
    for each in checked:
        lines.append(each.row.file_name)
        lines += [f"  - {word}" for word in _found(each)] or ["  - see the note above"]
        lines.append("")
    return [*lines, "Please mend what is said above and send again.", f"They came from {batch.came_from}."]
