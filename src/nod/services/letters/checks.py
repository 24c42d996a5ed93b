"""A second pair of eyes: a draft is given to somebody who lets it go, signs it, or gives it back (handbook §11).

Who looked at it is for whoever wrote it to know and to prove; those whom it goes to see who has signed it, nothing
else of the way there.
"""

from __future__ import annotations

from collections.abc import Sequence

from pydantic import Field

from nod.core.acts.refusals import NotAllowed, RuleBroken
from nod.core.letters.checking import Check, check_looked_at, check_untouched
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.answers import Command
from nod.services.acts.context import Act, Context, acting, check_version
from nod.services.acts.seats import Actor, actor_of, take_seat
from nod.services.letters.drafts import LetterDraftVersion, any_draft, own_draft
from nod.services.letters.kind import LETTER, MESSAGE
from nod.services.letters.sending import (
    Draft,
    LetterSent,
    check_ready,
    checker_name,
    send_off,
    whole_draft,
)
from nod.services.letters.work_kinds import CHECK, RETURNED
from nod.services.letters.written import LONGEST_EFFECT, written_in
from nod.services.notices.notices import Notice, tell_person
from nod.services.open_work.open_work import Wanted, set_open_work
from nod.services.things.things import tell_thing
from nod.store.tables import LetterMessageRow, LetterRow, MembershipRow, ProjectRow


class GiveBack(Command):
    version: int
    note: str = Field(max_length=LONGEST_EFFECT)


def ask_check(context: Context, actor: Actor, message_id: str, command: LetterDraftVersion) -> None:
    """It is with whom the draft names, who lets it go or gives it back; until then nothing of it is changed. Raises
    what sending it would, and RuleBroken for somebody who cannot open it.
    """
    with acting(context, actor) as act:
        draft = whole_draft(act, actor, message_id, command.version)
        message, project = draft.message, draft.seat.project
        check_untouched(message.check_state, checker_name(act.session, message))
        check_ready(act, draft)
        checker_id = draft.written.checker_id
        _check_may_look(act, project, checker_id, actor)
        message.checker_id, message.check_state, message.check_note = checker_id, Check.ASKED.value, ""
        message.checked_at = act.at
        _settle(act, message, [Wanted(CHECK.code, [checker_id], waiter_id=actor.person_id, since_at=act.at)])
        _note(act, message, FactKind.LETTER_CHECK_ASKED, {"who": checker_name(act.session, message)})
        wish = "sign it" if draft.written.signs else "look at it before it goes"
        lines = [f"{actor.name} asks you to {wish}. If you let it go, it is sent at once, as it is."]
        _tell(act, project, message, checker_id, "before it goes", lines)


def _check_may_look(act: Act, project: ProjectRow, checker_id: str, author: Actor) -> None:
    member = act.session.get(MembershipRow, (project.id, checker_id))
    if not checker_id or checker_id == author.person_id:
        raise RuleBroken("checker_missing", "Say who looks at it: somebody else than whoever wrote it.")
    if member is None or member.state != "active":
        raise RuleBroken("checker_unfit", "Whoever looks at it signs in to the project.", checker_id)
    if LETTER.tool not in take_seat(act.session, actor_of(act.session, checker_id), project.id).tools:
        raise RuleBroken("checker_unfit", "They have no access to letters.", checker_id)


def take_back(context: Context, actor: Actor, message_id: str, command: LetterDraftVersion) -> None:
    """To go on writing, while somebody looks at it."""
    with acting(context, actor) as act:
        message, _, _ = own_draft(act.session, actor, message_id)
        check_version(command.version, message.version, message.subject)
        check_looked_at(message.check_state)
        message.check_state = Check.NONE.value
        _settle(act, message, [])
        _note(act, message, FactKind.LETTER_TAKEN_BACK, {"from": checker_name(act.session, message)})


def give_back(context: Context, actor: Actor, message_id: str, command: GiveBack) -> None:
    """To whoever wrote it, with what is to change. Raises RuleBroken without a word on that."""
    with acting(context, actor) as act:
        message, _, project = _with_me(act, actor, message_id, command.version)
        note = command.note.strip()
        if not note:
            raise RuleBroken("note_missing", "Say what is to change.")
        author_id = message.author_id or ""
        message.check_state, message.check_note = Check.RETURNED.value, note
        _settle(act, message, [Wanted(RETURNED.code, [author_id], since_at=act.at)])
        _note(act, message, FactKind.LETTER_GIVEN_BACK, {"by": actor.name, "note": note})
        _tell(act, project, message, author_id, "given back", [f"{actor.name} gives it back to you:", "", note])


def let_go(context: Context, actor: Actor, message_id: str, command: LetterDraftVersion) -> LetterSent:
    """It is sent as it is, in the name of whoever wrote it; signed by whoever lets it go where that was asked. Raises
    what sending it would.
    """
    with acting(context, actor) as act:
        message, row, project = _with_me(act, actor, message_id, command.version)
        author = actor_of(act.session, message.author_id or "", actor.came_from)
        draft = Draft(message, row, author, take_seat(act.session, author, project.id), written_in(message))
        message.check_state, message.check_note, message.checked_at = Check.NONE.value, "", act.at
        message.signatory = actor.name if draft.written.signs else ""
        _note(act, message, FactKind.LETTER_LET_GO, {"by": actor.name})
        sent = send_off(act, draft)
        told = "signed it, and it is sent" if message.signatory else "let it go, and it is sent"
        _tell(act, project, message, author.person_id, "sent", [f"{actor.name} {told} as {sent.number}."])
        return sent


def _with_me(
    act: Act, actor: Actor, message_id: str, version: int
) -> tuple[LetterMessageRow, LetterRow, ProjectRow]:  # fmt: skip
    """A draft that one was asked to look at. Raises NotFound for any other, NotAllowed for one's own."""
    message, row, seat = any_draft(act.session, actor, message_id)
    if message.author_id == actor.person_id:
        raise NotAllowed("own_letter", "Somebody else than whoever wrote it lets it go, or gives it back.")
    check_looked_at(message.check_state)
    check_version(version, message.version, message.subject)
    return message, row, seat.project


def _settle(act: Act, message: LetterMessageRow, wanted: Sequence[Wanted]) -> None:
    message.version += 1
    set_open_work(act.session, message.project_id, Subject(MESSAGE.code, message.id), wanted)
    tell_thing(act, MESSAGE, message)


def _note(act: Act, message: LetterMessageRow, kind: FactKind, after: dict[str, str]) -> None:
    """For whoever wrote it alone: those whom it goes to have no part in how it came about."""
    about, subject = MESSAGE.title(message), Subject(MESSAGE.code, message.id)
    act.record(message.project_id, Fact(kind, subject, about, after=after, private_to=message.author_id or ""))


def _tell(
    act: Act, project: ProjectRow, message: LetterMessageRow, person_id: str, what: str, lines: list[str]
) -> None:  # fmt: skip
    key = f"letter-check:{message.id}:{message.version}:{what}"
    subject = f"{project.number}: {MESSAGE.title(message)}: {what}"
    notice = Notice(key, subject, lines, MESSAGE.address(message), [Subject(MESSAGE.code, message.id)])
    tell_person(act, project, "letter_check", person_id, notice)
