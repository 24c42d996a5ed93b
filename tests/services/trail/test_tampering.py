"""Five hundred ways to alter the trail behind Nod's back, each found and named; and what outsiders hold against it."""

import hashlib
import json
import os
import random
import shutil
import sqlite3
from pathlib import Path

import pytest
from typer.testing import CliRunner

from nod import cli
from nod.core.acts.refusals import NotFound
from nod.core.trail import merkle, seals
from nod.services.trail.check_reports import check_files, check_texts, verify_all
from nod.services.trail.seals import file_path, key_path, make_seal, notes_in, prove_entry, seal_if_due
from nod.services.trail.verification import verify_trail
from nod.store.blobs import Blobs
from nod.store.canonical import canonical_json
from tests.world import OTHER_NUMBER, name, pdf

pytestmark = pytest.mark.walk

TAMPERINGS = int(os.environ.get("NOD_TAMPERINGS", "500"))
SAMPLES = 50
_DROP = "".join(
    f"DROP TRIGGER {table}_keeps_{act};" for table in ("audit_entry", "audit_subject") for act in ("update", "delete")
)


@pytest.fixture
def lived(world):
    world.once(_live)
    return world


def _live(world):
    """A few days of entries, files among them, with a seal in the middle and one at the end."""
    ((document, revision),) = world.file(name())
    make_seal(world.context)
    world.file(name(OTHER_NUMBER), content=pdf("other"))
    world.ink(revision, world.draw(revision))
    world.closed_review((document, revision))
    make_seal(world.context)


def _settings(world):
    return world.context.settings


def _verify(world, **more):
    asked = {"files": False, "root": "", "size": 0, "seal": None, "key": "", **more}
    return verify_all(_settings(world), **asked)


def _tampered(world, act):
    """Does `act` to a copy of the database under the same folder, and says what verifying finds."""
    data = world.context.settings.data_dir
    copy = data / "tampered.db"
    copy.unlink(missing_ok=True)
    with sqlite3.connect(data / "nod.db") as whole, sqlite3.connect(copy) as target:
        whole.backup(target)
        target.executescript(_DROP)
        act(target)
    whole.close()
    target.close()
    settings = _settings(world).model_copy(update={"database_url": f"sqlite:///{copy}"})
    return verify_all(settings, files=False, root="", size=0, seal=None, key="")


def _bit(lots, content):
    spoiled = bytearray(content)
    place = lots.randrange(len(spoiled))
    spoiled[place] ^= 1 << lots.randrange(8)
    return bytes(spoiled)


def _any_entry(lots, raw):
    count = raw.execute("SELECT count(*) FROM audit_entry").fetchone()[0]
    return lots.randint(1, count)


def _spoil_body(lots, raw):
    seq = _any_entry(lots, raw)
    body = raw.execute("SELECT body FROM audit_entry WHERE seq = ?", (seq,)).fetchone()[0]
    raw.execute("UPDATE audit_entry SET body = ? WHERE seq = ?", (_bit(lots, body), seq))
    return f"entry {seq}:"


def _reword(lots, raw):
    """A content that reads well, with its own hash put beside it."""
    seq = _any_entry(lots, raw)
    said = json.loads(raw.execute("SELECT body FROM audit_entry WHERE seq = ?", (seq,)).fetchone()[0])
    said["about"] += " (as agreed)"
    body = canonical_json(said)
    raw.execute("UPDATE audit_entry SET body = ?, leaf_sha256 = ? WHERE seq = ?", (body, merkle.leaf_hash(body), seq))
    return "the"


def _column(lots, raw):
    seq = _any_entry(lots, raw)
    column = lots.choice(["at", "project_id", "person_id", "kind", "private_to", "leaf_sha256"])
    raw.execute(f"UPDATE audit_entry SET {column} = {column} || 'x' WHERE seq = ?", (seq,))
    return f"entry {seq}:"


def _subject(lots, raw):
    act = lots.choice(["shift", "add", "drop", "rename", "beyond"])
    seq = _any_entry(lots, raw)
    if act == "shift":
        raw.execute("UPDATE audit_subject SET seq = -seq")
        raw.execute("UPDATE audit_subject SET seq = 1 - seq")
        return "entry 1:"
    if act == "beyond":
        raw.execute("PRAGMA foreign_keys = OFF")
        raw.execute("INSERT INTO audit_subject VALUES (999999, 'document', 'x')")
        return "entry 999999:"
    if act == "add":
        raw.execute("INSERT INTO audit_subject VALUES (?, 'document', 'another')", (seq,))
    elif act == "drop":
        raw.execute("DELETE FROM audit_subject WHERE seq = ?", (seq,))
    else:
        raw.execute("UPDATE audit_subject SET subject_id = subject_id || 'x' WHERE seq = ?", (seq,))
    return f"entry {seq}:"


def _cut(lots, raw):
    """The tail, or all, with a head that fits what is left."""
    count = raw.execute("SELECT count(*) FROM audit_entry").fetchone()[0]
    left = lots.choice([0, lots.randint(1, count - 1)])
    raw.execute("DELETE FROM audit_subject WHERE seq > ?", (left,))
    raw.execute("DELETE FROM audit_entry WHERE seq > ?", (left,))
    _fit_head(raw)
    return f"entry {left + 1}:"


def _hole(lots, raw):
    seq = _any_entry(lots, raw)
    raw.execute("DELETE FROM audit_subject WHERE seq = ?", (seq,))
    raw.execute("DELETE FROM audit_entry WHERE seq = ?", (seq,))
    return f"entry {seq}:"


def _head(lots, raw):
    act = lots.choice(["size = size + 1", "size = size - 1", "heads = zeroblob(length(heads))", "heads = x''"])
    raw.execute(f"UPDATE trail_head SET {act}")
    return ""


def _fit_head(raw):
    frontier = merkle.Frontier()
    for (leaf,) in raw.execute("SELECT leaf_sha256 FROM audit_entry ORDER BY seq"):
        frontier = frontier.append(leaf)
    raw.execute("UPDATE trail_head SET size = ?, heads = ?", (frontier.size, b"".join(frontier.heads)))


def _rewrite(lots, raw):
    """History from some entry on, with hashes, tree and head made anew: found by the seals alone."""
    count = raw.execute("SELECT count(*) FROM audit_entry").fetchone()[0]
    begin = lots.randint(1, count)
    for seq, body in raw.execute("SELECT seq, body FROM audit_entry WHERE seq >= ?", (begin,)).fetchall():
        said = json.loads(body)
        said["why"] = "as it should have been"
        new = canonical_json(said)
        raw.execute("UPDATE audit_entry SET body = ?, leaf_sha256 = ? WHERE seq = ?", (new, merkle.leaf_hash(new), seq))
    _fit_head(raw)
    return "the first"


def _seal(lots, raw):
    raw.executescript("DROP TRIGGER seal_no_update; DROP TRIGGER seal_no_delete;")
    act = lots.choice(["DELETE FROM seal", "UPDATE seal SET note = replace(note, '2027', '2026')"])
    raw.execute(act)
    return "a seal of"


WAYS = (_spoil_body, _reword, _column, _subject, _cut, _hole, _head, _rewrite, _seal)


@pytest.mark.parametrize("sample", range(SAMPLES))
def test_every_tampering_is_found_and_named(lived, sample):
    """None of 500 is missed; each is told of what was altered, never as a traceback."""
    lots = random.Random(sample)  # noqa: S311 - the same ones every time
    assert _verify(lived)[1]
    for place in range(TAMPERINGS // SAMPLES):
        way = WAYS[(sample + place) % len(WAYS)]
        named = []
        lines, sound = _tampered(lived, lambda raw, way=way, named=named: named.append(way(lots, raw)))
        assert not sound, (sample, place, way.__name__)
        assert any(line.startswith(f"NOT SOUND: {named[0]}") for line in lines), (way.__name__, named, lines)


def test_a_history_rewritten_with_its_seals_is_found_by_who_holds_one(lived, tmp_path):
    """Whoever has the server has the key: only what lies elsewhere can tell then."""
    data = lived.context.settings.data_dir
    before = make_seal(lived.context)
    held = tmp_path / "held.txt"
    held.write_text(before.note)
    database = lived.context.database
    database.close()
    with sqlite3.connect(data / "nod.db") as raw:
        raw.executescript(_DROP + "DROP TRIGGER seal_no_update; DROP TRIGGER seal_no_delete;")
        _rewrite(random.Random(1), raw)  # noqa: S311
        raw.execute("DELETE FROM seal")
    raw.close()
    file_path(data).unlink()
    make_seal(lived.context)
    assert _verify(lived)[1]
    lines, sound = _verify(lived, root=before.root, size=before.size)
    assert not sound
    assert "the trail was rewritten" in lines[0]
    assert not _verify(lived, seal=held, key=before.key)[1]


def test_what_grew_out_of_the_remembered_tree_is_sound(lived, tmp_path):
    before = make_seal(lived.context)
    held = tmp_path / "held.txt"
    held.write_text(before.note)
    lived.file(name("BFT-TRA-Z1-01-D-A-0103"), content=pdf("later"))
    for more in ({"root": before.root, "size": before.size}, {"seal": held, "key": before.key}):
        lines, sound = _verify(lived, **more)
        assert sound
        assert f"the trail grew out of what you remember: {before.size} entries" in lines
    lines, sound = _verify(lived, root=before.root, size=10**9)
    assert not sound
    assert "1000000000 were there" in lines[0]


@pytest.mark.parametrize(
    ("more", "words"),
    [
        ({"root": "zz", "size": 3}, "The root is not one"), ({"root": "aa", "size": 3}, "64 signs"),
        ({"root": "", "size": 3}, "64 signs"), ({"root": "a" * 64}, "number of entries"),
        ({"seal": Path("nowhere")}, "Give the --key"), ({"seal": Path("nowhere"), "key": "x"}, "There is no seal"),
    ],
)  # fmt: skip
def test_what_was_asked_wrongly_is_told(lived, more, words):
    lines, sound = _verify(lived, **more)
    assert (sound, words in lines[0]) == (False, True)


def test_files_that_entries_speak_of_are_read(lived):
    lines, sound = _verify(lived, files=True)
    assert sound
    assert "files verified" in lines[-1]
    data, lots = lived.context.settings.data_dir, random.Random(5)  # noqa: S311
    blobs = Blobs(data / "blobs")
    known = [row[0] for row in lived.sql("SELECT sha256 FROM blob")]
    assert len(known) >= 2
    for sha256 in known:
        with blobs.local(sha256) as path:
            pass
        content = path.read_bytes()
        for spoiled in (_bit(lots, content), content[:-1], content + b"x", b"", None):
            path.unlink()
            if spoiled is not None:
                path.write_bytes(spoiled)
            lines, sound = _verify(lived, files=True)
            words = "was altered: its content has another hash" if spoiled is not None else "is not there"
            assert not sound
            assert f"{sha256[:16]}… of entry" in lines[0]
            assert words in lines[0]
            path.write_bytes(content)
    assert _verify(lived, files=True)[1]


@pytest.mark.parametrize("spoiled", ["not a database at all", "", "a page of zeros"])
def test_a_database_that_is_none_is_told_in_words(world, tmp_path, spoiled):
    copy = tmp_path / "nod.db"
    if spoiled == "a page of zeros":
        world.context.database.close()
        shutil.copy(world.context.settings.data_dir / "nod.db", copy)
        with copy.open("r+b") as file:
            file.seek(4096)
            file.write(b"\0" * 4096 * 20)
    else:
        copy.write_text(spoiled)
    settings = world.context.settings.model_copy(update={"database_url": f"sqlite:///{copy}", "data_dir": tmp_path})
    lines, sound = verify_all(settings, files=False, root="", size=0, seal=None, key="")
    assert not sound
    assert lines[0].startswith("NOT SOUND: ")


# Seals


def test_a_seal_is_made_each_hour_in_which_something_happened(lived):
    from datetime import timedelta

    make_seal(lived.context)
    assert not seal_if_due(lived.context)
    lived.clock.advance(timedelta(hours=2))
    assert not seal_if_due(lived.context)
    lived.file(name("BFT-TRA-Z1-01-D-A-0104"), content=pdf("later"))
    assert seal_if_due(lived.context)
    assert not seal_if_due(lived.context)
    data = lived.context.settings.data_dir
    in_database = [row[0] for row in lived.sql("SELECT note FROM seal ORDER BY size")]
    assert notes_in(file_path(data)) == in_database
    # What a stop kept out of the file comes into it with the next one.
    file_path(data).write_text(in_database[0])
    make_seal(lived.context)
    assert sorted(notes_in(file_path(data))) == sorted(in_database)


def test_the_database_refuses_to_change_a_seal(lived):
    with sqlite3.connect(lived.context.settings.data_dir / "nod.db") as raw:
        for act in ("UPDATE seal SET size = 1", "DELETE FROM seal", "UPDATE seal_key SET name = ''"):
            with pytest.raises(sqlite3.IntegrityError, match="never changed"):
                raw.execute(act)
    raw.close()


def test_a_lost_key_begins_anew_and_says_so(lived):
    before = make_seal(lived.context)
    key_path(lived.context.settings.data_dir).unlink()
    after = make_seal(lived.context)
    assert before.key != after.key
    assert lived.kinds().count("seal_key_begun") == 2
    assert _verify(lived)[1]


def test_an_entry_is_proved_to_who_has_nothing_of_the_server(lived, tmp_path):
    first = make_seal(lived.context)
    lived.file(name("BFT-TRA-Z1-01-D-A-0105"), content=pdf("later"))
    proof, key = prove_entry(lived.context, 24, since=first.size)
    target, held = tmp_path / "proof.json", tmp_path / "seal.txt"
    target.write_text(proof.as_json())
    held.write_text(first.note)
    lines, sound = check_files(target, key, held)
    assert sound
    assert "grew out of the one" in lines[2]
    assert json.loads(lines[3])["seq"] == 24
    hidden, _ = prove_entry(lived.context, 24, hash_only=True)
    lines, sound = check_texts(hidden.as_json(), key)
    assert sound
    assert "only its hash" in lines[-1]
    spoiled = target.read_text().replace('"body": "{', '"body": "{ ')
    assert check_texts(spoiled, key)[1] is False
    assert check_files(tmp_path / "nowhere", key, None)[1] is False
    with pytest.raises(NotFound):
        prove_entry(lived.context, 10**6)


def test_the_commands_say_what_they_found_and_exit_by_it(lived, tmp_path):
    data = ["--data", str(lived.context.settings.data_dir)]
    run = CliRunner()
    sealed = run.invoke(cli.main, ["seal", *data])
    key = sealed.output.strip().split("\n")[-1]
    assert seals.read_key(key)
    proved = run.invoke(cli.main, ["prove", "3", *data])
    proof = tmp_path / "proof.json"
    proof.write_text(proved.stdout)
    checked = run.invoke(cli.main, ["check", str(proof), "--key", key])
    assert (checked.exit_code, "stands at place 3" in checked.output) == (0, True)
    assert run.invoke(cli.main, ["check", str(proof), "--key", "x"]).exit_code == 1
    assert run.invoke(cli.main, ["prove", "99999", *data]).exit_code == 1
    assert run.invoke(cli.main, ["verify", "--files", *data]).exit_code == 0
    assert run.invoke(cli.main, ["verify", "--root", "0" * 64, "--size", "3", *data]).exit_code == 1


def test_in_two_processes_the_same_is_found(lived, monkeypatch):
    from nod.services.trail import verification

    monkeypatch.setattr(verification, "_PART", 20)
    data = lived.context.settings.data_dir
    one = verify_trail(lived.context.database, processes=1, seals_file=file_path(data))
    two = verify_trail(lived.context.database, processes=2, seals_file=file_path(data))
    assert one == two
    assert one.fault == ""
    assert one.entries == len(lived.kinds())
    assert hashlib.sha256(b"").digest() == merkle.EMPTY_ROOT
