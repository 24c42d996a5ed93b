"""What the distribution matrix owes at 100,000 documents and 40 companies, against one statement that says the same."""

import sqlite3

from bench.measure import tell, timed_pair
from nod.core.transmittals.distribution import Line, Share
from nod.services.transmittals.distribution import Company, due_of
from nod.store.tables import ProjectRow

_COMPANIES = 40
_BARE = """
    SELECT d.id, d.number, r.title, r.id, r.code, c.id FROM document d
    JOIN revision r ON r.id = d.in_force_id
    JOIN company c ON c.id LIKE 'c00000%'
    LEFT JOIN holding h ON h.document_id = d.id AND h.company_id = c.id
    LEFT JOIN revision v ON v.id = h.revision_id
    WHERE d.project_id = :project AND d.copy_of = '' AND NOT d.withdrawn AND (v.place IS NULL OR v.place < r.place)"""


def bench_due(context, cast):
    """In the holders' world, of which one document in a thousand is due to all. Every company is on each line."""
    raw = sqlite3.connect(context.settings.data_dir / "nod.db")
    companies = [Company(f"c{place:015}", "X", f"Company {place}", 1, {}) for place in range(_COMPANIES)]
    shares = {("company", each.id): Share.ACT for each in companies}
    lines = [Line(each, "", "", "released", "construction", None, shares) for each in "ASNEF"]

    def ours():
        with context.database.read() as session:
            return due_of(session, session.get_one(ProjectRow, cast.project_id), lines, companies)

    def bare():
        return raw.execute(_BARE, {"project": cast.project_id}).fetchall()

    found, want = sum(map(len, ours().values())), len(bare())
    assert found == want > 0, (found, want)
    tell(f"due by the matrix: {found:,} of 4,000,000 cells", *timed_pair(ours, bare, 3))
    raw.close()
