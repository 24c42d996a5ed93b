"""One submittal on paper: taken as a PDF, or sent by mail to whom one chooses, in one act (handbook §9)."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import date, datetime
from zoneinfo import ZoneInfo

from pydantic import Field

from nod.core.acts.refusals import RuleBroken
from nod.core.acts.told import FileTold
from nod.core.submittals.record import RoundTold, SubmittalRecord
from nod.core.submittals.states import Deed
from nod.core.trail.entries import FactKind, Subject
from nod.services.acts.answers import Answered, Command, named
from nod.services.acts.context import Context, acting
from nod.services.acts.seats import Actor
from nod.services.attachments.attachments import Attachment
from nod.services.files.new_files import keep_made
from nod.services.files.tables_out import Exported
from nod.services.mail.mails import About, Enclosure, write_mail
from nod.services.people.newcomers import ContactToAdd, add_contact
from nod.services.submittals.dossier import LotShown, RoundShown, SubmittalShown, read_submittal
from nod.services.submittals.kind import SUBMITTAL
from nod.services.submittals.making import LONGEST_TEXT, member
from nod.services.submittals.sending_in import NewContact
from nod.services.submittals.submittal_rows import details, enter, quoted, record
from nod.services.submittals.submittal_rows import named as named_row
from nod.services.threads.talk import read_talk
from nod.services.trail.trail import Entry, TrailView, read_log

MOST_SENT_TO = 50
_TOLD = ("who", "verdict", "to", "next", "note")
"""What of an entry stands in the history; the rest is in the trail."""
_MEDIA = "application/pdf"
When = Callable[[datetime | None], str]


class ContactOfCompany(NewContact):
    """Of a company of the directory."""

    company_id: str


class SendRecord(Command):
    """To people of the project, outside contacts with them; and to a `contact`, made on the spot by who runs it."""

    people: list[str] = Field(default_factory=list, max_length=MOST_SENT_TO)
    contact: ContactOfCompany | None = None
    note: str = Field(default="", max_length=LONGEST_TEXT)


class RecordSent(Answered):
    people: int


def take_record(context: Context, actor: Actor, submittal_id: str) -> Exported:
    """As a PDF, of what the actor sees. Each taking is an entry of the trail."""
    made = _made(context, actor, submittal_id)
    with acting(context, actor) as act:
        record(act, enter(act.session, actor, submittal_id).row, FactKind.SUBMITTAL_RECORD_TAKEN)
    return made


def send_record(context: Context, actor: Actor, submittal_id: str, command: SendRecord) -> RecordSent:
    """The PDF goes along. Raises NotFound for who has no part in the project."""
    with context.database.read() as session:
        enter(session, actor, submittal_id).check(Deed.SEND_ON)
    made = _made(context, actor, submittal_id)
    with acting(context, actor) as act:
        entered = enter(act.session, actor, submittal_id)
        entered.check(Deed.SEND_ON)
        row, project = entered.row, entered.seat.project
        stored = context.blobs.put([made.content])
        keep_made(context, act.session, stored, _MEDIA)
        wanted = list(command.people)
        if command.contact is not None:
            given = ContactToAdd(name=command.contact.name, company_id=command.contact.company_id)
            wanted.append(add_contact(act, entered.seat, command.contact.email, given))
        if not wanted:
            raise RuleBroken("nobody_named", "Name at least one person.")
        people = [member(act.session, project, each) for each in dict.fromkeys(wanted)]
        after = {"to": [each.name for each in people], "sha256": stored.sha256}
        if command.note.strip():
            after["note"] = command.note.strip()
        others = [Subject("person", each.id) for each in people]
        record(act, row, FactKind.SUBMITTAL_SENT_ON, after, others=others)
        thing = Subject(SUBMITTAL.code, row.id)
        lines = [
            f"{actor.name} sends you this submittal as it stands now; the PDF goes along.", *quoted(command.note), "",
            *details(act.session, row),
        ]  # fmt: skip
        for each in people:
            key = f"submittal-sent-on:{row.id}:{each.id}:{act.at:%Y%m%dT%H%M%S%f}"
            about = About(project, thing, by_hand=True)
            enclosed = [Enclosure(stored.sha256, made.name, _MEDIA)]
            subject = f"{project.number}: {named_row(row)}"
            write_mail(act, key, each.id, subject, lines, about=about, enclosed=enclosed)
        return RecordSent(people=len(people))


def _made(context: Context, actor: Actor, submittal_id: str) -> Exported:
    from nod.formats.files.submittal_record import write_submittal

    shown = read_submittal(context, actor, submittal_id)
    said = read_talk(context, actor, SUBMITTAL.code, submittal_id).said
    with context.database.read() as session:
        entered = enter(session, actor, submittal_id)
        project = f"{entered.seat.project.number} {entered.seat.project.name}"
        project_id, zone = entered.seat.project.id, ZoneInfo(entered.seat.project.time_zone)
    entries = read_log(context, actor, TrailView(project_id=project_id, subject_id=submittal_id)).entries

    def when(at: datetime | None) -> str:
        return f"{at.astimezone(zone):%-d %b %Y, %H:%M}" if at else ""

    told = SubmittalRecord(
        project=project, number=shown.line.shown, title=shown.line.title, state=_state(shown), facts=_facts(shown),
        clock=_clock(shown), rounds=tuple(_round(each, when) for each in shown.rounds),
        talk=tuple((when(each.at), each.author.name, each.text) for each in said),
        history=tuple(_entry(each, when) for each in entries if not each.private),
        taken=f"Taken by {actor.name} on {when(context.clock.now())} ({zone.key})",
    )  # fmt: skip
    return Exported(write_submittal(told), f"{shown.line.shown.replace(' ', '-')}.pdf", _MEDIA)


def _state(shown: SubmittalShown) -> str:
    line = shown.line
    whom = line.standing.with_whom
    verdict = next((f"{each.code} {each.words}, " for each in shown.verdicts if each.code == line.verdict), "")
    return f"{verdict}{line.state}{f' with {whom}' if whom else ''}"


def _facts(shown: SubmittalShown) -> tuple[tuple[str, str], ...]:
    line = shown.line
    asked = shown.asked_in
    told = [
        ("Kind", f"{line.kind_words}{', for information' if shown.for_information else ''}"),
        ("Responsible", f"{line.company_name}{f', {line.person.name}' if line.person else ''}"),
        ("Section", f"{line.section} {shown.paragraph}".strip()), ("What is wanted", shown.description),
        ("To answer", named(shown.approver) if shown.approver else ""), ("Kept by", named(shown.keeper)),
        ("Required on site", _day(line.required_on)), ("Delivered", _day(line.delivered_on)),
        ("Reference", shown.reference), ("Category", shown.category), ("Location", line.location),
        ("Milestone", line.milestone),
        ("Asked for in", f"{asked.number} {asked.revision}, page {asked.page + 1}" if asked else ""),
        ("Items", ", ".join(f"{each.title} {each.verdict or '(not answered)'}" for each in shown.items)),
        ("Lots", ", ".join(_lot(each) for each in shown.lots)),
        ("Copied in", ", ".join(each.name for each in shown.copied)), ("Why it is void", shown.why_void),
    ]  # fmt: skip
    return tuple((label, words) for label, words in told if words)


def _lot(lot: LotShown) -> str:
    if lot.delivered_on:
        return f"{lot.name} (delivered {_day(lot.delivered_on)})"
    return f"{lot.name} (required {_day(lot.required_on)})" if lot.required_on else lot.name


def _clock(shown: SubmittalShown) -> tuple[tuple[str, str], ...]:
    worked = shown.arithmetic
    told = (("Latest send-in", worked.latest), ("Forecast", worked.forecast), ("Float", worked.float))
    return tuple((label, words) for label, words in told if words)


def _round(shown: RoundShown, when: When) -> RoundTold:
    answered = ""
    if shown.answered_at and shown.answered_by:
        on_behalf = f", on behalf of {named(shown.approver)}" if shown.answered_for and shown.approver else ""
        answered = f"Answered {when(shown.answered_at)} by {named(shown.answered_by)}{on_behalf}"
    elif shown.review:
        answered = f"Goes round in {shown.review.number}, whose outcome answers it"
    elif shown.approver:
        answered = f"With {named(shown.approver)} to answer by {_day(shown.due_on)}"
    return RoundTold(
        head=f"Revision {shown.revision}", sent=f"Sent in {when(shown.sent_at)} by {named(shown.sent_by)}",
        note=shown.note, files=_files(shown.files),
        verdict=f"{shown.verdict.code}  {shown.verdict.words}" if shown.verdict else "", answered=answered,
        answer_note=shown.answer_note, answer_files=_files(shown.answer_files),
    )  # fmt: skip


def _files(files: Sequence[Attachment]) -> tuple[FileTold, ...]:
    return tuple(FileTold(each.name, _size(each.size_bytes), each.sha256) for each in files)


def _size(size: int) -> str:
    """Decimal units, as on the screen."""
    for least, unit in ((1_000_000_000, "GB"), (1_000_000, "MB"), (1000, "kB")):
        if size >= least:
            return f"{size / least:.{0 if unit == 'kB' else 1}f} {unit}"
    return f"{size} B"


def _entry(entry: Entry, when: When) -> tuple[str, str, str]:
    told = [entry.after[key] for key in _TOLD if key in entry.after]
    said = [", ".join(each) if isinstance(each, list) else str(each) for each in told]
    return when(entry.at), f"{entry.who} ({entry.company})", ": ".join(filter(None, [entry.words, *said, entry.why]))


def _day(on: date | None) -> str:
    return f"{on:%-d %b %Y}" if on else ""
