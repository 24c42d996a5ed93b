"""A page of 50 of 10,000 reviews, every tenth of which runs, narrowed in each way; against the same SQL bare."""

import random
import sqlite3

from bench.acts import put_documents
from bench.measure import tell, timed_pair
from nod.services.acts.seats import actor_of
from nod.services.reviews import log

_LOG = 10_000
_ORDER = """
    LEFT JOIN (SELECT thing_id, min(due_on) AS due FROM open_work WHERE kind = 'step' AND NOT is_coming
               GROUP BY thing_id) d ON d.thing_id = r.id
    WHERE r.project_id = :project AND {} ORDER BY r.state <> 'running', iif(r.state = 'running', d.due, NULL),
    iif(r.state = 'running', NULL, r.started_at) DESC, r.number LIMIT 50"""
_STEP = "EXISTS (SELECT 1 FROM open_work w {} WHERE w.thing_id = r.id AND w.kind = 'step' AND NOT w.is_coming AND {})"
_NARROWED = {
    "all": ({}, "1"),
    "closed": ({"state": "closed"}, "r.state = 'closed'"),
    "with me": (
        {"whose": "with_me"},
        _STEP.format("JOIN open_work_holder h ON h.work_id = w.id", "h.kind = 'person' AND h.holder_id = :me"),
    ),
    "late": ({"late": True}, _STEP.format("", "w.due_on < '2027-03-09'")),
    "by document": (
        {"document": "0007"},
        "EXISTS (SELECT 1 FROM review_document o JOIN document t ON t.id = o.document_id"
        " WHERE o.review_id = r.id AND t.number LIKE '%0007%')",
    ),
    "by words": ({"words": "777"}, "(r.number LIKE '%777%' OR r.name LIKE '%777%')"),
}


def bench_log(context, cast):
    path = context.settings.data_dir / "nod.db"
    with context.database.write() as session:
        chosen = put_documents(session, cast, cast.people["marit"], 60)
    _put_reviews(path, cast, [(document, revision) for document, revision in chosen])
    with context.database.read() as session:
        marit = actor_of(session, cast.people["marit"])
    raw = sqlite3.connect(path)
    values = {"project": cast.project_id, "me": marit.person_id}
    for words, (asked, where) in _NARROWED.items():
        page = f"SELECT r.* FROM review r {_ORDER.format(where)}"
        count = f"SELECT count(*) FROM review r WHERE r.project_id = :project AND {where}"

        def ours(asked=asked):
            log.list_log(context, marit, log.AskedLog(cast.project_id, limit=50, **asked))

        def bare(page=page, count=count):
            raw.execute(page, values).fetchall()
            raw.execute(count, values).fetchall()

        tell(f"log of {_LOG:,} reviews, {words}", *timed_pair(ours, bare, 7))
    raw.close()


def _put_reviews(path, cast, chosen):
    """Written as rows: the acts that would make them take an hour."""
    chance = random.Random(1)  # noqa: S311 - rows to measure with
    people = list(cast.people.values())
    with sqlite3.connect(path) as raw:
        reviews = [
            (
                f"r{number:015}", cast.project_id, f"RX-{number:05}", f"Review {number}", "", "Some route",
                "closed" if number % 10 else "running", "[]", chance.choice(people),
                f"2027-0{chance.randint(1, 3)}-{chance.randint(1, 8):02}T08:00:00.000000Z", "[]", "{}", 1,
            )
            for number in range(_LOG)
        ]  # fmt: skip
        raw.executemany(
            "INSERT INTO review (id, project_id, number, name, message, route_name, state, verdict_set, started_by,"
            ' started_at, "then", ends, version, why_cancelled, silence)'
            " VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, '', 'nothing')",
            reviews,
        )
        raw.executemany(
            "INSERT INTO review_document (review_id, document_id, revision_id, place, verdict, state, so_far)"
            " VALUES (?, ?, ?, ?, '', 'going', '')",
            [(each[0], *one, place) for each in reviews for place, one in enumerate(chance.sample(chosen, 3))],
        )
        running = [each[0] for each in reviews if each[6] == "running"]
        raw.executemany(
            "INSERT INTO open_work (id, project_id, kind, thing_kind, thing_id, part, what, each, waiter_id, due_on,"
            " counting, is_coming) VALUES (?, ?, 'step', 'review', ?, 'p', 'Check', 0, '', ?, 'working', 0)",
            [(f"w{each[1:]}", cast.project_id, each, f"2027-03-{chance.randint(1, 28):02}") for each in running],
        )
        raw.executemany(
            "INSERT INTO open_work_holder (work_id, kind, holder_id, place) VALUES (?, 'person', ?, 0)",
            [(f"w{each[1:]}", chance.choice(people)) for each in running],
        )
        raw.execute("ANALYZE")
