"""Reading a specification of the register: what it asks for, held against the log, and taken into it (handbook §9)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any

from pydantic import Field
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.submittals.numbers import Counter, prefix, shown_number
from nod.core.submittals.spec_against import Against, Logged, against
from nod.core.submittals.specification import SpecItem, read_specification
from nod.core.submittals.states import Deed, State
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.access.visibility import see_revision
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting
from nod.services.acts.seats import Actor, Seat
from nod.services.sheet.title_blocks import pages_seen
from nod.services.submittals.kind import SUBMITTAL
from nod.services.submittals.making import (
    LONGEST_TEXT,
    LONGEST_TITLE,
    Details,
    begun_row,
    change_row,
    company_in,
    told_of,
)
from nod.services.submittals.outlooks import submittal_rules
from nod.services.submittals.submittal_rows import begin, enter_for, named, record, settle, state_of
from nod.store.tables import DocumentRow, PageWordsRow, ProjectRow, RevisionRow, SubmittalRow

MOST_PAGES = 3000
MOST_TAKEN = 2000


class ItemShown(Answered):
    """What is asked for, at `top` millimetres of its page (counted from 0). `standing`: new, there, or moved.

    `submittal_id` and `number` are of the line of the log that it is; `was` is the paragraph that this names.
    """

    key: str
    page: int
    top: float
    section: str
    section_title: str
    paragraph: str
    kind: str
    title: str
    text: str
    standing: str
    submittal_id: str
    number: str
    version: int
    was: str


class GoneShown(Answered):
    """A line of the log that was taken from this document, which asks for it no more."""

    submittal_id: str
    number: str
    title: str
    section: str
    paragraph: str
    state: str


class SpecificationRead(Answered):
    """Of one revision. Without `has_words` it is a scan that nobody has read. `page_mm`: width and height by page."""

    revision_id: str
    number: str
    revision: str
    title: str
    page_mm: list[tuple[float, float]]
    has_words: bool
    items: list[ItemShown]
    gone: list[GoneShown]


class LineTaken(Command):
    """One that is to be in the log, as it was accepted or changed."""

    page: int = Field(ge=0, lt=MOST_PAGES)
    section: str
    paragraph: str
    kind: str
    title: str = Field(max_length=LONGEST_TITLE)
    text: str = Field(default="", max_length=LONGEST_TEXT)
    company_id: str
    required_on: date | None = Field(default=None, strict=False)


class LineMoved(Command):
    """A line of the log that stands elsewhere in this revision."""

    submittal_id: str
    version: int
    page: int = Field(ge=0, lt=MOST_PAGES)
    section: str
    paragraph: str


class TakeSpecification(Command):
    revision_id: str
    lines: list[LineTaken] = Field(max_length=MOST_TAKEN)
    moved: list[LineMoved] = Field(default_factory=list, max_length=MOST_TAKEN)


class SpecificationTaken(Answered):
    """How many are new in the log, and how many were said to stand elsewhere."""

    made: int
    moved: int


@dataclass(frozen=True)
class _Spec:
    revision: RevisionRow
    document: DocumentRow
    seat: Seat

    @property
    def words(self) -> str:
        return f"{self.document.number} {self.revision.code}"


def _open(session: Session, actor: Actor, revision_id: str) -> _Spec:
    """Raises NotFound for what is not there for this person, NotAllowed for who does not run the project."""
    revision, document, seat = see_revision(session, actor, revision_id)
    seat.need_tool(SUBMITTAL.tool)
    seat.need_to_run()
    return _Spec(revision, document, seat)


@dataclass(frozen=True)
class _Reading:
    items: Sequence[SpecItem]
    page_mm: list[tuple[float, float]]
    has_words: bool


_KEPT: dict[tuple[Any, ...], _Reading] = {}
"""The last few readings of this process: what a file says by the same words is the same for everybody."""
_MOST_KEPT = 4


def _reading(session: Session, spec: _Spec) -> _Reading:
    """Some milliseconds a page, so that it is not done again after each act."""
    words = submittal_rules(spec.seat.project).reading
    said = select(func.count(), func.sum(func.length(PageWordsRow.words)))
    read_by_now = session.execute(said.where(PageWordsRow.sha256 == spec.revision.sha256)).one()
    key = (spec.revision.sha256, *read_by_now, words.articles, words.aside, tuple(words.kinds.items()))
    if (kept := _KEPT.get(key)) is None:
        pages = pages_seen(session, spec.revision.sha256, MOST_PAGES)
        has_words = any(placed.texts for placed, _ in pages)
        kept = _Reading(read_specification(pages, words), [size for _, size in pages], has_words)
        for old in list(_KEPT)[: 1 - _MOST_KEPT]:
            _KEPT.pop(old, None)
        _KEPT[key] = kept
    return kept


def read(context: Context, actor: Actor, revision_id: str) -> SpecificationRead:
    """As the words of the project and the log are now."""
    with context.database.read() as session:
        spec = _open(session, actor, revision_id)
        reading = _reading(session, spec)
        items = reading.items
        rows = _log(session, spec.seat.project.id)
        found = against(items, [_logged(each, spec.document.id) for each in rows.values()])
        return SpecificationRead(
            revision_id=spec.revision.id, number=spec.document.number, revision=spec.revision.code,
            title=spec.revision.title, page_mm=reading.page_mm, has_words=reading.has_words,
            items=_items(items, found, rows), gone=[_gone(rows[each]) for each in found.gone],
        )  # fmt: skip


def _log(session: Session, project_id: str) -> dict[str, SubmittalRow]:
    there = (SubmittalRow.paragraph != "") | SubmittalRow.spec_document_id.is_not(None)
    query = select(SubmittalRow).where(
        SubmittalRow.project_id == project_id, SubmittalRow.state != State.VOID.value, there
    )  # fmt: skip
    return {row.id: row for row in session.scalars(query.order_by(SubmittalRow.number))}


def _logged(row: SubmittalRow, document_id: str) -> Logged:
    from_here = row.spec_document_id == document_id
    return Logged(row.id, row.section, row.paragraph, row.kind, row.title, from_here)


def _items(items: Sequence[SpecItem], found: Against, rows: dict[str, SubmittalRow]) -> list[ItemShown]:
    shown = []
    for at, each in enumerate(items):
        standing = "there" if at in found.there else "moved" if at in found.moved else "new"
        row = rows.get(found.there.get(at) or found.moved.get(at) or "")
        shown.append(
            ItemShown(
                key=f"{each.page} {each.section} {each.paragraph} {each.kind} {each.top:.1f}",
                page=each.page, top=each.top, section=each.section, section_title=each.section_title,
                paragraph=each.paragraph, kind=each.kind, title=each.title, text=each.text,
                standing=standing, submittal_id=row.id if row else "", number=_number(row) if row else "",
                version=row.version if row else 0, was=f"{row.section} {row.paragraph}".strip() if row else "",
            )
        )  # fmt: skip
    return shown


def _number(row: SubmittalRow) -> str:
    return shown_number(row.number, row.revision)


def _gone(row: SubmittalRow) -> GoneShown:
    return GoneShown(
        submittal_id=row.id, number=_number(row), title=row.title, section=row.section, paragraph=row.paragraph,
        state=row.state,
    )  # fmt: skip


def take(context: Context, actor: Actor, command: TakeSpecification) -> SpecificationTaken:
    """All of it in one act. Raises RuleBroken, with the line's title, for what makes no sense."""
    with acting(context, actor) as act:
        spec = _open(act.session, actor, command.revision_id)
        if not command.lines and not command.moved:
            raise RuleBroken("nothing_to_keep", "Mark what is to be taken into the log.")
        made = _make(act, spec, command.lines)
        moved = [_move(act, actor, spec, each) for each in command.moved]
        for row in moved:
            record(act, row, FactKind.SUBMITTAL_CHANGED, _place(spec, row))
        if moved:
            settle(act, spec.seat.project, moved)
        act.tell(spec.seat.project.id, SUBMITTAL.topic, spec.seat.project.id)
        return SpecificationTaken(made=len(made), moved=len(moved))


def _make(act: Act, spec: _Spec, lines: Sequence[LineTaken]) -> list[SubmittalRow]:
    project = spec.seat.project
    rules = submittal_rules(project)
    _check_not_there(act.session, spec, lines)
    companies = {each: company_in(act.session, project.id, each) for each in {line.company_id for line in lines}}
    taken = act.session.scalars(select(SubmittalRow.number).where(SubmittalRow.project_id == project.id)).all()
    numbers, rows = Counter(rules.numbered_by, taken), []
    for line in lines:
        company = companies[line.company_id]
        row = begun_row(act, project, "", company.id)
        _fill(act.session, project, row, line)
        row.number = numbers.next(prefix(rules.numbered_by, company.code, row.section))
        _put_at(spec, row, line.page)
        rows.append(row)
    act.session.add_all(rows)
    act.session.flush()
    for row in rows:
        after, about = told_of(act.session, row) | _place(spec, row), Subject(SUBMITTAL.code, row.id)
        fact = Fact(FactKind.SUBMITTAL_MADE, about, named(row), (), {}, after, state=state_of(row, ()))
        act.record(project.id, fact)
    begin(act, project, rows)
    return rows


def _check_not_there(session: Session, spec: _Spec, lines: Sequence[LineTaken]) -> None:
    """Raises RuleBroken for one that somebody has taken meanwhile: from this page, with the same words."""
    place = (SubmittalRow.spec_page, SubmittalRow.paragraph, SubmittalRow.kind, SubmittalRow.description)
    query = select(SubmittalRow.number, *place).where(
        SubmittalRow.spec_revision_id == spec.revision.id, SubmittalRow.state != State.VOID.value
    )  # fmt: skip
    there = {tuple(rest): number for number, *rest in session.execute(query)}
    for line in lines:
        if number := there.get((line.page, line.paragraph, line.kind, line.text.strip())):
            words = f"{line.title[:80]}: somebody has taken it into the log meanwhile, as {number}."
            raise RuleBroken("spec_taken", words, number)


def _fill(session: Session, project: ProjectRow, row: SubmittalRow, line: LineTaken) -> None:
    given: dict[str, Any] = {
        "title": line.title, "kind": line.kind, "section": line.section, "paragraph": line.paragraph,
        "description": line.text,
    }  # fmt: skip
    if line.required_on is not None:
        given["required_on"] = line.required_on
    try:
        change_row(session, project, submittal_rules(project), row, Details(**given))
    except RuleBroken as broken:
        broken.words = f"{line.title[:80] or line.paragraph}: {broken.words}"
        raise


def _move(act: Act, actor: Actor, spec: _Spec, given: LineMoved) -> SubmittalRow:
    row = enter_for(act, actor, given.submittal_id, given.version, Deed.EDIT).row
    if row.project_id != spec.seat.project.id:
        raise NotFound(given.submittal_id)
    details = Details(section=given.section, paragraph=given.paragraph)
    change_row(act.session, spec.seat.project, submittal_rules(spec.seat.project), row, details)
    _put_at(spec, row, given.page)
    return row


def _put_at(spec: _Spec, row: SubmittalRow, page: int) -> None:
    row.spec_document_id, row.spec_revision_id, row.spec_page = spec.document.id, spec.revision.id, page


def _place(spec: _Spec, row: SubmittalRow) -> dict[str, Any]:
    """What the trail says of where it stands."""
    page = (row.spec_page or 0) + 1
    return {"section": row.section, "paragraph": row.paragraph, "asked for in": f"{spec.words}, page {page}"}
