"""From planned to sent in: asking for submittals, preparing them, sending them in; voiding, copying in, delivering."""

from __future__ import annotations

from datetime import date
from typing import Literal

from pydantic import Field
from sqlalchemy.orm import Session

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.submittals.states import Deed, State
from nod.core.trail.entries import FactKind, Subject
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting, today_in
from nod.services.acts.seats import Actor
from nod.services.attachments.attachments import MOST, attach
from nod.services.people.newcomers import ContactToAdd, add_contact
from nod.services.submittals.filing import ask_to_file, check_content
from nod.services.submittals.kind import SUBMITTAL, companies_now
from nod.services.submittals.making import LONGEST_LINE, LONGEST_TEXT, MOST_AT_ONCE, company_in, enter_all, member
from nod.services.submittals.part_rows import delivered_as_a_whole, lots_of
from nod.services.submittals.submittal_rows import (
    Entered,
    ask_person,
    copied_of,
    enter_for,
    named,
    people_of,
    quoted,
    record,
    settle,
    tell_those,
)
from nod.store.ids import new_id
from nod.store.tables import (
    CompanyRow,
    MembershipRow,
    PersonRow,
    ProjectRow,
    SubmittalCopiedRow,
    SubmittalRoundRow,
    SubmittalRow,
)

_SHORTEST_REASON = 3


class NewContact(Command):
    """Somebody outside who is not in the project yet."""

    name: str = Field(max_length=LONGEST_LINE)
    email: str = Field(max_length=LONGEST_LINE)


class AskFor(Command):
    """By id with the version that was seen; of one person, or of a `contact` of the company, made on the spot."""

    submittals: dict[str, int] = Field(min_length=1, max_length=MOST_AT_ONCE)
    person_id: str = ""
    contact: NewContact | None = None
    note: str = Field(default="", max_length=LONGEST_TEXT)


class RemindOf(Command):
    """Whoever has these now is reminded; what is with nobody who could be is left out."""

    submittals: dict[str, int] = Field(min_length=1, max_length=MOST_AT_ONCE)
    note: str = Field(default="", max_length=LONGEST_TEXT)


class SubmittalsReminded(Answered):
    """How many people of how many submittals."""

    people: int
    submittals: int


class VoidSubmittals(Command):
    submittals: dict[str, int] = Field(min_length=1, max_length=MOST_AT_ONCE)
    reason: str = Field(max_length=LONGEST_TEXT)


class SeenSubmittal(Command):
    version: int


class SendIn(Command):
    """`files` are attachments that were added to the submittal before."""

    version: int
    note: str = Field(default="", max_length=LONGEST_TEXT)
    files: list[str] = Field(default_factory=list, max_length=MOST)


class CopiedParty(Command):
    kind: Literal["person", "company"]
    id: str


class CopyIn(Command):
    """Who is copied in from now on: all of them."""

    version: int
    parties: list[CopiedParty] = Field(max_length=100)


class Deliver(Command):
    """The day it was delivered, or a lot of it; `null` takes it back."""

    version: int
    lot_id: str = ""
    delivered_on: date | None = Field(strict=False)


def ask_for(context: Context, actor: Actor, command: AskFor) -> None:
    """Asks one person for several. Raises RuleBroken for who is not of the company that is responsible."""
    with acting(context, actor) as act:
        entered = enter_all(act, actor, command.submittals, Deed.ASK)
        project = entered[0].seat.project
        person = member(act.session, project, _asked_id(act, entered[0], command))
        for each in entered:
            row = each.row
            _check_company(act.session, row, person)
            row.person_id, row.state, row.since_at = person.id, State.ASKED.value, act.at
            after = {"who": person.name} | ({"note": command.note} if command.note else {})
            record(act, row, FactKind.SUBMITTAL_ASKED, after, others=[Subject("person", person.id)])
        settle(act, project, [each.row for each in entered])
        for each in entered:
            lines = [f"{actor.name} asks you for this submittal.", *quoted(command.note)]
            ask_person(act, each.row, person.id, "you are asked for it", lines)
            tell_those(act, each.row, f"asked {person.name} for it", (), but=[person.id, each.row.approver_id or ""])


def _asked_id(act: Act, entered: Entered, command: AskFor) -> str:
    if command.contact is None:
        return command.person_id
    company = companies_now(act.session, {entered.row.company_id})[entered.row.company_id]
    given = ContactToAdd(name=command.contact.name, company_id=company.id)
    return add_contact(act, entered.seat, command.contact.email, given)


def _check_company(session: Session, row: SubmittalRow, person: PersonRow) -> None:
    company = session.get_one(CompanyRow, row.company_id)
    if person.company_id not in (company.id, company.merged_into):
        words = f"{person.name} is not of {company.name}, which is responsible for {row.number}."
        raise RuleBroken("not_responsible", words, row.number)


def prepare(context: Context, actor: Actor, submittal_id: str, command: SeenSubmittal) -> None:
    """Says that it is being prepared."""
    with acting(context, actor) as act:
        entered = enter_for(act, actor, submittal_id, command.version, Deed.PREPARE)
        entered.row.state = State.PREPARING.value
        record(act, entered.row, FactKind.SUBMITTAL_PREPARED)
        settle(act, entered.seat.project, [entered.row])


def send_in(context: Context, actor: Actor, submittal_id: str, command: SendIn) -> None:
    """Raises RuleBroken without a file."""
    with acting(context, actor) as act:
        entered = enter_for(act, actor, submittal_id, command.version, Deed.SEND_IN)
        send_in_at(act, entered.row, entered.seat.project, command)


def send_in_at(act: Act, row: SubmittalRow, project: ProjectRow, command: SendIn) -> None:
    """By whoever may, as the caller has asked. Raises RuleBroken without a file."""
    if not command.files:
        raise RuleBroken("submittal_empty", "Attach what you send in.", row.number)
    check_content(act.session, command.files)
    sent = SubmittalRoundRow(
        id=new_id(), submittal_id=row.id, revision=row.revision, sent_at=act.at, sent_on=today_in(project, act.at),
        sent_by=act.actor.person_id, note=command.note.strip(), sent_files=new_id(), answer_files=new_id(),
    )  # fmt: skip
    act.session.add(sent)
    files = attach(act, Subject(SUBMITTAL.code, row.id), sent.sent_files, command.files)
    row.state, row.since_at, row.verdict = State.SENT_IN.value, act.at, ""
    after = {"files": files} | ({"note": sent.note} if sent.note else {})
    record(act, row, FactKind.SUBMITTAL_SENT_IN, after)
    ask_to_file(act, sent)
    settle(act, project, [row])
    lines = [f"{act.actor.name} has sent it in.", *quoted(sent.note), "", *(each["name"] for each in files)]
    ask_person(act, row, row.keeper_id, "sent in", lines)
    tell_those(act, row, "sent it in", lines[1:], but=[row.keeper_id])


def void(context: Context, actor: Actor, command: VoidSubmittals) -> None:
    """They stay, with their numbers; nothing is asked of anybody any more."""
    with acting(context, actor) as act:
        entered = enter_all(act, actor, command.submittals, Deed.VOID)
        reason = command.reason.strip()
        if len(reason) < _SHORTEST_REASON:
            raise RuleBroken("reason_missing", "Say why: it stays in the trail.")
        for each in entered:
            before = {"state": each.row.state}
            each.row.state, each.row.why_void = State.VOID.value, reason
            record(act, each.row, FactKind.SUBMITTAL_VOIDED, before=before, why=reason)
        settle(act, entered[0].seat.project, [each.row for each in entered])
        for each in entered:
            tell_those(act, each.row, "voided it", [reason])


def copy_in(context: Context, actor: Actor, submittal_id: str, command: CopyIn) -> None:
    """Raises NotFound for who has no part in the project."""
    with acting(context, actor) as act:
        entered = enter_for(act, actor, submittal_id, command.version, Deed.COPY_IN)
        row = entered.row
        there = {(each.kind, each.party_id): each for each in copied_of(act.session, row.id)}
        wanted = {(each.kind, each.id): _party_name(act.session, row.project_id, each) for each in command.parties}
        before = sorted(_name_of(act.session, *each) for each in there)
        for key in there.keys() - wanted.keys():
            act.session.delete(there[key])
        for kind, id in wanted.keys() - there.keys():
            act.session.add(
                SubmittalCopiedRow(
                    submittal_id=row.id, kind=kind, party_id=id, copied_by=actor.person_id, copied_at=act.at
                )
            )  # fmt: skip
        if there.keys() == wanted.keys():
            return
        others = [Subject(kind, id) for kind, id in wanted]
        after = {"copied in": sorted(wanted.values())}
        record(act, row, FactKind.SUBMITTAL_COPIED_IN, after, before={"copied in": before}, others=others)
        settle(act, entered.seat.project, [row])
        news = wanted.keys() - there.keys()
        if news:
            known = people_of(act.session, there)
            but = {row.keeper_id, row.person_id or "", row.approver_id or "", *known}
            tell_those(act, row, "copied you in on it", (), but=but)


def _party_name(session: Session, project_id: str, party: CopiedParty) -> str:
    if party.kind == "company":
        return company_in(session, project_id, party.id).code
    member_row = session.get(MembershipRow, (project_id, party.id))
    if member_row is None or member_row.state == "removed":
        raise NotFound(party.id)
    return session.get_one(PersonRow, party.id).name


def _name_of(session: Session, kind: str, id: str) -> str:
    return session.get_one(CompanyRow, id).code if kind == "company" else session.get_one(PersonRow, id).name


def deliver(context: Context, actor: Actor, submittal_id: str, command: Deliver) -> None:
    """Says when it was on site: nothing moves any more. Raises RuleBroken for a day to come."""
    with acting(context, actor) as act:
        entered = enter_for(act, actor, submittal_id, command.version, Deed.DELIVER)
        row = entered.row
        if command.delivered_on is not None and command.delivered_on > today_in(entered.seat.project, act.at):
            raise RuleBroken("delivered_later", "That day is still to come.", command.delivered_on.isoformat())
        before = _day(row.delivered_on)
        lot = _deliver_lot(act, row, command)
        after = {"delivered": _day(command.delivered_on if lot else row.delivered_on)} | ({"lot": lot} if lot else {})
        record(act, row, FactKind.SUBMITTAL_DELIVERED, after, before={"delivered": before})
        settle(act, entered.seat.project, [row])


def _day(on: date | None) -> str:
    return on.isoformat() if on else ""


def _deliver_lot(act: Act, row: SubmittalRow, command: Deliver) -> str:
    """The lot's name; empty where it has none, and it is delivered as a whole. Raises RuleBroken where none is said."""
    lots = lots_of(act.session, [row.id]).get(row.id, [])
    lot = next((each for each in lots if each.id == command.lot_id), None)
    if command.lot_id and lot is None:
        raise NotFound(command.lot_id)
    if lot is None and lots:
        raise RuleBroken("lot_missing", "It is delivered in lots. Say which of them.", row.number)
    if lot is None:
        row.delivered_on = command.delivered_on
        return ""
    lot.delivered_on = command.delivered_on
    row.delivered_on = delivered_as_a_whole(lots)
    return lot.name


def remind(context: Context, actor: Actor, command: RemindOf) -> SubmittalsReminded:
    """One act for many: whoever has it is told again, and it is remembered when."""
    with acting(context, actor) as act:
        entered = enter_all(act, actor, command.submittals, Deed.REMIND)
        whom = {each.row.id: _has_it(each) for each in entered}
        for each in entered:
            person_id = whom[each.row.id]
            after = {"who": act.session.get_one(PersonRow, person_id).name}
            record(act, each.row, FactKind.SUBMITTAL_REMINDED, after, others=[Subject("person", person_id)])
        settle(act, entered[0].seat.project, [each.row for each in entered])
        for each in entered:
            lines = [f"{actor.name} reminds you of this submittal.", *quoted(command.note)]
            ask_person(act, each.row, whom[each.row.id], "a reminder", lines)
        return SubmittalsReminded(people=len(set(whom.values())), submittals=len(entered))


def _has_it(entered: Entered) -> str:
    """Whoever it is with by name. Raises RuleBroken where that is nobody."""
    row = entered.row
    found = row.approver_id if entered.state is State.UNDER_REVIEW else row.person_id
    if found is None:
        words = f"{named(row)} is with nobody by name. Ask somebody for it first."
        raise RuleBroken("nobody_to_remind", words, row.number)
    return found
