"""How entries make marks: whether they are on their sheet, what became of them, how many answers they have."""

from __future__ import annotations

from collections.abc import Iterator

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from nod.core.marks.readers import EVERYBODY
from nod.core.trail.entries import FactKind
from nod.services.acts.replays import Body, Replay, Row, Rows, Step, others_of, replay
from nod.services.marks.kind import MARK_THREAD
from nod.store.tables import MarkRow, ReplyRow, ThreadReaderRow, ThreadRow


def _mark(rows: Rows, body: Body) -> Row | None:
    return next((rows[each] for each in others_of(body, "mark") if each in rows), None)


def _made(rows: Rows, body: Body) -> None:
    for each in others_of(body, "mark"):
        rows[each] = {"name": body["about"], "revision": others_of(body, "revision")[0], "being taken away": False}


def _taken_away(rows: Rows, body: Body) -> None:
    if (row := _mark(rows, body)) is not None:
        row["being taken away"] = body["kind"] == FactKind.MARK_REMOVED


def _marks(session: Session) -> Iterator[tuple[str, Row]]:
    for row in session.scalars(select(MarkRow)):
        yield row.id, {"revision": row.revision_id, "being taken away": row.removed_at is not None}


MARKS = replay(
    Replay(
        "mark",
        lambda session: {
            FactKind.MARK_DRAWN: _made,
            FactKind.MARK_TAKEN_IN: _made,
            FactKind.MARK_CARRIED: _made,
            FactKind.MARK_COPIED: _made,
            FactKind.MARK_REMOVED: _taken_away,
            FactKind.MARK_BROUGHT_BACK: _taken_away,
        },
        _marks,
    )
)


def _read(rows: Rows, body: Body) -> None:
    """Entries of before there were readers say none: everybody."""
    row = next((rows[each] for each in others_of(body, "thread") if each in rows), None)
    if row is not None:
        row["readers"] = body.get("state", {}).get("readers", [EVERYBODY])


def _steps(session: Session) -> dict[FactKind, Step]:
    """Entries of before there were threads name the place of a mark alone; which thread it has, its row says."""
    threads = {mark: thread for mark, thread in session.execute(select(MarkRow.id, MarkRow.thread_id))}

    def began(rows: Rows, body: Body) -> None:
        for each in others_of(body, "mark"):
            rows[each] = {"name": body["about"], "state": "open", "answers": 0, "readers": [EVERYBODY]}

    def copied(rows: Rows, body: Body) -> None:
        for each in others_of(body, "mark"):
            rows[each] = {"name": body["about"], **{key: body["after"][key] for key in ("state", "answers")}}
            rows[each]["readers"] = [EVERYBODY]

    def said(rows: Rows, body: Body) -> None:
        named = [threads.get(each, "") for each in others_of(body, "mark")]
        row = next((rows[each] for each in named if each in rows), None)
        if row is None:
            return
        if body["kind"] == FactKind.MARK_STATE_SET:
            row["state"] = body["after"]["state"]
        else:
            row["answers"] += 1

    return {
        FactKind.MARK_DRAWN: began, FactKind.MARK_TAKEN_IN: began, FactKind.MARK_ANSWERED: said,
        FactKind.MARK_STATE_SET: said, FactKind.MARK_COPIED: copied, FactKind.MARK_INKED: _read,
        FactKind.MARK_OPENED: _read,
    }  # fmt: skip


def _threads(session: Session) -> Iterator[tuple[str, Row]]:
    counts = dict(session.execute(select(ReplyRow.thread_id, func.count()).group_by(ReplyRow.thread_id)).all())
    named: dict[str, list[str]] = {}
    for reader in session.scalars(select(ThreadReaderRow)):
        named.setdefault(reader.thread_id, []).append(f"{reader.kind} {reader.group_id}")
    for row in session.scalars(select(ThreadRow).where(ThreadRow.kind == MARK_THREAD)):
        readers = [EVERYBODY] if row.readers == EVERYBODY else sorted(named.get(row.id, ()))
        yield row.id, {"state": row.state, "answers": counts.get(row.id, 0), "readers": readers}


THREADS = replay(Replay("mark thread", _steps, _threads))
