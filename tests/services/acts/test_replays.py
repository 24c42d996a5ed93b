"""The tables by the trail: what nothing but acts has changed is as they made it, and every other change is named."""

import sqlite3

import pytest

from nod.services.access import access_grid, folders
from nod.services.acts.replays import table_faults
from nod.services.marks import carried_marks, mark_threads
from nod.services.people import members, newcomers
from nod.services.register import changes, withdrawals
from nod.services.reviews import changing
from nod.services.setup import workspace
from nod.services.threads import talk
from nod.services.trail.check_reports import verify_all
from nod.services.transmittals import guests, transmittals
from nod.store.database import Database
from tests.world import NUMBER, OTHER_NUMBER, name, pdf


@pytest.fixture
def lived(world):
    """Some of everything that entries make."""
    world.once(_live)
    return world


def _live(world):
    (document, revision), (other, _) = world.file(name(), name(number=OTHER_NUMBER))
    pin, cloud, gone = (world.draw(revision, text=text) for text in ("which?", "this", "gone"))
    world.ink(revision, pin, cloud)
    world.remove_mark(revision, gone)
    world.reply(pin, "The left one")
    talk.say(world.context, world.actor("anouk"), "document", document, talk.Say(text="Seen"))
    world.closed_review((document, revision), verdict="B")
    second = world.file(name(revision="P02"), content=pdf("changed"))[0][1]
    command = carried_marks.CarryMarks(marks=[pin.id, cloud.id])
    carried, _ = carried_marks.carry_marks(world.context, world.press, world.actor("anouk"), second, command)
    world.reply(carried, "On P02")
    state = mark_threads.SetMarkState(version=carried.version, state="done")
    mark_threads.set_mark_state(world.context, world.actor("anouk"), carried.id, state)
    marit = (world.context, world.actor("marit"))
    sent = transmittals.SendTransmittal(
        project_id=world.project_id, revisions=[second], purpose="record",
        people=[world.cast.people[each] for each in ("anouk", "paolo")],
    )  # fmt: skip
    guests.acknowledge_as_member(world.context, world.actor("anouk"), transmittals.send_transmittal(*marit, sent).id)
    _change(world, document, title="Quay hall, level 1", status="S4")
    rename = withdrawals.RenameDocument(version=_version(world, other), number=f"{OTHER_NUMBER[:-1]}9", reason="Twice")
    withdrawals.rename_document(*marit, other, rename)
    running = world.start((other, world.document(rename.number)[1]), name="Second")
    cancel = changing.CancelReview(version=world.review(running).version, reason="Not now")
    changing.cancel_review(*marit, running, cancel)
    withdrawals.withdraw(*marit, other, withdrawals.Withdraw(version=_version(world, other), reason="Gone"))
    _run(world)


def _run(world):
    """Folders, access and people."""
    rafael = (world.context, world.actor("rafael"))
    top, drawings = world.cast.folders[""], world.cast.folders["Drawings"]
    made = folders.make_folder(*rafael, folders.MakeFolder(parent_id=top, name="Samples")).id
    folders.rename_folder(*rafael, made, folders.RenameFolder(name="Samples and mock-ups"))
    folders.move_folder(*rafael, made, folders.MoveFolder(parent_id=drawings))
    cells = [access_grid.Cell(kind="person", id=world.cast.people[who], folder_id=made) for who in ("leilani", "anouk")]
    version = access_grid.read_grid(*rafael, world.project_id, "people").version
    change = access_grid.ChangeAccess(
        project_id=world.project_id, version=version, cells=cells, level="file", below=True
    )
    access_grid.change_access(*rafael, change)
    ((seen,),) = world.sql("SELECT version FROM membership WHERE person_id = ?", world.cast.people["anouk"])
    heir = members.RemoveMember(version=seen, heir_id=world.cast.people["leilani"])
    members.remove_member(*rafael, world.project_id, world.cast.people["anouk"], heir)
    new = newcomers.PersonToAdd(
        name="Una Berg", email="una@x.example", roles=["reviewer"], level="read", tools=["reviews"],
        company=newcomers.NewCompany(name="Nettlecombe Fire Ltd", code="NFL", part="consultant"),
    )  # fmt: skip
    newcomers.add_people(*rafael, newcomers.AddPeople(project_id=world.project_id, people=[new]))
    ines = (world.context, world.actor("ines"))
    codes = dict(world.sql("SELECT code, id FROM company"))
    workspace.merge_companies(*ines, workspace.MergeCompanies(from_id=codes["NFA"], into_id=codes["NFL"]))
    begin = workspace.MakeProject(
        number="SLP", name="Slipway", time_zone="Europe/London", starter_id="shipped-building",
        lead_email=world.sql("SELECT email FROM person WHERE id = ?", world.cast.people["rafael"])[0][0],
    )  # fmt: skip
    workspace.make_project(*ines, begin)


def _version(world, document):
    return world.sql("SELECT version FROM document WHERE id = ?", document)[0][0]


def _change(world, document, **values):
    change = {"id": document, "version": _version(world, document), "values": values}
    command = changes.ChangeDocuments.model_validate({"project_id": world.project_id, "changes": [change]})
    changes.change_documents(world.context, world.actor("marit"), command)


def _faults(world, *statements):
    """Of a copy of the database in which somebody has written by hand."""
    data = world.context.settings.data_dir
    copy = data / "altered.db"
    copy.unlink(missing_ok=True)
    with sqlite3.connect(data / "nod.db") as whole, sqlite3.connect(copy) as target:
        whole.backup(target)
        for statement in statements:
            assert target.execute(statement).rowcount > 0
    whole.close()
    target.close()
    database = Database(f"sqlite:///{copy}")
    found = list(table_faults(database))
    database.close()
    return found


def test_what_acts_have_made_is_as_the_entries_say(lived):
    assert _faults(lived) == []
    settings = lived.context.settings
    lines, sound = verify_all(settings, files=True, root="", size=0, seal=None, key="", tables=True)
    assert sound, lines
    whats = "comments, documents, folders, letters, mark threads, marks, members, renditions, reviews, revisions"
    assert lines[-1] == f"{whats}, sessions, submittals and transmittals are as the entries made them"


RENAMED = f"{OTHER_NUMBER[:-1]}9"
ALTERED = {
    f"UPDATE document SET status = 'A3' WHERE number = '{NUMBER}'": (
        f"document {NUMBER}: its status is “A3”, and by the trail “S4”"
    ),
    f"UPDATE document SET title = 'Another' WHERE number = '{NUMBER}'": (
        f"document {NUMBER}: its title is “Another”, and by the trail “Quay hall, level 1”"
    ),
    f"UPDATE document SET withdrawn = 0 WHERE number = '{RENAMED}'": (
        f"document {RENAMED}: its withdrawn is False, and by the trail True"
    ),
    "UPDATE revision SET sha256 = (SELECT max(sha256) FROM blob WHERE sha256 <> revision.sha256) WHERE code = 'P02'": (
        f"revision {NUMBER} P02: its sha256 is"
    ),
    "UPDATE revision SET status = 'A3' WHERE code = 'P02'": f"revision {NUMBER} P02: its status is “A3”",
    "UPDATE review SET state = 'running' WHERE state = 'cancelled'": "its state is “running”, and by the trail",
    "UPDATE review_document SET verdict = 'A' WHERE verdict = 'B'": "its verdicts is",
    "DELETE FROM review_document": "its documents is [], and by the trail",
    "UPDATE recipient SET acknowledged_at = '2027-03-09T08:30:00.000000Z'": "its acknowledged by is",
    "UPDATE recipient SET acknowledged_at = NULL WHERE acknowledged_at IS NOT NULL": "its acknowledged by is []",
    "DELETE FROM transmittal_document": "its revisions is []",
    "UPDATE mark SET removed_at = NULL WHERE removed_at IS NOT NULL": "its being taken away is False",
    "UPDATE thread SET state = 'open' WHERE state = 'done'": "its state is “open”, and by the trail “done”",
    "DELETE FROM reply WHERE text = 'On P02'": "its answers is 1, and by the trail 2",
    "UPDATE access_grant SET level = 5 WHERE rowid = (SELECT min(rowid) FROM access_grant)": "its grants is",
    "DELETE FROM access_grant WHERE to_kind = 'everyone'": "its grants is",
    "INSERT INTO access_grant (folder_id, to_kind, to_id, alone, project_id, level)"
    " SELECT id, 'person', 'somebody', 0, project_id, 4 FROM folder LIMIT 1": "its grants is",
    "UPDATE folder SET name = 'Other' WHERE name = 'Samples and mock-ups'": "its folder name is “Other”",
    "UPDATE folder SET parent_id = (SELECT parent_id FROM folder WHERE name = 'Drawings')"
    " WHERE name = 'Samples and mock-ups'": "folder Samples and mock-ups: its parent is",
    "UPDATE membership SET state = 'active' WHERE state = 'removed'": "its state is “active”, and",
    "UPDATE membership SET roles = '[\"lead\"]' WHERE tools IS NOT NULL": "member Una Berg: its roles is ['lead']",
    "UPDATE membership SET tools = '[]' WHERE tools IS NOT NULL": "member Una Berg: its tools is []",
    "INSERT INTO reply (id, thread_id, author_id, text, at) SELECT 'forged', thread_id, author_id, 'I agree', at"
    " FROM reply WHERE text = 'On P02'": "its answers is 3, and by the trail 2",
}


@pytest.mark.parametrize("statement", ALTERED)
def test_what_a_hand_has_altered_is_named(lived, statement):
    found = _faults(lived, statement)
    assert found
    assert any(ALTERED[statement] in each for each in found), found


@pytest.mark.parametrize(
    ("table", "words"), [("mark", "mark "), ("transmittal", "transmittal "), ("revision", "revision ")]
)
def test_what_is_gone_or_was_put_there_by_hand_is_named(lived, table, words):
    (gone,) = _faults(lived, f"DELETE FROM {table} WHERE rowid = (SELECT min(rowid) FROM {table})")[:1]
    assert gone.startswith(words)
    assert "it is not there, and the trail says that it was made" in gone
    (forged,) = (
        each for each in _faults(
            lived, "INSERT INTO transmittal (id, project_id, company_id, number, purpose, note, sent_by, sent_at,"
            " cover_sha256, pack_sha256, void_why, replaces) SELECT 'forged', project_id, company_id, 'X-9', purpose,"
            " note, sent_by, sent_at, cover_sha256, pack_sha256, '', '' FROM transmittal"
        )
    )  # fmt: skip
    assert forged == "transmittal X-9: it is there, and no entry made it"
