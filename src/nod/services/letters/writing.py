"""What is written becomes part of a thread: by whoever it is, in whichever way it came (handbook §11)."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.acts.working_days import due_on
from nod.core.letters.kinds import kind_named
from nod.core.letters.numbers import next_letter_number, number_start
from nod.core.letters.sight import added_from
from nod.core.letters.states import Deed, State, after_writing
from nod.core.trail.entries import FactKind, Subject
from nod.formats.mail.cleaned import clean
from nod.formats.mail.pages import text_of_page
from nod.services.acts.answers import Answered
from nod.services.acts.context import Act, Context, acting, check_version, project_clock, today_in
from nod.services.acts.seats import Actor
from nod.services.attachments.attachments import attach
from nod.services.letters.delivering import Delivery, deliver
from nod.services.letters.drafts import (
    LetterDraftVersion,
    LetterWritten,
    check_references,
    forget_unsaid_of,
    own_draft,
    written_in,
)
from nod.services.letters.kind import MESSAGE
from nod.services.letters.letter_rows import (
    enter,
    kind_of_row,
    letter_kinds,
    newest_place,
    parties_of,
    record,
    settle,
)
from nod.services.people.newcomers import ContactToAdd, add_contact
from nod.store.dialects.sqlite import add_letter_words
from nod.store.tables import (
    CompanyRow,
    LetterMessageRow,
    LetterPartyRow,
    LetterReferenceRow,
    LetterRow,
    MembershipRow,
    PersonRow,
    ProjectRow,
)

Party = tuple[str, str]
"""`person` or `company`, and its id."""


class LetterSent(Answered):
    letter_id: str
    message_id: str
    number: str


@dataclass(frozen=True)
class Said:
    """What a message brings into its thread besides its words: whether it is the answer, and the files it has."""

    is_answer: bool = False
    wants_answer: bool = False
    files: Sequence[dict[str, str]] = ()
    told: dict[str, Any] = field(default_factory=dict)


def send_draft(context: Context, actor: Actor, message_id: str, command: LetterDraftVersion) -> LetterSent:
    """Raises RuleBroken for what is missing, NotFound for somebody who is not in the project."""
    with acting(context, actor) as act:
        message, row, seat = own_draft(act.session, actor, message_id)
        check_version(command.version, message.version, message.subject)
        written = written_in(message)
        is_new = row.state == State.DRAFT.value
        if not is_new:
            enter(act.session, actor, row.id).check(Deed.ANSWER if written.is_answer else Deed.WRITE)
        check_references(act.session, seat, written.references)
        given = _since_begun(act.session, row, message, _parties(act, seat.project, written, seat))
        _fill(message, written)
        if is_new:
            _begin(act, seat.project, row, written, given)
        elif written.asked_id:
            ask_anew(act, seat.project, row, written.asked_id, written.due_on, given)
        files = attach(act, Subject(MESSAGE.code, message.id), message.id, written.files)
        forget_unsaid_of(act, message)
        for each in written.references:
            act.session.add(LetterReferenceRow(message_id=message.id, kind=each.kind, target=each.target))
        add_to_thread(
            act, seat.project, row, message, given,
            Said(written.is_answer, bool(written.asked_id), files, {"references": len(written.references)}),
            all_of_it=written.all_of_it,
        )  # fmt: skip
        return LetterSent(letter_id=row.id, message_id=message.id, number=row.number)


def _parties(act: Act, project: ProjectRow, written: LetterWritten, seat: Any) -> dict[Party, str]:
    """Who is in it from now on, and whether it goes to them or they are copied in; new contacts are made."""
    given: dict[Party, str] = {}
    for each in written.to:
        given[(each.kind, each.id)] = "to"
    for each in written.copied:
        given.setdefault((each.kind, each.id), "copied")
    for contact in written.contacts:
        person_id = add_contact(
            act, seat, contact.email, ContactToAdd(name=contact.name, company_id=contact.company_id)
        )
        given.setdefault(("person", person_id), contact.how)
    check_parties(act, project, given)
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


def _fill(message: LetterMessageRow, written: LetterWritten) -> None:
    """Raises RuleBroken where nothing is written and nothing goes along."""
    message.page = clean(written.page)
    message.text = text_of_page(message.page)
    if not message.text and not written.files:
        raise RuleBroken("text_missing", "Write something first.")
    message.subject, message.begun = " ".join(written.subject.split()), {}


def _begin(act: Act, project: ProjectRow, row: LetterRow, written: LetterWritten, given: dict[Party, str]) -> None:
    kind = kind_named(letter_kinds(project), written.kind)
    subject = " ".join(written.subject.split())
    if len(subject) < 2:
        raise RuleBroken("subject_missing", "Give it a subject.")
    if not any(how == "to" for how in given.values()):
        raise RuleBroken("nobody_named", "Say to whom it goes.")
    row.kind, row.subject, row.private = kind.code, subject, written.private
    if kind.asks:
        row.proposed, row.cost_effect, row.time_effect = written.proposed, written.cost_effect, written.time_effect
    if written.asked_id:
        ask_anew(act, project, row, written.asked_id, written.due_on, given)
    elif kind.answer_days and kind.asks:
        raise RuleBroken("nobody_asked", f"Say who is asked to answer this {kind.words}.")
    number_it(act, row, kind, act.session.get_one(CompanyRow, row.company_id).code, recipient_code(act, given))


def recipient_code(act: Act, given: dict[Party, str]) -> str:
    """The code of the first company that it goes to; empty where it goes to nobody."""
    first = next((party for party, how in given.items() if how == "to"), None)
    if first is None:
        return ""
    kind, id = first
    company_id = id if kind == "company" else act.session.get_one(PersonRow, id).company_id
    return act.session.get_one(CompanyRow, company_id).code


def number_it(act: Act, row: LetterRow, kind: Any, sender: str, recipient: str) -> None:
    """The next one of its line, whoever may see those before."""
    start = number_start(kind, sender, recipient)
    taken = act.session.scalars(
        select(LetterRow.number).where(
            LetterRow.project_id == row.project_id, LetterRow.number.startswith(f"{start}-", autoescape=True)
        )
    )
    row.number = next_letter_number(start, taken)


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


def add_to_thread(
    act: Act, project: ProjectRow, row: LetterRow, message: LetterMessageRow, given: dict[Party, str], said: Said, *,
    all_of_it: bool = False, reached: Iterable[str] = (),
) -> None:  # fmt: skip
    """The message takes its place, the thread stands anew, everybody in it is told. `reached` have it already."""
    session = act.session
    is_new = row.sent_at is None
    message.place, message.sent_at = newest_place(session, row.id) + 1, act.at
    if message.way == "person":
        message.written_at = act.at
    message.version += 1
    row.last_at = act.at
    session.flush()
    before = {(each.kind, each.party_id) for each in parties_of(session, row.id)}
    _set_parties(act, row, given, message.place, all_of_it=all_of_it)
    message.to = _named_parties(act, row, message)
    row.state = after_writing(State(row.state), is_answer=said.is_answer, wants_answer=said.wants_answer).value
    row.sent_at = row.sent_at or act.at
    if said.is_answer:
        row.answer_id = message.id
    if said.is_answer or said.wants_answer:
        row.since_at = act.at
    add_letter_words(session, message.seq, " ".join([row.number, row.subject, message.text, *_names(said.files)]))
    _note(act, row, message, said, before, is_new=is_new)
    settle(act, project, row)
    deliver(act, Delivery(project, row, message, said.files, said.is_answer, set(reached)))


def _names(files: Sequence[dict[str, str]]) -> list[str]:
    return [each["name"] for each in files]


def _set_parties(act: Act, row: LetterRow, given: dict[Party, str], place: int, *, all_of_it: bool) -> None:
    """As it says from this message on. Who is taken out keeps what was there for them; who is new sees it from here on,
    or all of it. Whoever writes without being in it is copied in.
    """
    session, now = act.session, {(each.kind, each.party_id): each for each in parties_of(act.session, row.id)}
    wanted = dict(given)
    author = ("person", act.actor.person_id)
    if act.actor.person_id and act.actor.person_id != row.began_by and author not in wanted:
        wanted[author] = now[author].how if author in now else "copied"
    for party, there in now.items():
        if party not in wanted:
            there.last_place = place - 1
    first = 0 if place == 1 else added_from(place, all_of_it=all_of_it)
    for rank, ((kind, id), how) in enumerate(wanted.items()):
        if (kind, id) in now:
            now[(kind, id)].how, now[(kind, id)].rank = how, rank
        else:
            session.merge(
                LetterPartyRow(
                    letter_id=row.id, kind=kind, party_id=id, first_place=first, how=how, rank=rank,
                    last_place=None, added_by=act.actor.person_id or None, added_at=act.at,
                )
            )  # fmt: skip
    session.flush()


def _named_parties(act: Act, row: LetterRow, message: LetterMessageRow) -> list[dict[str, str]]:
    """As the message shows to whom it went, whatever becomes of their names: all but its author."""
    given = [(each.kind, each.party_id, each.how) for each in parties_of(act.session, row.id)]
    if ("person", row.began_by) not in {(kind, id) for kind, id, _ in given}:
        given = [("person", row.began_by, "to"), *given]
    return [
        {"kind": kind, "id": id, "how": how, **_names_of(act, kind, id)}
        for kind, id, how in given
        if (kind, id) not in (("person", message.author_id), ("person", message.forwarded_by))
    ]


def _names_of(act: Act, kind: str, id: str) -> dict[str, str]:
    if kind == "company":
        company = act.session.get_one(CompanyRow, id)
        return {"name": company.name, "company": company.code}
    person = act.session.get_one(PersonRow, id)
    return {"name": person.name, "company": act.session.get_one(CompanyRow, person.company_id).code}


def _note(
    act: Act, row: LetterRow, message: LetterMessageRow, said: Said, before: set[Party], *, is_new: bool
) -> None:  # fmt: skip
    kind = FactKind.LETTER_SENT if is_new else FactKind.LETTER_ANSWERED if said.is_answer else FactKind.LETTER_WRITTEN
    now = {(each.kind, each.party_id) for each in parties_of(act.session, row.id)}
    names = {party: _words_of(_names_of(act, *party)) for party in now}
    after: dict[str, Any] = {
        "message": message.id, "place": message.place, "text": message.text[:4000], "state": row.state,
        **said.told,
    }  # fmt: skip
    if added := sorted(names[each] for each in now - before):
        after["to" if is_new else "added"] = added
    if gone := before - now:
        after["taken out"] = len(gone)
    if said.files:
        after["files"] = list(said.files)
    if row.due_on and row.state == State.WANTED.value:
        after["answer wanted by"] = row.due_on.isoformat()
    others = [Subject("person", id) for kind, id in now if kind == "person"]
    record(act, row, kind, after, others=[Subject(MESSAGE.code, message.id), *others])


def _words_of(named: dict[str, str]) -> str:
    return f"{named['name']} ({named['company']})"


def begun_by_mail_at(written_at: datetime | None, now: datetime) -> datetime:
    """When a mail was written, as it says; not after it came."""
    return min(written_at, now) if written_at else now
