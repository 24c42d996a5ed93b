"""A thread for other programs and for paper: as PDF, as mbox, a message as EML (handbook §11).

Of what whoever takes it sees; each taking is an entry of the trail.
"""

from __future__ import annotations

import tempfile
from collections.abc import Callable, Collection, Iterator
from contextlib import contextmanager
from datetime import date, datetime
from pathlib import Path
from zoneinfo import ZoneInfo

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import NotFound
from nod.core.acts.told import FileTold
from nod.core.letters.record import LetterRecord, MessageTold
from nod.core.letters.states import State
from nod.core.trail.entries import FactKind, Subject
from nod.formats.mail.compose import Enclosed
from nod.formats.mail.out import MessageOut, write_eml, write_mbox
from nod.services.acts.context import Context, acting
from nod.services.acts.seats import Actor, Seat
from nod.services.attachments.attachments import Attachment
from nod.services.files.files_to_send import FileToSend
from nod.services.letters.kind import MESSAGE
from nod.services.letters.letter_rows import enter, named, record
from nod.services.letters.thread import LetterShown, MessageShown, messages_seen, read_letter
from nod.services.mail.mails import address_for_answers
from nod.services.mail_in.reading import mail_row
from nod.services.things.things import see_thing
from nod.store.tables import AttachmentRow, BlobRow, CompanyRow, LetterMessageRow, LetterRow, PersonRow

When = Callable[[datetime], str]


@contextmanager
def _aside(write: Callable[[Path], object]) -> Iterator[Path]:
    """A file of its own while it is sent, gone afterwards."""
    with tempfile.TemporaryDirectory(prefix="nod-letters-") as folder:
        path = Path(folder) / "out"
        write(path)
        yield path


def take_pdf(context: Context, actor: Actor, letter_id: str) -> FileToSend:
    """What one sees of the thread, with the names and hashes of its files. Raises NotFound, as for a draft."""
    from nod.formats.files.letter_record import write_thread

    shown = read_letter(context, actor, letter_id)
    with context.database.read() as session:
        entered = enter(session, actor, letter_id)
        project = entered.seat.project
        companies = {row.code: row.name for row in session.scalars(select(CompanyRow))}
    zone = ZoneInfo(project.time_zone)

    def when(at: datetime) -> str:
        return f"{at.astimezone(zone):%-d %B %Y, %H:%M}"

    told = LetterRecord(
        project=f"{project.number} {project.name}", number=shown.line.number, subject=shown.line.subject,
        facts=_facts(shown), messages=tuple(_told(each, companies, when) for each in shown.messages),
        taken=f"Taken by {actor.name} on {when(context.clock.now())} ({zone.key})",
    )  # fmt: skip
    made = write_thread(told)
    _note(context, actor, letter_id, "PDF")
    return FileToSend(_aside(lambda path: path.write_bytes(made)), f"{shown.line.number}.pdf", "application/pdf")


def _facts(shown: LetterShown) -> tuple[tuple[str, str], ...]:
    line = shown.line
    whom = f", with {line.standing.with_whom}" if line.standing.with_whom else ""
    told = [
        ("Kind", line.kind_words), ("State", f"{line.state}{whom}"),
        ("Answer wanted by", _day(shown.due_on)), ("Proposed answer", shown.proposed),
        ("Effect on cost", shown.cost_effect), ("Effect on time", shown.time_effect),
        ("Became aware", _day(shown.aware_on)), ("Time bar", _day(shown.bar_on)),
        ("Before this", "There is more before this; it is not shown to whoever took it." if shown.from_here else ""),
    ]  # fmt: skip
    return tuple((label, words) for label, words in told if words)


def _told(each: MessageShown, companies: dict[str, str], when: When) -> MessageTold:
    names = {
        how: ", ".join(f"{to.name} ({to.company})" for to in each.to if to.how == how) for how in ("to", "copied")
    }  # fmt: skip
    by = each.forwarded_by.name if each.forwarded_by else ""
    way = {"mail": "by mail", "link": "by link", "paper": f"on paper, put in by {by}", "person": ""}[each.way]
    on_paper = f"{_day(each.dated_on)}, received {_day(each.received_on)}" if each.way == "paper" else ""
    spare = f", {each.spare_days} d before the time bar" if each.spare_days is not None else ""
    told = [
        ("From", f"{each.author_name}{f' <{each.author_email}>' if each.author_email else ''}"),
        ("Date", on_paper or when(each.written_at)), ("To", names["to"]), ("Copied", names["copied"]), ("Came", way),
        ("Sent on by", by if each.way == "mail" else ""), ("Our reference", each.own_ref),
        ("Your reference", each.other_ref),
        ("Served", f"{each.served_how}, {_day(each.served_on)}{spare}" if each.served_on else ""),
    ]  # fmt: skip
    return MessageTold(
        companies.get(each.author_company, each.author_company), tuple((label, words) for label, words in told if
        words), each.text, each.is_answer, each.signatory, tuple(_file(file) for file in each.files), )  # fmt: skip


def _day(day: date | None) -> str:
    return f"{day:%-d %B %Y}" if day else ""


def _file(each: Attachment) -> FileTold:
    return FileTold(each.name, f"{each.size_bytes:,} bytes", each.sha256)


def take_mbox(context: Context, actor: Actor, letter_id: str) -> FileToSend:
    """All that one sees of the thread in one file; what came by mail as it came."""
    number = _note(context, actor, letter_id, "mbox")

    def write(path: Path) -> None:
        with context.database.read() as session:
            entered = enter(session, actor, letter_id)
            write_mbox(path, _Mails(context, session, entered.seat, entered.row).all())

    return FileToSend(_aside(write), f"{number}.mbox", "application/mbox")


def take_eml(context: Context, actor: Actor, message_id: str) -> FileToSend:
    """One message; what came by mail as it came. Raises NotFound, as for a draft."""
    with context.database.read() as session:
        message, seat = see_thing(session, actor, MESSAGE, message_id)
        if message.sent_at is None:
            raise NotFound(message_id)
        row = session.get_one(LetterRow, message.letter_id)
        raw = _Mails(context, session, seat, row).of(message)
    _note(context, actor, row.id, "EML", message_id)
    name = f"{row.number}-{message.place}.eml"
    return FileToSend(_aside(lambda path: path.write_bytes(raw)), name, "message/rfc822")


def _note(context: Context, actor: Actor, letter_id: str, form: str, message_id: str = "") -> str:
    """An entry of the trail; returns its number. Raises NotFound for a draft."""
    with acting(context, actor) as act:
        row = enter(act.session, actor, letter_id).row
        if row.state == State.DRAFT.value:
            raise NotFound(letter_id)
        others = [Subject(MESSAGE.code, message_id)] if message_id else []
        record(act, row, FactKind.LETTER_TAKEN_OUT, {"as": form}, others=others)
        return row.number


class _Mails:
    """A thread as mails, for one who sees it."""

    def __init__(self, context: Context, session: Session, seat: Seat, row: LetterRow) -> None:
        self._context, self._session, self._seat, self._row = context, session, seat, row
        self._messages = messages_seen(session, seat, row)
        self._project_address = address_for_answers(context, seat.project)

    def all(self) -> Iterator[tuple[bytes, datetime]]:
        """With when each was written, the earlier first."""
        for each in self._messages:
            yield self.of(each), each.written_at

    def of(self, message: LetterMessageRow) -> bytes:
        """The mail as it came, where it came by mail; otherwise made of what was written."""
        mail = mail_row(self._session, message.mail_id) if message.mail_id else None
        if mail is not None:
            with self._context.blobs.local(mail.sha256) as path:
                return path.read_bytes()
        before = [each for each in self._messages if each.place < message.place]
        author = (message.author_name, self._addresses([message.author_id or ""])[message.author_id or ""])
        return write_eml(
            MessageOut(
                message_id=self._id(message), sender=author, to=self._named(message, "to"),
                copied=self._named(message, "copied"), subject=named(self._row), at=message.written_at,
                text=message.text, page=message.page if message.way == "person" else "",
                references=[self._id(each) for each in before], enclosed=self._enclosed(message.id),
            )
        )  # fmt: skip

    def _id(self, message: LetterMessageRow) -> str:
        return f"<{message.id}@{self._context.settings.resolved_mail_domain}>"

    def _addresses(self, ids: Collection[str]) -> dict[str, str]:
        """People's own for those who run the project, who know them; for others the project's, as in Nod's mails."""
        if not self._seat.runs:
            return dict.fromkeys(ids, self._project_address)
        query = select(PersonRow.id, PersonRow.email).where(PersonRow.id.in_(ids))
        return dict.fromkeys(ids, self._project_address) | {id: email for id, email in self._session.execute(query)}

    def _named(self, message: LetterMessageRow, how: str) -> list[tuple[str, str]]:
        """People and companies; a company has the project's address."""
        there = [each for each in message.to if each["how"] == how]
        addresses = self._addresses([each["id"] for each in there])
        return [(each["name"], addresses[each["id"]]) for each in there]

    def _enclosed(self, message_id: str) -> list[Enclosed]:
        query = (
            select(AttachmentRow, BlobRow.media_type)
            .join(BlobRow, BlobRow.sha256 == AttachmentRow.sha256)
            .where(AttachmentRow.reply_id == message_id)
            .order_by(AttachmentRow.seq)
        )
        found = []
        for row, media in self._session.execute(query):
            with self._context.blobs.local(row.sha256) as path:
                found.append(Enclosed(row.name, media, path.read_bytes()))
        return found
