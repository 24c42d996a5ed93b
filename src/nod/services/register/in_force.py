"""Keeping what is in force: after every act that files, releases, withdraws or brings back."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator
from dataclasses import dataclass

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from nod.core.register.in_force import Around, Force, Issued, Use, force_of, use_of
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.context import Act
from nod.store.dialects.sqlite import one_of
from nod.store.tables import DocumentRow, ProjectRow, RevisionRow

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


def refresh_in_force(act: Act, project: ProjectRow, document_ids: Collection[str]) -> None:
    """The rows say what is in force now; each document of which another is has an entry."""
    act.session.flush()
    for number, before, document in _reckon(act, project, list(document_ids)):
        after = {"in_force": document.in_force}
        subjects = (Subject("revision", document.in_force_id),) if document.in_force_id else ()
        fact = Fact(
            FactKind.IN_FORCE_CHANGED, Subject("document", document.id), number, subjects, {"in_force": before}, after
        )
        act.record(project.id, fact)


def reckon_project(act: Act, project: ProjectRow) -> int:
    """After the project has said anew what its statuses may be used for. Returns how many documents it changed.

    One entry for all of them: it has in `state` what is in force of each that changed.
    """
    act.session.flush()
    ids = list(act.session.scalars(select(DocumentRow.id).where(DocumentRow.project_id == project.id)))
    now = {document.id: document.in_force for _, _, document in _reckon(act, project, ids)}
    if now:
        after = {"documents": len(now)}
        fact = Fact(
            FactKind.IN_FORCE_CHANGED, Subject("project", project.id), project.name, after=after,
            state={"in_force": now},
        )  # fmt: skip
        act.record(project.id, fact)
        act.tell(project.id, "register", project.id)
    return len(now)


def would_change(session: Session, project: ProjectRow, uses: dict[str, str]) -> int:
    """Of how many documents another revision would be in force."""
    ids = list(session.scalars(select(DocumentRow.id).where(DocumentRow.project_id == project.id)))
    return sum((force.in_force or "") != document.in_force_id for document, force, _ in _forces(session, ids, uses))


def around_of(document: DocumentRow) -> Around:
    return Around(document.revision, document.in_force, document.withdrawn)


def is_released_by(project: ProjectRow, status: str) -> bool:
    return use_of(status, uses_of(project)) > Use.RECEIVED


def uses_of(project: ProjectRow) -> dict[str, str]:
    uses: dict[str, str] = project.rules.get("status_uses", {})
    return uses


def _reckon(act: Act, project: ProjectRow, ids: list[str]) -> Iterator[tuple[str, str, DocumentRow]]:
    """Number, what was in force, and the row, of each document of which another revision is in force now."""
    uses = uses_of(project)
    for document, force, kept in _forces(act.session, ids, uses):
        before, codes = document.in_force, {each.id: each.code for each in kept}
        document.in_force_id = force.in_force or ""
        document.in_force = codes.get(document.in_force_id, "")
        document.release = force.release
        _date(act, kept, force, uses)
        if before != document.in_force:
            yield document.number, before, document


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


def _forces(session: Session, ids: list[str], uses: dict[str, str]) -> Iterable[tuple[DocumentRow, Force, list[_Kept]]]:
    for start in range(0, len(ids), _AT_ONCE):
        some = ids[start : start + _AT_ONCE]
        columns = (
            RevisionRow.id, RevisionRow.document_id, RevisionRow.code, RevisionRow.place, RevisionRow.status,
            RevisionRow.as_history, RevisionRow.released_at.is_not(None), RevisionRow.superseded_at.is_not(None),
        )  # fmt: skip
        of: dict[str, list[_Kept]] = {}
        for row in session.execute(select(*columns).where(one_of(RevisionRow.document_id, some))):
            of.setdefault(row[1], []).append(_Kept(*row))
        for document in session.scalars(select(DocumentRow).where(one_of(DocumentRow.id, some))):
            kept = of[document.id]
            issued = [each.issued(uses) for each in kept]
            yield document, force_of(issued, withdrawn=document.withdrawn), kept
