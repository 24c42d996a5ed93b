"""Acts that write many rows, against SQLite writing the same rows."""

import gc
import shutil
import sqlite3
import statistics
import time
from datetime import UTC, datetime

from bench.measure import tell, timed
from nod.services.reviews import starting
from nod.store.ids import new_id
from nod.store.tables import BlobRow, DocumentRow, RevisionRow

SHEETS, ROUNDS = 300, 9
_SHA256 = "a" * 64
_AT = datetime(2027, 1, 4, 9, tzinfo=UTC)
_OF_ROWS = (
    "SELECT name FROM sqlite_master WHERE type = 'table' AND sql NOT LIKE '%VIRTUAL%' AND sql NOT LIKE '%WITHOUT%'"
)


def bench_start_review(context, cast):
    """The start of a review of 300 documents, its mails and trail included, against the bare inserts of its rows.

    Bare: the rows that the act left behind and the lines that it changed, read back and written by `executemany` into a
    copy of the database, in one transaction with its commit.
    """
    path = context.settings.data_dir / "nod.db"
    actor = cast.actor("marit")
    with context.database.write() as session:
        session.add(BlobRow(sha256=_SHA256, size_bytes=1, media_type="application/pdf", stored_at=_AT, state="known"))
        parts = [put_documents(session, cast, actor.person_id, part) for part in range(ROUNDS + 1)]
    with sqlite3.connect(path) as raw:
        before = last_rowids(raw)

    def start(part):
        command = starting.StartReview(
            project_id=cast.project_id, route_id=cast.route_id, name="Bench", documents=dict(part)
        )
        starting.start_review(context, actor, command)

    copy = context.settings.data_dir / "bench-copy.db"
    with sqlite3.connect(path) as raw, sqlite3.connect(copy) as aside:
        raw.backup(aside)
    start(parts[0])
    as_served()
    with sqlite3.connect(path) as raw:
        rows = rows_after(raw, before)
    documents = [document for document, _ in parts[0]]
    # In turns: a machine that others use is not as fast in one second as in the next.
    pairs = [(timed(lambda part=part: start(part), 1), bare_insert(copy, rows, documents)) for part in parts[1:]]
    ours, bare = (statistics.median(each) for each in zip(*pairs, strict=True))
    copy.unlink()
    count = sum(map(len, rows.values()))
    tell(f"starting a review of {SHEETS} documents, {count:,} rows", ours, bare)


def as_served():
    """What has been loaded is no garbage: the supervisor says so before it forks (`nod.supervisor`)."""
    gc.collect()
    gc.freeze()


def put_documents(session, cast, person_id, part):
    """Documents with a revision each, straight into the tables."""
    found = []
    for place in range(SHEETS):
        document, revision = new_id(), new_id()
        common = {"title": "Sheet", "status": "S3", "sha256": _SHA256, "file_name": "a.pdf", "filed_at": _AT}
        line = DocumentRow(
            id=document, project_id=cast.project_id, folder_id=cast.folders[""], discipline="A", originator="TRA",
            number=f"BFT-TRA-Z9-{part:02d}-D-A-{place:04d}", form="D", revision="P01", revision_id=revision, **common,
        )  # fmt: skip
        session.add(line)
        session.flush()
        session.add(
            RevisionRow(
                id=revision, document_id=document, code="P01", size_bytes=1, filed_by=person_id, came_from="",
                arrived_at=_AT, place=1, **common,
            )
        )  # fmt: skip
        found.append((document, revision))
    return found


def _tables(raw):
    return [name for (name,) in raw.execute(_OF_ROWS) if not name.startswith(("sqlite_", "words_", "find_"))]


def last_rowids(raw):
    return {name: raw.execute(f"SELECT max(rowid) FROM {name}").fetchone()[0] or 0 for name in _tables(raw)}


def rows_after(raw, before):
    found = {
        name: raw.execute(f"SELECT * FROM {name} WHERE rowid > ?", (last,)).fetchall() for name, last in before.items()
    }
    return {name: rows for name, rows in found.items() if rows}


def bare_inserts(copy, rows, documents):
    """The median of several."""
    return statistics.median(bare_insert(copy, rows, documents) for _ in range(ROUNDS))


def bare_insert(copy, rows, documents):
    """Seconds, into a copy of its own: the trail cannot be deleted from."""
    target = copy.with_suffix(".round.db")
    shutil.copy(copy, target)
    raw = sqlite3.connect(target, isolation_level=None)
    raw.execute("PRAGMA journal_mode = WAL")
    raw.execute("PRAGMA synchronous = FULL")
    begin = time.perf_counter()
    raw.execute("BEGIN IMMEDIATE")
    for name, each in rows.items():
        raw.executemany(f"INSERT OR REPLACE INTO {name} VALUES ({', '.join('?' * len(each[0]))})", each)
    raw.executemany(
        "UPDATE document SET with_whom = 'x', due_on = '2027-01-01' WHERE id = ?", [(each,) for each in documents]
    )
    raw.execute("COMMIT")
    span = time.perf_counter() - begin
    raw.close()
    target.unlink()
    return span
