"""The distribution matrix in Set-up: its lines, and what a change of them would make due (handbook §10)."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from typing import Any, Literal

from pydantic import Field
from sqlalchemy.orm import Session

from nod.core.transmittals.distribution import MOST_LINES, WHENS, Holder, Known, Line, Share, check_lines
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Context, acting
from nod.services.acts.projects import forms_of
from nod.services.acts.seats import Actor, take_seat
from nod.services.setup.setup import Saved, open_setup, saved
from nod.services.setup.setup_view import CodeWords
from nod.services.transmittals.distribution import Company, companies_here, due_of, matrix_of
from nod.services.transmittals.purposes import purposes_of
from nod.store.tables import ProjectRow


class ShareSet(Command):
    """A cell: what a company (`id`) or a role (`id` is its code) gets of a line."""

    kind: Literal["company", "role"]
    id: str
    share: Literal["act", "know"]


class DistributionLine(Command):
    """Empty stands for any; `since` leaves out what was filed before that day.

    `by_itself`: it goes without a controller, in the name of whoever says so.
    """

    discipline: str = ""
    form: str = ""
    status: str = ""
    when: str = "filed"
    purpose: str = "information"
    since: date | None = Field(default=None, strict=False)
    shares: list[ShareSet] = Field(default_factory=list, max_length=500)
    by_itself: bool = False


class SetDistribution(Command):
    version: int
    lines: list[DistributionLine] = Field(max_length=MOST_LINES)


class TryDistribution(Command):
    lines: list[DistributionLine] = Field(max_length=MOST_LINES)


class MatrixHolder(Answered):
    """A column: a company or a role, with those of the project that it stands for."""

    kind: str
    id: str
    code: str
    name: str
    people: int


class Distribution(Answered):
    """The matrix, its columns, and what its lines may name."""

    version: int
    lines: list[DistributionLine]
    holders: list[MatrixHolder]
    disciplines: list[CodeWords]
    forms: list[CodeWords]
    statuses: list[CodeWords]
    purposes: list[CodeWords]
    whens: list[CodeWords]


class DueChange(Answered):
    """How many documents are due to a company by the matrix as it is kept, and by the one being edited."""

    company: str
    name: str
    before: int
    after: int


class DistributionTried(Answered):
    """Companies to which the same is due are left out."""

    changes: list[DueChange]


def read_distribution(context: Context, actor: Actor, project_id: str) -> Distribution:
    """For those who run the project."""
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        seat.need_to_run()
        project = seat.project
        return Distribution(
            version=project.version, lines=[_shown(each) for each in matrix_of(project)],
            holders=_holders(project, companies_here(session, project_id)),
            disciplines=_listed(project.rules["disciplines"]), forms=_listed(forms_of(project)),
            statuses=_listed(project.rules["statuses"]), purposes=_listed(_purposes(project)), whens=_listed(WHENS),
        )  # fmt: skip


def _purposes(project: ProjectRow) -> dict[str, str]:
    return {code: each.words for code, each in purposes_of(project).items()}


def _listed(words: dict[str, str]) -> list[CodeWords]:
    return [CodeWords(code=code, words=each) for code, each in words.items()]


def _holders(project: ProjectRow, companies: Sequence[Company]) -> list[MatrixHolder]:
    found = [
        MatrixHolder(kind="company", id=each.id, code=each.code, name=each.name, people=each.people)
        for each in companies
    ]
    for role in project.rules["roles"]:
        people = sum(len(each.roles.get(role["code"], ())) for each in companies)
        found.append(MatrixHolder(kind="role", id=role["code"], code="", name=role["name"], people=people))
    return found


def _shown(line: Line) -> DistributionLine:
    return DistributionLine(
        discipline=line.discipline, form=line.form, status=line.status, when=line.when, purpose=line.purpose,
        since=line.since, by_itself=bool(line.sent_by),
        shares=[ShareSet(kind=_KINDS[kind], id=id, share=share.value) for (kind, id), share in line.shares.items()],
    )  # fmt: skip


_KINDS: dict[str, Literal["company", "role"]] = {"company": "company", "role": "role"}


def _line(given: DistributionLine, sent_by: str) -> Line:
    shares: dict[Holder, Share] = {(each.kind, each.id): Share(each.share) for each in given.shares}
    return Line(given.discipline, given.form, given.status, given.when, given.purpose, given.since, shares, sent_by)


def _checked(session: Session, project: ProjectRow, given: Sequence[DistributionLine], by: str) -> list[Line]:
    """A line may go on naming a company that has nobody in the project any more: it gets nothing.

    What goes by itself goes on in the name it went in as long as nobody changes its line; else in the name of `by`.
    """
    before = [line for line in matrix_of(project) if line.sent_by]
    holders = {(each.kind, each.id) for each in _holders(project, companies_here(session, project.id))}
    holders |= {holder for line in matrix_of(project) for holder in line.shares}
    known = Known(
        project.rules["disciplines"], forms_of(project), project.rules["statuses"], purposes_of(project), holders
    )
    return check_lines([_line(each, _name(each, before, by) if each.by_itself else "") for each in given], known)


def _name(given: DistributionLine, before: Sequence[Line], by: str) -> str:
    """In whose name it goes: nobody else can have something sent in a name by adding a company to a line."""
    return next((line.sent_by for line in before if _line(given, line.sent_by) == line), by)


def try_distribution(context: Context, actor: Actor, project_id: str, command: TryDistribution) -> DistributionTried:
    """What would be due by the matrix as it is being edited. Raises RuleBroken for a line that cannot be."""
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        seat.need_to_run()
        lines, companies = (
            _checked(session, seat.project, command.lines, actor.person_id),
            companies_here(session, project_id),
        )
        before = due_of(session, seat.project, matrix_of(seat.project), companies)
        after = due_of(session, seat.project, lines, companies)
        return DistributionTried(
            changes=[
                DueChange(company=each.code, name=each.name, before=len(before[each.id]), after=len(after[each.id]))
                for each in companies
                if before[each.id] != after[each.id]
            ]
        )


def set_distribution(context: Context, actor: Actor, project_id: str, command: SetDistribution) -> Saved:
    """What is due is worked out from it whenever it is asked for. Raises RuleBroken for a line that cannot be."""
    with acting(context, actor) as act:
        _, project = open_setup(act, project_id, command.version)
        kept = [_kept(each) for each in _checked(act.session, project, command.lines, actor.person_id)]
        before = {"distribution": project.rules.get("distribution", [])}
        project.rules = {**project.rules, "distribution": kept}
        return saved(act, project, "distribution matrix", before, {"distribution": kept})


def _kept(line: Line) -> dict[str, Any]:
    return {
        "discipline": line.discipline, "form": line.form, "status": line.status, "when": line.when,
        "purpose": line.purpose, "since": line.since.isoformat() if line.since else "",
        "sent_by": line.sent_by,
        "shares": [[kind, id, share.value] for (kind, id), share in sorted(line.shares.items())],
    }  # fmt: skip
