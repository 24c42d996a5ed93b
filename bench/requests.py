"""What a request of Nod costs against the same SQL in a bare Flask route on the same server, in turns in one run."""

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
from nod.store.register_query import word_query

TIMES, WARM, QUIET_SECONDS = 80, 40, 10
_ONE = "SELECT * FROM person WHERE email = ?"
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
        pair("the Desk", f"/api/desk?project_id={project}", (_ONE, (MARIT,)), limit=8)
        pair("register, 50 of 100,000", listed, (_PAGE, (project,)), (_COUNT, (project,)), limit=3)
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


def main():
    with tempfile.TemporaryDirectory() as name:
        context = open_context(Settings(data_dir=Path(name), password_cost=1, demo=True), Clock())
        context.database.migrate()
        cast = set_up(context, ())
        fill_register(context, cast)
        with serving(Path(name)) as (url, _):
            # The press starts beside the server; what it loads is not what a request costs.
            time.sleep(QUIET_SECONDS)
            bench_requests(cast, url, Path(name) / "nod.db")
        context.database.close()


if __name__ == "__main__":
    main()
