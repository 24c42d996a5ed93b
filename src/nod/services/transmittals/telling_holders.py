"""Holders are told when what they were sent is superseded or withdrawn: one mail a person and act (handbook §10)."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.counted import counted
from nod.core.trail.entries import FactKind, Subject
from nod.core.transmittals.holders import CellState
from nod.services.acts.context import Act
from nod.services.mail.mails import About, write_mail
from nod.services.notices.followers import also_told
from nod.services.notices.notices import Notice, tell_person
from nod.services.transmittals.holders import Found, cells_of
from nod.store.dialects.sqlite import one_of
from nod.store.tables import (
    DocumentRow,
    MembershipRow,
    ProjectRow,
    RecipientRow,
    TransmittalDocumentRow,
    TransmittalRow,
)

_WORDS = {
    CellState.BEHIND: "your company has {has}; {now} is in force now",
    CellState.WITHDRAWN: "your company has {has}; the document is withdrawn",
}


@also_told
def tell_holders(act: Act, project: ProjectRow, bodies: Sequence[dict[str, Any]], told_of: str) -> None:
    """Of documents of which another revision has come in force, or which were withdrawn."""
    ids = list(dict.fromkeys(_documents(bodies)))
    if not ids:
        return
    documents = {row.id: row for row in act.session.scalars(select(DocumentRow).where(one_of(DocumentRow.id, ids)))}
    lines = {
        key: _line(documents[key[0]], found)
        for key, found in cells_of(act.session, ids).items()
        if found.cell.state in _WORDS
    }
    for person_id, (outside, sent_with, told) in _people(act.session, project.id, lines).items():
        said = [lines[key] for key in told]
        number = counted(len(said), "document")
        subject = f"{project.number}: {number} you were sent {'is' if len(said) == 1 else 'are'} not in force any more"
        text = [*said, "", "Do not work from what you have. Another comes from whoever sent it, or ask for it."]
        key = f"holders:{told_of}:{person_id}"
        about = Subject("transmittal", sent_with)
        if outside:
            write_mail(act, key, person_id, subject, text, about=About(project, about))
        else:
            notice = Notice(key, subject, text, f"/transmittals/{sent_with}", [about])
            tell_person(act, project, "superseded", person_id, notice, told_of)


def _documents(bodies: Iterable[dict[str, Any]]) -> Iterable[str]:
    for body in bodies:
        if body["kind"] == FactKind.IN_FORCE_CHANGED and body["subject"]["kind"] == "project":
            yield from body.get("state", {}).get("in_force", {})
        elif body["kind"] in (FactKind.IN_FORCE_CHANGED, FactKind.DOCUMENT_WITHDRAWN):
            yield body["subject"]["id"]


def _line(document: DocumentRow, found: Found) -> str:
    said = _WORDS[found.cell.state].format(has=found.revision, now=document.in_force)
    return f"{document.number} {document.title}: {said}"


Key = tuple[str, str]


def _people(session: Session, project_id: str, lines: dict[Key, str]) -> dict[str, tuple[bool, str, list[Key]]]:
    """Those who were sent one of the documents for their company: whether they are outside, what it came with last."""
    query = (
        select(
            TransmittalDocumentRow.document_id, RecipientRow.company_id, RecipientRow.person_id, TransmittalRow.id,
            MembershipRow.state,
        )
        .join(TransmittalRow, TransmittalRow.id == TransmittalDocumentRow.transmittal_id)
        .join(RecipientRow, RecipientRow.transmittal_id == TransmittalRow.id)
        .join(MembershipRow, MembershipRow.person_id == RecipientRow.person_id)
        .where(
            one_of(TransmittalDocumentRow.document_id, {document for document, _ in lines}),
            TransmittalRow.voided_at.is_(None), MembershipRow.project_id == project_id,
            MembershipRow.state != "removed",
        )
        .order_by(TransmittalRow.sent_at)
    )  # fmt: skip
    found: dict[str, tuple[bool, str, list[Key]]] = {}
    for document_id, company_id, person_id, transmittal_id, state in session.execute(query):
        key = document_id, company_id
        if key in lines:
            told = found[person_id][2] if person_id in found else []
            found[person_id] = state == "contact", transmittal_id, [*told, *([] if key in told else [key])]
    return found
