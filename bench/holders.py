"""The grid of holders at 100,000 documents and 40 companies, against one statement that computes the same cells."""

import sqlite3

from sqlalchemy import select

from bench.measure import tell, timed_pair
from nod.services.acts.seats import actor_of
from nod.services.transmittals import holders
from nod.services.transmittals.holders import AskedHolders
from nod.store.tables import DocumentRow

_COMPANIES, _PAGE = 40, 50
_CELLS = """
    SELECT d.id, d.number, d.title, d.revision, d.in_force, d.withdrawn, h.company_id, v.id, v.code, h.sent_at,
      h.opened_at, h.acknowledged_at, h.older_at,
      CASE WHEN d.withdrawn THEN 'withdrawn' WHEN f.id IS NULL OR v.place > f.place THEN 'ahead'
        WHEN v.place < f.place THEN 'behind' WHEN h.wanted AND h.acknowledged_at IS NULL THEN 'not_acknowledged'
        ELSE 'in_step' END,
      (SELECT group_concat(r.code) FROM revision r WHERE r.document_id = d.id AND r.released_at IS NOT NULL
        AND r.place > v.place AND r.place <= f.place)
    FROM (SELECT * FROM document d WHERE d.project_id = :project AND NOT d.withdrawn AND d.copy_of = '' {}
          ORDER BY d.number LIMIT 50) d
    LEFT JOIN holding h ON h.document_id = d.id
    LEFT JOIN revision v ON v.id = h.revision_id
    LEFT JOIN revision f ON f.id = d.in_force_id"""
_BEHIND = """AND EXISTS (SELECT 1 FROM holding o WHERE o.document_id = d.id AND o.revision_id <> d.in_force_id
    AND (SELECT place FROM revision WHERE id = o.revision_id)
      < (SELECT place FROM revision WHERE id = d.in_force_id))"""


def bench_holders(context, cast):
    """In the register that is there: every document was sent to every company, one in a thousand has gone on since."""
    path = context.settings.data_dir / "nod.db"
    count = _fill(path, cast)
    with context.database.read() as session:
        marit = actor_of(session, cast.people["marit"])
        total = len(session.scalars(select(DocumentRow.id).where(DocumentRow.project_id == cast.project_id)).all())
    raw = sqlite3.connect(path)
    for words, state, where in (("first page", "", ""), ("who is behind", "behind", _BEHIND)):

        def ours(state=state):
            holders.list_holders(context, marit, AskedHolders(cast.project_id, state=state, limit=_PAGE))

        def bare(where=where):
            raw.execute(_CELLS.format(where), {"project": cast.project_id}).fetchall()
            raw.execute(
                f"SELECT count(*) FROM document d WHERE d.project_id = :project AND NOT d.withdrawn AND d.copy_of = ''"
                f" {where}",
                {"project": cast.project_id},
            ).fetchall()

        tell(f"holders, {words}: {total:,} documents, {count:,} cells", *timed_pair(ours, bare, 7))
    raw.close()


_REVISION = """
    INSERT OR IGNORE INTO revision (id, document_id, code, status, title, sha256, file_name, file_alike, size_bytes,
      filed_by, filed_at, came_from, arrived_at, released_at, place, scale, purpose, note, from_id, as_history,
      came_person, came_by, copied_from, copy_why, copy_verdict)
    SELECT {}, id, {}, 'A1', title, sha256, 'x.pdf', 'x', 1, :by, filed_at, '', filed_at, filed_at, {}, '', '', '', '',
      0, '', '', '', '', ''
    FROM document WHERE project_id = :project {}"""
_GONE_ON = "seq % 1000 = 7"


def _fill(path, cast):
    """Written as rows: what was sent is measured elsewhere. One in a thousand has gone on, and nobody was sent that."""
    names = [(f"c{place:015}", f"Company {place}", f"X{chr(65 + place // 26)}{chr(65 + place % 26)}") for place in
             range(_COMPANIES)]  # fmt: skip
    values = {"project": cast.project_id, "by": cast.people["marit"]}
    with sqlite3.connect(path) as raw:
        raw.executemany("INSERT OR IGNORE INTO company (id, name, code, part) VALUES (?, ?, ?, 'subcontractor')", names)
        raw.execute(_REVISION.format("revision_id", "revision", "1", ""), values)
        raw.execute(_REVISION.format("'n' || substr(revision_id, 2)", "'Z9'", "9", f"AND {_GONE_ON}"), values)
        raw.execute(
            "INSERT OR IGNORE INTO holding (document_id, company_id, revision_id, sent_at, wanted)"
            " SELECT d.id, c.id, d.revision_id, '2027-03-01T08:00:00.000000Z', d.seq % 3 = 0"
            " FROM document d, company c WHERE d.project_id = :project AND c.id LIKE 'c00000%'",
            values,
        )
        raw.execute(
            "UPDATE document SET in_force_id = revision_id, in_force = revision WHERE project_id = :project", values
        )
        raw.execute(
            "UPDATE document SET in_force_id = 'n' || substr(revision_id, 2), in_force = 'Z9'"
            f" WHERE {_GONE_ON} AND project_id = :project",
            values,
        )
        raw.execute("ANALYZE")
        return raw.execute("SELECT count(*) FROM holding").fetchone()[0]
