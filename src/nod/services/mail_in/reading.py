"""Mail that was taken in is read, and becomes what it is: an answer, news of another mail, or held for a controller."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.mail.judging import Fate, Known, judge
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.formats.mail.arrived import ArrivedMail
from nod.services.acts.context import Act, Context
from nod.services.acts.seats import NOBODY, actor_of
from nod.services.acts.work import Concern, Job, Lane, Payload, work
from nod.services.files.new_files import NewBlob, store_file
from nod.services.mail_in.answers import MailAnswer, begin_by_mail, may_answer, may_begin, take_answer
from nod.services.mail_in.bounces import Refusal, note_bounce
from nod.services.mail_in.door import READ
from nod.services.mail_in.kind import MAIL
from nod.services.press.press import Press, PressStopped
from nod.services.things.things import audience_of_thing, tell_thing
from nod.services.threads.said import ByMail
from nod.store.tables import CompanyRow, MailInRow, MailOutRow, MembershipRow, PersonRow

TOO_SLOW = "It could not be read in the time that is given to a mail."
_COUNTS = tuple(each.value for each in (Fate.ANSWER, Fate.BEGUN, Fate.BOUNCE, Fate.NEWS, Fate.AUTOMATIC))
"""What became of a mail so that another one with its identifier is the same, or none."""
_FILED = (Fate.ANSWER, Fate.BEGUN)
"""What it says, and its files, are in Nod."""


@dataclass(frozen=True)
class Belongs:
    """What a mail belongs to, and the mail of Nod's that it answers, if it answers one."""

    thing: Subject
    sent: MailOutRow | None


@contextmanager
def opened(context: Context, press: Press, sha256: str, *, slow: bool = False) -> Iterator[tuple[ArrivedMail, Path]]:
    """A mail, and a directory with its files for as long as the block lasts. A `slow` one is not tried again."""
    server = context.settings.mail_server
    with tempfile.TemporaryDirectory(dir=context.settings.data_dir) as name, context.blobs.local(sha256) as path:
        into = Path(name)
        try:
            mail = ArrivedMail(fault=TOO_SLOW) if slow else press.mail(path, into, server)
        except PressStopped:
            mail = ArrivedMail(fault=TOO_SLOW)
        yield mail, into


def _concerns(session: Session, payload: Payload) -> list[Concern]:
    row = mail_row(session, payload["mail_in_id"])
    if row is None:
        return []
    about = f"a mail that came {row.arrived_at:%-d %b %H:%M} UTC"
    return [Concern(row.project_id, Subject("mail", row.id), about, f"/mail?mail={row.id}")]


def mail_row(session: Session, mail_in_id: str) -> MailInRow | None:
    return session.scalars(select(MailInRow).where(MailInRow.id == mail_in_id)).one_or_none()


@work(READ, Lane.LOOK, "reading a mail that came in", _concerns)
def read_mail_in(job: Job, payload: Payload) -> None:
    """Harmless when done twice: what has been decided stays."""
    context = job.context
    with context.database.read() as session:
        row = mail_row(session, payload["mail_in_id"])
        if row is None or row.state != "new":
            return
        sha256 = row.sha256
    with opened(context, job.press, sha256) as (mail, into):
        with context.database.read() as session:
            row = mail_row(session, payload["mail_in_id"])
            fate, _ = judge(_known(session, context, row, mail)) if row else (Fate.HELD, "")
        files = stored_files(context, mail, into) if fate in _FILED else []
        with context.database.write() as session:
            act = Act(context, session, NOBODY, context.clock.now())
            row = mail_row(session, payload["mail_in_id"])
            if row is not None and row.state == "new":
                _decide(act, row, mail, files)


def stored_files(context: Context, mail: ArrivedMail, into: Path) -> list[tuple[str, NewBlob]]:
    """Stored, and not yet anybody's; again with no harm."""
    found = []
    for each in mail.files:
        path = into / each.place
        if path.is_file():
            found.append((each.name, store_file(context, each.name, [path.read_bytes()])))
    return found


def _decide(act: Act, row: MailInRow, mail: ArrivedMail, files: list[tuple[str, NewBlob]]) -> None:
    session = act.session
    _fill(session, row, mail)
    fate, why = judge(_known(session, act.context, row, mail))
    row.state, row.why = fate.value, why
    meant = ""
    if fate in _FILED and mail.files and not files:
        raise LookupError("somebody changed what it belongs to meanwhile; it is read again")
    if fate is Fate.ANSWER:
        meant = _answer(act, row, mail, files)
    elif fate is Fate.BEGUN:
        begin_thread(_as_sender(act, row), row, mail, files)
    elif fate in (Fate.BOUNCE, Fate.NEWS):
        _note_report(act, row, mail)
    session.flush()
    _record(act, row, meant)
    tell_thing(act, MAIL, row)


def _fill(session: Session, row: MailInRow, mail: ArrivedMail) -> None:
    name, email = mail.senders[0] if mail.senders else ("", "")
    row.message_id, row.subject, row.sent_at = mail.message_id[:500], mail.subject, mail.sent_at
    row.sender_name, row.sender_email = name or email, email[:320]
    person = _person(session, email)
    row.sender_id = person.id if person else None
    row.files = [{"name": each.name, "media_type": each.media_type} for each in mail.files]


def _person(session: Session, email: str) -> PersonRow | None:
    return session.scalars(select(PersonRow).where(PersonRow.email == email)).one_or_none() if email else None


def _known(session: Session, context: Context, row: MailInRow, mail: ArrivedMail) -> Known:
    """All that the judgement rests on, read from what there is."""
    email = mail.senders[0][1] if mail.senders else ""
    person = _person(session, email)
    same, other = _before(session, row, mail)
    belongs = belongs_to(session, row, mail)
    reported = _reported(session, row, mail)
    return Known(
        fault=mail.fault,
        same_before=same,
        other_before=other,
        report=mail.report.outcome if mail.report else "",
        report_of_ours=reported is not None,
        automatic=mail.automatic or row.envelope_from == "<>",
        own=email == context.settings.mail_from or _left_from_here(session, mail),
        sender_count=len(mail.senders),
        sender=_standing(session, row.project_id, person),
        failed_check=mail.failed_check,
        to_thing=belongs is not None,
        may_answer=bool(belongs and person and may_answer(session, belongs.thing, person.id, belongs.sent)),
        may_begin=bool(person and not belongs and may_begin(session, row.project_id, person.id)),
    )


def _standing(session: Session, project_id: str, person: PersonRow | None) -> str:
    member = session.get(MembershipRow, (project_id, person.id)) if person else None
    if member is None or person is None:
        return ""
    if member.state == "removed" or person.state == "removed":
        return "removed"
    return "contact" if member.state == "contact" else "person"


def _before(session: Session, row: MailInRow, mail: ArrivedMail) -> tuple[bool, bool]:
    """Whether the same mail came to this project before, and whether another one with its identifier did.

    A server that was not sure sends the same bytes again; a second way adds its own lines above, so the sender, the
    date and the subject say whether it is the same. Who was held or let go keeps the true one not out.
    """
    earlier = select(MailInRow).where(MailInRow.project_id == row.project_id, MailInRow.seq < row.seq)
    if session.scalars(earlier.where(MailInRow.sha256 == row.sha256).limit(1)).first():
        return True, False
    if not mail.message_id:
        return False, False
    known = session.scalars(earlier.where(MailInRow.message_id == mail.message_id, MailInRow.state.in_(_COUNTS))).all()
    email = mail.senders[0][1] if mail.senders else ""
    names = [each.name for each in mail.files]
    same = [
        each
        for each in known
        if (each.sender_email, each.subject, each.sent_at) == (email, mail.subject, mail.sent_at)
        and [file["name"] for file in each.files] == names
    ]
    return bool(same), bool(known) and not same


def _left_from_here(session: Session, mail: ArrivedMail) -> bool:
    sent = select(MailOutRow.id).where(MailOutRow.message_id == mail.message_id)
    return bool(mail.message_id) and session.scalar(sent) is not None


def belongs_to(session: Session, row: MailInRow, mail: ArrivedMail) -> Belongs | None:
    """By the address for answers, then by the mails that it names as answered; never by its subject."""
    sent = session.get(MailOutRow, row.answers_id) if row.answers_id else None
    if sent is None or not sent.thing_id:
        sent = _sent_with(session, row.project_id, mail.ids) or sent
    if sent is not None and sent.thing_id:
        return Belongs(Subject(sent.thing_kind, sent.thing_id), sent)
    query = select(MailInRow).where(
        MailInRow.project_id == row.project_id, MailInRow.message_id.in_(mail.ids), MailInRow.thing_id != "",
        MailInRow.state.in_([each.value for each in _FILED]),
    )  # fmt: skip
    came = {each.message_id: each for each in session.scalars(query)}
    nearest = next((came[each] for each in mail.ids if each in came), None)
    return Belongs(Subject(nearest.thing_kind, nearest.thing_id), None) if nearest else None


def _sent_with(session: Session, project_id: str, ids: tuple[str, ...]) -> MailOutRow | None:
    """The nearest of these mails that left from this project about a thing."""
    query = select(MailOutRow).where(
        MailOutRow.project_id == project_id, MailOutRow.message_id.in_(ids), MailOutRow.thing_id != ""
    )
    found = {each.message_id: each for each in session.scalars(query)}
    return next((found[each] for each in ids if each in found), None)


def _reported(session: Session, row: MailInRow, mail: ArrivedMail) -> MailOutRow | None:
    """The mail of which a report speaks: by its Message-ID, or because the report came back to its address."""
    if mail.report is None:
        return None
    query = select(MailOutRow).where(
        MailOutRow.project_id == row.project_id, MailOutRow.message_id == (mail.report.of_id or "-")
    )
    found = session.scalars(query).one_or_none()
    return found or (session.get(MailOutRow, row.answers_id) if row.answers_id else None)


def _note_report(act: Act, row: MailInRow, mail: ArrivedMail) -> None:
    sent = _reported(act.session, row, mail)
    if sent is None or mail.report is None:
        return
    if sent.thing_id:
        _lead_to(act.session, row, Subject(sent.thing_kind, sent.thing_id))
    lines = [each for each in mail.report.lines if each.action == mail.report.outcome]
    refusal = Refusal(lines[0].status, lines[0].said)
    if mail.report.outcome == "failed":
        note_bounce(act, sent, refusal, {"told by": row.sha256})
    else:
        late = "It is late, and tried again" if mail.report.outcome == "delayed" else "It has arrived"
        row.why = f"{late}: {sent.subject}, to {sent.email}."


def _answer(act: Act, row: MailInRow, mail: ArrivedMail, files: list[tuple[str, NewBlob]]) -> str:
    belongs = belongs_to(act.session, row, mail)
    if belongs is None:
        raise LookupError("an answer without a thing")
    return hand_on(_as_sender(act, row), row, mail, files, belongs.thing, belongs.sent)


def _as_sender(act: Act, row: MailInRow) -> Act:
    if row.sender_id is None:
        raise LookupError("a mail without a sender")
    return Act(act.context, act.session, actor_of(act.session, row.sender_id, "mail"), act.at)


def begin_thread(act: Act, row: MailInRow, mail: ArrivedMail, files: list[tuple[str, NewBlob]]) -> None:
    """A thread of its own out of a mail, whoever it is that files it."""
    answer = MailAnswer(_said(act.session, row, mail), files, mail=mail)
    _lead_to(act.session, row, begin_by_mail(act, row.project_id, answer))


def hand_on(
    act: Act, row: MailInRow, mail: ArrivedMail, files: list[tuple[str, NewBlob]], thing: Subject,
    sent: MailOutRow | None = None,
) -> str:  # fmt: skip
    """To a thing, as an answer of its sender, whoever it is that hands it on; returns what it meant, in words."""
    _lead_to(act.session, row, thing)
    said = _said(act.session, row, mail)
    return take_answer(act, thing, MailAnswer(said, files, sent.written_at if sent else None, mail))


def _said(session: Session, row: MailInRow, mail: ArrivedMail) -> ByMail:
    person = session.get(PersonRow, row.sender_id) if row.sender_id else None
    company = session.get_one(CompanyRow, person.company_id).code if person else ""
    return ByMail(
        mail.text, list(mail.folds), row.id, person.id if person else "", person.name if person else row.sender_name,
        company, row.arrived_at, row.sha256,
    )  # fmt: skip


def _lead_to(session: Session, row: MailInRow, thing: Subject) -> None:
    """What is about something that is kept from those who run the project is kept from them, too."""
    row.thing_kind, row.thing_id = thing.kind, thing.id
    audience = audience_of_thing(session, thing)
    row.private = audience is not None and not (audience.leads and audience.stewards)


def _record(act: Act, row: MailInRow, meant: str) -> None:
    after = {
        "from": row.sender_email, "subject": row.subject, "message-id": row.message_id, "sha256": row.sha256,
        "became": _BECAME[Fate(row.state)],
    } | ({"because": row.why} if row.why else {}) | ({"meant": meant} if meant else {})  # fmt: skip
    name = MAIL.title(row)
    act.record(row.project_id, Fact(FactKind.MAIL_READ, Subject("mail", row.id), name, after=after))


_BECAME = {
    Fate.ANSWER: "an answer", Fate.BEGUN: "a thread of its own", Fate.BOUNCE: "word of a mail that came back",
    Fate.NEWS: "news of a mail",
    Fate.AUTOMATIC: "an automatic reply", Fate.DUPLICATE: "the same as before", Fate.HELD: "held",
}  # fmt: skip
