"""Setting a project up: profile, numbers, lists (handbook §3 and §4). Each part is saved with the version seen."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any, Literal

from pydantic import Field
from sqlalchemy import exists, select
from sqlalchemy.orm import Session

from nod.core import setup
from nod.core.access.tools import TOOLS, Role
from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.marks.pens import InkConvention, check_convention
from nod.core.notices import check_setting
from nod.core.register import number_patterns, revisions
from nod.core.register.numbers import Convention, NumberField, check_number
from nod.core.register.revisions import Scheme
from nod.core.reviews.verdicts import Verdict
from nod.core.trail.entries import Fact, FactKind, Subject, changed
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting, check_version
from nod.services.acts.projects import companies_of, forms_of, rules_of
from nod.services.acts.seats import Actor, Seat, take_seat, tree_of
from nod.services.people.account import check_zone
from nod.services.register.in_force import reckon_project, uses_of, would_change
from nod.services.setup.setup_view import CodeWords, MarkInks, NumberFieldSet, Profile, TypedField, VerdictSet
from nod.services.things.kinds import kind_of
from nod.store.ids import new_id
from nod.store.tables import NO_COPY, DocumentRow, DocumentValueRow, FolderRow, MembershipRow, ProjectRow

_MOST_SHOWN, _MOST_TRIED = 5, 5000


class SetProfile(Command):
    version: int
    name: str
    time_zone: str
    profile: Profile


class SetNumbering(Command):
    version: int
    separator: str
    number_fields: list[NumberFieldSet]


class TryNumber(Command):
    """A convention as it is being edited, and a number to try on it."""

    separator: str
    number_fields: list[NumberFieldSet]
    number: str


class NumberTested(Answered):
    """`faults` in words, empty if the number keeps it; `breaking` counts those of the latest 5,000 that would not."""

    example: str
    outline: str
    faults: list[str]
    breaking: int
    breaking_like: list[str]


class SetCodes(Command):
    """`status_uses` says by status what it may be used for; one left out has the use of its code in ISO 19650."""

    version: int
    revision_scheme: Literal["staged", "letters", "numbers"]
    statuses: list[CodeWords]
    verdict_set: list[VerdictSet]
    reviewed_statuses: list[str] = Field(default_factory=list)
    status_uses: dict[str, str] = Field(default_factory=dict)


class TryUses(Command):
    status_uses: dict[str, str]


class UsesTried(Answered):
    """Of how many documents another revision would be in force."""

    changes: int


class SetFields(Command):
    version: int
    fields: list[TypedField]


class RoleSet(Command):
    """`code` empty for a new role."""

    code: str
    name: str
    tools: list[str]


class SetRoles(Command):
    version: int
    roles: list[RoleSet]
    tools: list[str]


class SetGroupNotices(Command):
    """`hows` maps a role to a kind of notice to how it is told."""

    version: int
    hows: dict[str, dict[str, str]]


class SetMarkInks(MarkInks):
    version: int


MOST_ATTACHED_MB = 25
"""What most mail servers still take with the letters that files become on the way; common practice."""


class SetAttachmentFolders(Command):
    """By the code of a kind of thing, the folder for what is attached to it; a kind left out has no rule.

    Files of a transmittal that are `attach_mb` together at most go with its mail; None leaves that as it is.
    """

    version: int
    folders: dict[str, str]
    attach_mb: int | None = Field(default=None, ge=0, le=MOST_ATTACHED_MB)


class SetNatives(Command):
    """Codes of the forms of which a native is asked beside the PDF."""

    version: int
    forms: list[str]


class Saved(Answered):
    version: int


def _convention(project: ProjectRow, separator: str, fields: list[NumberFieldSet]) -> Convention:
    """Raises RuleBroken naming the field that is wrong."""
    own = {each.name: each for each in rules_of(project).convention.fields}
    built = Convention(tuple(_field(each, own) for each in fields), separator)
    number_patterns.check_convention(built)
    return built


def _field(given: NumberFieldSet, own: dict[str, NumberField]) -> NumberField:
    name = " ".join(given.name.lower().split())
    if given.kind == "codes":
        codes = [each.code.strip().upper() for each in given.codes]
        for code in codes:
            if codes.count(code) > 1:
                raise RuleBroken("code_twice", f"The code {code} is twice in {name}.", code)
        return NumberField(name, {each.code.strip().upper(): each.words.strip() for each in given.codes})
    if given.kind == "own" and name in own:
        return own[name]
    pattern, words = number_patterns.pattern_of(given.kind, given.shortest, given.longest)
    return NumberField(name, {}, pattern, words)


def open_setup(act: Act, project_id: str, version: int) -> tuple[Seat, ProjectRow]:
    seat = act.enter(project_id)
    seat.need_to_lead()
    check_version(version, seat.project.version, seat.project.name)
    return seat, seat.project


def saved(act: Act, project: ProjectRow, part: str, before: dict[str, Any], after: dict[str, Any]) -> Saved:
    """An entry with what changed, and everybody's page follows."""
    old, new = changed(before, after)
    if new:
        project.version += 1
        kind = FactKind.PROJECT_CHANGED if part == "profile" else FactKind.RULES_CHANGED
        subject = Subject("project", project.id)
        act.record(project.id, Fact(kind, subject, f"{project.name}: {part}", before=old, after=new))
        act.tell(project.id, "setup", project.id)
    return Saved(version=project.version)


def set_profile(context: Context, actor: Actor, project_id: str, command: SetProfile) -> Saved:
    """Raises RuleBroken for a zone that is none, an end before the beginning, or no name."""
    check_zone(command.time_zone)
    name = " ".join(command.name.split())[:120]
    if not name:
        raise RuleBroken("name_missing", "Give the project a name.")
    profile = command.profile
    if profile.starts_on and profile.ends_on and profile.ends_on < profile.starts_on:
        raise RuleBroken("ends_before", "The project ends before it starts.", profile.ends_on.isoformat())
    with acting(context, actor) as act:
        _, project = open_setup(act, project_id, command.version)
        before = {"name": project.name, "time_zone": project.time_zone, **project.profile}
        project.name, project.time_zone = name, command.time_zone
        project.profile = profile.model_dump(mode="json")
        return saved(act, project, "profile", before, {"name": name, "time_zone": command.time_zone, **project.profile})


def try_number(context: Context, actor: Actor, project_id: str, command: TryNumber) -> NumberTested:
    """What is wrong with a number under the convention being edited, and which of the register would break it."""
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        seat.need_to_run()
        convention = _convention(seat.project, command.separator, command.number_fields)
        own = (DocumentRow.project_id == project_id, DocumentRow.copy_of == NO_COPY)
        query = select(DocumentRow.number).where(*own).order_by(DocumentRow.seq.desc())
        numbers = session.scalars(query.limit(_MOST_TRIED))
        breaking = [number for number in numbers if check_number(convention, number)]
    faults = check_number(convention, command.number.strip()) if command.number.strip() else []
    return NumberTested(
        example=number_patterns.example(convention), outline=convention.outline(),
        faults=[each.words for each in faults], breaking=len(breaking), breaking_like=breaking[:_MOST_SHOWN],
    )  # fmt: skip


def set_numbering(context: Context, actor: Actor, project_id: str, command: SetNumbering) -> Saved:
    """For documents to come: those in the register keep their numbers."""
    with acting(context, actor) as act:
        _, project = open_setup(act, project_id, command.version)
        convention = _convention(project, command.separator, command.number_fields)
        fields = [{**asdict(each), "codes": dict(each.codes)} for each in convention.fields]
        disciplines = next((dict(each.codes) for each in convention.fields if each.name == "discipline"), {})
        rules = {"convention": {"separator": convention.separator, "fields": fields}, "disciplines": disciplines}
        return _set_rules(act, project, "numbers", rules)


def _set_rules(act: Act, project: ProjectRow, part: str, new: dict[str, Any]) -> Saved:
    before = {key: project.rules.get(key) for key in new}
    project.rules = {**project.rules, **new}
    return saved(act, project, part, before, new)


def set_codes(context: Context, actor: Actor, project_id: str, command: SetCodes) -> Saved:
    """Revision scheme, statuses and verdicts. Raises RuleBroken for one that leaves out what documents have."""
    with acting(context, actor) as act:
        _, project = open_setup(act, project_id, command.version)
        used = _used(act.session, project_id, command.revision_scheme)
        statuses = setup.check_statuses(((each.code, each.words) for each in command.statuses), used["status"])
        verdicts = [Verdict(severity=at, **each.model_dump()) for at, each in enumerate(command.verdict_set)]
        rules = {
            "revision_scheme": command.revision_scheme,
            "statuses": statuses,
            "reviewed_statuses": [code for code in statuses if code in command.reviewed_statuses],
            "status_uses": setup.check_uses(statuses, command.status_uses),
            "verdict_set": [asdict(each) for each in setup.check_verdicts(verdicts, used["verdict"])],
        }
        before = uses_of(project)
        result = _set_rules(act, project, "codes", rules)
        if uses_of(project) != before:
            reckon_project(act, project)
        return result


def try_uses(context: Context, actor: Actor, project_id: str, command: TryUses) -> UsesTried:
    """Of how many documents another revision would be in force, before it is saved."""
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        seat.need_to_run()
        uses = setup.check_uses(command.status_uses, command.status_uses)
        return UsesTried(changes=would_change(session, seat.project, uses))


def _used(session: Session, project_id: str, scheme: str) -> dict[str, set[str]]:
    """What documents have; raises RuleBroken for a scheme that their revisions have no place in."""
    here = DocumentRow.project_id == project_id
    codes = set(session.scalars(select(DocumentRow.revision).where(here).distinct()))
    for code in sorted(codes):
        if revisions.parse(Scheme(scheme), code) is None:
            words = f"Documents are at {code}, which this scheme does not have. It can be changed before the first."
            raise RuleBroken("scheme_in_use", words, code)
    statuses = set(session.scalars(select(DocumentRow.status).where(here).distinct()))
    verdicts = set(session.scalars(select(DocumentRow.verdict).where(here).distinct())) - {""}
    return {"status": statuses, "verdict": verdicts}


def set_fields(context: Context, actor: Actor, project_id: str, command: SetFields) -> Saved:
    """A field keeps its values when it is renamed; one that is taken away keeps them out of sight.

    Raises RuleBroken for another kind of a field that documents have values of.
    """
    found: list[dict[str, Any]] = []
    for each in command.fields:
        names = [field["name"] for field in found]
        name, choices = setup.check_field(each.name, each.kind, each.choices, names)
        found.append(
            {"id": each.id, "folder_id": each.folder_id, "name": name, "kind": each.kind,
             "choices": choices}
        )  # fmt: skip
    with acting(context, actor) as act:
        _, project = open_setup(act, project_id, command.version)
        _check_fields(act.session, project, found)
        found = [{**each, "id": each["id"] or f"f{new_id()[:10]}"} for each in found]
        return _set_rules(act, project, "fields", {"fields": found})


def _check_fields(session: Session, project: ProjectRow, found: list[dict[str, Any]]) -> None:
    own = {each["id"]: each for each in project.rules["fields"]}
    if {each["id"] for each in found if each["id"]} - set(own):
        raise NotFound(project.id)
    folders = tree_of(session, project.id)
    for each in found:
        before = own.get(each["id"])
        if each["folder_id"] and each["folder_id"] not in folders:
            raise NotFound(each["folder_id"])
        if before and before["kind"] != each["kind"]:
            used = select(exists().where(DocumentValueRow.field == each["id"]))
            if session.scalar(used):
                words = f"Documents have values of {each['name']}: its kind stays. Add another field instead."
                raise RuleBroken("field_in_use", words, each["name"])


def set_roles(context: Context, actor: Actor, project_id: str, command: SetRoles) -> Saved:
    """The roles with what they bring, and the tools that are on. Levels of roles are set in the grid of access."""
    for tool in command.tools:
        if tool not in TOOLS:
            raise RuleBroken("tool_unknown", f"There is no tool {tool}.", tool)
    with acting(context, actor) as act:
        _, project = open_setup(act, project_id, command.version)
        members = select(MembershipRow.roles).where(
            MembershipRow.project_id == project_id, MembershipRow.state.in_(("invited", "active"))
        )
        used = {role for roles in act.session.scalars(members) for role in roles}
        given = [Role(each.code, each.name, tuple(each.tools)) for each in command.roles]
        roles = [
            {"code": each.code, "name": each.name, "tools": list(each.tools)} for each in setup.check_roles(given, used)
        ]
        tools = [tool for tool in TOOLS if tool in command.tools]
        saved = _set_rules(act, project, "roles and tools", {"roles": roles, "tools": tools})
        project.access_version += 1
        return saved


def set_group_notices(context: Context, actor: Actor, project_id: str, command: SetGroupNotices) -> Saved:
    """For those who have not set their own."""
    for hows in command.hows.values():
        for kind, how in hows.items():
            check_setting(kind, how)
    with acting(context, actor) as act:
        _, project = open_setup(act, project_id, command.version)
        known = {"lead", "controller", *(each["code"] for each in project.rules["roles"])}
        for role in command.hows:
            if role not in known:
                raise RuleBroken("role_unknown", f"There is no role {role} in this project.", role)
        return _set_rules(act, project, "notices", {"notices": command.hows})


def set_mark_inks(context: Context, actor: Actor, project_id: str, command: SetMarkInks) -> Saved:
    """Which ink a discipline or a company draws in, and for whom first. Marks that are there keep theirs."""
    with acting(context, actor) as act:
        _, project = open_setup(act, project_id, command.version)
        known = project.rules["disciplines"] if command.by == "discipline" else companies_of(act.session, project_id)
        convention = check_convention(InkConvention(command.by, command.inks), known)
        return _set_rules(
            act, project, "colours of marks", {"mark_inks": asdict(convention), "ink_for": command.offered_first}
        )


def set_attachment_folders(context: Context, actor: Actor, project_id: str, command: SetAttachmentFolders) -> Saved:
    """Where files attached to a kind of thing are filed from now on; those that are there stay."""
    with acting(context, actor) as act:
        _, project = open_setup(act, project_id, command.version)
        known = set(act.session.scalars(select(FolderRow.id).where(FolderRow.project_id == project_id)))
        for code, folder_id in command.folders.items():
            kind = kind_of(code)
            if kind is None or not kind.takes_files or folder_id not in known:
                raise RuleBroken("folder_unknown", "There is no such folder, or nothing of that kind.", code[:40])
        rules: dict[str, Any] = {"attachment_folders": dict(command.folders)}
        if command.attach_mb is not None:
            rules["attach_mb"] = command.attach_mb
        return _set_rules(act, project, "attached files", rules)


def set_natives(context: Context, actor: Actor, project_id: str, command: SetNatives) -> Saved:
    """Of which forms a native is asked. What is in the register is not asked for anew."""
    with acting(context, actor) as act:
        _, project = open_setup(act, project_id, command.version)
        known = forms_of(project)
        for form in command.forms:
            if form not in known:
                raise RuleBroken("form_unknown", f"There is no form {form[:20]} in this project's numbers.", form[:20])
        forms = [form for form in known if form in command.forms]
        return _set_rules(act, project, "natives asked for", {"native_forms": forms})
