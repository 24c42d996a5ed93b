"""Making a submittal, and changing what is known of it (handbook §9)."""

from __future__ import annotations

from datetime import date
from typing import Any, Literal

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access.levels import RUNNING_ROLES
from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.submittals.arithmetic import LeadIn
from nod.core.submittals.numbers import check_number, check_section, next_number, prefix
from nod.core.submittals.rules import SubmittalRules, check_days, check_rounds
from nod.core.submittals.states import NOT_SENT, Deed, State
from nod.core.trail.entries import FactKind
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting, check_version
from nod.services.acts.seats import Actor
from nod.services.submittals.kind import SUBMITTAL, companies_now
from nod.services.submittals.outlooks import submittal_rules
from nod.services.submittals.submittal_rows import Entered, enter, record, settle
from nod.store.ids import new_id
from nod.store.tables import CompanyRow, MembershipRow, PersonRow, ProjectRow, SubmittalRow

LONGEST_TITLE = 200
LONGEST_TEXT = 4000
LONGEST_LINE = 120
MOST_AT_ONCE = 500


class Details(Command):
    """What is known of a submittal; what is left out stays, or is as the project has it. Times are in working days.

    `lead_in`: whether the lead is in working days or weeks. A day or lead that is `null` is not known.
    """

    title: str | None = None
    kind: str | None = None
    section: str | None = None
    paragraph: str | None = None
    description: str | None = None
    reference: str | None = None
    category: str | None = None
    location: str | None = None
    milestone: str | None = None
    company_id: str | None = None
    approver_id: str | None = None
    keeper_id: str | None = None
    required_on: date | None = Field(default=None, strict=False)
    planned_on: date | None = Field(default=None, strict=False)
    lead: int | None = None
    lead_in: Literal["working days", "weeks"] | None = None
    review_days: int | None = None
    rounds: int | None = None
    preparation: int | None = None


class MakeSubmittal(Command):
    """`number` only where it has one already; the project's next one otherwise."""

    project_id: str
    number: str = ""
    details: Details


class SubmittalChange(Command):
    """What one is to be, as it was seen at a `version`."""

    id: str
    version: int
    details: Details


class ChangeSubmittals(Command):
    changes: list[SubmittalChange] = Field(min_length=1, max_length=MOST_AT_ONCE)


class MadeSubmittal(Answered):
    id: str
    number: str


class ChangedSubmittals(Answered):
    """What would undo it, in one act: a change for each that was changed."""

    undo: list[SubmittalChange]


def make_submittal(context: Context, actor: Actor, command: MakeSubmittal) -> MadeSubmittal:
    """Raises RuleBroken for what is missing or makes no sense, and for a number that there is."""
    with acting(context, actor) as act:
        seat = act.enter(command.project_id, tool=SUBMITTAL.tool)
        seat.need_to_run()
        rules = submittal_rules(seat.project)
        given = command.details
        company = _company(act.session, seat.project.id, given.company_id or "")
        section = check_section(given.section or "")
        number = _number(act.session, seat.project, rules, command.number, company, section)
        row = begun_row(act, seat.project, number, company.id)
        change_row(act.session, seat.project, rules, row, given)
        if not row.title or not row.kind:
            raise RuleBroken("submittal_unnamed", "Give it a title and a kind.")
        act.session.add(row)
        act.session.flush()
        record(act, row, FactKind.SUBMITTAL_MADE, told_of(act.session, row))
        settle(act, seat.project, [row])
        return MadeSubmittal(id=row.id, number=row.number)


def begun_row(act: Act, project: ProjectRow, number: str, company_id: str) -> SubmittalRow:
    """A new one with what the project begins with; without a title and a kind yet."""
    rules = submittal_rules(project)
    return SubmittalRow(
        id=new_id(), project_id=project.id, title="", kind="", section="", paragraph="", description="", reference="",
        category="", location="", milestone="", company_id=company_id, number=number, revision=0,
        keeper_id=act.actor.person_id, made_by=act.actor.person_id, made_at=act.at, verdict="",
        for_information=False, lead_in=LeadIn.WORKING_DAYS.value, review_days=rules.review, rounds=1,
        preparation=rules.preparation, state=State.PLANNED.value, since_at=act.at, version=0,
    )  # fmt: skip


def _number(
    session: Session, project: ProjectRow, rules: SubmittalRules, given: str, company: CompanyRow, section: str
) -> str:
    """Raises RuleBroken for a number that the project has given already."""
    numbers = select(SubmittalRow.number).where(SubmittalRow.project_id == project.id)
    if given:
        tidy = check_number(given)
        if session.scalar(numbers.where(SubmittalRow.number == tidy)) is not None:
            raise RuleBroken("number_taken", f"There is a submittal {tidy} already.", tidy)
        return tidy
    start = prefix(rules.numbered_by, company.code, section)
    taken = session.scalars(numbers.where(SubmittalRow.number.startswith(f"{start}-", autoescape=True)))
    return next_number(rules.numbered_by, start, taken)


def change_submittals(context: Context, actor: Actor, command: ChangeSubmittals) -> ChangedSubmittals:
    """All of them or none. Raises Stale for the first that is not as it was seen."""
    with acting(context, actor) as act:
        given = {each.id: each for each in command.changes}
        entered = enter_all(act, actor, {each.id: each.version for each in given.values()}, Deed.EDIT)
        project = entered[0].seat.project
        rules = submittal_rules(project)
        undo, changed = [], []
        for each in entered:
            before, values = told_of(act.session, each.row), values_of(each.row)
            change_row(act.session, project, rules, each.row, given[each.row.id].details)
            after = told_of(act.session, each.row)
            differs = [key for key in after if before[key] != after[key]]
            if not differs:
                continue
            changed.append(each.row)
            record(
                act, each.row, FactKind.SUBMITTAL_CHANGED, {key: after[key] for key in differs},
                before={key: before[key] for key in differs},
            )  # fmt: skip
            now = values_of(each.row)
            old = Details(**{key: values[key] for key in now if now[key] != values[key]})
            undo.append((each.row, old))
        settle(act, project, changed)
        return ChangedSubmittals(
            undo=[SubmittalChange(id=row.id, version=row.version, details=old) for row, old in undo]
        )


def enter_all(act: Act, actor: Actor, seen: dict[str, int], deed: Deed) -> list[Entered]:
    """Those of one project that are there for the actor, who may do this with each. Raises Stale where one changed."""
    found = [enter(act.session, actor, each) for each in seen]
    if len({each.row.project_id for each in found}) > 1:
        raise NotFound(found[-1].row.id)
    for each in found:
        each.check(deed)
        check_version(seen[each.row.id], each.row.version, each.row.number)
    return found


TEXTS = {
    "title": LONGEST_TITLE, "paragraph": LONGEST_LINE, "description": LONGEST_TEXT, "reference": LONGEST_LINE,
    "category": LONGEST_LINE, "location": LONGEST_LINE, "milestone": LONGEST_LINE,
}  # fmt: skip
_CLEARED = ("required_on", "planned_on", "lead")
"""What may be given as not known any more, which is not the same as left out."""
_FIELDS = (
    *TEXTS, "kind", "section", "company_id", "approver_id", "keeper_id", *_CLEARED, "lead_in", "review_days",
    "rounds", "preparation",
)  # fmt: skip


def values_of(row: SubmittalRow) -> dict[str, Any]:
    return {field: getattr(row, field) for field in _FIELDS} | {"approver_id": row.approver_id or ""}


def change_row(session: Session, project: ProjectRow, rules: SubmittalRules, row: SubmittalRow, given: Details) -> None:
    for field, longest in TEXTS.items():
        if (text := getattr(given, field)) is not None:
            setattr(row, field, tidy_text(field, text, longest))
    for field in _CLEARED:
        if field in given.model_fields_set:
            setattr(row, field, getattr(given, field))
    if row.lead is not None:
        check_days(row.lead)
    _change_times(row, given)
    if given.kind is not None:
        kind = rules.kind(given.kind)
        row.kind, row.for_information = kind.code, kind.for_information
    if given.section is not None:
        row.section = check_section(given.section)
    _change_people(session, project, row, given)


def tidy_text(field: str, text: str, longest: int) -> str:
    tidy = text.strip() if field == "description" else " ".join(text.split())
    if field == "title" and len(tidy) < 2:
        raise RuleBroken("submittal_unnamed", "Give it a title and a kind.")
    if len(tidy) > longest:
        raise RuleBroken("text_too_long", f"The {field} is longer than {longest} characters.")
    return tidy


def _change_times(row: SubmittalRow, given: Details) -> None:
    if given.lead_in is not None:
        row.lead_in = LeadIn(given.lead_in).value
    if given.review_days is not None:
        row.review_days = check_days(given.review_days, 1)
    if given.preparation is not None:
        row.preparation = check_days(given.preparation)
    if given.rounds is not None:
        row.rounds = check_rounds(given.rounds)


def _change_people(session: Session, project: ProjectRow, row: SubmittalRow, given: Details) -> None:
    if given.company_id is not None:
        _change_company(session, project, row, given.company_id)
    if given.approver_id is not None and given.approver_id != (row.approver_id or ""):
        check_approver_free(row)
        row.approver_id = member(session, project, given.approver_id).id if given.approver_id else None
    if given.keeper_id is not None:
        row.keeper_id = member(session, project, given.keeper_id, runs=True).id


def _change_company(session: Session, project: ProjectRow, row: SubmittalRow, company_id: str) -> None:
    """Whoever was asked stays asked where they are of the company. Raises RuleBroken once something was sent in."""
    company = _company(session, project.id, company_id)
    if company.id == companies_now(session, {row.company_id})[row.company_id].id:
        return
    check_company_free(row)
    row.company_id = company.id
    if row.person_id and session.get_one(PersonRow, row.person_id).company_id != company.id:
        row.person_id = None


def check_company_free(row: SubmittalRow) -> None:
    """Raises RuleBroken where another company can no longer be responsible for it."""
    if State(row.state) not in NOT_SENT or row.revision:
        raise RuleBroken("submittal_state", "It has been sent in. Another company is responsible for one of its own.")


def check_approver_free(row: SubmittalRow) -> None:
    """Raises RuleBroken where another approver is named by giving it to them."""
    if State(row.state) is State.UNDER_REVIEW:
        raise RuleBroken("submittal_state", "It is under review. Give it to somebody else to answer instead.")


def _company(session: Session, project_id: str, company_id: str) -> CompanyRow:
    """Raises RuleBroken where none is named, NotFound for one that has nobody in the project."""
    if not company_id:
        raise RuleBroken("company_missing", "Say which company is responsible for it.")
    return company_in(session, project_id, company_id)


def company_in(session: Session, project_id: str, company_id: str) -> CompanyRow:
    """As it is now. Raises NotFound for one that has, and had, nobody in the project."""
    company = companies_now(session, {company_id}).get(company_id)
    if company is None:
        raise NotFound(company_id)
    people = select(PersonRow.id).join(MembershipRow, MembershipRow.person_id == PersonRow.id)
    here = (MembershipRow.project_id == project_id, PersonRow.company_id == company.id)
    if session.scalar(people.where(*here).limit(1)) is None:
        raise NotFound(company_id)
    return company


def member(session: Session, project: ProjectRow, person_id: str, *, runs: bool = False) -> PersonRow:
    """Somebody of the project, outside contacts with them. Raises NotFound, or RuleBroken for who cannot keep it."""
    found = session.get(MembershipRow, (project.id, person_id))
    if found is None or found.state == "removed":
        raise NotFound(person_id)
    person = session.get_one(PersonRow, person_id)
    if runs and not RUNNING_ROLES & set(found.roles):
        raise RuleBroken("keeper_cannot", f"{person.name} neither leads nor controls the project.", person.name)
    return person


def told_of(session: Session, row: SubmittalRow) -> dict[str, Any]:
    """What the trail says of it, in words."""
    people = {each: session.get_one(PersonRow, each).name for each in (row.approver_id, row.keeper_id) if each}
    plain = (*TEXTS, "kind", "section", "rounds", "lead_in")
    return {each: getattr(row, each) for each in plain} | {
        "responsible": session.get_one(CompanyRow, row.company_id).code,
        "approver": people.get(row.approver_id or "", ""), "keeper": people[row.keeper_id],
        "required": _day(row.required_on), "planned": _day(row.planned_on),
        "lead": "" if row.lead is None else row.lead, "review": row.review_days, "preparation": row.preparation,
    }  # fmt: skip


def _day(on: date | None) -> str:
    return on.isoformat() if on else ""
