"""A project's set-up as its page shows it."""

from __future__ import annotations

from dataclasses import asdict
from datetime import date
from typing import Any, Literal

from pydantic import Field
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from nod.core import setup
from nod.core.letters.kinds import kept_kinds
from nod.core.marks.marks import INKS
from nod.core.notices import HOW, KINDS, told_how, ways
from nod.core.register import number_patterns, revisions
from nod.core.register.in_force import USES, use_of
from nod.core.register.numbers import NumberField
from nod.core.submittals.rules import MOST_KINDS, MOST_PHRASES, asked_as
from nod.core.transmittals.purposes import LONGEST_DAYS
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Context
from nod.services.acts.projects import companies_of, forms_of, ink_convention, rules_of
from nod.services.acts.seats import Actor, take_seat
from nod.services.letters.letter_rows import letter_kinds
from nod.services.submittals.outlooks import submittal_rules
from nod.services.things.kinds import thing_kinds
from nod.services.transmittals.purposes import purposes_of
from nod.store.tables import DocumentRow, HolidayRow, ProjectRow


class CodeWords(Command):
    code: str
    words: str


class NoticeChoice(Answered):
    """A kind of notice, and the ways in which it may be told."""

    code: str
    words: str
    hows: list[str]


class NumberFieldSet(Command):
    """One field: `codes`, or `kind` with lengths when there are none. A kind of `own` keeps a pattern as it was."""

    name: str
    codes: list[CodeWords]
    kind: Literal["codes", "figures", "letters", "mixed", "own"]
    shortest: int = 1
    longest: int = 1


class Profile(Command):
    """What the project is. Amounts as typed, with the currency's code beside them."""

    address: str = ""
    type: str = ""
    starts_on: date | None = Field(default=None, strict=False)
    ends_on: date | None = Field(default=None, strict=False)
    value: str = ""
    currency: str = ""
    units: Literal["metric", "imperial"] = "metric"


class VerdictSet(Command):
    code: str
    words: str
    meaning: Literal["go", "look", "stop"]
    may_be_used: bool
    needs_new_revision: bool
    of_set: str = ""


class Holiday(Command):
    on: date = Field(strict=False)
    name: str


class TypedField(Command):
    """`id` is empty for a new one. `folder_id` keeps it to a folder and all below; empty for the whole project."""

    id: str = ""
    folder_id: str = ""
    name: str
    kind: str
    choices: list[str]


class RoleNotices(Answered):
    role: str
    name: str
    hows: dict[str, str]


class PurposeSet(Command):
    """`code` is empty for a new one. See `core.transmittals.purposes.Purpose`."""

    code: str = Field(default="", max_length=40)
    words: str = Field(max_length=200)
    answer_days: int = Field(default=0, ge=0, le=LONGEST_DAYS)
    released: bool = False
    statuses: list[str] = Field(default_factory=list, max_length=100)


class LetterKindSet(Command):
    """See `core.letters.kinds.LetterKind`."""

    code: str = Field(max_length=6)
    words: str = Field(max_length=40)
    numbered_by: Literal["company", "pair"] = "pair"
    answer_days: int = Field(default=0, ge=0, le=365)
    counting: Literal["calendar", "working"] = "calendar"
    asks: bool = False
    out_of_use: bool = False
    bar: int = Field(default=0, ge=0, le=365)
    bar_in: Literal["days", "working days", "weeks"] = "days"
    looked_at: bool = False


class SubmittalKindSet(Command):
    code: str = Field(max_length=6)
    words: str = Field(max_length=60)
    for_information: bool = False
    asked_as: list[str] = Field(default_factory=list, max_length=MOST_PHRASES)


class SubmittalSet(Command):
    """How submittals are numbered, and what they begin with, in working days. See `core.submittals.rules`.

    `articles`, `aside` and what a kind is `asked_as` are the words by which specifications are read.
    """

    numbered_by: Literal["company", "section"]
    buffer: int
    review: int
    preparation: int
    kinds: list[SubmittalKindSet] = Field(max_length=MOST_KINDS)
    articles: list[str] = Field(max_length=MOST_PHRASES)
    aside: list[str] = Field(max_length=MOST_PHRASES)


class AttachmentFolder(Answered):
    """Where files attached to a kind are filed; without a `folder_id`, beside the document or in the topmost."""

    kind: str
    plural: str
    folder_id: str


class MarkInks(Command):
    """The ink of each discipline's or company's marks, by its code. `by` empty for no convention."""

    by: Literal["", "discipline", "company"]
    inks: dict[str, str]
    offered_first: Literal["everybody", "company"] = "everybody"


class Setup(Answered):
    """A project's whole set-up, as its page shows it. `example` is a number that keeps the convention."""

    version: int
    number: str
    name: str
    time_zone: str
    profile: Profile
    separator: str
    number_fields: list[NumberFieldSet]
    example: str
    outline: str
    revision_scheme: str
    first_revision: str
    statuses: list[CodeWords]
    reviewed_statuses: list[str]
    status_uses: dict[str, str]
    uses: list[CodeWords]
    verdict_set: list[VerdictSet]
    working_weekdays: list[int]
    holidays: list[Holiday]
    fields: list[TypedField]
    field_kinds: list[CodeWords]
    notices: list[RoleNotices]
    notice_kinds: list[NoticeChoice]
    notice_hows: list[CodeWords]
    documents: int
    mark_inks: MarkInks
    attachment_folders: list[AttachmentFolder]
    attach_mb: int
    purposes: list[PurposeSet]
    submittals: SubmittalSet
    letter_kinds: list[LetterKindSet]
    forms: list[CodeWords]
    native_forms: list[str]
    disciplines: list[CodeWords]
    companies: list[CodeWords]
    inks: dict[str, str]


def read_setup(context: Context, actor: Actor, project_id: str) -> Setup:
    """For those who run the project."""
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        seat.need_to_run()
        project, rules = seat.project, rules_of(seat.project)
        days = select(HolidayRow).where(HolidayRow.project_id == project_id).order_by(HolidayRow.on)
        return Setup(
            version=project.version,
            number=project.number,
            name=project.name,
            time_zone=project.time_zone,
            profile=Profile.model_validate(project.profile, strict=False),
            separator=rules.convention.separator,
            number_fields=[_shown(each) for each in rules.convention.fields],
            example=number_patterns.example(rules.convention),
            outline=rules.convention.outline(),
            revision_scheme=rules.scheme,
            first_revision=revisions.first_code(rules.scheme),
            statuses=[CodeWords(code=code, words=words) for code, words in project.rules["statuses"].items()],
            reviewed_statuses=project.rules["reviewed_statuses"],
            status_uses={code: use_of(code, rules.status_uses).code for code in rules.statuses},
            uses=_listed(USES),
            verdict_set=[VerdictSet.model_validate(_without_severity(each)) for each in project.rules["verdict_set"]],
            working_weekdays=project.rules["working_weekdays"],
            holidays=[Holiday(on=row.on, name=row.name) for row in session.scalars(days)],
            fields=[TypedField(**each) for each in project.rules["fields"]],
            field_kinds=_listed(setup.FIELD_KINDS),
            notices=_group_notices(project),
            notice_kinds=[
                NoticeChoice(code=code, words=kind.words, hows=list(ways(code))) for code, kind in KINDS.items()
            ],
            notice_hows=_listed(HOW),
            documents=_documents(session, project_id),
            attachment_folders=_attachment_folders(project),
            purposes=_purposes(project),
            submittals=_submittals(project),
            letter_kinds=[LetterKindSet(**each) for each in kept_kinds(letter_kinds(project))],
            attach_mb=project.rules.get("attach_mb", 0),
            forms=_listed(forms_of(project)),
            native_forms=[form for form in rules.native_forms if form in forms_of(project)],
            mark_inks=MarkInks.model_validate(
                {**asdict(ink_convention(project)), "offered_first": project.rules.get("ink_for", "everybody")}
            ),
            disciplines=_listed(project.rules["disciplines"]),
            companies=_listed(companies_of(session, project_id)),
            inks=INKS,
        )


def _listed(words: dict[str, str]) -> list[CodeWords]:
    return [CodeWords(code=code, words=each) for code, each in words.items()]


def _without_severity(verdict: dict[str, Any]) -> dict[str, Any]:
    return {key: value for key, value in verdict.items() if key != "severity"}


def _group_notices(project: ProjectRow) -> list[RoleNotices]:
    names = {"lead": "Lead", "controller": "Document controller"}
    names |= {each["code"]: each["name"] for each in project.rules["roles"]}
    set_for = project.rules["notices"]
    return [
        RoleNotices(role=code, name=name, hows={kind: told_how(kind, {}, set_for, [code]) for kind in KINDS})
        for code, name in names.items()
    ]


def _documents(session: Session, project_id: str) -> int:
    return session.scalar(select(func.count()).where(DocumentRow.project_id == project_id)) or 0


def _shown(field: NumberField) -> NumberFieldSet:
    codes = [CodeWords(code=code, words=words) for code, words in field.codes.items()]
    if codes:
        return NumberFieldSet(name=field.name, codes=codes, kind="codes")
    choices = number_patterns.choices_of(field.pattern)
    if choices is None:
        return NumberFieldSet(name=field.name, codes=[], kind="own")
    kind, shortest, longest = choices
    return NumberFieldSet(name=field.name, codes=[], kind=kind, shortest=shortest, longest=longest)  # type: ignore[arg-type]


def _purposes(project: ProjectRow) -> list[PurposeSet]:
    return [
        PurposeSet(
            code=each.code, words=each.words, answer_days=each.answer_days, released=each.released,
            statuses=[code for code in each.statuses if code in project.rules["statuses"]],
        )
        for each in purposes_of(project).values()
    ]  # fmt: skip


def _submittals(project: ProjectRow) -> SubmittalSet:
    rules = submittal_rules(project)
    return SubmittalSet(
        numbered_by=rules.numbered_by.value, buffer=rules.buffer, review=rules.review, preparation=rules.preparation,
        kinds=[
            SubmittalKindSet(
                code=each.code, words=each.words, for_information=each.for_information, asked_as=list(asked_as(each))
            )
            for each in rules.kinds
        ],
        articles=list(rules.articles), aside=list(rules.aside),
    )  # fmt: skip


def _attachment_folders(project: ProjectRow) -> list[AttachmentFolder]:
    by_kind = project.rules.get("attachment_folders", {})
    return [
        AttachmentFolder(kind=kind.code, plural=kind.plural, folder_id=by_kind.get(kind.code, ""))
        for kind in thing_kinds()
        if kind.takes_files
    ]
