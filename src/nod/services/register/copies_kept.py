"""Copies in folders say with the document they came from whether they hold, what they are called, where it lies."""

from __future__ import annotations

from collections.abc import Collection

from sqlalchemy import select, update
from sqlalchemy.orm import aliased

from nod.core.register.copies import release_of_copy
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.context import Act
from nod.services.register.finding_words import gather_words
from nod.store.dialects.sqlite import one_of, unindexed
from nod.store.tables import NO_COPY, DocumentRow, ProjectRow, RevisionRow


def follow_originals(act: Act, project: ProjectRow, document_ids: Collection[str] | None) -> None:
    """After what is in force of these documents was reckoned, or of all of the project; an entry for each that changed.

    A copy says that another is in force, and not which.
    """
    act.session.flush()
    original = aliased(DocumentRow)
    query = (
        select(DocumentRow, RevisionRow, original.in_force_id)
        .join(original, original.id == DocumentRow.copy_of)
        .join(RevisionRow, RevisionRow.id == DocumentRow.revision_id)
        .where(DocumentRow.copy_of != NO_COPY)
        .order_by(DocumentRow.number, DocumentRow.seq)
    )
    if document_ids is None:
        query = query.where(DocumentRow.project_id == project.id)
    else:
        query = query.where(unindexed(DocumentRow.project_id) == project.id, one_of(DocumentRow.copy_of, document_ids))
    for copy, revision, in_force_id in act.session.execute(query).all():
        release = release_of_copy(revision.copied_from, in_force_id)
        holds = release == "same"
        now = (release, revision.code if holds else "", revision.id if holds else "")
        superseded = release == "passed"
        if now == (copy.release, copy.in_force, copy.in_force_id) and superseded == bool(revision.superseded_at):
            continue
        before = copy.in_force
        copy.release, copy.in_force, copy.in_force_id = now
        revision.superseded_at = act.at if superseded else None
        if before != copy.in_force:
            subjects = (Subject("revision", revision.id),)
            fact = Fact(
                FactKind.IN_FORCE_CHANGED, Subject("document", copy.id), copy.number, subjects,
                {"in_force": before}, {"in_force": copy.in_force},
            )  # fmt: skip
            act.record(project.id, fact)
        act.tell(project.id, "register", copy.folder_id, {copy.folder_id})


def follow_withdrawal(act: Act, original: DocumentRow) -> None:
    """What is withdrawn, or brought back, is so in every folder; a copy that was taken out before stays out."""
    for copy in _copies(act, original.id):
        if copy.withdrawn == original.withdrawn:
            continue
        if copy.withdrawn and copy.withdrawn_why != _WITH_IT:
            continue
        copy.withdrawn, copy.withdrawn_at = original.withdrawn, original.withdrawn_at
        copy.withdrawn_why = _WITH_IT if original.withdrawn else ""
        copy.version += 1
        kind = FactKind.DOCUMENT_WITHDRAWN if copy.withdrawn else FactKind.DOCUMENT_BROUGHT_BACK
        subjects = (Subject("revision", copy.revision_id),)
        fact = Fact(kind, Subject("document", copy.id), copy.number, subjects, why=copy.withdrawn_why)
        act.record(copy.project_id, fact)
        act.tell(copy.project_id, "register", copy.folder_id, {copy.folder_id})


_WITH_IT = "It was withdrawn where it came from."
_NAMED = ("number", "discipline", "originator", "form", "zone", "level")


def follow_name(act: Act, original: DocumentRow, why: str) -> None:
    """A copy has the number of the document that it came from."""
    act.session.flush()
    for copy in _copies(act, original.id):
        before = copy.number
        for column in _NAMED:
            setattr(copy, column, getattr(original, column))
        gather_words(act.session, copy)
        copy.version += 1
        subjects = (Subject("revision", copy.revision_id),)
        fact = Fact(
            FactKind.DOCUMENT_RENAMED, Subject("document", copy.id), copy.number, subjects,
            {"number": before}, {"number": copy.number}, why,
        )  # fmt: skip
        act.record(copy.project_id, fact)
        act.tell(copy.project_id, "register", copy.folder_id, {copy.folder_id})


def follow_home(act: Act, original: DocumentRow) -> None:
    """Who sees where it lies sees the document and not its copies."""
    place = update(DocumentRow).where(DocumentRow.copy_of == original.id)
    act.session.execute(place.values(home_folder_id=original.folder_id))


def _copies(act: Act, document_id: str) -> list[DocumentRow]:
    query = select(DocumentRow).where(DocumentRow.copy_of == document_id, DocumentRow.copy_of != NO_COPY)
    return list(act.session.scalars(query.order_by(DocumentRow.seq)))
