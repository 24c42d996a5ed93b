"""Where a document stands: whether it is checked out, and its latest verdict."""

from __future__ import annotations

from collections.abc import Collection

from sqlalchemy import bindparam, select, update
from sqlalchemy.orm import Session
from sqlalchemy.orm.attributes import set_committed_value
from sqlalchemy.orm.util import identity_key

from nod.core.trail.entries import Subject
from nod.services.open_work.kinds import WorkKind, work_kind
from nod.services.open_work.open_work import Wanted, mirror, set_open_work
from nod.store.bulk import rows_of
from nod.store.dialects.sqlite import one_of
from nod.store.tables import Base, DocumentRow, OpenWorkRow, ReviewDocumentRow, ReviewRow, RevisionRow

_DOCUMENTS = Base.metadata.tables[DocumentRow.__tablename__]
_SET_VERDICT = update(_DOCUMENTS).where(_DOCUMENTS.c.id == bindparam("of")).values(verdict=bindparam("to"))

CHECK_IN = work_kind(WorkKind("check_in", "document"))


def refresh(session: Session, document_ids: set[str]) -> None:
    """After a document was filed, checked out or in: what is wanted of it, and its line; part of the transaction."""
    session.flush()
    query = select(OpenWorkRow.thing_id).where(
        OpenWorkRow.thing_id.in_(document_ids), OpenWorkRow.kind == CHECK_IN.code
    )
    before = set(session.scalars(query))
    for document in _rows(session, document_ids):
        out = document.checked_out_by
        if not out and document.id not in before:
            continue
        wanted = Wanted(CHECK_IN.code, [out], since_at=document.checked_out_at, documents=[document.id])
        set_open_work(session, document.project_id, Subject("document", document.id), [wanted] if out else [])
    mirror(session, document_ids)
    refresh_verdicts(session, document_ids)


def refresh_verdicts(session: Session, document_ids: Collection[str]) -> None:
    """The lines show the latest verdict on their revision. As plain rows: a review may end with hundreds."""
    columns = (_DOCUMENTS.c.id, _DOCUMENTS.c.revision_id, _DOCUMENTS.c.verdict)
    rows = rows_of(session, select(*columns).where(one_of(_DOCUMENTS.c.id, list(document_ids))))
    verdicts = verdicts_of(session, [each.revision_id for each in rows])
    now = {each.id: verdicts.get(each.revision_id, "") for each in rows}
    changed = [{"of": each.id, "to": now[each.id]} for each in rows if each.verdict != now[each.id]]
    if not changed:
        return
    session.connection().execute(_SET_VERDICT, changed)
    for each in changed:
        # Those that the session has already are as the table is.
        if (document := session.identity_map.get(identity_key(DocumentRow, each["of"]))) is not None:
            set_committed_value(document, "verdict", each["to"])


def _rows(session: Session, document_ids: Collection[str]) -> list[DocumentRow]:
    return list(session.scalars(select(DocumentRow).where(DocumentRow.id.in_(document_ids))))


def verdict_of(session: Session, revision_id: str) -> str:
    """The latest verdict given to exactly this revision; empty without one."""
    return verdicts_of(session, [revision_id]).get(revision_id, "")


def verdicts_of(session: Session, revision_ids: Collection[str]) -> dict[str, str]:
    """The latest verdict on each of these revisions that has one."""
    query = (
        select(ReviewDocumentRow.revision_id, ReviewDocumentRow.verdict)
        .join(ReviewRow, ReviewRow.id == ReviewDocumentRow.review_id)
        .where(one_of(ReviewDocumentRow.revision_id, list(revision_ids)), ReviewDocumentRow.verdict != "")
        .order_by(ReviewRow.ended_at.is_(None), ReviewRow.ended_at)
    )
    copied = select(RevisionRow.id, RevisionRow.copy_verdict).where(
        one_of(RevisionRow.id, list(revision_ids)), RevisionRow.copied_from != ""
    )
    # A copy keeps the verdict that it came with, whatever comes later where it came from.
    return {id: verdict for found in (query, copied) for id, verdict in session.execute(found)}
