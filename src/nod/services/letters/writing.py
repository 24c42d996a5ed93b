"""What is written becomes part of a thread: by whoever it is, in whichever way it came (handbook §11)."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from sqlalchemy import select

from nod.core.letters.numbers import next_letter_number, number_start
from nod.core.letters.sight import added_from
from nod.core.letters.states import State, after_writing
from nod.core.trail.entries import FactKind, Subject
from nod.services.acts.context import Act
from nod.services.letters.delivering import Delivery, deliver
from nod.services.letters.kind import MESSAGE
from nod.services.letters.letter_rows import newest_place, parties_of, record, settle
from nod.store.dialects.sqlite import add_letter_words
from nod.store.tables import (
    CompanyRow,
    LetterMessageRow,
    LetterPartyRow,
    LetterRow,
    PersonRow,
    ProjectRow,
)

Party = tuple[str, str]
"""`person` or `company`, and its id."""


@dataclass(frozen=True)
class Said:
    """What a message brings into its thread besides its words: whether it is the answer, and the files it has."""

    is_answer: bool = False
    wants_answer: bool = False
    files: Sequence[dict[str, str]] = ()
    told: dict[str, Any] = field(default_factory=dict)


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
    _set_parties(act, row, message, given, all_of_it=all_of_it)
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


def _set_parties(
    act: Act, row: LetterRow, message: LetterMessageRow, given: dict[Party, str], *, all_of_it: bool
) -> None:  # fmt: skip
    """As it says from this message on. Who is taken out keeps what was there for them; who is new sees it from here on,
    or all of it. Whoever writes without being in it is copied in.
    """
    session, now = act.session, {(each.kind, each.party_id): each for each in parties_of(act.session, row.id)}
    wanted, place = dict(given), message.place
    author_id = message.author_id or "" if message.way in ("person", "paper") else act.actor.person_id
    author = ("person", author_id)
    if author_id and author_id != row.began_by and author not in wanted:
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
