"""What is done with a thread besides writing in it: closed, opened again, answered, kept private, reminded of."""

from __future__ import annotations

from pydantic import Field
from sqlalchemy import update

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.letters.states import Deed, State
from nod.core.trail.entries import FactKind, Subject
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting
from nod.services.acts.seats import Actor
from nod.services.letters.kind import LETTER, MESSAGE
from nod.services.letters.letter_rows import Entered, enter_for, named, record, settle
from nod.services.letters.written import LONGEST_EFFECT
from nod.services.links.part_links import link_for
from nod.services.mail.mails import About, write_mail
from nod.services.notices.notices import Notice, tell_person
from nod.services.things.things import see_thing
from nod.store.tables import LetterRow, MailInRow, MembershipRow, PersonRow, ProjectRow

MOST_AT_ONCE = 200


class SeenLetter(Command):
    version: int


class CloseLetter(Command):
    version: int
    why: str = Field(default="", max_length=LONGEST_EFFECT)


class SetPrivate(Command):
    version: int
    private: bool


class MarkAnswer(Command):
    """`message_id` is what was written in the thread and is the answer."""

    version: int
    message_id: str


class RemindOfLetters(Command):
    """By id, with the version that was seen."""

    letters: dict[str, int] = Field(min_length=1, max_length=MOST_AT_ONCE)
    note: str = Field(default="", max_length=LONGEST_EFFECT)


class LettersReminded(Answered):
    people: int
    letters: int


def close(context: Context, actor: Actor, letter_id: str, command: CloseLetter) -> None:
    """Nobody waits for anything in it any more; it can be opened again."""
    with acting(context, actor) as act:
        entered = enter_for(act, letter_id, command.version, Deed.CLOSE)
        _to(act, entered, State.CLOSED, FactKind.LETTER_CLOSED, command.why.strip())


def reopen(context: Context, actor: Actor, letter_id: str, command: SeenLetter) -> None:
    """It stands as before it was closed."""
    with acting(context, actor) as act:
        entered = enter_for(act, letter_id, command.version, Deed.REOPEN)
        row = entered.row
        before = State.ANSWERED if row.answer_id else State.WANTED if row.asked_id else State.OPEN
        _to(act, entered, before, FactKind.LETTER_OPENED_AGAIN)


def _to(act: Act, entered: Entered, state: State, kind: FactKind, why: str = "") -> None:
    row = entered.row
    before, row.state, row.since_at = row.state, state.value, act.at
    record(act, row, kind, {"state": row.state}, before={"state": before}, why=why)
    settle(act, entered.seat.project, row)


def set_private(context: Context, actor: Actor, letter_id: str, command: SetPrivate) -> None:
    """For its people alone, or for leads and controllers too; mail that was handed to it follows."""
    with acting(context, actor) as act:
        entered = enter_for(act, letter_id, command.version, Deed.PRIVACY)
        row = entered.row
        if row.private == command.private:
            return
        row.private = command.private
        act.session.execute(
            update(MailInRow)
            .where(MailInRow.thing_kind == LETTER.code, MailInRow.thing_id == row.id)
            .values(private=command.private)
        )
        words = "for its people alone" if row.private else "for leads and controllers too"
        record(act, row, FactKind.LETTER_PRIVACY_SET, {"there": words})
        settle(act, entered.seat.project, row)


def mark_answer(context: Context, actor: Actor, letter_id: str, command: MarkAnswer) -> None:
    """Something that was written is the answer: said by whom it was asked of, or for them by who runs the project."""
    with acting(context, actor) as act:
        entered = enter_for(act, letter_id, command.version, Deed.ANSWER)
        row = entered.row
        message, _ = see_thing(act.session, actor, MESSAGE, command.message_id)
        if message.letter_id != row.id or message.sent_at is None:
            raise NotFound(command.message_id)
        if message.place == 1:
            raise RuleBroken("question_is_no_answer", "What asks is not its own answer.", row.number)
        row.answer_id, row.state, row.since_at = message.id, State.ANSWERED.value, act.at
        after = {"answer by": message.author_name, "place": message.place, "state": row.state}
        record(act, row, FactKind.LETTER_ANSWERED, after, others=[Subject(MESSAGE.code, message.id)])
        settle(act, entered.seat.project, row)
        lines = [f"{act.actor.name} says that the answer of {message.author_name} is the one that was asked for."]
        _tell(act, entered.seat.project, row, row.began_by, "answered", lines)


def remind(context: Context, actor: Actor, command: RemindOfLetters) -> LettersReminded:
    """Each who is asked is told once more of what is wanted, in one act."""
    with acting(context, actor) as act:
        people = set()
        for letter_id, version in command.letters.items():
            entered = enter_for(act, letter_id, version, Deed.REMIND)
            row = entered.row
            if row.asked_id is None:
                raise RuleBroken("nobody_to_remind", f"{named(row)} asks nobody by name.", row.number)
            people.add(row.asked_id)
            asked = act.session.get_one(PersonRow, row.asked_id)
            record(act, row, FactKind.LETTER_REMINDED, {"who": asked.name}, others=[Subject("person", asked.id)])
            settle(act, entered.seat.project, row)
            by = f" by {row.due_on:%a %-d %B %Y}" if row.due_on else ""
            note = ["", command.note.strip()] if command.note.strip() else []
            lines = [f"{act.actor.name} reminds you that an answer is wanted of you{by}.", *note]
            _tell(act, entered.seat.project, row, asked.id, "a reminder", lines)
        return LettersReminded(people=len(people), letters=len(command.letters))


def _tell(act: Act, project: ProjectRow, row: LetterRow, person_id: str, what: str, lines: list[str]) -> None:
    key, subject = f"letter-{what}:{row.id}:{row.version}:{person_id}", f"{project.number}: {named(row)}: {what}"
    thing = Subject(LETTER.code, row.id)
    member = act.session.get(MembershipRow, (project.id, person_id))
    if member is not None and member.state == "contact":
        if person_id == act.actor.person_id:
            return
        link = link_for(act, project.id, thing, row.began_by, person_id, "comment")
        text = [*lines, "", "Answer this mail, or open it here without a sign-in:", "{link}"]
        write_mail(act, key, person_id, subject, text, link, about=About(project, thing))
        return
    notice = Notice(key, subject, lines, f"/letters/{row.id}", [thing])
    tell_person(act, project, "letter_mine" if row.asked_id == person_id else "letter", person_id, notice)
