"""100,000 threads, every fiftieth private, a message each: the list, and the search as one types, against bare SQL."""

import random
import sqlite3
from datetime import timedelta

from bench.measure import tell, timed_pair
from nod.core.trail.entries import instant_text
from nod.services.acts.seats import actor_of
from nod.services.letters import letter_list
from nod.store.register_query import plain_words

_THREADS = 100_000
_SUBJECTS = ("Joint", "Cable", "Bollard", "Drainage", "Crane rail", "Pile", "Fender", "Duct", "Shutter", "Ladder")
_SEEN = """
    l.project_id = :project AND l.state <> 'draft' AND ({} l.began_by = :me OR EXISTS (
        SELECT 1 FROM letter_party y WHERE y.letter_id = l.id AND y.kind = 'person' AND y.party_id = :me)
    OR EXISTS (SELECT 1 FROM letter_party y WHERE y.letter_id = l.id AND y.kind = 'company'
        AND y.party_id = :company))"""
_LIST = """
    SELECT l.*, p.name, c.code, c.name, m."to", m.author_name FROM letter l JOIN person p ON p.id = l.began_by
    JOIN company c ON c.id = l.company_id JOIN letter_message m ON m.letter_id = l.id AND m.place = 1
    WHERE {seen} AND {where} ORDER BY {by} LIMIT 50"""
_COUNT = """
    SELECT l.state, count(*), sum(l.state = 'answer wanted' AND l.due_on < :today) FROM letter l
    WHERE {seen} AND {rest} GROUP BY l.state"""
_COMPANIES = "SELECT * FROM company WHERE id IN (SELECT company_id FROM letter l WHERE {seen})"
_MINE = "EXISTS (SELECT 1 FROM letter_party z WHERE z.letter_id = l.id AND z.party_id IN (:me, :company))"
_UNREAD = f"""{_MINE} AND EXISTS (SELECT 1 FROM letter_message n WHERE n.letter_id = l.id AND n.author_id <> :me
    AND n.place > coalesce((SELECT place FROM letter_seen s WHERE s.letter_id = l.id AND s.person_id = :me), 0))"""
_NARROWED = {
    # What is asked, the same as a condition, the part of it that the counts by state keep, and the order.
    "the latest": ({}, "1", "1", "l.last_at DESC"),
    "answer wanted, by due": (
        {"state": "answer wanted", "sort": "due", "down": False}, "l.state = 'answer wanted'", "1",
        "l.due_on IS NULL, l.due_on",
    ),
    "late": ({"late": True}, "l.state = 'answer wanted' AND l.due_on < :today", "1", "l.last_at DESC"),
    "one is in": ({"view": "in"}, _MINE, _MINE, "l.last_at DESC"),
    "unread": ({"unread": True}, _UNREAD, _UNREAD, "l.last_at DESC"),
}  # fmt: skip
_SYLLABLES = [f"{one}{two}" for one in "bcdfglmnprst" for two in ("a", "e", "i", "o", "u", "al", "en", "ir")]
_TYPED = ("cable joint", "bollard 4242", "crane rail ga", "ladder belo")


def bench_letters(context, cast):
    path = context.settings.data_dir / "nod.db"
    _put(path, cast, context.clock.now())
    raw = sqlite3.connect(path)
    for who, everything in (("marit", "NOT l.private OR"), ("ottilie", "")):
        with context.database.read() as session:
            actor = actor_of(session, cast.people[who])
        values = {
            "project": cast.project_id, "me": actor.person_id, "company": actor.company_id,
            "today": context.clock.now().date().isoformat(),
        }  # fmt: skip
        seen = _SEEN.format(everything)
        _lists(context, actor, raw, seen, values)
        _words(context, actor, raw, seen, values)
    raw.close()


def _lists(context, actor, raw, seen, values):
    for words, (asked, where, rest, by) in _NARROWED.items():
        queries = [
            _LIST.format(seen=seen, where=where, by=by), _COUNT.format(seen=seen, rest=rest),
            _COMPANIES.format(seen=seen),
        ]  # fmt: skip

        def ours(asked=asked):
            letter_list.list_letters(context, actor, letter_list.AskedLetters(values["project"], limit=50, **asked))

        def bare(queries=queries):
            for query in queries:
                raw.execute(query, values).fetchall()

        tell(f"{_THREADS:,} threads, {actor.name.split()[0]}: {words}", *timed_pair(ours, bare, 7))


def _words(context, actor, raw, seen, values):
    """Each letter as it is typed, beside the index asked for the same, met by the same sight, the latest 50 of it."""
    typed = [words[:end] for words in _TYPED for end in range(2, len(words) + 1)]
    queries = (
        "SELECT count(*) FROM letter_words WHERE letter_words MATCH :match",
        f"""SELECT l.*, m.* FROM letter_words w JOIN letter_message m ON m.seq = w.rowid
        JOIN letter l ON l.id = m.letter_id WHERE letter_words MATCH :match AND {seen}
        ORDER BY l.last_at DESC LIMIT 50""",
    )

    def ours():
        for words in typed:
            asked = letter_list.AskedLetters(values["project"], words=words, limit=50)
            letter_list.list_letters(context, actor, asked)

    def bare():
        for words in typed:
            for query in queries:
                raw.execute(query, {**values, "match": plain_words(words)}).fetchall()

    spans = [each / len(typed) for each in timed_pair(ours, bare, 3)]
    tell(f"{_THREADS:,} messages, {actor.name.split()[0]}: as one types", *spans)


def _put(path, cast, now):
    """Written as rows: the acts that would make them take a day."""
    chance = random.Random(1)  # noqa: S311 - rows to measure with
    with sqlite3.connect(path) as raw:
        people = {
            id: company
            for id, company in raw.execute("SELECT id, company_id FROM person")
            if id in set(cast.people.values())
        }
        ids = list(people)
        letters, messages, parties, words, seen = [], [], [], [], []
        # As words are spread in what people write: few often, most seldom (Zipf).
        spoken = ["".join(chance.choices(_SYLLABLES, k=3)) for _ in range(5_000)] + list(_SUBJECTS)
        chance.shuffle(spoken)
        weights = [1 / (place + 1) for place in range(len(spoken))]
        for number in range(_THREADS):
            began, to, copied = chance.sample(ids, 3)
            at = instant_text(now - timedelta(minutes=5 * number + chance.randint(0, 4)))
            state = chance.choices(("open", "answer wanted", "answered", "closed"), (2, 1, 1, 6))[0]
            due = (now - timedelta(minutes=5 * number) + timedelta(days=7)).date().isoformat()
            subject = f"{chance.choice(_SUBJECTS)} {chance.choice(_SUBJECTS).lower()} {number}"
            letter, message = f"l{number:015}", f"m{number:015}"
            letters.append((
                letter, cast.project_id, f"BEN-{number:06}", "letter", subject, number % 50 == 0, state, began,
                people[began], at, at, at, at, to if state == "answer wanted" else None, due, 1,
            ))  # fmt: skip
            text = " ".join(chance.choices(spoken, weights, k=60)) + f" bay {number % 97}"
            messages.append((
                message, cast.project_id, letter, 1, began, "Somebody", "person", subject, text, at, at, 1,
            ))  # fmt: skip
            parties += [
                (letter, "person", to, 1, "to", 0, at), (letter, "person", copied, 1, "copied", 1, at),
            ]  # fmt: skip
            words.append(f"BEN-{number:06} {subject} {text}")
            if number % 3:
                seen.append((letter, to, 1))
        _many(raw, "letter", (
            "id, project_id, number, kind, subject, private, state, began_by, company_id, made_at, sent_at, last_at,"
            " since_at, asked_id, due_on, version"
        ), letters)  # fmt: skip
        first = raw.execute("SELECT coalesce(max(seq), 0) FROM letter_message").fetchone()[0] + 1
        _many(raw, "letter_message", (
            "id, project_id, letter_id, place, author_id, author_name, way, subject, text, written_at, sent_at, version"
        ), messages)  # fmt: skip
        _many(raw, "letter_party", "letter_id, kind, party_id, first_place, how, rank, added_at", parties)
        _many(raw, "letter_words", "rowid, words", [(first + place, each) for place, each in enumerate(words)])
        _many(raw, "letter_seen", "letter_id, person_id, place", seen)


def _many(raw, table, columns, rows):
    needed = {
        name: kind
        for _, name, kind, must, default, _ in raw.execute(f"PRAGMA table_info({table})")
        if must and default is None and name not in columns.replace(",", " ").split() and name != "seq"
    }
    blanks = {"JSON": "'[]'"}
    more = {name: "'{}'" if name == "begun" else blanks.get(kind, "''") for name, kind in needed.items()}
    names = ", ".join([columns, *(f'"{name}"' for name in more)])
    marks = ", ".join(["?"] * len(rows[0]) + list(more.values()))
    raw.executemany(f"INSERT INTO {table} ({names}) VALUES ({marks})", rows)
