"""How entries make reviews: whether they run, and the verdicts on their documents."""

from __future__ import annotations

from collections.abc import Iterator

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.trail.entries import FactKind
from nod.services.acts.replays import Body, Replay, Row, Rows, others_of, replay, subject_of
from nod.store.tables import ReviewCommentRow, ReviewDocumentRow, ReviewRow


def _started(rows: Rows, body: Body) -> None:
    rows[subject_of(body)] = {
        "name": body["about"], "state": "running", "documents": sorted(others_of(body, "document")), "verdicts": {},
    }  # fmt: skip


def _decided(rows: Rows, body: Body) -> None:
    """Documents that leave on the way have their verdict then."""
    row = rows.get(subject_of(body))
    if row is None:
        return
    for document, each in zip(others_of(body, "document"), body["after"]["verdicts"], strict=True):
        if each["then"] != "going" and each["verdict"]:
            row["verdicts"][document] = each["verdict"]


def _ended(rows: Rows, body: Body) -> None:
    row = rows.get(subject_of(body))
    if row is None:
        return
    row["state"] = body["after"]["state"]
    if "verdicts" not in body["after"]:
        return
    said = [each["verdict"] for each in body["after"]["verdicts"]]
    row["verdicts"] = {of: verdict for of, verdict in zip(others_of(body, "document"), said, strict=False) if verdict}


def _reviews(session: Session) -> Iterator[tuple[str, Row]]:
    of: dict[str, list[ReviewDocumentRow]] = {}
    for each in session.scalars(select(ReviewDocumentRow)):
        of.setdefault(each.review_id, []).append(each)
    for row in session.scalars(select(ReviewRow)):
        documents = of.get(row.id, [])
        yield row.id, {
            "name": f"{row.number} {row.name}", "state": row.state,
            "documents": sorted(each.document_id for each in documents),
            "verdicts": {each.document_id: each.verdict for each in documents if each.verdict},
        }  # fmt: skip


REVIEWS = replay(
    Replay(
        "review",
        lambda session: {
            FactKind.REVIEW_STARTED: _started,
            FactKind.STAGE_DECIDED: _decided,
            FactKind.REVIEW_CLOSED: _ended,
            FactKind.REVIEW_CANCELLED: _ended,
            FactKind.REVIEW_RECALLED: _ended,
        },
        _reviews,
    )
)


def _raised(rows: Rows, body: Body) -> None:
    for comment_id, each in zip(others_of(body, "comment"), body["after"]["comments"], strict=True):
        rows[comment_id] = {
            "name": body["about"], "grave": each["grave"], "text": each["comment"], "state": "open",
        }  # fmt: skip


def _comment_changed(rows: Rows, body: Body) -> None:
    for comment_id in others_of(body, "comment"):
        row = rows.get(comment_id, {})
        row |= {key: body["after"][key] for key in ("grave", "response", "state") if key in body["after"]}


def _carried(rows: Rows, body: Body) -> None:
    for comment_id in others_of(body, "comment"):
        rows.get(comment_id, {})["state"] = "carried"


def _comments(session: Session) -> Iterator[tuple[str, Row]]:
    query = select(ReviewCommentRow, ReviewRow.number).join(ReviewRow, ReviewRow.id == ReviewCommentRow.review_id)
    for row, number in session.execute(query):
        yield row.id, {
            "name": f"{number} comment {row.number}", "grave": row.grave, "text": row.text, "state": row.state,
            "response": row.response,
        }  # fmt: skip


COMMENTS = replay(
    Replay(
        "comment",
        lambda session: {
            FactKind.COMMENT_RAISED: _raised,
            FactKind.COMMENT_RESPONDED: _comment_changed,
            FactKind.COMMENT_GRADED: _comment_changed,
            FactKind.COMMENT_CLOSED: _comment_changed,
            FactKind.COMMENT_OPENED_AGAIN: _comment_changed,
            FactKind.COMMENT_CARRIED: _carried,
        },
        _comments,
    )
)
