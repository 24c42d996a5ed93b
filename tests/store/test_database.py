import hashlib
import sqlite3
import subprocess
import sys
import threading

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlalchemy import event, select, text

from nod.core.acts.refusals import DiskFull
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.store import register_query
from nod.store.blobs import Blobs, BlobTooLarge
from nod.store.database import Database
from nod.store.journal import Witness, record, trail_head
from nod.store.tables import Base, CompanyRow
from tests.conftest import NOW
from tests.world import name

WHO = Witness("p", "Pat", "HBC", "test")


@pytest.fixture
def database(tmp_path):
    database = Database(f"sqlite:///{tmp_path / 'nod.db'}")
    database.migrate()
    yield database
    database.close()


def _company(code):
    return CompanyRow(name=f"Company {code}", code=code, part="client")


def test_the_first_migration_makes_the_tables_the_code_knows(database):
    """Column by column; what the code has and the migrations have not would fail at the first use only."""
    with database.read() as session:
        for table in Base.metadata.sorted_tables:
            made = session.connection().exec_driver_sql(f"PRAGMA table_info({table.name})").fetchall()
            assert {row[1] for row in made} == {column.name for column in table.columns}, table.name


def test_migrating_twice_changes_nothing(database):
    with database.write() as session:
        session.add(_company("AAA"))
    database.migrate()
    with database.read() as session:
        assert [row.code for row in session.scalars(select(CompanyRow))] == ["AAA"]


def test_what_fails_leaves_nothing(database):
    with pytest.raises(ZeroDivisionError), database.write() as session:
        session.add(_company("AAA"))
        session.flush()
        record(session, NOW, WHO, "", Fact(FactKind.COMPANY_ADDED, Subject("company", "x"), "x"))
        raise ZeroDivisionError
    with database.read() as session:
        assert session.scalars(select(CompanyRow)).all() == []
        assert trail_head(session).size == 0


def test_a_reader_sees_one_moment(database):
    with database.read() as session:
        assert session.scalars(select(CompanyRow)).all() == []
        with database.write() as other:
            other.add(_company("AAA"))
        assert session.scalars(select(CompanyRow)).all() == []


def test_many_writers_lose_nothing_and_the_trail_has_no_gap(database):
    def write(place):
        for turn in range(10):
            with database.write() as session:
                session.add(_company(f"{place}{turn}"))
                record(session, NOW, WHO, "", Fact(FactKind.COMPANY_ADDED, Subject("company", "x"), f"{place}{turn}"))

    threads = [threading.Thread(target=write, args=(place,)) for place in range(8)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    with database.read() as session:
        assert len(session.scalars(select(CompanyRow)).all()) == 80
        assert trail_head(session).size == 80


def test_keys_are_held(database):
    from sqlalchemy.exc import IntegrityError

    from nod.store.tables import PersonRow

    with pytest.raises(IntegrityError), database.write() as session:
        session.add(PersonRow(name="N", email="n@example.com", company_id="nowhere"))


def test_the_journal_survives_the_power_going(database):
    """WAL with full syncing: what was committed is on the disk."""
    with database.read() as session:
        raw = session.connection()
        assert raw.exec_driver_sql("PRAGMA journal_mode").scalar() == "wal"
        assert raw.exec_driver_sql("PRAGMA synchronous").scalar() == 2
        assert raw.exec_driver_sql("PRAGMA foreign_keys").scalar() == 1


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture], max_examples=40, deadline=None)
@given(st.lists(st.binary(max_size=5000), max_size=6))
def test_blobs_are_what_was_put_in(tmp_path, chunks):
    blobs = Blobs(tmp_path / "blobs")
    content = b"".join(chunks)
    for _ in range(2):
        stored = blobs.put(chunks)
        assert stored.sha256 == hashlib.sha256(content).hexdigest()
        assert stored.size_bytes == len(content)
        assert stored.head == content[:4096] or content.startswith(stored.head)
        with blobs.local(stored.sha256) as path:
            assert path.read_bytes() == content
    assert list((tmp_path / "blobs" / "aside").iterdir()) == []


def test_a_blob_too_large_is_not_there(tmp_path):
    blobs = Blobs(tmp_path / "blobs")
    with pytest.raises(BlobTooLarge):
        blobs.put([b"x" * 10, b"y" * 10], largest_bytes=15)
    assert [path for path in (tmp_path / "blobs").rglob("*") if path.is_file()] == []


@given(st.text(max_size=60))
def test_whatever_is_typed_is_a_query_and_never_an_operator(words):
    raw = sqlite3.connect(":memory:")
    raw.execute("CREATE VIRTUAL TABLE words USING fts5(text, shapes)")
    match = register_query.word_query(words)
    if match:
        raw.execute("SELECT * FROM words WHERE words MATCH ?", (match,)).fetchall()
    raw.close()


def test_a_full_disk_is_told_in_words_and_leaves_nothing(database):
    """SQLite itself says no: its file may have no more pages than it has."""
    with database.read() as session:
        pages = session.connection().exec_driver_sql("PRAGMA page_count").scalar_one()

    def limit(connection):
        connection.exec_driver_sql(f"PRAGMA max_page_count = {pages}")

    event.listen(database._engine, "begin", limit)
    with pytest.raises(DiskFull, match="no room left on the disk"), database.write() as session:
        session.add_all(_company(f"A{place:04d}") for place in range(2000))
    event.remove(database._engine, "begin", limit)
    with database.write() as session:
        session.connection().exec_driver_sql("PRAGMA max_page_count = 1073741823")
        session.add(_company("AAA"))
    with database.read() as session:
        assert [row.code for row in session.scalars(select(CompanyRow))] == ["AAA"]


def _asked(database, key, value):
    """What is remembered under a key, and whether it had to be found."""
    found = []
    with database.read() as session:
        kept = database.remember(session, (key,), lambda: found.append(1) or value)
    return kept, bool(found)


def test_what_is_remembered_is_found_anew_after_any_write(tmp_path):
    """By this connection, by another one, and by another process."""
    database = Database(f"sqlite:///{tmp_path / 'x.db'}")
    with database.write() as session:
        session.connection().exec_driver_sql("CREATE TABLE t (x INTEGER)")
    assert _asked(database, "a", 1) == (1, True)
    assert _asked(database, "a", 2) == (1, False)
    assert _asked(database, "b", 3) == (3, True)
    with database.write() as session:
        session.connection().exec_driver_sql("INSERT INTO t VALUES (1)")
    assert _asked(database, "a", 4) == (4, True)
    with database.read() as open_session:
        assert database.remember(open_session, ("a",), lambda: 5) == 4
        with database.write() as session:
            session.connection().exec_driver_sql("INSERT INTO t VALUES (2)")
    assert _asked(database, "a", 6) == (6, True)
    raw = f"raw = sqlite3.connect({str(tmp_path / 'x.db')!r})"
    script = f"import sqlite3; {raw}; raw.execute('INSERT INTO t VALUES (3)'); raw.commit()"
    subprocess.run([sys.executable, "-c", script], check=True)
    assert _asked(database, "a", 7) == (7, True)
    database.close()


def test_a_finding_that_fails_is_not_remembered(tmp_path):
    database = Database(f"sqlite:///{tmp_path / 'x.db'}")

    def fail():
        raise LookupError

    with database.read() as session, pytest.raises(LookupError):
        database.remember(session, ("a",), fail)
    assert _asked(database, "a", 1) == (1, True)
    database.close()


def test_what_is_remembered_of_people_holds_while_others_write_and_ends_with_what_it_follows_from(world):
    database, asked = world.context.database, []

    def find():
        asked.append(1)
        return len(asked)

    def known():
        with database.read() as session:
            return database.remember_people(session, "key", find)

    assert [known(), known()] == [1, 1]
    world.write("UPDATE document SET title = title")
    world.file(name())
    assert known() == 1
    world.write("UPDATE person SET name = 'Somebody Else' WHERE id = (SELECT min(id) FROM person)")
    assert [known(), known()] == [2, 2]


def test_a_moment_that_is_over_is_not_remembered_for_those_after_it(world):
    database = world.context.database
    with database.read() as before:
        assert database.remember_people(before, "other", lambda: "as it was") == "as it was"
        world.write("UPDATE person SET name = name")
        with database.read() as after:
            assert database.remember_people(after, "key", lambda: "new") == "new"
        assert database.remember_people(before, "key", lambda: "old") == "old"
    with database.read() as session:
        assert database.remember_people(session, "key", lambda: "newer") == "new"


def test_what_is_not_committed_is_not_remembered(world):
    database = world.context.database
    with pytest.raises(ZeroDivisionError), database.write() as session:
        session.execute(text("UPDATE person SET name = 'Nobody'"))
        assert database.remember_people(session, "name", lambda: "Nobody") == "Nobody"
        raise ZeroDivisionError
    world.write("UPDATE person SET name = name")
    with database.read() as session:
        assert database.remember_people(session, "name", lambda: "as it is") == "as it is"
