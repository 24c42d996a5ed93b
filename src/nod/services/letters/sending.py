"""A draft is sent: what it must have, who is in the thread from then on, and how it begins (handbook §11)."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from dataclasses import dataclass
from datetime import UTC, date, datetime, time
from typing import Any
from zoneinfo import ZoneInfo

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.acts.working_days import due_on
from nod.core.letters.bars import check_aware, check_served
from nod.core.letters.checking import Check, check_untouched
from nod.core.letters.kinds import LetterKind, kind_named
from nod.core.letters.on_paper import check_days, check_scan
from nod.core.letters.states import Deed, State
from nod.core.trail.entries import Subject
from nod.formats.mail.cleaned import clean
from nod.formats.mail.pages import text_of_page
from nod.services.acts.answers import Answered
from nod.services.acts.context import Act, Context, acting, check_version, project_clock, today_in
from nod.services.acts.seats import Actor, Seat
from nod.services.attachments.attachments import attach
from nod.services.letters.bars import bar_of
from nod.services.letters.drafts import LetterDraftVersion, check_references, forget_unsaid_of, own_draft
from nod.services.letters.kind import MESSAGE
from nod.services.letters.letter_rows import enter, kind_of_row, letter_kinds, parties_of
from nod.services.letters.writing import Party, Said, add_to_thread, number_it, recipient_code
from nod.services.letters.written import LetterWritten, written_in
from nod.services.open_work.open_work import set_open_work
from nod.services.people.newcomers import ContactToAdd, add_contact
from nod.store.tables import (
    CompanyRow,
    LetterMessageRow,
    LetterReferenceRow,
    LetterRow,
    MembershipRow,
    PersonRow,
    ProjectRow,
)


class LetterSent(Answered):
    letter_id: str
    message_id: str
    number: str


@dataclass(frozen=True)
class Draft:
    """A draft as it is about to be sent: `author` wrote it and has `seat`, whoever lets it go."""

    message: LetterMessageRow
    row: LetterRow
    author: Actor
    seat: Seat
    written: LetterWritten

    @property
    def is_new(self) -> bool:
        return self.row.state == State.DRAFT.value

    @property
    def kind(self) -> LetterKind:
        """Raises RuleBroken for one that is not begun any more."""
        project = self.seat.project
        return kind_named(letter_kinds(project), self.written.kind) if self.is_new else kind_of_row(project, self.row)


def send_draft(context: Context, actor: Actor, message_id: str, command: LetterDraftVersion) -> LetterSent:
    """Raises RuleBroken for what is missing, NotFound for somebody who is not in the project."""
    with acting(context, actor) as act:
        draft = whole_draft(act, actor, message_id, command.version)
        check_untouched(draft.message.check_state, checker_name(act.session, draft.message))
        if draft.is_new and draft.kind.looked_at and not draft.written.paper_from:
            words = f"Somebody else looks at a {draft.kind.words} before it goes: name them, and give it to them."
            raise RuleBroken("check_missing", words)
        # Whoever was asked before, and did not let it go, has no part in what is sent.
        draft.message.checker_id, draft.message.checked_at = None, None
        draft.message.check_state, draft.message.check_note = Check.NONE.value, ""
        return send_off(act, draft)


def whole_draft(act: Act, actor: Actor, message_id: str, version: int) -> Draft:
    """One of one's own. Raises NotFound for any other, Stale."""
    message, row, seat = own_draft(act.session, actor, message_id)
    check_version(version, message.version, message.subject)
    return Draft(message, row, actor, seat, written_in(message))


def checker_name(session: Session, message: LetterMessageRow) -> str:
    return session.get_one(PersonRow, message.checker_id).name if message.checker_id else ""


def check_ready(act: Act, draft: Draft) -> None:
    """Raises what sending it would, but for people who have left meanwhile."""
    row, written = draft.row, draft.written
    if not draft.is_new:
        enter(act.session, draft.author, row.id).check(Deed.ANSWER if written.is_answer else Deed.WRITE)
    check_references(act.session, draft.seat, written.references)
    if not text_of_page(clean(written.page)) and not written.files:
        raise RuleBroken("text_missing", "Write something first.")
    if draft.is_new:
        _check_new(act, draft)


def _check_new(act: Act, draft: Draft) -> None:
    written, kind = draft.written, draft.kind
    if len(" ".join(written.subject.split())) < 2:
        raise RuleBroken("subject_missing", "Give it a subject.")
    if not written.to and not any(each.how == "to" for each in written.contacts):
        raise RuleBroken("nobody_named", "Say to whom it goes.")
    if kind.answer_days and kind.asks and not written.asked_id:
        raise RuleBroken("nobody_asked", f"Say who is asked to answer this {kind.words}.")
    if kind.bar and not written.paper_from:
        check_aware(written.aware_on, today_in(draft.seat.project, act.at))


def send_off(act: Act, draft: Draft) -> LetterSent:
    """By whoever wrote it, or whoever looked at it and lets it go."""
    message, row, written, project = draft.message, draft.row, draft.written, draft.seat.project
    check_ready(act, draft)
    given = _since_begun(act.session, row, message, _parties(act, draft))
    told = {"references": len(written.references)}
    told |= _on_paper(act, draft) if written.paper_from else _signed(act, draft)
    message.page = clean(written.page)
    message.text = text_of_page(message.page)
    message.subject, message.begun = " ".join(written.subject.split()), {}
    message.own_ref, message.other_ref = written.own_ref.strip(), written.other_ref.strip()
    if draft.is_new:
        _begin(act, draft, given)
    elif written.asked_id:
        ask_anew(act, project, row, written.asked_id, written.due_on, given)
    told |= _served(act, draft)
    files = attach(act, Subject(MESSAGE.code, message.id), message.id, written.files, draft.author.person_id)
    forget_unsaid_of(act, message, draft.author.person_id)
    for each in written.references:
        act.session.add(LetterReferenceRow(message_id=message.id, kind=each.kind, target=each.target))
    set_open_work(act.session, row.project_id, Subject(MESSAGE.code, message.id), [])
    said = Said(written.is_answer, bool(written.asked_id), files, told)
    add_to_thread(act, project, row, message, given, said, all_of_it=written.all_of_it)
    return LetterSent(letter_id=row.id, message_id=message.id, number=row.number)


def _signed(act: Act, draft: Draft) -> dict[str, Any]:
    """What the trail says of who wrote it, where another lets it go, and of who has signed it."""
    told = {} if act.actor.person_id == draft.author.person_id else {"written by": draft.author.name}
    return told | ({"signed by": draft.message.signatory} if draft.message.signatory else {})


def _on_paper(act: Act, draft: Draft) -> dict[str, Any]:
    """It is from whoever wrote it then; whoever puts it in has begun the thread. For those who run the project: nobody
    else writes in another's name. Raises NotAllowed, RuleBroken, NotFound.
    """
    draft.seat.need_to_run()
    message, written, project = draft.message, draft.written, draft.seat.project
    dated, received = check_days(written.dated_on, written.received_on, today_in(project, act.at))
    check_scan(len(written.files))
    writer = act.session.get(PersonRow, written.paper_from)
    if writer is None or not _is_in_project(act.session, project, writer.id):
        raise NotFound(written.paper_from)
    company = act.session.get_one(CompanyRow, writer.company_id)
    message.way, message.forwarded_by, message.author_id = "paper", draft.author.person_id, writer.id
    message.author_name, message.author_company = writer.name, company.code
    message.dated_on, message.received_on = dated, received
    message.written_at = datetime.combine(dated, time(12), ZoneInfo(project.time_zone)).astimezone(UTC)
    if draft.is_new:
        draft.row.company_id = writer.company_id
    return {"on paper from": writer.name, "dated": dated.isoformat(), "received": received.isoformat()}


def _is_in_project(session: Session, project: ProjectRow, person_id: str) -> bool:
    member = session.get(MembershipRow, (project.id, person_id))
    return member is not None and member.state != "removed"


def _served(act: Act, draft: Draft) -> dict[str, Any]:
    """Of a notice: how and when it was served, as it says. Raises RuleBroken for who may not say so, and a day that
    cannot be.
    """
    row, message, written = draft.row, draft.message, draft.written
    says = bool(written.served_how or written.served_on) or draft.is_new
    if not says or row.aware_on is None or written.paper_from:
        return {}
    if not draft.is_new and row.company_id != draft.author.company_id:
        raise RuleBroken("served_by_others", "How a notice was served says whoever served it.", row.number)
    how, on = check_served(
        written.served_how, written.served_on, row.aware_on, today_in(draft.seat.project, act.at)
    )  # fmt: skip
    message.served_how, message.served_on = how.value, on
    return {"served": how.value, "on": on.isoformat()}


def _parties(act: Act, draft: Draft) -> dict[Party, str]:
    """Who is in it from now on, and whether it goes to them or they are copied in; new contacts are made."""
    written, given = draft.written, dict[Party, str]()
    for each in written.to:
        given[(each.kind, each.id)] = "to"
    for each in written.copied:
        given.setdefault((each.kind, each.id), "copied")
    for contact in written.contacts:
        person_id = add_contact(
            act, draft.seat, contact.email, ContactToAdd(name=contact.name, company_id=contact.company_id)
        )
        given.setdefault(("person", person_id), contact.how)
    check_parties(act, draft.seat.project, given)
    return given


def _since_begun(
    session: Session, row: LetterRow, message: LetterMessageRow, given: dict[Party, str]
) -> dict[Party, str]:  # fmt: skip
    """What was changed while it was written, done to those who are in the thread now: whom another has let in, or taken
    out, since it was begun stays so.
    """
    before = {(each["kind"], each["id"]): each["how"] for each in message.to}
    now = {(each.kind, each.party_id): each.how for each in parties_of(session, row.id)}
    let_in = {party: how for party, how in now.items() if party not in before}
    taken_out = before.keys() - now.keys()
    return {party: how for party, how in given.items() if party not in taken_out} | {
        party: how for party, how in let_in.items() if party not in given
    }


def check_parties(act: Act, project: ProjectRow, given: Iterable[Party]) -> None:
    """Raises NotFound for a person who is not in the project, or a company that has nobody there."""
    for kind, id in given:
        if kind == "person":
            found = act.session.get(MembershipRow, (project.id, id))
            if found is None or found.state == "removed":
                raise NotFound(id)
        else:
            of = select(PersonRow.id).join(MembershipRow, MembershipRow.person_id == PersonRow.id)
            here = (
                MembershipRow.project_id == project.id,
                PersonRow.company_id == id,
                MembershipRow.state != "removed",
            )
            if act.session.scalar(of.where(*here).limit(1)) is None:
                raise NotFound(id)


def _begin(act: Act, draft: Draft, given: dict[Party, str]) -> None:
    kind, row, written, project = draft.kind, draft.row, draft.written, draft.seat.project
    row.kind, row.subject, row.private = kind.code, " ".join(written.subject.split()), written.private
    if kind.asks:
        row.proposed, row.cost_effect, row.time_effect = written.proposed, written.cost_effect, written.time_effect
    if written.asked_id:
        ask_anew(act, project, row, written.asked_id, written.due_on, given)
    if kind.bar and not written.paper_from:
        row.aware_on = check_aware(written.aware_on, today_in(project, act.at))
        row.bar_on = bar_of(act.session, project, kind, row.aware_on)
    number_it(act, row, kind, act.session.get_one(CompanyRow, row.company_id).code, recipient_code(act, given))


def ask_anew(
    act: Act, project: ProjectRow, row: LetterRow, asked_id: str, due: date | None, here: Collection[Party]
) -> None:  # fmt: skip
    """An answer is wanted of somebody to whom it goes, by a day; without one, by what the kind says."""
    person = act.session.get(PersonRow, asked_id)
    if person is None or not (("person", asked_id) in here or ("company", person.company_id) in here):
        raise RuleBroken("asked_not_in_it", "An answer is asked of somebody to whom it goes.", asked_id)
    row.asked_id = asked_id
    row.due_on = due or usual_due(act, project, row)


def usual_due(act: Act, project: ProjectRow, row: LetterRow) -> date | None:
    """By what its kind says, counted from today; None for a kind that wants no answer."""
    kind = kind_of_row(project, row)
    if not kind.answer_days:
        return None
    calendar = project_clock(act.session, project).calendar
    return due_on(today_in(project, act.at), kind.answer_days, kind.counting, calendar)
