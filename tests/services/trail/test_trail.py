import csv
import io
import json
import sqlite3

import pytest

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.trail import merkle
from nod.core.trail.entries import FactKind
from nod.services.trail import trail
from nod.services.trail.trail import TrailView
from nod.services.trail.verification import verify_trail
from nod.store.canonical import canonical_json
from tests.world import NUMBER, name


@pytest.fixture
def lived(world):
    world.once(_live)
    return world


def _live(world):
    """A day with acts of several people."""
    documents = world.file(name())
    world.ink(documents[0][1], world.draw(documents[0][1]))
    world.draw(documents[0][1], who="anouk", text="secret")
    world.closed_review(*documents)


def _log(world, who="marit", **view):
    return trail.read_log(world.context, world.actor(who), TrailView(project_id=world.project_id, **view))


def _raw(world):
    raw = sqlite3.connect(world.context.settings.data_dir / "nod.db")
    raw.isolation_level = None
    return raw


def test_every_act_is_in_the_trail_with_before_and_after(lived):
    kinds = set(lived.kinds())
    expected = {
        "batch_opened", "file_arrived", "file_looked_into", "revision_filed", "mark_drawn", "mark_inked",
        "review_started", "step_picked_up", "comments_handed_in", "verdicts_handed_in", "review_closed",
    }  # fmt: skip
    assert expected <= kinds
    assert kinds <= set(FactKind)
    lived.file(name(revision="P02", title="New title"))
    entry = _log(lived, kind="revision_filed").entries[0]
    assert entry.before == {"title": "Quay hall plan", "revision": "P01", "sha256": None, "file_name": None}
    assert (entry.after["title"], entry.after["revision"]) == ("New title", "P02")


def test_a_review_tells_who_had_it_before_and_after(lived):
    picked_up = _log(lived, kind="step_picked_up").entries[0]
    assert (picked_up.before, picked_up.after) == ({"with": "nobody"}, {"step": "Check", "with": "Leilani Brandt"})
    closed = _log(lived, kind="review_closed").entries[0]
    assert closed.after["verdicts"] == [{"number": NUMBER, "verdict": "A"}]


def test_the_timeline_of_a_document_has_what_is_about_it(lived):
    document = lived.document(NUMBER)[0]
    kinds = [entry.kind for entry in _log(lived, "leilani", subject_id=document).entries]
    assert kinds[-1] == "revision_filed"
    assert {"mark_inked", "review_started", "review_closed"} <= set(kinds)


def test_filters_by_person_kind_and_day(lived):
    leilani = lived.cast.people["leilani"]
    assert {entry.who for entry in _log(lived, person_id=leilani).entries} == {"Leilani Brandt"}
    assert {entry.kind for entry in _log(lived, kind="review_closed").entries} == {"review_closed"}
    assert _log(lived, from_on="2027-03-10").entries == []
    assert _log(lived, until_on="2027-03-08").entries == []
    assert len(_log(lived, from_on="2027-03-09", until_on="2027-03-09").entries) > 10


def test_anothers_pencil_is_not_in_the_log(lived):
    about = json.dumps([entry.model_dump(mode="json") for entry in _log(lived).entries])
    assert "secret" not in about
    assert "secret" in json.dumps(
        [entry.model_dump(mode="json") for entry in _log(lived, "anouk", subject_id=lived.document(NUMBER)[0]).entries]
    )


def test_others_see_of_the_log_what_they_see_of_the_project(lived):
    whole, part = _log(lived, "rafael"), _log(lived, "leilani")
    assert (whole.size, whole.entries[0].seq) == (len(lived.kinds()), len(lived.kinds()))
    assert (part.size, part.root, {entry.seq for entry in part.entries}) == (None, "", {None})
    shared = {entry.leaf for entry in part.entries if not entry.private}
    assert shared < {entry.leaf for entry in whole.entries}
    assert {"revision_filed", "review_closed"} <= {entry.kind for entry in part.entries}
    assert {"member_added", "project_made", "access_changed"}.isdisjoint(entry.kind for entry in part.entries)
    with pytest.raises(NotFound):
        _log(lived, "yusuf")


def test_paging_goes_on_after_the_last_entry_shown(lived):
    entries = _log(lived).entries
    assert _log(lived, before=entries[4].leaf).entries == entries[5:]
    with pytest.raises(RuleBroken):
        _log(lived, before="nonsense")


def test_the_export_is_what_the_filters_leave_and_is_recorded(lived):
    view = TrailView(project_id=lived.project_id, kind="revision_filed")
    rows = list(csv.DictReader(io.StringIO(trail.export_log(lived.context, lived.actor("leilani"), view))))
    assert [row["act"] for row in rows] == ["filed a revision"]
    assert NUMBER in rows[0]["about"]
    assert _log(lived, kind="activity_exported").entries[0].after == {"entries": 1, "kind": "revision_filed"}


def test_no_cell_of_the_export_is_a_formula(lived):
    lived.ink(lived.document(NUMBER)[1], lived.draw(lived.document(NUMBER)[1], text="=1+1"))
    world_batch = lived.arrive({"=cmd|'.pdf": b"x"})
    assert world_batch
    text = trail.export_log(lived.context, lived.actor("marit"), TrailView(project_id=lived.project_id))
    cells = [cell for row in csv.reader(io.StringIO(text)) for cell in row]
    assert "'=cmd|'.pdf" in cells
    assert not [cell for cell in cells if cell[:1] in ("=", "+", "@")]


def test_a_sound_trail_verifies_and_its_root_is_the_trees(lived):
    found = verify_trail(lived.context.database)
    bodies = [row[0] for row in lived.sql("SELECT body FROM audit_entry ORDER BY seq")]
    assert found.fault == ""
    assert found.entries == len(bodies)
    assert found.root == merkle.root_of([merkle.leaf_hash(body) for body in bodies]).hex()
    assert all(canonical_json(json.loads(body)) == body for body in bodies)


@pytest.mark.parametrize("table", ["audit_entry", "audit_subject"])
@pytest.mark.parametrize("act", ["UPDATE {} SET kind = 'x'", "DELETE FROM {}", "REPLACE INTO {} SELECT * FROM {}"])
def test_the_database_itself_refuses_to_change_the_trail(lived, table, act):
    raw = _raw(lived)
    raw.execute("PRAGMA recursive_triggers = ON")
    with pytest.raises(sqlite3.IntegrityError, match=r"append-only|UNIQUE"):
        raw.execute(act.format(table, table))
    raw.close()


_DROP = "DROP TRIGGER audit_entry_keeps_update; DROP TRIGGER audit_entry_keeps_delete;" + (
    "DROP TRIGGER audit_subject_keeps_update; DROP TRIGGER audit_subject_keeps_delete;"
)


@pytest.mark.parametrize(
    ("tampering", "entry"),
    [
        (
            "UPDATE audit_entry SET body = replace(body, 'Quay', 'Hall') WHERE seq = 24",
            24,
        ),
        ("UPDATE audit_entry SET body = CAST(replace(body, 'f', 'g') AS BLOB) WHERE seq = 24", 24),
        ("UPDATE audit_entry SET at = 'long ago' WHERE seq = 3", 3),
        ("UPDATE audit_entry SET kind = 'signed_in' WHERE seq = 21", 21),
        ("UPDATE audit_entry SET person_id = 'another' WHERE seq = 22", 22),
        ("UPDATE audit_entry SET at = '2020-01-01T00:00:00.000000Z' WHERE seq = 23", 23),
        ("DELETE FROM audit_subject WHERE seq = 9; DELETE FROM audit_entry WHERE seq = 9", 9),
        ("UPDATE audit_subject SET subject_id = 'another' WHERE seq = 20", 20),
        ("UPDATE trail_head SET heads = zeroblob(length(heads))", None),
        ("UPDATE trail_head SET size = size + 1", None),
    ],
)
def test_tampering_is_found_and_the_first_bad_entry_named(lived, tampering, entry):
    raw = _raw(lived)
    raw.executescript(_DROP + tampering)
    raw.close()
    fault = verify_trail(lived.context.database).fault
    assert fault
    if entry:
        assert fault.startswith(f"entry {entry}:")


def test_the_tail_cut_off_is_found(lived):
    raw = _raw(lived)
    last = raw.execute("SELECT max(seq) FROM audit_entry").fetchone()[0]
    raw.executescript(_DROP)
    lived.written_by_hand = True
    raw.execute("DELETE FROM audit_subject WHERE seq = ?", (last,))
    raw.execute("DELETE FROM audit_entry WHERE seq = ?", (last,))
    raw.close()
    assert verify_trail(lived.context.database).fault.startswith(f"entry {last}:")
