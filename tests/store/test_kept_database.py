"""The demo of 0.8.2, kept as its database was: migrated it shows everybody what that version showed them.

`kept/0.8.2.json` is what the functions below answered there, on 9 March 2027. One thing is left out of it on purpose:
Late does not name a step any more to those who could have taken it, once another has picked it up (decision 0032).
"""

import gzip
import hashlib
import json
import sqlite3
from datetime import UTC, datetime
from pathlib import Path

import pytest
from sqlalchemy import text

from nod.clock import SetClock
from nod.services import desk, features
from nod.services.acts.context import open_context
from nod.services.acts.replays import table_faults
from nod.services.acts.seats import actor_of
from nod.services.links import visits
from nod.services.marks.marks_view import list_marks
from nod.services.reviews.log import AskedLog, list_log
from nod.services.trail.trail import TrailView, read_log
from nod.services.trail.verification import verify_trail
from nod.services.transmittals import guests
from nod.services.transmittals import log as sent_log
from nod.services.transmittals.guests import Acknowledge
from nod.settings import Settings

KEPT = Path(__file__).parent / "kept"
TOKEN = "as it was mailed"
NEITHER_SENT_NOR_GOT = {
    "Dede Okonkwo", "Leilani Brandt", "Ottilie Vestergaard", "Paolo Marchetti", "Saoirse Tanaka",
}  # fmt: skip
"""Transmittals are for the companies that sent and got them, and who runs the project, since 0.9.4."""
HER_COLLEAGUE = "Junpei Mori"
"""Of Anouk Ferreira, who got one: he sees it, too, though he does not see all its documents."""
TRAYS = ("yours_now", "coming", "you_wait_for", "late")


@pytest.fixture(scope="module")
def context(tmp_path_factory):
    features.load()
    folder = tmp_path_factory.mktemp("kept")
    (folder / "nod.db").write_bytes(gzip.decompress((KEPT / "0.8.2.db.gz").read_bytes()))
    with sqlite3.connect(folder / "nod.db") as raw:
        # The key that the mailed links were made with is not kept: as if these words had been the end of one.
        known = hashlib.sha256(TOKEN.encode()).hexdigest()
        raw.execute("UPDATE recipient SET token_sha256 = ? WHERE acknowledged_at IS NULL", (known,))
    raw.close()
    found = open_context(Settings(data_dir=folder), SetClock(datetime(2027, 3, 9, 8, 30, tzinfo=UTC)))
    found.database.migrate()
    yield found
    found.database.close()


@pytest.fixture(scope="module")
def kept():
    return json.loads((KEPT / "0.8.2.json").read_text())


@pytest.fixture(scope="module")
def people(context):
    """The project's id, and its people by name."""
    with context.database.read() as session:
        (project_id,) = session.execute(text("SELECT id FROM project WHERE number = 'BFT'")).one()
        members = session.execute(
            text(
                "SELECT p.id, p.name FROM person p JOIN membership m ON m.person_id = p.id "
                "WHERE m.project_id = :project AND m.state = 'active'"
            ),
            {"project": project_id},
        )
        return project_id, {name: actor_of(session, person_id) for person_id, name in members.all()}


def _standing(line):
    return json.loads(line.standing.model_dump_json())


def test_desks(context, kept, people):
    project_id, actors = people
    for name, actor in actors.items():
        found = desk.read_desk(context, actor, project_id)
        shown = {
            tray: [
                [line.kind, line.number, line.name, line.detail, line.act, line.link, _standing(line)]
                for line in getattr(found, tray)
            ]
            for tray in TRAYS
        }
        counts = {key: count for key, count in found.counts.items() if key != "mail"}  # came with mail that comes in
        assert shown | {"counts": counts} == kept["desks"][name], name


def test_lists(context, kept, people):
    project_id, actors = people
    for name, actor in actors.items():
        reviews = list_log(context, actor, AskedLog(project_id)).lines
        assert [[each.number, each.state, each.step, _standing(each)] for each in reviews] == kept["reviews"][name]
        sent = sent_log.list_log(context, actor, sent_log.AskedLog(project_id)).lines
        shown = [[each.number, each.with_whom, each.acknowledged] for each in sent]
        wanted = kept["transmittals"]["Anouk Ferreira" if name == HER_COLLEAGUE else name]
        if name in ("Anouk Ferreira", HER_COLLEAGUE):
            # Whether the other company has acknowledged it is not theirs to know.
            wanted = [[*each[:2], 0] for each in wanted]
        assert shown == ([] if name in NEITHER_SENT_NOR_GOT else wanted), name
        entries = read_log(context, actor, TrailView(project_id=project_id)).entries
        before = kept["log"][name]
        if name in NEITHER_SENT_NOR_GOT | {HER_COLLEAGUE}:
            before = [each for each in before if not each[1].startswith("transmittal_")]
            entries = [each for each in entries if not each.kind.startswith("transmittal_")]
        assert [[each.who, each.kind, each.about, each.leaf] for each in entries] == before


def test_register(context, kept, people):
    columns = "number, title, revision, status, verdict, with_whom, since_at, due_on"
    with context.database.read() as session:
        query = text(f"SELECT {columns} FROM document WHERE project_id = :project ORDER BY number")
        rows = session.execute(query, {"project": people[0]}).all()
    assert [list(row) for row in rows] == kept["register"]


def test_marks_with_their_answers_and_links(context, kept, people):
    actor = people[1]["Leilani Brandt"]
    with context.database.read() as session:
        query = (
            "SELECT r.id, d.number || ' ' || r.code FROM revision r JOIN document d ON d.id = r.document_id "
            "WHERE r.id IN (SELECT revision_id FROM mark)"
        )
        sheets = {sheet: revision_id for revision_id, sheet in session.execute(text(query))}
    assert kept["marks"]
    for sheet, marks in kept["marks"].items():
        shown = [
            [
                each.id, each.kind, [list(point) for point in each.points], each.text, each.state,
                [reply.text for reply in each.replies], [[link.kind, link.target, link.words] for link in each.links],
            ]
            for each in list_marks(context, actor, sheets[sheet])
        ]  # fmt: skip
        assert shown == marks


def test_the_trail_is_as_sound_as_it_was(context, kept):
    found = verify_trail(context.database)
    assert (found.faults, found.entries) == ([], kept["entries"])
    assert found.seals > 0
    assert list(table_faults(context.database)) == []


def test_a_link_that_was_mailed_then_opens_and_acknowledges(context):
    """The last of this file: it changes what the others look at."""
    front = visits.look_at_link(context, visits.LookAtLink(token=TOKEN), "10.0.0.1")
    assert (front.closed, front.kind, front.to.name) == ("", "transmittal", "Anouk Ferreira")
    guest = visits.enter_link(context, visits.EnterLink(token=TOKEN), "10.0.0.1", None).guest
    shown = guests.read_as_guest(context, guest)
    assert (shown.number, shown.acknowledged_at) == ("HBC-T-0001", None)
    guests.acknowledge(context, guest, Acknowledge())
    assert guests.read_as_guest(context, guest).acknowledged_at == context.clock.now()
    assert list(table_faults(context.database)) == []
