"""What a request of Nod costs against the same SQL in a bare Flask route on the same server, in turns in one run."""

import sqlite3
import tempfile
import time
from pathlib import Path
from urllib.parse import urlencode

from tests.browser.client import Person

from bench.bare_routes import bare_routes
from bench.measure import tell, timed_pair
from bench.register import MARIT, fill_register
from bench.serving import serving
from nod.clock import Clock
from nod.demo.people import set_up
from nod.services.acts.context import open_context
from nod.settings import Settings
from nod.store.ids import new_id
from nod.store.register_query import word_query

DESK = 500
TIMES, WARM, QUIET_SECONDS = 80, 40, 10
_ONE = "SELECT * FROM person WHERE email = ?"
_MINE = "SELECT w.* FROM open_work_holder h JOIN open_work w ON w.id = h.work_id WHERE h.holder_id = ?"
_PAGE = "SELECT * FROM document WHERE project_id = ? AND NOT withdrawn ORDER BY number, seq LIMIT 51"
_COUNT = "SELECT count(*) FROM document WHERE project_id = ? AND NOT withdrawn"
_TITLE = "AND title LIKE '%77 of%'"
_WORDS = (
    "SELECT * FROM document WHERE seq IN (SELECT rowid FROM document_words WHERE document_words MATCH ?) "
    "ORDER BY number, seq LIMIT 51"
)


def bench_requests(cast, url, database):
    """Prints each with its limit: three times for pages and words in titles, twice as one types, three times for me."""
    marit = Person(url, MARIT)
    project = cast.project_id
    listed = f"/api/documents?project_id={project}&limit=50&"
    typed = [words[:end] for words in ("sheet 4242", "traz103da1234") for end in range(3, len(words) + 1)]
    with bare_routes(database) as bare_url:
        bare = Person.__new__(Person)
        bare.url, bare.csrf, bare.opener = bare_url, "", marit.opener

        def pair(what, path, *statements, limit):
            def ours():
                return marit("GET", path)

            def plain():
                return bare("POST", "", [[each, list(values)] for each, values in statements])

            # Eight threads of two processes take turns, and each has met every statement before it is measured.
            for _ in range(WARM):
                ours()
            plain()
            nod, other = timed_pair(ours, plain, TIMES)
            tell(f"{what} (limit {limit})", nod, other)

        pair("who am I", "/api/me", (_ONE, (MARIT,)), limit=3)
        desk = f"/api/desk?project_id={project}"
        pair(f"the Desk of {DESK} open works", desk, (_MINE, (cast.people["marit"],)), limit=8)
        pair("register, 50 of 100,000", listed, (_PAGE, (project,)), (_COUNT, (project,)), limit=3)
        by_with = _PAGE.replace("ORDER BY number, seq", "ORDER BY with_whom, seq")
        asked = listed + urlencode({"sorts": '[["with_whom","up"]]'})
        pair("register, 50 of 100,000 by With", asked, (by_with, (project,)), (_COUNT, (project,)), limit=3)
        title = urlencode({"filters": '[["title","has","77 of"]]'})
        page = _PAGE.replace("ORDER BY", _TITLE + " ORDER BY")
        count = f"{_COUNT} {_TITLE}"
        pair("register, words in the title", listed + title, (page, (project,)), (count, (project,)), limit=3)
        spans = []
        for words in typed:
            path = listed + urlencode({"words": words})
            asked = [[_WORDS, [word_query(words)]]]
            spans.append(
                timed_pair(lambda path=path: marit("GET", path), lambda asked=asked: bare("POST", "", asked), 5)
            )
        tell("register as one types (limit 2)", *(sum(each) / len(spans) for each in zip(*spans, strict=True)))


def fill_desk(context, cast):
    """Straight into the tables: as many steps with one person, and every third line of the register with somebody."""
    raw = sqlite3.connect(context.settings.data_dir / "nod.db")
    people, now = cast.people, "2027-03-01T08:00:00.000000Z"
    documents = raw.execute("SELECT id, revision_id FROM document ORDER BY seq LIMIT ?", (DESK,)).fetchall()
    for place, (document_id, revision_id) in enumerate(documents):
        review, step, work, number = new_id(), new_id(), new_id(), f"RV-{place:04d}"
        for table, row in (
            ("review", {
                "id": review, "project_id": cast.project_id, "number": number, "name": f"Round {place}", "message": "",
                "route_name": "Two steps", "state": "running", "verdict_set": "[]", "started_by": people["rafael"],
                "started_at": now, "why_cancelled": "", "version": 1,
            }),
            ("review_document", {
                "review_id": review, "document_id": document_id, "revision_id": revision_id, "place": 0, "verdict": "",
            }),
            ("review_step", {
                "id": step, "review_id": review, "place": 0, "name": "Check", "act": "comment", "days": 5,
                "counting": "working", "state": "running", "began_at": now, "due_on": "2099-03-12", "note": "",
                "taken_by": people["marit"], "taken_at": now,
            }),
            ("open_work", {
                "id": work, "project_id": cast.project_id, "kind": "step", "thing_kind": "review", "thing_id": review,
                "part": step, "what": "Check", "each": 0, "waiter_id": people["rafael"], "since_at": now,
                "due_on": "2099-03-12", "counting": "working", "is_coming": 0,
            }),
            ("open_work_holder", {"work_id": work, "kind": "person", "holder_id": people["marit"], "place": 0}),
            ("open_work_document", {"work_id": work, "document_id": document_id}),
        ):  # fmt: skip
            marks = ", ".join("?" * len(row))
            names = ", ".join(f'"{each}"' for each in row)
            raw.execute(f"INSERT INTO {table} ({names}) VALUES ({marks})", list(row.values()))
    names = [f"{first} {last}" for first in ("Ana", "Bo", "Cy", "Dan", "Eve") for last in ("Ash", "Birch", "Cedar")]
    for place, name in enumerate(names):
        raw.execute("UPDATE document SET with_whom = ? WHERE seq % 45 = ?", (name, place))
    raw.commit()
    raw.close()


def main():
    with tempfile.TemporaryDirectory() as name:
        context = open_context(Settings(data_dir=Path(name), password_cost=1, demo=True), Clock())
        context.database.migrate()
        cast = set_up(context, ())
        fill_register(context, cast)
        fill_desk(context, cast)
        with serving(Path(name)) as (url, _):
            # The press starts beside the server; what it loads is not what a request costs.
            time.sleep(QUIET_SECONDS)
            bench_requests(cast, url, Path(name) / "nod.db")
        context.database.close()


if __name__ == "__main__":
    main()
