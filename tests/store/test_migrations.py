"""From the first version's data onward: nothing is lost, and everybody has what they had."""

import json
import sqlite3

import pytest
from alembic import command
from alembic.config import Config
from sqlalchemy import create_engine, event, text

from nod.services.acts.context import open_context
from nod.services.acts.seats import actor_of, take_seat
from nod.settings import Settings
from nod.store.database import MIGRATIONS

RULES = {
    "convention": {"separator": "-", "fields": []}, "revision_scheme": "staged", "statuses": {"S3": "review"},
    "working_weekdays": [0], "disciplines": {}, "verdict_set": [],
}  # fmt: skip
LEVELS = {"lead": 4, "author": 3, "reviewer": 2, "reader": 1, "contact": 0}
NOW = "2027-03-01T08:00:00.000000Z"


def upgrade(path, revision):
    engine = create_engine(f"sqlite:///{path}", connect_args={"isolation_level": None})
    event.listen(engine, "begin", lambda connection: connection.exec_driver_sql("BEGIN"))
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    with engine.connect() as connection, connection.begin():
        config.attributes["connection"] = connection
        command.upgrade(config, revision)
    engine.dispose()


@pytest.fixture
def old(tmp_path):
    """A database of the first version, with a project, people of every role and a document."""
    path = tmp_path / "nod.db"
    upgrade(path, "0001")
    raw = sqlite3.connect(path)
    raw.execute("PRAGMA foreign_keys = ON")
    raw.execute("INSERT INTO company VALUES ('c', 'Company', 'CCC', 'client')")
    raw.execute("INSERT INTO project VALUES ('p', 'BFT', 'Ferry', 'UTC', ?, 1)", (json.dumps(RULES),))
    for who, level in LEVELS.items():
        person = (who, who, f"{who}@x.example", "c", "", "hash" if level else "", "active")
        raw.execute("INSERT INTO person VALUES (?, ?, ?, ?, ?, ?, ?)", person)
        raw.execute("INSERT INTO membership VALUES ('p', ?, ?, ?)", (who, json.dumps([who] if level else []), level))
    raw.execute("INSERT INTO batch VALUES ('b', 'p', 'browser', 'Company', 'lead', ?)", (NOW,))
    raw.execute(
        "INSERT INTO document (seq, id, project_id, number, title, discipline, originator, form, version, revision_id,"
        " revision, status, sheet_size, verdict, with_whom, filed_at) VALUES"
        f" (1, 'd', 'p', 'N-1', 'Quay hall', '', '', '', 1, 'r', 'P01', 'S3', '', '', '', '{NOW}')"
    )
    raw.execute(f"INSERT INTO sign_in VALUES ('token', 'lead', 'csrf', '{NOW}', '{NOW}')")
    raw.commit()
    raw.close()
    return path


@pytest.fixture
def migrated(old):
    context = open_context(Settings(data_dir=old.parent))
    context.database.migrate()
    yield context
    context.database.close()


def test_everybody_has_the_level_they_had(migrated):
    with migrated.database.read() as session:
        found = {who: take_seat(session, actor_of(session, who), "p").level for who in LEVELS if LEVELS[who]}
    assert found == {who: level for who, level in LEVELS.items() if level}


def test_everything_is_in_the_projects_one_folder(migrated, old):
    raw = sqlite3.connect(old)
    folder = raw.execute("SELECT id, name FROM folder").fetchall()
    assert [name for _, name in folder] == ["Ferry"]
    for table in ("document", "batch"):
        assert raw.execute(f"SELECT folder_id FROM {table}").fetchall() == [(folder[0][0],)]
    assert raw.execute("SELECT state FROM membership WHERE person_id = 'contact'").fetchone() == ("contact",)
    assert raw.execute("SELECT length(id) FROM sign_in").fetchone() == (16,)
    assert raw.execute("SELECT rowid FROM document_words WHERE document_words MATCH 'quay'").fetchall() == [(1,)]
    with pytest.raises(sqlite3.IntegrityError, match="every document is in a folder"):
        raw.execute("UPDATE document SET folder_id = NULL")
    raw.close()


def test_indexes_and_columns_are_those_the_code_knows(migrated, old):
    from nod.store.tables import Base

    raw = sqlite3.connect(old)
    for table in Base.metadata.sorted_tables:
        columns = {row[1] for row in raw.execute(f"PRAGMA table_info({table.name})")}
        assert columns == {column.name for column in table.columns}, table.name
        made = {row[1] for row in raw.execute(f"PRAGMA index_list({table.name})")}
        assert {index.name for index in table.indexes} <= made, table.name
    raw.close()


def test_a_move_after_which_a_row_refers_to_nothing_is_undone_whole(old):
    """Tables are made anew without foreign keys being asked; all of them are before it is kept."""
    upgrade(old, "0037")
    raw = sqlite3.connect(old)
    raw.execute("UPDATE document SET project_id = 'nowhere'")
    raw.commit()
    context = open_context(Settings(data_dir=old.parent))
    with pytest.raises(RuntimeError, match="a row of document refers to one of project that is not there"):
        context.database.migrate()
    assert raw.execute("SELECT version_num FROM alembic_version").fetchone() == ("0037",)
    assert "copy_of" not in {row[1] for row in raw.execute("PRAGMA table_info(document)")}
    raw.execute("UPDATE document SET project_id = 'p'")
    raw.commit()
    raw.close()
    context.database.migrate()
    with context.database.write() as session:
        assert session.execute(text("PRAGMA foreign_keys")).scalar() == 1
    context.database.close()


def test_what_was_filed_before_is_looked_into_again_for_its_words(old):
    raw = sqlite3.connect(old)
    raw.execute(f"INSERT INTO blob VALUES ('{'a' * 64}', 9, 'application/pdf', '{NOW}', 'known', '', '', 1, 1, '')")
    raw.execute(f"INSERT INTO page VALUES ('{'a' * 64}', 0, 0, 0, 1, 1, 0, 1, 'A1')")
    raw.commit()
    raw.close()
    context = open_context(Settings(data_dir=old.parent))
    context.database.migrate()
    with context.database.read() as session:
        assert session.execute(text("SELECT state, contents FROM blob")).all() == [("waiting", "{}")]
        asked = session.execute(text("SELECT kind, payload FROM outbox")).all()
        assert asked == [("look_into", json.dumps({"sha256": "a" * 64}, separators=(",", ":")))]
        assert session.execute(text("SELECT kind, scale FROM document")).all() == [("sheet", "")]
    context.database.close()


def test_a_mail_that_waits_keeps_its_link(old):
    """Written by a Nod that named the recipient or the key link itself."""
    upgrade(old, "0014")
    raw = sqlite3.connect(old)
    for key, payload in {
        "a": {"to_email": "a@x.example", "recipient_id": "r1", "key_link_id": ""},
        "b": {"to_email": "b@x.example", "recipient_id": "", "key_link_id": "k1"},
        "c": {"to_email": "c@x.example", "recipient_id": ""},
    }.items():
        raw.execute(
            "INSERT INTO outbox (kind, key, payload, made_at, not_before, tries, leased_by, trouble) "
            "VALUES ('mail', ?, ?, ?, ?, 0, '', '')",
            (key, json.dumps(payload), NOW, NOW),
        )
    raw.commit()
    raw.close()
    upgrade(old, "0015")
    raw = sqlite3.connect(old)
    rows = raw.execute("SELECT key, payload FROM outbox WHERE kind = 'mail' ORDER BY key")
    found = {key: json.loads(payload) for key, payload in rows}
    raw.close()
    assert found["a"]["link"] == {"path": "/t/", "of": "recipient:r1"}
    assert found["a"]["then"] == {"kind": "note_mailed", "payload": {"recipient_id": "r1"}}
    assert (found["b"]["link"], found["b"]["then"]) == ({"path": "/k/k1.", "of": "key link:k1"}, None)
    assert found["c"] == {"to_email": "c@x.example", "link": None, "then": None}


def test_what_was_filed_before_has_the_columns_of_today(old):
    """Mirrored from the current revision, cut out of the number, and found without separators."""
    fields = [{"name": "Package", "kind": "text", "choices": []}]
    convention = {"separator": "-", "fields": [{"name": "functional"}, {"name": "spatial"}]}
    upgrade(old, "0003")
    raw = sqlite3.connect(old)
    rules = json.loads(raw.execute("SELECT rules FROM project").fetchone()[0])
    rules |= {"convention": convention, "fields": fields}
    raw.execute("UPDATE project SET rules = ?", (json.dumps(rules),))
    raw.execute("UPDATE document SET number = 'Z1-0I'")
    raw.execute(
        "INSERT INTO blob (sha256, size_bytes, media_type, stored_at, state, fault, fault_words, page_count, has_text,"
        f" active_content) VALUES ('{'b' * 64}', 9, 'application/pdf', '{NOW}', 'known', '', '', 1, 1, '')"
    )
    raw.execute(
        "INSERT INTO revision (id, document_id, code, status, title, sha256, file_name, size_bytes, filed_by, filed_at,"
        f" came_from, arrived_at) VALUES ('r', 'd', 'P01', 'S3', 'Quay hall', '{'b' * 64}', 'Ännex.PDF', 9, 'lead',"
        f" '{NOW}', 'Company', '{NOW}')"
    )
    mark = f"('m', 'd', 'r', 0, 'pin', '[]', 'red', 'Which bolts?', NULL, 'open', 'lead', '{NOW}', '{NOW}', NULL, 1)"
    raw.execute(f"INSERT INTO mark VALUES {mark}")
    raw.execute(f"INSERT INTO reply VALUES ('y', 'm', 'lead', 'Grade eight', '{NOW}')")
    raw.commit()
    raw.close()
    context = open_context(Settings(data_dir=old.parent))
    context.database.migrate()
    with context.database.read() as session:
        row = session.execute(text("SELECT zone, level, shapes, file_name, filed_by, withdrawn FROM document")).one()
        assert tuple(row) == ("Z1", "0I", "Z101 01", "Ännex.PDF", "lead", 0)
        assert session.execute(text("SELECT file_alike FROM revision")).all() == [("ännex.pdf",)]
        kept = json.loads(session.execute(text("SELECT rules FROM project")).scalar_one())
        assert (kept["reviewed_statuses"], kept["fields"][0]["name"], kept["fields"][0]["folder_id"]) == (
            [],
            "Package",
            "",
        )
        assert kept["fields"][0]["id"]
        for table, words in (("document_words", "z101"), ("document_words", "quay"), ("thread_words", "bolts eight")):
            found = session.execute(text(f"SELECT rowid FROM {table} WHERE {table} MATCH :words"), {"words": words})
            assert found.all() == [(1,)], (table, words)
        assert ("index_words",) in session.execute(text("SELECT kind FROM outbox")).all()
    context.database.close()


def test_a_mark_that_was_carried_before_has_the_state_that_was_set_last(old):
    upgrade(old, "0012")
    raw = sqlite3.connect(old)
    raw.execute(
        "INSERT INTO blob (sha256, size_bytes, media_type, stored_at, state, fault, fault_words, page_count, has_text,"
        f" active_content) VALUES ('{'c' * 64}', 9, 'application/pdf', '{NOW}', 'known', '', '', 1, 1, '')"
    )
    for code in ("P01", "P02"):
        raw.execute(
            "INSERT INTO revision (id, document_id, code, status, title, sha256, file_name, size_bytes, filed_by,"
            " filed_at, came_from, arrived_at, superseded_at) VALUES (?, 'd', ?, 'S3', 'x', ?, 'x.pdf', 9, 'lead',"
            " ?, 'Company', ?, ?)",
            (code, code, "c" * 64, NOW, NOW, NOW if code == "P01" else None),
        )
    marks = (
        ("first", "P01", "", "open", None),
        ("carried", "P02", "first", "done", NOW),
        ("alone", "P02", "", "open", None),
    )
    for name, revision, thread, state, at in marks:
        raw.execute(
            "INSERT INTO mark (id, document_id, revision_id, page, kind, points, text, state, author_id, drawn_at,"
            " inked_at, thread_id, state_by, state_at, version, look) VALUES (?, 'd', ?, 0, 'pin', '[]', '', ?, 'lead',"
            " ?, ?, ?, 'lead', ?, 1, '{}')",
            (name, revision, state, NOW, NOW, thread, at),
        )
    raw.commit()
    raw.close()
    context = open_context(Settings(data_dir=old.parent))
    context.database.migrate()
    with context.database.read() as session:
        query = "SELECT m.id, t.id, t.state FROM mark m JOIN thread t ON t.id = m.thread_id ORDER BY m.id"
        rows = session.execute(text(query)).all()
        assert rows == [("alone", "alone", "open"), ("carried", "first", "done"), ("first", "first", "done")]
    context.database.close()


def test_nothing_that_was_released_is_lost(old):
    """C01 was released and superseded by a C02 that is under review; it is in force again, P01 as history is not."""
    upgrade(old, "0031")
    raw = sqlite3.connect(old)
    rules = json.loads(raw.execute("SELECT rules FROM project").fetchone()[0])
    rules["statuses"] = {"S3": "review", "A1": "accepted", "ZZ": "own"}
    raw.execute("UPDATE project SET rules = ?", (json.dumps(rules),))
    raw.execute(
        "INSERT INTO blob (sha256, size_bytes, media_type, stored_at, state, fault, fault_words, page_count,"
        " pages_read, has_text, active_content, contents, ocr)"
        f" VALUES ('{'d' * 64}', 9, 'application/pdf', '{NOW}', 'known', '', '', 1, 1, 1, '', '{{}}', '')"
    )
    later = "2027-03-02T08:00:00.000000Z"
    for place, (code, status, at) in enumerate((("P01", "A1", NOW), ("C01", "A1", later), ("C02", "S3", None)), 1):
        raw.execute(
            "INSERT INTO revision (id, document_id, code, status, title, sha256, file_name, file_alike, size_bytes,"
            " filed_by, filed_at, came_from, arrived_at, superseded_at, purpose, note, from_id, scale, place,"
            " as_history, came_person, came_by)"
            " VALUES (?, 'd', ?, ?, 'x', ?, 'x', 'x', 9, 'lead', ?, '', ?, ?, '', '', '', '', ?, ?, '', '')",
            (code, code, status, "d" * 64, NOW, NOW, at, place, code == "P01"),
        )
    raw.execute("UPDATE document SET revision_id = 'C02', revision = 'C02', status = 'S3'")
    raw.commit()
    raw.close()
    upgrade(old, "0032")
    raw = sqlite3.connect(old)
    document = raw.execute("SELECT revision, in_force_id, in_force, release FROM document").fetchall()
    revisions = raw.execute("SELECT code, superseded_at, released_at FROM revision ORDER BY place").fetchall()
    uses = json.loads(raw.execute("SELECT rules FROM project").fetchone()[0])["status_uses"]
    raw.close()
    assert document == [("C02", "C01", "C01", "newer")]
    assert revisions == [("P01", NOW, None), ("C01", None, NOW), ("C02", None, None)]
    assert uses == {"S3": "received", "A1": "built", "ZZ": "received"}


def test_what_was_sent_in_and_waits_for_an_answer_is_registered_now(old):
    """And nothing that was answered, long before files were registered."""
    upgrade(old, "0052")
    raw = sqlite3.connect(old)
    raw.execute(
        "INSERT INTO submittal (id, project_id, number, revision, title, kind, for_information, section, paragraph,"
        " description, reference, category, location, milestone, company_id, keeper_id, made_by, made_at, lead_in,"
        " review_days, rounds, preparation, state, since_at, verdict, why_void, expected, worked_from, version)"
        f" VALUES ('s', 'p', 'CCC-1', 1, 'Doors', 'SD', 0, '', '', '', '', '', '', '', 'c', 'lead', 'lead', '{NOW}',"
        f" 'working days', 10, 1, 10, 'sent in', '{NOW}', '', '', 10, '', 1)"
    )
    for revision, answered in ((0, NOW), (1, None)):
        raw.execute(
            "INSERT INTO submittal_round (id, submittal_id, revision, sent_at, sent_on, sent_by, note, sent_files,"
            " verdict, answer_note, answer_files, answered_at, answered_for)"
            f" VALUES (?, 's', ?, '{NOW}', '2027-03-01', 'lead', '', 'f', '', '', 'a', ?, 0)",
            (f"r{revision}", revision, answered),
        )
    raw.commit()
    raw.close()
    upgrade(old, "0053")
    raw = sqlite3.connect(old)
    asked = raw.execute("SELECT key, payload FROM outbox WHERE kind = 'file_sent_in'").fetchall()
    raw.close()
    assert [(key, json.loads(payload)) for key, payload in asked] == [
        ("file_sent_in:r1:0", {"round_id": "r1", "looked": 0})
    ]
