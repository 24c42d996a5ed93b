"""Documents and their revisions as things: there for whoever sees their folder."""

from __future__ import annotations

import re
from typing import Any

from sqlalchemy import Select, func, select
from sqlalchemy.orm import Session, undefer

from nod.core.access.levels import Level
from nod.services.acts.seats import Seat
from nod.services.register.search import find_documents
from nod.services.things.audiences import AudienceOf
from nod.services.things.kinds import ThingKind, thing_kind
from nod.store.asides import aside, asides
from nod.store.tables import DocumentRow, RevisionRow


def _folder(document_id: Any) -> Select[Any]:
    row = aside("register_folder", DocumentRow)
    return select(row.folder_id).where(row.id == document_id)


DOCUMENT = thing_kind(
    ThingKind(
        code="document",
        words="document",
        plural="documents",
        row=DocumentRow,
        audience=AudienceOf(folders=(_folder,)),
        number=lambda row: row.number,
        title=lambda row: row.title,
        address=lambda row: f"/sheet/{row.revision_id}",
        dossier=lambda row: f"/register?document={row.id}",
        named_by=(DocumentRow.number, DocumentRow.title),
        listed=(DocumentRow.id, DocumentRow.number, DocumentRow.title, DocumentRow.revision_id),
        newest=DocumentRow.number,
        topic="register",
        find=find_documents,
        placed=True,
        may_talk=lambda seat, row: seat.at(row.folder_id) >= Level.MARK,
    )
)


def _folder_of_revision(revision_id: Any) -> Select[Any]:
    revision, document = asides("register_folder_of_revision", RevisionRow, DocumentRow)
    query = select(document.folder_id).join(revision, revision.document_id == document.id)
    return query.where(revision.id == revision_id)


_CODE = re.compile(r"[A-Za-z]|[A-Za-z]{0,3}[0-9]{1,3}([.-][0-9]{1,2})?")
"""What a revision may be called: no other word makes the search look for one."""


def _find_revisions(session: Session, seat: Seat, words: str, most: int) -> list[RevisionRow]:
    """By a revision's code behind the words of its document, as in `0101 P02`."""
    *of_document, code = words.split() or [""]
    if not of_document or not _CODE.fullmatch(code):
        return []
    documents = [each.id for each in find_documents(session, seat, " ".join(of_document), most)]
    query = select(RevisionRow).where(
        RevisionRow.document_id.in_(documents), func.lower(RevisionRow.code) == code.lower()
    )
    return list(session.scalars(query.options(*map(undefer, _FROM_DOCUMENT)).order_by(RevisionRow.filed_at.desc())))


_FROM_DOCUMENT = (RevisionRow.project_id, RevisionRow.number)

REVISION = thing_kind(
    ThingKind(
        code="revision",
        words="revision",
        plural="revisions",
        row=RevisionRow,
        audience=AudienceOf(folders=(_folder_of_revision,)),
        number=lambda row: f"{row.number} {row.code}",
        title=lambda row: row.title,
        address=lambda row: f"/sheet/{row.id}",
        dossier=lambda row: f"/register?document={row.document_id}",
        named_by=(RevisionRow.title,),
        listed=(RevisionRow.id, RevisionRow.document_id, RevisionRow.code, RevisionRow.title, *_FROM_DOCUMENT),
        newest=RevisionRow.filed_at,
        topic="register",
        find=_find_revisions,
        part_of="document",
        has_talk=False,
    )
)
