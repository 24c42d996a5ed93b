"""The mail of a project, for those who run it: what is held and why, what became of the rest, what came back."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from sqlalchemy import func, or_, select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.mail.judging import Fate
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.formats.mail.arrived import ArrivedMail
from nod.services.acts.answers import Answered, Command, Who, people_by_id
from nod.services.acts.context import Act, Context, acting, check_version
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.services.files.files_to_send import FileToSend
from nod.services.files.new_files import NewBlob, store_file
from nod.services.mail.mails import address_for_answers
from nod.services.mail_in.answers import is_shown, may_begin, thing_row
from nod.services.mail_in.door import READ
from nod.services.mail_in.kind import MAIL
from nod.services.mail_in.reading import TOO_SLOW, begin_thread, hand_on, mail_row, opened, stored_files
from nod.services.people.newcomers import ContactToAdd, add_contact
from nod.services.press.press import Press
from nod.services.things.things import Thing, any_seen, see_thing, tell_thing, things_of
from nod.store import journal
from nod.store.tables import MailInRow, MailOutRow, MembershipRow

MOST = 300
Tab = Literal["held", "taken", "back"]
_OPEN = ("held", "new")


class MailLine(Answered):
    """A mail that came in. `state` is `held`, `let_go`, `new` while it is not read, or what became of it.

    `why` is a sentence: why it is held, or what it tells.
    """

    id: str
    from_name: str
    from_email: str
    subject: str
    arrived_at: datetime
    state: str
    why: str
    files: int
    thing: Thing | None


class CameBack(Answered):
    """A mail that did not reach its reader; `why` follows “came back:”. `subject` is empty without a thing."""

    id: str
    to: Who
    email: str
    subject: str
    written_at: datetime
    came_back_at: datetime
    why: str
    thing: Thing | None


class Mailbox(Answered):
    """The latest first, at most 300. `address` is the project's own; `held` are to be decided."""

    address: str
    held: int
    mails: list[MailLine]
    back: list[CameBack]


class MailRead(Answered):
    """A mail to be read: `text` with its `folds` (pairs of places), and `page`, cleaned HTML, where it has one."""

    line: MailLine
    version: int
    to: list[str]
    sent_at: datetime | None
    text: str
    folds: list[list[int]]
    page: str
    fault: str
    names: list[str]
    sha256: str
    size_bytes: int
    sender_known: bool
    decided_by: Who | None
    decided_at: datetime | None


class MailVersion(Command):
    version: int


class FileMail(Command):
    """`kind` and `target` name the thing to which it is handed, as an answer of its sender; empty for a new thread."""

    version: int
    kind: str
    target: str


class AddSender(Command):
    version: int
    contact: ContactToAdd


class LetGo(Command):
    version: int
    why: str = ""


def read_mailbox(context: Context, actor: Actor, project_id: str, tab: Tab) -> Mailbox:
    """Raises NotAllowed but for those who run the project."""
    with context.database.read() as session:
        seat = _run(session, actor, project_id)
        return Mailbox(
            address=address_for_answers(context, seat.project),
            held=count_held(session, project_id),
            mails=[] if tab == "back" else _lines(session, seat, tab),
            back=_back(session, seat) if tab == "back" else [],
        )


def _run(session: Session, actor: Actor, project_id: str) -> Seat:
    seat = take_seat(session, actor, project_id)
    seat.need_to_run()
    return seat


def count_held(session: Session, project_id: str) -> int:
    query = select(func.count()).where(MailInRow.project_id == project_id, MailInRow.state == Fate.HELD.value)
    return session.scalar(query) or 0


def _lines(session: Session, seat: Seat, tab: Tab) -> list[MailLine]:
    query = select(MailInRow).where(MailInRow.project_id == seat.project.id, MAIL.seen(seat))
    state = MailInRow.state.in_(_OPEN) if tab == "held" else MailInRow.state.not_in(_OPEN)
    rows = list(session.scalars(query.where(state).order_by(MailInRow.seq.desc()).limit(MOST)))
    return _shown(session, seat, rows)


def _shown(session: Session, seat: Seat, rows: list[MailInRow]) -> list[MailLine]:
    things = things_of(session, seat, {(row.thing_kind, row.thing_id) for row in rows if row.thing_id})
    return [
        MailLine(
            id=row.id, from_name=row.sender_name, from_email=row.sender_email, subject=row.subject,
            arrived_at=row.arrived_at, state=row.state, why=row.why, files=len(row.files),
            thing=things.get((row.thing_kind, row.thing_id)),
        )
        for row in rows
    ]  # fmt: skip


def _back(session: Session, seat: Seat) -> list[CameBack]:
    """But for those about what is not there for the seat."""
    there = or_(MailOutRow.thing_id == "", any_seen(seat, MailOutRow.thing_kind, MailOutRow.thing_id))
    query = select(MailOutRow).where(
        MailOutRow.project_id == seat.project.id, MailOutRow.trouble_at.is_not(None), there
    )
    rows = list(session.scalars(query.order_by(MailOutRow.trouble_at.desc()).limit(MOST)))
    people = people_by_id(session, {row.person_id for row in rows})
    things = things_of(session, seat, {(row.thing_kind, row.thing_id) for row in rows if row.thing_id})
    return [
        CameBack(
            id=row.id, to=people[row.person_id], email=row.email, subject=row.subject if row.thing_id else "",
            written_at=row.written_at, came_back_at=row.trouble_at or row.written_at, why=row.trouble,
            thing=things.get((row.thing_kind, row.thing_id)),
        )
        for row in rows
    ]  # fmt: skip


def read_mail(context: Context, press: Press, actor: Actor, mail_in_id: str) -> MailRead:
    """Raises NotFound for what is not there for this person."""
    with context.database.read() as session:
        row, seat = _see(session, actor, mail_in_id)
        line = _shown(session, seat, [row])[0]
        who = people_by_id(session, {row.decided_by}) if row.decided_by else {}
        decided_by = who.get(row.decided_by or "")
        known = bool(row.sender_id and _member(session, row.project_id, row.sender_id))
        kept = (row.version, row.sha256, row.size_bytes, row.decided_at, row.why == TOO_SLOW)
    version, sha256, size_bytes, decided_at, slow = kept
    with opened(context, press, sha256, slow=slow) as (mail, _):
        return MailRead(
            line=line, version=version, to=[email for _, email in mail.to], sent_at=mail.sent_at, text=mail.text,
            folds=[list(each) for each in mail.folds], page=mail.page, fault=mail.fault,
            names=[each.name for each in mail.files], sha256=sha256, size_bytes=size_bytes, sender_known=known,
            decided_by=decided_by, decided_at=decided_at,
        )  # fmt: skip


def _see(session: Session, actor: Actor, mail_in_id: str) -> tuple[MailInRow, Seat]:
    """Raises NotFound for what is not there, NotAllowed but for those who run the project."""
    row = mail_row(session, mail_in_id)
    if row is None:
        raise NotFound(mail_in_id)
    seat = _run(session, actor, row.project_id)
    see_thing(session, actor, MAIL, mail_in_id)
    return row, seat


def _member(session: Session, project_id: str, person_id: str) -> bool:
    member = session.get(MembershipRow, (project_id, person_id))
    return member is not None and member.state != "removed"


def file_mail(context: Context, press: Press, actor: Actor, mail_in_id: str, command: FileMail) -> None:
    """Hands a held mail to a thing, as an answer of its sender. Raises Stale, or RuleBroken for what is not held."""
    with context.database.read() as session:
        row, _ = _see(session, actor, mail_in_id)
        sha256, slow = row.sha256, row.why == TOO_SLOW
    with opened(context, press, sha256, slow=slow) as (mail, into):
        files = stored_files(context, mail, into)
        if mail.fault:
            # What cannot be taken apart goes along whole.
            with context.blobs.local(sha256) as path:
                files = [("mail.eml", store_file(context, "mail.eml", [path.read_bytes()]))]
        with acting(context, actor) as act:
            row, _ = _held(act, mail_in_id, command.version)
            after = _hand_over(act, row, mail, files, command)
            _decided(act, row)
            _record(act, row, FactKind.MAIL_HANDED_ON, {**after, "from": row.sender_email, "sha256": row.sha256})


def _hand_over(
    act: Act, row: MailInRow, mail: ArrivedMail, files: list[tuple[str, NewBlob]], command: FileMail
) -> dict[str, str]:
    """To what it names, or as a new thread; returns what the trail says of it."""
    if not command.kind:
        if not may_begin(act.session, row.project_id, act.actor.person_id):
            raise RuleBroken("nothing_begun", "Letters are not in use here, or not for you.", MAIL.title(row))
        begin_thread(act, row, mail, files)
        row.state = Fate.BEGUN.value
        return {"to": "a new thread"}
    thing = Subject(command.kind, command.target)
    kind, _ = thing_row(act.session, thing)
    target, _ = see_thing(act.session, act.actor, kind, thing.id)
    if target.project_id != row.project_id:
        raise NotFound(command.target)
    row.state = Fate.ANSWER.value
    return {"to": kind.name(target), "meant": hand_on(act, row, mail, files, thing)}


def add_sender(context: Context, actor: Actor, mail_in_id: str, command: AddSender) -> None:
    """Adds its sender as an outside contact; then the mail is judged again, as if it had come now."""
    with acting(context, actor) as act:
        row, seat = _held(act, mail_in_id, command.version)
        if not row.sender_email:
            raise RuleBroken("no_sender", "This mail does not say who sent it.", MAIL.title(row))
        add_contact(act, seat, row.sender_email, command.contact)
        row.state, row.why = "new", ""
        _decided(act, row)
        act.session.flush()
        journal.ask(act.session, act.at, READ, f"{READ}:{row.id}:{row.version}", {"mail_in_id": row.id})
        _record(act, row, FactKind.MAIL_JUDGED_AGAIN, {"from": row.sender_email, "sha256": row.sha256})


def let_go(context: Context, actor: Actor, mail_in_id: str, command: LetGo) -> None:
    """It is not handed to anything. The bytes stay, and it can be held again."""
    with acting(context, actor) as act:
        row, _ = _held(act, mail_in_id, command.version)
        row.state = "let_go"
        _decided(act, row)
        _record(act, row, FactKind.MAIL_LET_GO, {"from": row.sender_email, "sha256": row.sha256}, command.why.strip())


def hold_again(context: Context, actor: Actor, mail_in_id: str, command: MailVersion) -> None:
    """Takes back that it was let go."""
    with acting(context, actor) as act:
        row, _ = _see(act.session, actor, mail_in_id)
        check_version(command.version, row.version, MAIL.title(row))
        if row.state != "let_go":
            raise RuleBroken("not_let_go", "This mail was not let go.", MAIL.title(row))
        row.state = Fate.HELD.value
        _decided(act, row)
        _record(act, row, FactKind.MAIL_HELD_AGAIN, {})


def download_mail(context: Context, actor: Actor, mail_in_id: str) -> FileToSend:
    """The bytes as they came: for those who run the project, and for who sees the thing that it was handed to."""
    with acting(context, actor) as act:
        row = mail_row(act.session, mail_in_id)
        if row is None:
            raise NotFound(mail_in_id)
        try:
            see_thing(act.session, actor, MAIL, mail_in_id)
        except NotFound:
            if not row.thing_id or row.state not in (Fate.ANSWER.value, Fate.BEGUN.value):
                raise
            kind, _ = thing_row(act.session, Subject(row.thing_kind, row.thing_id))
            see_thing(act.session, actor, kind, row.thing_id)
            if not is_shown(act.session, actor, Subject(row.thing_kind, row.thing_id), mail_in_id):
                raise
        # Named with what it was handed to, so that who took it sees it in the log of that.
        on = Subject(row.thing_kind, row.thing_id) if row.thing_id else Subject("mail", row.id)
        act.record(row.project_id, Fact(FactKind.MAIL_DOWNLOADED, on, MAIL.title(row), after={"sha256": row.sha256}))
        return FileToSend(context.blobs.local(row.sha256), f"mail-{row.arrived_at:%Y%m%d-%H%M}.eml", "message/rfc822")


def _held(act: Act, mail_in_id: str, version: int) -> tuple[MailInRow, Seat]:
    row, seat = _see(act.session, act.actor, mail_in_id)
    check_version(version, row.version, MAIL.title(row))
    if row.state != Fate.HELD.value:
        raise RuleBroken("not_held", "This mail is not held any more.", MAIL.title(row))
    return row, seat


def _decided(act: Act, row: MailInRow) -> None:
    row.decided_by, row.decided_at = act.actor.person_id, act.at
    row.version += 1


def _record(act: Act, row: MailInRow, kind: FactKind, after: dict[str, str], why: str = "") -> None:
    act.record(row.project_id, Fact(kind, Subject("mail", row.id), MAIL.title(row), after=after, why=why))
    tell_thing(act, MAIL, row)
