"""From sent in to closed: giving a submittal to somebody to answer, the answer, the close (handbook §9)."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date, datetime
from typing import Any

from pydantic import Field
from sqlalchemy.orm import Session

from nod.core.acts.answer_times import answer_by, received_on, term_for
from nod.core.acts.refusals import RuleBroken
from nod.core.acts.working_days import Counting, due_on
from nod.core.submittals.parts import MOST_PARTS, verdict_of_items
from nod.core.submittals.states import Deed, State
from nod.core.trail.entries import FactKind, Subject
from nod.services.acts.answers import Command, VerdictShown, show_verdicts
from nod.services.acts.context import Act, Context, acting, project_clock, today_in
from nod.services.acts.seats import Actor
from nod.services.attachments.attachments import MOST, attach
from nod.services.reviews.contract import terms_of
from nod.services.submittals.kind import SUBMITTAL
from nod.services.submittals.making import LONGEST_TEXT, member
from nod.services.submittals.outlooks import same_pace
from nod.services.submittals.part_rows import items_of, open_items_of
from nod.services.submittals.submittal_rows import (
    ask_person,
    enter_for,
    last_round,
    quoted,
    record,
    settle,
    tell_those,
)
from nod.store.tables import CompanyRow, PersonRow, ProjectRow, SubmittalItemAnswerRow, SubmittalRoundRow, SubmittalRow


class GiveToAnswer(Command):
    version: int
    person_id: str
    note: str = Field(default="", max_length=LONGEST_TEXT)


class AnswerSubmittal(Command):
    """`files` are attachments that were added before: an answer has at least one.

    `items`: the verdict of each open item, if it has items; left out, `verdict` counts for all of them.
    `on_behalf`: entered by who runs the project, of whom it was asked, with what they answered attached.
    """

    version: int
    verdict: str
    note: str = Field(default="", max_length=LONGEST_TEXT)
    files: list[str] = Field(default_factory=list, max_length=MOST)
    items: dict[str, str] = Field(default_factory=dict, max_length=MOST_PARTS)
    on_behalf: bool = False


class CloseSubmittal(Command):
    version: int
    note: str = Field(default="", max_length=LONGEST_TEXT)


def give(context: Context, actor: Actor, submittal_id: str, command: GiveToAnswer) -> None:
    """Raises RuleBroken for who is of the company that sent it in."""
    with acting(context, actor) as act:
        entered = enter_for(act, actor, submittal_id, command.version, Deed.GIVE)
        row, project = entered.row, entered.seat.project
        person = member(act.session, project, command.person_id)
        company = act.session.get_one(CompanyRow, row.company_id)
        if person.company_id in (company.id, company.merged_into):
            words = f"{person.name} is of {company.name}, which sent it in, and cannot answer it."
            raise RuleBroken("answers_own", words, person.name)
        sent = round_of(act.session, row)
        sent.approver_id, sent.approver_company_id = person.id, person.company_id
        sent.given_at, sent.due_on = act.at, due_by(act, project, row, sent)
        row.approver_id, row.state, row.since_at = person.id, State.UNDER_REVIEW.value, act.at
        after = {"who": person.name, "due": sent.due_on.isoformat()} | ({"note": command.note} if command.note else {})
        record(act, row, FactKind.SUBMITTAL_GIVEN, after, others=[Subject("person", person.id)])
        settle(act, project, [row])
        lines = [
            f"{actor.name} asks you to answer this submittal by {sent.due_on:%A %-d %B %Y}.", *quoted(command.note),
        ]  # fmt: skip
        ask_person(act, row, person.id, "an answer is wanted", lines)
        tell_those(act, row, f"gave it to {person.name} to answer", quoted(command.note), but=[person.id])


def due_by(act: Act, project: ProjectRow, row: SubmittalRow, sent: SubmittalRoundRow) -> date:
    """As the contract says for what that company sends in; otherwise the review days, from today."""
    clock = project_clock(act.session, project)
    term = term_for(terms_of(project), "submittal", row.company_id)
    if term is not None:
        return answer_by(received_on(sent.sent_at, term, clock), term, clock.calendar)
    return due_on(today_in(project, act.at), row.review_days, Counting.WORKING, clock.calendar)


def answer(context: Context, actor: Actor, submittal_id: str, command: AnswerSubmittal) -> None:
    """Raises RuleBroken without a verdict of the project or without a file.

    *Revise and resubmit* opens the next revision, which is asked for again.
    """
    with acting(context, actor) as act:
        deed = Deed.ANSWER_FOR if command.on_behalf else Deed.ANSWER
        entered = enter_for(act, actor, submittal_id, command.version, deed)
        answer_at(act, entered.row, entered.seat.project, command)


def answer_at(act: Act, row: SubmittalRow, project: ProjectRow, command: AnswerSubmittal) -> None:
    """By whoever may, as the caller has asked. Raises as `answer` does."""
    verdict = verdict_of(project, command.verdict)
    items = _items_answered(act, row, project, command)
    if not command.files:
        raise RuleBroken("answer_empty", "An answer needs what was answered, attached.", row.number)
    sent = round_of(act.session, row)
    files = attach(act, Subject(SUBMITTAL.code, row.id), sent.answer_files, command.files)
    more = {}
    if command.on_behalf:
        sent.answered_for = True
        more["for"] = act.session.get_one(PersonRow, sent.approver_id).name if sent.approver_id else ""
    keep_answer(act, row, project, verdict, command.note, {"files": files, **more}, items=items)


def _items_answered(act: Act, row: SubmittalRow, project: ProjectRow, command: AnswerSubmittal) -> dict[str, str]:
    wanted = open_items_of(project, items_of(act.session, row.id))
    order = [each["code"] for each in sorted(_usual(project), key=lambda each: each["severity"])]
    return verdict_of_items(command.items, [each.id for each in wanted], order, command.verdict)


def _usual(project: ProjectRow) -> list[dict[str, Any]]:
    return [each for each in project.rules["verdict_set"] if not each.get("of_set")]


def keep_answer(
    act: Act, row: SubmittalRow, project: ProjectRow, verdict: VerdictShown, note: str, told: dict[str, Any],
    at: datetime | None = None, items: Mapping[str, str] | None = None,
) -> None:  # fmt: skip
    """With what the trail is `told` besides; its files are attached to its round already. `at`: now, unless said.

    `items`: by open item, what is answered; the same of all of them, unless said.
    """
    sent, at = round_of(act.session, row), at or act.at
    sent.verdict, sent.answer_note = verdict.code, note.strip()
    sent.answered_at, sent.answered_on = at, today_in(project, at)
    sent.answered_by = act.actor.person_id
    row.verdict, row.since_at, row.state = verdict.code, at, State.ANSWERED.value
    after = {"verdict": f"{verdict.code} {verdict.words}", **told} | _keep_items(act, row, project, sent, items)
    if sent.answer_note:
        after["note"] = sent.answer_note
    if verdict.needs_new_revision:
        row.revision, row.state = row.revision + 1, State.ASKED.value
        after["next"] = f"revision {row.revision}"
    record(act, row, FactKind.SUBMITTAL_ANSWERED, after)
    also = same_pace(act.session, project.id, sent.approver_company_id or "")
    settle(act, project, [row], also)
    _tell_answer(act, row, verdict, sent)


def _keep_items(
    act: Act, row: SubmittalRow, project: ProjectRow, sent: SubmittalRoundRow, given: Mapping[str, str] | None
) -> dict[str, Any]:
    """What the trail is told of the items."""
    wanted = open_items_of(project, items_of(act.session, row.id))
    said = []
    for each in wanted:
        each.verdict = (given or {}).get(each.id, row.verdict)
        act.session.add(SubmittalItemAnswerRow(round_id=sent.id, item_id=each.id, verdict=each.verdict))
        said.append(f"{each.title} {each.verdict}")
    return {"items": said} if said else {}


def verdict_of(project: ProjectRow, code: str) -> VerdictShown:
    """Raises RuleBroken for what is not of the project's usual set."""
    found = next((each for each in show_verdicts(project.rules["verdict_set"], "") if each.code == code), None)
    if found is None:
        raise RuleBroken("verdict_missing", "An answer needs one of the project's verdicts.", code)
    return found


def _tell_answer(act: Act, row: SubmittalRow, verdict: VerdictShown, sent: SubmittalRoundRow) -> None:
    lines = [f"{verdict.code}, {verdict.words}.", *quoted(sent.answer_note)]
    asked = row.person_id if verdict.needs_new_revision else None
    if asked:
        more = [*lines, "", "It is to be revised and sent in again."]
        ask_person(act, row, asked, f"answered {verdict.code}, send it in again", more)
    tell_those(act, row, f"answered {verdict.code} {verdict.words}", lines[1:], but=[asked or ""])


def close(context: Context, actor: Actor, submittal_id: str, command: CloseSubmittal) -> None:
    """The official answer goes to those who have a part in it."""
    with acting(context, actor) as act:
        entered = enter_for(act, actor, submittal_id, command.version, Deed.CLOSE)
        row = entered.row
        row.state, row.since_at = State.CLOSED.value, act.at
        after = {"note": command.note.strip()} if command.note.strip() else {}
        record(act, row, FactKind.SUBMITTAL_CLOSED, after | ({"verdict": row.verdict} if row.verdict else {}))
        settle(act, entered.seat.project, [row])
        words = f"closed it, answered {row.verdict}" if row.verdict else "closed it"
        tell_those(act, row, words, quoted(command.note))


def round_of(session: Session, row: SubmittalRow) -> SubmittalRoundRow:
    found = last_round(session, row)
    if found is None:
        raise LookupError(f"{row.number} has not been sent in as revision {row.revision}")
    return found
