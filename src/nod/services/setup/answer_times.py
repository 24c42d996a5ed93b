"""The contract's times for answers: the table in Set-up (handbook §8)."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any, Literal

from pydantic import Field

from nod.core.acts.answer_times import KINDS, MOST_TERMS, SILENCE, Term, check_terms, term_words
from nod.core.acts.refusals import NotFound
from nod.core.acts.working_days import Counting
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Context, acting
from nod.services.acts.seats import Actor, take_seat
from nod.services.setup.setup import Saved, open_setup, saved
from nod.services.setup.setup_view import CodeWords
from nod.store.tables import CompanyRow


class TermGiven(Command):
    """`company_id` empty for all companies without a line of their own; `from_hour` of 0 to 23, or none."""

    kind: str
    company_id: str = ""
    days: int
    counting: Literal["working", "calendar"] = "calendar"
    moves: bool = False
    from_hour: int | None = None
    silence: str = "nothing"


class SetTerms(Command):
    version: int
    terms: list[TermGiven] = Field(max_length=MOST_TERMS)


class AnswerTimes(Answered):
    """The table with each line in words, and what its cells may hold."""

    version: int
    terms: list[TermGiven]
    words: list[str]
    kinds: list[CodeWords]
    silences: list[CodeWords]


def read_terms(context: Context, actor: Actor, project_id: str) -> AnswerTimes:
    """For those who run the project."""
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        seat.need_to_run()
        terms = [TermGiven.model_validate(each) for each in seat.project.rules.get("answer_terms", ())]
        return AnswerTimes(
            version=seat.project.version, terms=terms, words=[term_words(_term(each)) for each in terms],
            kinds=[CodeWords(code=code, words=words) for code, words in KINDS.items()],
            silences=[CodeWords(code=code, words=words) for code, words in SILENCE.items()],
        )  # fmt: skip


def set_terms(context: Context, actor: Actor, project_id: str, command: SetTerms) -> Saved:
    """For reviews to come: those that run keep their day. Raises RuleBroken for a line that cannot be."""
    with acting(context, actor) as act:
        _, project = open_setup(act, project_id, command.version)
        terms = check_terms(_term(each) for each in command.terms)
        for each in terms:
            if each.company_id and act.session.get(CompanyRow, each.company_id) is None:
                raise NotFound(each.company_id)
        kept: list[dict[str, Any]] = [{**asdict(each), "counting": each.counting.value} for each in terms]
        before = {"answer_terms": project.rules.get("answer_terms", [])}
        project.rules = {**project.rules, "answer_terms": kept}
        return saved(act, project, "answer times", before, {"answer_terms": kept})


def _term(given: TermGiven) -> Term:
    return Term(
        given.kind, given.company_id, given.days, Counting(given.counting), given.moves, given.from_hour, given.silence
    )
