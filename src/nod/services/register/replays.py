"""How entries make documents and revisions."""

from __future__ import annotations

from collections.abc import Iterator

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.trail.entries import FactKind
from nod.services.acts.replays import Body, Replay, Row, Rows, others_of, replay, subject_of
from nod.store.tables import DocumentRow, RenditionRow, RevisionRow

_LINE = ("title", "revision", "status")


def _filed(rows: Rows, body: Body) -> None:
    row = rows.setdefault(subject_of(body), {"withdrawn": False})
    row |= {key: body["after"][key] for key in _LINE if key in body["after"]}
    if "number" not in row:
        row["number"] = body["about"].removesuffix(f" {row['revision']}")
    row["name"] = row["number"]


def _put(rows: Rows, body: Body) -> None:
    _filed(rows, body)
    rows[subject_of(body)]["withdrawn"] = False


def _changed(rows: Rows, body: Body) -> None:
    row = rows.get(subject_of(body))
    if row is not None:
        row |= {key: body["after"][key] for key in ("title", "status") if key in body["after"]}


def _status_set(rows: Rows, body: Body) -> None:
    row = rows.get(subject_of(body))
    if row is not None and body["about"] == f"{row['number']} {row.get('revision', '')}":
        row["status"] = body["after"]["status"]


def _in_force(rows: Rows, body: Body) -> None:
    """One document, or all of a project whose statuses mean something else now."""
    if body["subject"]["kind"] == "document":
        rows.get(subject_of(body), {})["in_force"] = body["after"]["in_force"]
        return
    for document_id, code in body["state"]["in_force"].items():
        rows.get(document_id, {})["in_force"] = code


def _renamed(rows: Rows, body: Body) -> None:
    row = rows.get(subject_of(body))
    if row is not None:
        row["number"] = row["name"] = body["after"]["number"]


def _withdrawn(rows: Rows, body: Body) -> None:
    rows.get(subject_of(body), {})["withdrawn"] = body["kind"] == FactKind.DOCUMENT_WITHDRAWN


def _documents(session: Session) -> Iterator[tuple[str, Row]]:
    columns = ("number", "title", "revision", "status", "withdrawn", "in_force")
    for row in session.scalars(select(DocumentRow)):
        yield row.id, {"name": row.number} | {key: getattr(row, key) for key in columns}


DOCUMENTS = replay(
    Replay(
        "document",
        lambda session: {
            FactKind.REVISION_FILED: _filed,
            FactKind.COPY_PUT: _put,
            FactKind.DOCUMENT_CHANGED: _changed,
            FactKind.DOCUMENT_MOVED: _changed,
            FactKind.DOCUMENT_RENAMED: _renamed,
            FactKind.DOCUMENT_WITHDRAWN: _withdrawn,
            FactKind.DOCUMENT_BROUGHT_BACK: _withdrawn,
            FactKind.STATUS_SET: _status_set,
            FactKind.IN_FORCE_CHANGED: _in_force,
        },
        _documents,
    )
)


def _revision_filed(rows: Rows, body: Body) -> None:
    (revision_id, *_) = others_of(body, "revision")
    after = body["after"]
    rows[revision_id] = {"name": body["about"], "document": subject_of(body)}
    rows[revision_id] |= {key: after[key] for key in ("sha256", "file_name") if key in after}
    if "revision" in after:
        rows[revision_id]["code"] = after["revision"]


def _revision_changed(rows: Rows, body: Body) -> None:
    """The status of a line is that of its current revision."""
    for revision_id in others_of(body, "revision"):
        if "status" in body["after"] and revision_id in rows:
            rows[revision_id]["status"] = body["after"]["status"]


def _revisions(session: Session) -> Iterator[tuple[str, Row]]:
    query = select(RevisionRow, DocumentRow.number).join(DocumentRow, DocumentRow.id == RevisionRow.document_id)
    for row, number in session.execute(query):
        yield row.id, {
            "name": f"{number} {row.code}", "document": row.document_id, "sha256": row.sha256, "code": row.code,
            "file_name": row.file_name, "status": row.status,
        }  # fmt: skip


REVISIONS = replay(
    Replay(
        "revision",
        lambda session: {
            FactKind.REVISION_FILED: _revision_filed,
            FactKind.COPY_PUT: _revision_filed,
            FactKind.HISTORY_FILED: _revision_filed,
            FactKind.DOCUMENT_CHANGED: _revision_changed,
            FactKind.STATUS_SET: _revision_changed,
        },
        _revisions,
    )
)


def _rendition_filed(rows: Rows, body: Body) -> None:
    (rendition_id, *_), (revision_id, *_) = others_of(body, "rendition"), others_of(body, "revision")
    rows[rendition_id] = {"name": body["about"], "revision": revision_id, **body["after"]}


def _renditions(session: Session) -> Iterator[tuple[str, Row]]:
    query = select(RenditionRow, DocumentRow.number, RevisionRow.code)
    query = query.join(RevisionRow, RevisionRow.id == RenditionRow.revision_id)
    for row, number, code in session.execute(query.join(DocumentRow, DocumentRow.id == RevisionRow.document_id)):
        yield row.id, {
            "name": f"{number} {code}", "revision": row.revision_id, "kind": row.kind, "file_name": row.file_name,
            "sha256": row.sha256,
        }  # fmt: skip


RENDITIONS = replay(Replay("rendition", lambda session: {FactKind.RENDITION_FILED: _rendition_filed}, _renditions))
