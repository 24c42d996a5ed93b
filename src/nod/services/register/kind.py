"""Documents as things: there for whoever sees their folder."""

from __future__ import annotations

from typing import Any

from sqlalchemy import Select, select
from sqlalchemy.orm import aliased

from nod.core.access.levels import Level
from nod.services.register.search import find_documents
from nod.services.things.audiences import AudienceOf
from nod.services.things.kinds import ThingKind, thing_kind
from nod.store.tables import DocumentRow


def _folder(document_id: Any) -> Select[Any]:
    row = aliased(DocumentRow)
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
        may_talk=lambda seat, row: seat.at(row.folder_id) >= Level.MARK,
    )
)
