"""A review of 300 documents by 12 people in 6 steps: opened, handed in, closed, against SQLite on the same rows."""

import sqlite3
import statistics
import time

from bench.acts import SHEETS, as_served, bare_inserts, last_rowids, put_documents, rows_after
from bench.measure import tell, timed_pair
from nod.core.acts.working_days import Counting
from nod.core.reviews.ends import End
from nod.core.reviews.path import Named, NamedKind, Quota, Stage, Step, StepAct
from nod.services.acts import projects
from nod.services.acts.context import Act
from nod.services.acts.seats import NOBODY, actor_of
from nod.services.reviews import reviews, reviews_view, starting
from nod.services.reviews.endings import ends_kept
from nod.services.reviews.paths import to_keep
from nod.services.reviews.reviews import DocumentAnswer, HandIn
from nod.store.tables import RouteRow

_STEPS, _PEOPLE, _REVIEWS = 6, 12, 5
_FIRST_PART, _FIRST_COPIED = 70, 80


def bench_review(context, cast):
    """Every step is of two people, who all hand in; the figures are those of one hand, and of the last one.

    An act cannot be done twice: each is done in several reviews, and the middle one told.
    """
    people, route = _people_and_route(context, cast)
    figures = {}
    for place in range(_REVIEWS):
        _run(context, cast, people, route, _FIRST_PART + place, figures)
    _copying(context, route, cast.folders["Issued to the site"])
    for place in range(_REVIEWS):
        words = ", a copy of each put into a folder"
        _run(context, cast, people, route, _FIRST_COPIED + place, figures, only_closing=words)
    for words, found in figures.items():
        ours, bare = (statistics.median(each) for each in zip(*found, strict=True))
        tell(words, ours, bare)
        tell(f"{words.partition(',')[0]}, a document", ours / SHEETS, bare / SHEETS)


def _copying(context, route, folder_id):
    with context.database.write() as session:
        session.get_one(RouteRow, route).ends = ends_kept({"A": End(copy_to=folder_id)})


def _run(context, cast, people, route, part, figures, only_closing=""):
    with context.database.write() as session:
        chosen = put_documents(session, cast, cast.people["marit"], part)
    started = _start(context, cast, route, chosen)
    path = context.settings.data_dir / "nod.db"
    as_served()
    for place in range(_PEOPLE):
        actor = _actor(context, people[place])
        review = reviews_view.read_review(context, actor, started)
        step = next(row for row in review.slip if row.mine.may_hand_in)
        answers = [
            DocumentAnswer(
                document_id=each.document_id, revision_id=each.revision_id, comment=f"Seen {place}",
                verdict="A" if step.act == "decide" else "",
            )
            for each in review.documents
        ]  # fmt: skip
        if place == _PEOPLE - 1 and not only_closing:
            _opening(context, actor, started, path, figures)
        words = {2: "handing in", 3: "handing in, the next step begins", _PEOPLE - 1: "closing"}.get(place)
        if only_closing:
            words = f"closing{only_closing}" if place == _PEOPLE - 1 else None
        _hand_in(context, actor, started, step.id, answers, path, words, chosen, figures)


def _hand_in(context, actor, review_id, step_id, answers, path, words, chosen, figures):
    with sqlite3.connect(path) as raw:
        before = last_rowids(raw)
    copy = context.settings.data_dir / "bench-copy.db"
    if words:
        with sqlite3.connect(path) as raw, sqlite3.connect(copy) as aside:
            raw.backup(aside)
    begin = time.perf_counter()
    reviews.hand_in(context, actor, review_id, step_id, HandIn(answers=answers))
    ours = time.perf_counter() - begin
    if words:
        with sqlite3.connect(path) as raw:
            rows = rows_after(raw, before)
        bare = bare_inserts(copy, rows, [document for document, _ in chosen])
        copy.unlink()
        count = sum(map(len, rows.values()))
        # How many rows exactly is a matter of what else was to be done; some six thousand with copies.
        figures.setdefault(f"{words}, {SHEETS} documents, {round(count, -2):,} rows", []).append((ours, bare))


_READ = (
    "SELECT * FROM review WHERE id = ?1", "SELECT * FROM review_step WHERE review_id = ?1",
    "SELECT p.*, q.name FROM step_place p JOIN review_step s ON s.id = p.step_id JOIN person q ON q.id = p.person_id "
    "WHERE s.review_id = ?1",
    "SELECT a.* FROM answer a JOIN review_step s ON s.id = a.step_id WHERE s.review_id = ?1",
    "SELECT d.id, d.number, d.revision, r.id, r.code, r.title, v.verdict FROM review_document v "
    "JOIN document d ON d.id = v.document_id JOIN revision r ON r.id = v.revision_id WHERE v.review_id = ?1",
)  # fmt: skip


def _opening(context, actor, review_id, path, figures):
    raw = sqlite3.connect(path)

    def bare():
        return [raw.execute(each, (review_id,)).fetchall() for each in _READ]

    count = sum(map(len, bare()))
    pair = timed_pair(lambda: reviews_view.read_review(context, actor, review_id).model_dump_json(), bare, 5)
    figures.setdefault(f"opening it, {count:,} rows", []).append(pair)
    raw.close()


def _start(context, cast, route, chosen):
    command = starting.StartReview(
        project_id=cast.project_id, route_id=route, name="Bench of twelve", documents=dict(chosen)
    )
    return starting.start_review(context, cast.actor("marit"), command).id


def _people_and_route(context, cast):
    with context.database.write() as session:
        act = Act(context, session, NOBODY, context.clock.now())
        company = actor_of(session, cast.people["saoirse"]).company_id
        people = [
            projects.add_person(act, f"Reviewer {place:02d}", f"r{place}@x.example", company, "engineer", "")
            for place in range(_PEOPLE)
        ]
        for each in people:
            projects.add_member(act, cast.project_id, each, ("reviewer",))
        path = tuple(Stage((_step(place, people[2 * place : 2 * place + 2]),)) for place in range(_STEPS))
        return people, projects.add_route(act, cast.project_id, "Twelve in six", "", to_keep(path))


def _step(place, people):
    act = StepAct.DECIDE if place == _STEPS - 1 else StepAct.COMMENT
    whom = tuple(Named(NamedKind.PERSON, each) for each in people)
    return Step(f"Step {place + 1}", act, whom, Quota.ALL, days=5, counting=Counting.WORKING)


def _actor(context, person_id):
    with context.database.read() as session:
        return actor_of(session, person_id)
