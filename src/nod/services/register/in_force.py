"""Keeping what is in force: after every act that files, releases, withdraws or brings back."""

from __future__ import annotations

from collections.abc import Collection, Iterator
from dataclasses import dataclass

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from nod.core.register.in_force import Around, Force, Issued, Use, force_of, use_of
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.context import Act
from nod.services.register.copies_kept import follow_originals
from nod.store.dialects.sqlite import one_of
from nod.store.tables import NO_COPY, DocumentRow, ProjectRow, RevisionRow

_AT_ONCE = 5000


@dataclass(frozen=True)
class _Kept:
    """A revision as its row has it."""

    id: str
    document_id: str
    code: str
    place: int
    status: str
    as_history: bool
    released: bool
    superseded: bool

    def issued(self, uses: dict[str, str]) -> Issued:
        return Issued(self.id, self.place, use_of(self.status, uses), not self.as_history or self.released)


@dataclass(frozen=True)
class _Line:
    """What a document's row says of it now."""

    id: str
    withdrawn: bool
    in_force_id: str
    in_force: str
    release: str


def refresh_in_force(act: Act, project: ProjectRow, document_ids: Collection[str]) -> None:
    """The rows say what is in force now; each document of which another is has an entry, and so have its copies."""
    act.session.flush()
    for before, document in _reckon(act, project, list(document_ids)):
        after = {"in_force": document.in_force}
        about = Subject("document", document.id)
        subjects = (Subject("revision", document.in_force_id),) if document.in_force_id else ()
        fact = Fact(FactKind.IN_FORCE_CHANGED, about, document.number, subjects, {"in_force": before}, after)
        act.record(project.id, fact)
    follow_originals(act, project, list(document_ids))


def reckon_project(act: Act, project: ProjectRow) -> int:
    """After the project has said anew what its statuses may be used for. Returns how many documents it changed.

    One entry for all of them: it has in `state` what is in force of each that changed.
    """
    act.session.flush()
    now = {document.id: document.in_force for _, document in _reckon(act, project, _all_of(act.session, project))}
    if now:
        after = {"documents": len(now)}
        fact = Fact(
            FactKind.IN_FORCE_CHANGED, Subject("project", project.id), project.name, after=after,
            state={"in_force": now},
        )  # fmt: skip
        act.record(project.id, fact)
        act.tell(project.id, "register", project.id)
    follow_originals(act, project, None)
    return len(now)


def would_change(session: Session, project: ProjectRow, uses: dict[str, str]) -> int:
    """Of how many documents another revision would be in force."""
    found = _forces(session, _all_of(session, project), uses)
    return sum((force.in_force or "") != line.in_force_id for line, force, _ in found)


def _all_of(session: Session, project: ProjectRow) -> list[str]:
    query = select(DocumentRow.id).where(DocumentRow.project_id == project.id, DocumentRow.copy_of == NO_COPY)
    return list(session.scalars(query))


def around_of(document: DocumentRow) -> Around:
    return Around(document.revision, document.in_force, document.withdrawn, document.release == "passed")


def is_released_by(project: ProjectRow, status: str) -> bool:
    return use_of(status, uses_of(project)) > Use.RECEIVED


def uses_of(project: ProjectRow) -> dict[str, str]:
    uses: dict[str, str] = project.rules.get("status_uses", {})
    return uses


def _reckon(act: Act, project: ProjectRow, ids: list[str]) -> list[tuple[str, DocumentRow]]:
    """What was in force, and the row, of each document of which another revision is in force now."""
    uses = uses_of(project)
    changed: dict[str, tuple[_Line, tuple[str, str, str]]] = {}
    for line, force, kept in _forces(act.session, ids, uses):
        codes = {each.id: each.code for each in kept}
        in_force_id = force.in_force or ""
        now = (in_force_id, codes.get(in_force_id, ""), force.release)
        if now != (line.in_force_id, line.in_force, line.release):
            changed[line.id] = line, now
        _date(act, kept, force, uses)
    found = []
    for document in act.session.scalars(select(DocumentRow).where(one_of(DocumentRow.id, list(changed)))).all():
        line, (document.in_force_id, document.in_force, document.release) = changed[document.id]
        if line.in_force != document.in_force:
            found.append((line.in_force, document))
    return sorted(found, key=lambda each: each[1].number)


def _date(act: Act, kept: list[_Kept], force: Force, uses: dict[str, str]) -> None:
    """Since when each of the revisions is superseded, and since when released."""
    used = {each.id for each in kept if (one := each.issued(uses)).counts and one.use > Use.RECEIVED}
    for column, held, now in (
        ("superseded_at", {each.id for each in kept if each.superseded}, force.superseded),
        ("released_at", {each.id for each in kept if each.released}, used),
    ):
        for found, at in ((now - held, act.at), (held - now, None)):
            if found:
                setting = update(RevisionRow).where(RevisionRow.id.in_(found)).values({column: at})
                act.session.execute(setting)


def _forces(session: Session, ids: list[str], uses: dict[str, str]) -> Iterator[tuple[_Line, Force, list[_Kept]]]:
    """There may be 100,000: plain rows, some thousands at once."""
    for start in range(0, len(ids), _AT_ONCE):
        some = ids[start : start + _AT_ONCE]
        columns = (
            RevisionRow.id, RevisionRow.document_id, RevisionRow.code, RevisionRow.place, RevisionRow.status,
            RevisionRow.as_history, RevisionRow.released_at.is_not(None), RevisionRow.superseded_at.is_not(None),
        )  # fmt: skip
        of: dict[str, list[_Kept]] = {}
        for row in session.execute(select(*columns).where(one_of(RevisionRow.document_id, some))):
            of.setdefault(row[1], []).append(_Kept(*row))
        lines = select(
            DocumentRow.id, DocumentRow.withdrawn, DocumentRow.in_force_id, DocumentRow.in_force, DocumentRow.release
        ).where(one_of(DocumentRow.id, some))
        for line in [_Line(*row) for row in session.execute(lines)]:
            kept = of[line.id]
            yield line, force_of([each.issued(uses) for each in kept], withdrawn=line.withdrawn), kept
