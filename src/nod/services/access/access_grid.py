"""The grid of people, roles or companies × folders: levels, where they come from, and changing many at once."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Literal

from sqlalchemy import bindparam, delete, select
from sqlalchemy.orm import Session

from nod.core.access.levels import Change, Effect, Grant, Grantee, Holder, Level, Reach, To, change_grants
from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.access.folders import FolderShown, folders_shown
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting, check_version
from nod.services.acts.projects import grants_kept
from nod.services.acts.seats import Actor, Seat, grants_of, roles_of, take_seat, tree_of
from nod.store.dialects.sqlite import add_or_replace
from nod.store.tables import Base, CompanyRow, GrantRow, MembershipRow, PersonRow

By = Literal["people", "roles", "companies"]
LevelName = Literal["none", "read", "mark", "file", "keep"]
LEVEL_NAMES: tuple[LevelName, ...] = ("none", "read", "mark", "file", "keep")
_MOST_LINES = 200


class GridColumn(Answered):
    """A person, role, company or everyone. `fixed`: keeps everything as a lead or controller."""

    kind: str
    id: str
    name: str
    detail: str
    fixed: bool


class AccessGrid(Answered):
    """Per column one character a folder: `levels` 0 (none) to 4 (keep), `own` 1 where a grant is set for it there.

    `sources` points into `words`, which say where each level comes from. `version` goes with every change.
    """

    version: int
    folders: list[FolderShown]
    columns: list[GridColumn]
    levels: list[str]
    own: list[str]
    sources: list[list[int]]
    words: list[str]


class Cell(Command):
    kind: Literal["person", "role", "company", "everyone"]
    id: str
    folder_id: str


class ChangeAccess(Command):
    """Give `level` in all `cells`; empty takes their own grants away, so that what is above comes through."""

    project_id: str
    version: int
    cells: list[Cell]
    level: LevelName | Literal[""]
    below: bool


class GrantSetting(Command):
    """A grant as it is to be; an empty level takes it away."""

    folder_id: str
    kind: Literal["person", "role", "company", "everyone"]
    id: str
    alone: bool
    level: LevelName | Literal[""]


class SetGrants(Command):
    """For undoing: exactly these grants."""

    project_id: str
    version: int
    grants: list[GrantSetting]


class ChangedCell(Answered):
    person: str
    folder: str
    before: str
    after: str


class AccessPreview(Answered):
    """What would change for whom: the first lines, and how many there are in all."""

    lines: list[ChangedCell]
    cells: int
    people: int


class AccessChanged(Answered):
    """`undo` are the grants as they were."""

    version: int
    cells: int
    undo: list[GrantSetting]


def read_grid(context: Context, actor: Actor, project_id: str, by: By) -> AccessGrid:
    """The folders in which the viewer may set access; all of them for leads and controllers."""
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        seat.need(Level.KEEP)
        folders = [each for each in folders_shown(session, seat) if seat.at(each.id) is Level.KEEP]
        columns = _columns(session, seat, by)
        grants = grants_of(session, project_id)
        reach = Reach(tree_of(session, project_id), grants)
        given: dict[Grantee, set[str]] = {}
        for grant in grants:
            given.setdefault(grant.to, set()).add(grant.folder_id)
        names = _Names(session, seat)
        words: dict[str, int] = {}
        levels, own, sources = [], [], []
        for column, holder in columns:
            found = reach.of(holder)
            mine = given.get(Grantee(To(column.kind), column.id), set())
            effects = [found[folder.id] for folder in folders]
            levels.append("".join(str(int(effect.level)) for effect in effects))
            own.append("".join("1" if folder.id in mine else "0" for folder in folders))
            told = [names.source(effect, folder.id, holder) for effect, folder in zip(effects, folders, strict=True)]
            sources.append([words.setdefault(each, len(words)) for each in told])
        return AccessGrid(
            version=seat.project.access_version, folders=folders, columns=[column for column, _ in columns],
            levels=levels, own=own, sources=sources, words=list(words),
        )  # fmt: skip


class _Names:
    """Folders, people, roles and companies in words."""

    def __init__(self, session: Session, seat: Seat) -> None:
        self._folders = {each.id: each.name for each in folders_shown(session, seat)}
        self._roles = {each["code"]: each["name"] for each in seat.project.rules["roles"]}
        self._companies = dict(session.execute(select(CompanyRow.id, CompanyRow.name)).all())
        self._people = {line.person_id: line.name for line in _members(session, seat.project.id)}

    def grantee(self, to: Grantee) -> str:
        if to.kind is To.EVERYONE:
            return "everyone"
        names: dict[To, Mapping[str, str]] = {
            To.ROLE: self._roles, To.COMPANY: self._companies, To.PERSON: self._people,
        }  # fmt: skip
        prefix = {To.ROLE: "the role ", To.COMPANY: "", To.PERSON: ""}[to.kind]
        return prefix + names[to.kind].get(to.id, to.id)

    def folder(self, id: str) -> str:
        return self._folders.get(id, "a folder above")

    def source(self, effect: Effect, folder_id: str, holder: Holder) -> str:
        """Where a level comes from, as the hover says it."""
        if holder.runs:
            return "leads and document controllers keep everything"
        if not effect.grants:
            return "nothing is set here or above"
        told = []
        for grant in effect.grants:
            whose = "set for them" if grant.to.id == holder.person_id and holder.person_id else self.grantee(grant.to)
            alone = ", this folder alone" if grant.alone else ""
            told.append(
                f"{whose}{alone}" if grant.folder_id == folder_id else f"{whose}, from {self.folder(grant.folder_id)}"
            )
        return " and ".join(told)


def _members(session: Session, project_id: str) -> list[_Member]:
    query = (
        select(PersonRow.id, PersonRow.name, CompanyRow.id, CompanyRow.code, CompanyRow.name, MembershipRow.roles)
        .join(MembershipRow, MembershipRow.person_id == PersonRow.id)
        .join(CompanyRow, CompanyRow.id == PersonRow.company_id)
        .where(MembershipRow.project_id == project_id, MembershipRow.state.in_(("invited", "active")))
        .order_by(CompanyRow.name, PersonRow.name)
    )
    return [_Member(*row) for row in session.execute(query)]


class _Member:
    def __init__(self, person_id: str, name: str, company_id: str, code: str, company: str, roles: list[str]) -> None:
        self.person_id, self.name, self.code = person_id, name, code
        self.company_id, self.company, self.roles = company_id, company, roles
        self.holder = Holder(person_id, company_id, frozenset(roles))


def _columns(session: Session, seat: Seat, by: By) -> list[tuple[GridColumn, Holder]]:
    members = _members(session, seat.project.id)
    if by == "people":
        return [(_person_column(seat, each), each.holder) for each in members]
    if by == "companies":
        companies = {each.company_id: each for each in members}
        return [
            (
                GridColumn(kind="company", id=id, name=each.code, detail=each.company, fixed=False),
                Holder(company_id=id),
            )
            for id, each in companies.items()
        ]
    everyone = GridColumn(kind="everyone", id="", name="Everyone", detail="all members", fixed=False)
    roles = [
        (
            GridColumn(kind="role", id=each["code"], name=each["name"], detail="role", fixed=False),
            Holder(roles=frozenset((each["code"],))),
        )
        for each in seat.project.rules["roles"]
    ]
    return [(everyone, Holder()), *roles]


def _person_column(seat: Seat, member: _Member) -> GridColumn:
    names = roles_of(seat.project)
    roles = ", ".join(names[role].name for role in member.roles if role in names)
    detail = f"{member.code}, {roles}" if roles else member.code
    return GridColumn(kind="person", id=member.person_id, name=member.name, detail=detail, fixed=member.holder.runs)


def preview_access(context: Context, actor: Actor, command: ChangeAccess) -> AccessPreview:
    """What saving would change, person by person. Changes nothing."""
    with context.database.read() as session:
        seat, before, after = _planned(session, actor, command)
        return _difference(session, seat, before, after)


def _planned(session: Session, actor: Actor, command: ChangeAccess) -> tuple[Seat, list[Grant], list[Grant]]:
    """Raises NotFound for a folder or grantee that is not there, RuleBroken for whoever keeps everything anyway."""
    seat = take_seat(session, actor, command.project_id)
    tree, before = tree_of(session, command.project_id), grants_of(session, command.project_id)
    level = Level[command.level.upper()] if command.level else None
    holders = {Grantee(To(cell.kind), cell.id): Holder() for cell in command.cells}
    known = {Grantee(To(column.kind), column.id): holder for column, holder in _all_columns(session, seat)}
    for to in holders:
        if to not in known:
            raise NotFound(to.id)
        holders[to] = known[to]
        if known[to].runs:
            words = "Leads and document controllers keep everything. Take the role away first."
            raise RuleBroken("keeps_everything", words, _Names(session, seat).grantee(to))
    changes = []
    for cell in command.cells:
        if cell.folder_id not in tree:
            raise NotFound(cell.folder_id)
        seat.need_at(cell.folder_id, Level.KEEP, seat.project.name)
        changes.append(Change(Grantee(To(cell.kind), cell.id), cell.folder_id, level, command.below))
    return seat, before, _where_kept(seat, before, change_grants(tree, before, changes, holders))


def _where_kept(seat: Seat, before: list[Grant], after: list[Grant]) -> list[Grant]:
    """What lies further down out of the actor's keeping stays as it was, and they learn nothing of it."""
    kept = [grant for grant in after if seat.at(grant.folder_id) is Level.KEEP]
    return [*kept, *(grant for grant in before if seat.at(grant.folder_id) is not Level.KEEP)]


def _all_columns(session: Session, seat: Seat) -> Iterable[tuple[GridColumn, Holder]]:
    for by in ("people", "roles", "companies"):
        yield from _columns(session, seat, by)


def _difference(session: Session, seat: Seat, before: list[Grant], after: list[Grant]) -> AccessPreview:
    tree, names = tree_of(session, seat.project.id), _Names(session, seat)
    order = [each.id for each in folders_shown(session, seat)]
    order += [folder for folder in tree if folder not in order]
    lines: list[ChangedCell] = []
    was, will = Reach(tree, before), Reach(tree, after)
    people, count = set(), 0
    for member in _members(session, seat.project.id):
        old, new = was.of(member.holder), will.of(member.holder)
        for folder in order:
            if old[folder].level is new[folder].level:
                continue
            count += 1
            people.add(member.person_id)
            if len(lines) < _MOST_LINES:
                levels = {"before": old[folder].level.name.lower(), "after": new[folder].level.name.lower()}
                lines.append(ChangedCell(person=member.name, folder=names.folder(folder), **levels))
    return AccessPreview(lines=lines, cells=count, people=len(people))


def change_access(context: Context, actor: Actor, command: ChangeAccess) -> AccessChanged:
    """Raises Stale if anybody changed folders or access since the version seen."""
    with acting(context, actor) as act:
        seat, before, after = _planned(act.session, actor, command)
        check_version(command.version, seat.project.access_version, seat.project.name)
        return _write(act, seat, before, after)


def set_grants(context: Context, actor: Actor, command: SetGrants) -> AccessChanged:
    """Undo of a change, by those who could make it."""
    with acting(context, actor) as act:
        seat = take_seat(act.session, actor, command.project_id)
        tree = tree_of(act.session, command.project_id)
        before = grants_of(act.session, command.project_id)
        kept = {grant.key: grant for grant in before}
        for each in command.grants:
            if each.folder_id not in tree:
                raise NotFound(each.folder_id)
            seat.need_at(each.folder_id, Level.KEEP, seat.project.name)
            key = (each.folder_id, Grantee(To(each.kind), each.id), each.alone)
            kept.pop(key, None)
            if each.level:
                kept[key] = Grant(key[0], key[1], Level[each.level.upper()], each.alone)
        check_version(command.version, seat.project.access_version, seat.project.name)
        return _write(act, seat, before, list(kept.values()))


def _write(act: Act, seat: Seat, before: list[Grant], after: list[Grant]) -> AccessChanged:
    """The difference into the table, and an entry for each folder that it touches."""
    old, new = {each.key: each for each in before}, {each.key: each for each in after}
    keys = [key for key in {**old, **new} if old.get(key) != new.get(key)]
    _write_grants(act.session, seat.project.id, [(key, new.get(key)) for key in keys])
    difference = _difference(act.session, seat, before, after)
    names = _Names(act.session, seat)
    by_folder: dict[str, list[tuple[str, Grantee, bool]]] = {}
    for key in keys:
        by_folder.setdefault(key[0], []).append(key)
    for folder, here in sorted(by_folder.items()):
        act.record(
            seat.project.id,
            Fact(
                FactKind.ACCESS_CHANGED, Subject("folder", folder), names.folder(folder),
                before={_words(names, key): _name(old.get(key)) for key in here},
                after={_words(names, key): _name(new.get(key)) for key in here},
                state=grants_kept(act.session, folder),
            ),
        )  # fmt: skip
    seat.project.access_version += 1
    act.tell(seat.project.id, "access", seat.project.id)
    undo = [
        GrantSetting(folder_id=key[0], kind=key[1].kind.value, id=key[1].id, alone=key[2], level=_name(old.get(key)))
        for key in keys
    ]
    return AccessChanged(version=seat.project.access_version, cells=difference.cells, undo=undo)


def _write_grants(
    session: Session, project_id: str, changes: list[tuple[tuple[str, Grantee, bool], Grant | None]]
) -> None:
    """All of them in two statements: a grid's worth of cells can change at once."""
    gone, given = [], []
    for (folder, to, alone), grant in changes:
        row = {"folder": folder, "kind": to.kind.value, "whom": to.id, "here_alone": alone}
        if grant is None:
            gone.append(row)
        else:
            given.append({**row, "project": project_id, "given": int(grant.level)})
    if gone:
        session.connection().execute(_TAKE, gone)
    if given:
        session.connection().execute(_GIVE, given)


_grants = Base.metadata.tables[GrantRow.__tablename__]
_TAKE = delete(_grants).where(
    _grants.c.folder_id == bindparam("folder"),
    _grants.c.to_kind == bindparam("kind"),
    _grants.c.to_id == bindparam("whom"),
    _grants.c.alone == bindparam("here_alone"),
)
_GIVE = add_or_replace(
    _grants,
    {
        "folder_id": bindparam("folder"),
        "to_kind": bindparam("kind"),
        "to_id": bindparam("whom"),
        "alone": bindparam("here_alone"),
        "project_id": bindparam("project"),
        "level": bindparam("given"),
    },
    "level",
)


def _name(grant: Grant | None) -> LevelName | Literal[""]:
    return LEVEL_NAMES[grant.level] if grant else ""


def _words(names: _Names, key: tuple[str, Grantee, bool]) -> str:
    return names.grantee(key[1]) + (", this folder alone" if key[2] else "")
