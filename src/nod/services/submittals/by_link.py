"""A submittal by a link: what an outside contact is asked, its rounds with their files, and sending in or answering.

Nothing else of the project is there for them. They act as themselves: the link is mailed to them alone, and the trail
says that they came by it.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime

from pydantic import Field
from sqlalchemy.orm import Session

from nod.core.acts.once import Once
from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.submittals.numbers import shown_number
from nod.core.submittals.parts import MOST_PARTS
from nod.core.submittals.states import NOT_SENT, Deed, Party, State, check, may
from nod.core.trail.entries import Subject
from nod.services.acts.answers import Answered, Command, VerdictShown, Who, people_by_id, show_verdicts
from nod.services.acts.context import Act, Context, check_version
from nod.services.acts.once import take_key
from nod.services.acts.tries import key_of, take_one
from nod.services.attachments.attachments import (
    MOST,
    Attachment,
    attached_to,
    attachments_of,
    count_unsaid,
    forget_added,
    keep_added,
    send_attached,
)
from nod.services.files.files_to_send import FileToSend
from nod.services.files.new_files import store_file
from nod.services.links.rooms import LinkRoom, link_room
from nod.services.links.visits import Guest, guest_of
from nod.services.submittals.answering import AnswerSubmittal, answer_at
from nod.services.submittals.dossier import SubmittalItem, items_shown
from nod.services.submittals.kind import SUBMITTAL, companies_now
from nod.services.submittals.making import LONGEST_TEXT
from nod.services.submittals.outlooks import submittal_rules
from nod.services.submittals.outside import names_person
from nod.services.submittals.sending_in import SendIn, send_in_at
from nod.services.submittals.submittal_rows import last_round, rounds_of, tell_those
from nod.store.tables import SubmittalRow

_MOST_DOWNLOADS, _MOST_ADDED = 600, 200


def _heard(act: Act, row: SubmittalRow, _name: str, text: str) -> None:
    tell_those(act, row, "wrote about it", ["", text])


link_room(
    LinkRoom(SUBMITTAL.code, ("look", "comment", "send", "answer"), lambda seat, row: False, names_person, _heard)
)
"""Links to it go to the contacts whom it names, with the mail, and to nobody else."""


class GuestRound(Answered):
    """One sending in and its answer."""

    revision: int
    sent_at: datetime
    sent_by: Who
    note: str
    files: list[Attachment]
    approver: Who | None
    verdict: VerdictShown | None
    answer_note: str
    answer_files: list[Attachment]
    answered_at: datetime | None


class GuestSubmittal(Answered):
    """`wanted` of the guest now: `send in`, `answer`, or nothing. `due_on`: the day for that. Rounds, the latest first.

    `kind` in words. `revision` is what is sent in next, or was last.
    """

    id: str
    version: int
    project: str
    number: str
    revision: int
    title: str
    kind: str
    section: str
    paragraph: str
    description: str
    reference: str
    location: str
    company: str
    required_on: date | None
    state: str
    guest: str
    given_by: Who
    wanted: str
    due_on: date | None
    verdicts: list[VerdictShown]
    items: list[SubmittalItem]
    rounds: list[GuestRound]


@dataclass(frozen=True)
class PartInSubmittal:
    """A guest who may look at it, and their place in it."""

    guest: Guest
    row: SubmittalRow
    party: Party

    @property
    def _how(self) -> dict[str, bool]:
        return {"for_information": self.row.for_information, "on_route": self.row.review_id is not None}

    def may(self, deed: Deed) -> bool:
        return may(State(self.row.state), self.party, deed, **self._how)

    def check(self, deed: Deed) -> None:
        """Raises NotAllowed or RuleBroken where they may not do this now."""
        check(State(self.row.state), self.party, deed, **self._how)


def part_of(context: Context, session: Session, secret: str) -> PartInSubmittal:
    """Raises NotFound for a visit to anything else, or when it is over. Asked anew at every act."""
    guest = guest_of(context, session, secret)
    person_id = guest.link.person_id
    if guest.kind.code != SUBMITTAL.code or person_id is None:
        raise NotFound
    row = guest.row
    party = Party(responsible=person_id == row.person_id, approver=person_id == row.approver_id)
    return PartInSubmittal(guest, row, party)


def read_submittal(context: Context, secret: str) -> GuestSubmittal:
    with context.database.read() as session:
        part = part_of(context, session, secret)
        row, project = part.row, part.guest.project
        verdicts = show_verdicts(project.rules["verdict_set"], "")
        wanted = _wanted(part)
        kinds = {each.code: each.words for each in submittal_rules(project).kinds}
        return GuestSubmittal(
            id=row.id, version=row.version, project=f"{project.number} {project.name}",
            number=shown_number(row.number, row.revision), revision=row.revision, title=row.title,
            kind=kinds.get(row.kind, row.kind), section=row.section, paragraph=row.paragraph,
            description=row.description, reference=row.reference, location=row.location,
            company=companies_now(session, {row.company_id})[row.company_id].name, required_on=row.required_on,
            state=row.state, guest=part.guest.name, given_by=people_by_id(session, {row.keeper_id})[row.keeper_id],
            wanted=wanted, due_on=_due(session, row, wanted), verdicts=verdicts, rounds=_rounds(session, row, verdicts),
            items=items_shown(session, project, row),
        )  # fmt: skip


def _wanted(part: PartInSubmittal) -> str:
    """Planned ones are sent in too, if somebody is early."""
    return next((deed.value for deed in (Deed.SEND_IN, Deed.ANSWER) if part.may(deed)), "")


def _due(session: Session, row: SubmittalRow, wanted: str) -> date | None:
    if wanted == Deed.ANSWER.value:
        last = last_round(session, row)
        return last.due_on if last else None
    return row.latest_on if State(row.state) in NOT_SENT else None


def _rounds(session: Session, row: SubmittalRow, verdicts: list[VerdictShown]) -> list[GuestRound]:
    rows, by_code = rounds_of(session, row.id), {each.code: each for each in verdicts}
    people = people_by_id(session, {each for row in rows for each in (row.sent_by, row.approver_id) if each})
    files = attachments_of(session, [each for row in rows for each in (row.sent_files, row.answer_files)])
    return [
        GuestRound(
            revision=each.revision, sent_at=each.sent_at, sent_by=people[each.sent_by], note=each.note,
            files=files.get(each.sent_files, []), approver=people.get(each.approver_id or ""),
            verdict=by_code.get(each.verdict), answer_note=each.answer_note,
            answer_files=files.get(each.answer_files, []), answered_at=each.answered_at,
        )
        for each in reversed(rows)
    ]  # fmt: skip


def add_file(context: Context, secret: str, name: str, chunks: Iterable[bytes]) -> Attachment:
    """For what the guest is about to send in or answer. Raises NotAllowed or RuleBroken where nothing is asked."""
    with context.database.write() as session:
        part = part_of(context, session, secret)
        _check_asked(part)
        take_one(session, key_of("guest file", part.guest.link.id), _MOST_ADDED, part.guest.act.at)
    blob = store_file(context, name, chunks)
    with context.database.write() as session:
        part = part_of(context, session, secret)
        _check_asked(part)
        if count_unsaid(part.guest.act, Subject(SUBMITTAL.code, part.row.id)) >= MOST:
            raise RuleBroken("too_many_files", f"Up to {MOST} files are attached at once.")
        return keep_added(part.guest.act, SUBMITTAL, part.row, name, blob)


def _check_asked(part: PartInSubmittal) -> None:
    if not _wanted(part):
        part.check(Deed.ANSWER if part.party.approver else Deed.SEND_IN)


def remove_file(context: Context, secret: str, attachment_id: str) -> None:
    """One that they added and have not sent yet. Raises NotFound for any other."""
    with context.database.write() as session:
        part = part_of(context, session, secret)
        forget_added(part.guest.act, SUBMITTAL, part.row, attachment_id)


def download_file(context: Context, secret: str, attachment_id: str) -> FileToSend:
    """A file of one of its rounds. An entry of the trail."""
    with context.database.write() as session:
        part = part_of(context, session, secret)
        take_one(session, key_of("guest download", part.guest.link.id), _MOST_DOWNLOADS, part.guest.act.at)
        replies = {each for row in rounds_of(session, part.row.id) for each in (row.sent_files, row.answer_files)}
        row = attached_to(session, attachment_id, replies)
        return send_attached(part.guest.act, row, SUBMITTAL.name(part.row))


def send_in(context: Context, secret: str, command: SendIn, once: Once | None = None) -> None:
    """Raises as sending in by somebody signed in does."""
    with context.database.write() as session:
        part = _to_do(context, session, secret, Deed.SEND_IN, command.version, once)
        send_in_at(part.guest.act, part.row, part.guest.project, command)


class GuestAnswers(Command):
    """As its approver answers in Nod; for nobody else."""

    version: int
    verdict: str
    note: str = Field(default="", max_length=LONGEST_TEXT)
    files: list[str] = Field(default_factory=list, max_length=MOST)
    items: dict[str, str] = Field(default_factory=dict, max_length=MOST_PARTS)


def answer(context: Context, secret: str, command: GuestAnswers, once: Once | None = None) -> None:
    """Raises as answering by somebody signed in does."""
    with context.database.write() as session:
        part = _to_do(context, session, secret, Deed.ANSWER, command.version, once)
        answer_at(part.guest.act, part.row, part.guest.project, AnswerSubmittal(**command.model_dump()))


def _to_do(
    context: Context, session: Session, secret: str, deed: Deed, version: int, once: Once | None
) -> PartInSubmittal:  # fmt: skip
    part = part_of(context, session, secret)
    if once:
        take_key(session, part.guest.visit_id, once, part.guest.act.at)
    part.guest.need("send" if deed is Deed.SEND_IN else "answer")
    part.check(deed)
    check_version(version, part.row.version, part.row.number)
    return part
