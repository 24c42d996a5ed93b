"""Starting and stopping, and what the demo's data are."""

import signal
import sqlite3
import time
from datetime import datetime

import pypdfium2 as pdfium
import pytest

from tests.browser.test_kill import _children, _wait_for_the_end_of

pytestmark = pytest.mark.browser


@pytest.fixture
def rows(untouched):
    raw = sqlite3.connect(untouched / "nod.db")
    yield lambda query: raw.execute(query).fetchall()
    raw.close()


def test_ctrl_c_stops_all_of_it_and_the_second_start_is_quick(own_nod):
    begin = time.monotonic()
    own_nod.start()
    assert time.monotonic() - begin < 60
    parts = _children(own_nod.process.pid)
    assert len(parts) >= 6
    own_nod.process.send_signal(signal.SIGINT)
    assert own_nod.process.wait(20) == 0
    _wait_for_the_end_of(parts)
    assert own_nod.verify().returncode == 0


def test_the_demo_is_what_it_should_be(rows):
    assert rows("SELECT count(*) FROM document")[0][0] >= 70
    assert rows("SELECT count(*) FROM document WHERE sheet_size IN ('A1', 'A3')")[0][0] >= 60
    # What was sent in with submittals has no number of the convention, and so no discipline.
    disciplines = "SELECT DISTINCT discipline FROM document WHERE number LIKE 'BFT-%'"
    assert {row[0] for row in rows(disciplines)} == set("ASNEF")
    drawn = "SELECT DISTINCT sheet_size FROM document WHERE number NOT LIKE 'BFT-HBC-%'"
    assert {row[0] for row in rows(drawn)} == {"A1", "A3", "A4", ""}
    assert {row[0] for row in rows("SELECT kind FROM document WHERE number LIKE 'BFT-HBC-%'")} == {"sheet", "file"}
    several = rows("SELECT document_id FROM revision GROUP BY document_id HAVING count(*) > 1")
    assert len(several) >= 12
    states = {row[0] for row in rows("SELECT state FROM review")}
    assert states == {"running", "closed", "recalled"}
    late = rows("SELECT count(*) FROM review_step WHERE state = 'running' AND due_on < '2027-03-09'")
    assert late == [(1,)]
    assert rows("SELECT count(*) FROM recipient WHERE acknowledged_at IS NOT NULL") == [(2,)]
    assert rows("SELECT count(*) FROM person WHERE password_hash != ''") == [(13,)]
    assert rows("SELECT count(DISTINCT company_id) FROM person WHERE password_hash != ''") == [(8,)]


def test_the_demos_past_is_in_order_and_past(rows):
    moments = [row[0] for row in rows("SELECT at FROM audit_entry ORDER BY seq")]
    assert moments == sorted(moments)
    assert datetime.fromisoformat(moments[-1]) < datetime.fromisoformat("2027-03-09T08:30:00+00:00")
    assert rows("SELECT kind FROM outbox WHERE done_at IS NULL AND not_before < '2027-03-09T08:30'") == []


def test_revisions_differ_where_they_are_clouded(untouched, rows):
    """The drawing of a later revision is another one, and not only in its title block."""
    pairs = rows(
        "SELECT old.sha256, new.sha256 FROM revision old JOIN revision new ON new.document_id = old.document_id"
        " AND old.code = 'P01' AND new.code = 'P02'"
        " AND old.file_name LIKE '%.pdf' AND new.file_name LIKE '%.pdf'"
    )
    assert len(pairs) >= 12
    for pair in pairs:
        old, new = (_drawing(untouched / "blobs" / sha[:2] / sha[2:4] / sha) for sha in pair)
        assert old.size == new.size
        assert old.tobytes() != new.tobytes()


def _drawing(path):
    """The sheet without its title block and revision table, small."""
    with pdfium.PdfDocument(path) as document:
        picture = document[0].render(scale=0.4).to_pil().convert("L")
    return picture.crop((0, 0, int(picture.width * 0.75), picture.height))
