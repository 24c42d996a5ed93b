"""The register of 100,000 lines over HTTP, and the search, against bare SQL and FTS5 plus an empty answer."""

import sqlite3
import statistics
import time
from datetime import UTC, datetime, timedelta
from urllib.parse import urlencode

import numpy as np
from tests.browser.client import Person

from bench.access import bench_mixed, spread
from bench.measure import tell, timed
from nod.core.register.number_shapes import shapes
from nod.core.sheet.placed_words import PlacedWords
from nod.core.trail.entries import instant_text
from nod.formats.sheet.words_pack import pack_words
from nod.store.ids import new_id
from nod.store.register_query import plain_words, word_query

MARIT = "marit@hollinbrook.example"
TWO_FILTERS = urlencode({"sorts": '[["title","down"]]', "filters": '[["discipline","is","A"],["status","is","S3"]]'})
THREE_SORTS = urlencode(
    {
        "sorts": '[["verdict","up"],["form","down"],["number","up"]]',
        "filters": '[["discipline","is","A"],["status","is","S3"]]',
    }
)
WORDS = ("door", "stair", "beam", "pile", "duct", "glazing", "shutter", "ramp", "lift", "drain", "cable", "joist")
PAGES = 20_000


def _number(place):
    return f"BFT-TRA-Z1-{place // 10000:02d}-D-{'ASNEF'[place % 5]}-{place % 10000:04d}"


def fill_register(context, cast, count=100_000):
    """Lines straight into the table: the list is measured here, not the filing."""
    now = datetime.now(UTC)  # noqa: TID251 - only for the data of the measurement
    raw = sqlite3.connect(context.settings.data_dir / "nod.db")
    rows = (
        (
            new_id(), cast.project_id, _number(place), shapes(_number(place)), f"{place:064x}",
            f"Sheet {place} of the quay hall", "ASNEF"[place % 5], "TRA", "D", 1, new_id(), "P01",
            ("S3", "S4")[place % 2], "A1", ("", "A", "B")[place % 3], "", instant_text(now - timedelta(minutes=place)),
            cast.folders[""],
        )
        for place in range(count)
    )  # fmt: skip
    raw.executemany(
        "INSERT INTO document (id, project_id, number, shapes, sha256, title, discipline, originator, form, version,"
        " revision_id, revision, status, sheet_size, verdict, with_whom, filed_at, folder_id)"
        " VALUES (?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?)",
        rows,
    )
    raw.commit()
    raw.close()


def bench_register(context, cast, url):
    """A page of 50 out of 100,000 over HTTP against the same rows by bare SQL plus an empty HTTP answer."""
    fill_register(context, cast)
    spread(context, cast)
    raw = sqlite3.connect(context.settings.data_dir / "nod.db")
    page = (
        "SELECT * FROM document WHERE project_id = ? {} ORDER BY {} LIMIT 51",
        "SELECT count(*) FROM document WHERE project_id = ? {}",
    )
    two = "AND discipline = 'A' AND status = 'S3'"
    cases = {
        "register, 50 of 100,000 by number": ("", "number, seq", ""),
        "register, two filters and a sort": (two, "title DESC, seq DESC", TWO_FILTERS),
        "register, two filters and three sorts": (
            two, "verdict, form DESC, number, seq",
            THREE_SORTS,
        ),
        "register, words in the title, no index": (
            "AND title LIKE '%77 of%'", "number, seq", urlencode({"filters": '[["title","has","77 of"]]'}),
        ),
    }  # fmt: skip
    marit = Person(url, MARIT)
    empty = timed(lambda: marit("GET", "/api/me"), 60)
    for what, (where, order, query) in cases.items():
        path = f"/api/documents?project_id={cast.project_id}&limit=50&{query}"
        assert len(marit("GET", path)["lines"]) == 50
        ours = timed(lambda path=path: marit("GET", path), 40)
        bare = timed(
            lambda where=where, order=order: [
                raw.execute(statement.format(where, order), (cast.project_id,)).fetchall() for statement in page
            ],
            40,
        )
        tell(f"{what} (bare: SQL + /api/me)", ours, bare + empty)
    grouped = f"/api/documents?project_id={cast.project_id}&limit=50&group=status"
    count = "SELECT status, count(*) FROM document WHERE project_id = ? AND NOT withdrawn GROUP BY status"
    bare = timed(lambda: raw.execute(count, (cast.project_id,)).fetchall(), 20)
    tell("register, grouped with counts (bare: SQL + /api/me)", timed(lambda: marit("GET", grouped), 20), bare + empty)
    bench_mixed(url, marit, cast.project_id, TWO_FILTERS)
    raw.close()


def fill_sheets(context):
    """The words of 20,000 sheets, straight into the index: the search is measured here, not the indexing."""
    dice = np.random.default_rng(4)
    raw = sqlite3.connect(context.settings.data_dir / "nod.db")
    for place in range(PAGES):
        texts = tuple(f"{WORDS[at % len(WORDS)]}{at % 977}" for at in dice.integers(0, 100_000, 60))
        boxes = np.zeros((60, 4), np.float32)
        packed = pack_words(PlacedWords(texts, boxes, np.zeros(60, np.int16)))
        key = (f"{place:064x}", 0)
        seq = raw.execute("INSERT INTO page_text (sha256, place) VALUES (?, ?)", key).lastrowid
        raw.execute("INSERT INTO sheet_words (rowid, words) VALUES (?, ?)", (seq, " ".join(texts)))
        raw.execute("INSERT INTO page_words (sha256, place, words) VALUES (?, ?, ?)", (*key, packed))
    raw.commit()
    raw.close()


def spans(act, inputs):
    """Seconds of one call for each input."""
    found = []
    for each in inputs:
        begin = time.perf_counter()
        act(each)
        found.append(time.perf_counter() - begin)
    return found


def p95(found):
    return statistics.quantiles(found, n=20)[-1]


def bench_search(context, cast, url):
    """Each letter as it is typed, over documents, 20,000 sheets and marks: the 95th percentile of all keystrokes."""
    fill_sheets(context)
    raw = sqlite3.connect(context.settings.data_dir / "nod.db")
    marit = Person(url, MARIT)
    asked = ["sheet 4242", "traz103da1234", "shutter77", "A-0101", "beam5 stair", "hall pla"]
    typed = [words[:end] for words in asked for end in range(2, len(words) + 1)]

    def bare(words):
        """The three indexes, nine rows of each, and an empty answer."""
        for index, match in (("document_words", word_query(words)), ("sheet_words", plain_words(words))):
            raw.execute(f"SELECT rowid FROM {index} WHERE {index} MATCH ? LIMIT 9", (match,)).fetchall()
        marit("GET", "/api/me")

    def ours(words):
        marit("GET", "/api/search?" + urlencode({"project_id": cast.project_id, "words": words}))

    tell("search as one types, p95 (bare: FTS5 + /api/me)", p95(spans(ours, typed)), p95(spans(bare, typed)))
    listed = f"/api/documents?project_id={cast.project_id}&limit=50&words="

    def bare_list(words):
        match = word_query(words)
        for what in ("rowid", "count(*)"):
            raw.execute(f"SELECT {what} FROM document_words WHERE document_words MATCH ? LIMIT 50", (match,)).fetchall()
        marit("GET", "/api/me")

    def our_list(words):
        marit("GET", listed + urlencode({"": words})[1:])

    tell("register as one types, p95 (bare: FTS5 + /api/me)", p95(spans(our_list, typed)), p95(spans(bare_list, typed)))
    raw.close()
