"""Folders and access through the services: what is hidden is not there, in lists, counts, logs, live or mail."""

import json
import threading

import pytest

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken, Stale
from nod.services.access import access_grid, folders
from nod.services.access.access_grid import Cell, ChangeAccess, SetGrants
from nod.services.acts import live
from nod.services.intake import intake
from nod.services.marks import marks, marks_view
from nod.services.people import see_as, sign_in
from nod.services.people.sign_in import DEMO_PASSWORD, Browser, SignIn
from nod.services.register import documents, register_list
from nod.services.register.register_list import AskedView
from nod.services.reviews import log, reviews_view
from nod.services.sheet import page_pictures, sheets
from nod.services.trail import trail
from nod.services.trail.trail import TrailView
from nod.services.transmittals import checking, transmittals, transmittals_view
from nod.services.transmittals import log as sent_log
from tests.world import NUMBER, OTHER_NUMBER, name, pdf

PIN = marks.DrawMarks(marks=[marks.NewMark(page=0, kind="pin", points=[(1, 1)])])
HIDDEN = "BFT-HBC-Z1-01-D-S-0900"


@pytest.fixture
def folded(world):
    """One document for all, one in a folder that is the contractor's alone."""
    world.file(name())
    batch = intake.open_batch(
        world.context, world.actor("marit"),
        intake.OpenBatch(project_id=world.project_id, folder_id=world.cast.folders["Temporary works"]),
    )  # fmt: skip
    hidden = name(HIDDEN, title="Secret cofferdam")
    intake.add_file(world.context, world.actor("marit"), batch.id, hidden, [pdf(hidden)])
    world.look()
    world.register(batch.id)
    return world


def _register(world, who, **view):
    return world.list(who, **view)


def _change(world, kind, id, folder, level, *, below=True, version=None, who="rafael"):
    version = version or _grid(world).version
    cell = Cell(kind=kind, id=id, folder_id=world.cast.folders[folder])
    command = ChangeAccess(project_id=world.project_id, version=version, cells=[cell], level=level, below=below)
    return access_grid.change_access(world.context, world.actor(who), command)


def _grid(world, by="people", who="rafael"):
    return access_grid.read_grid(world.context, world.actor(who), world.project_id, by)


def _level(world, who, folder):
    grid = _grid(world)
    row = [each.id for each in grid.folders].index(world.cast.folders[folder])
    column = [each.id for each in grid.columns].index(world.cast.people[who])
    return int(grid.levels[column][row]), grid.words[grid.sources[column][row]]


def test_what_is_hidden_is_not_in_the_list_nor_in_its_count_nor_in_a_search(folded):
    assert [line.number for line in _register(folded, "marit").lines] == [HIDDEN, NUMBER]
    for who in ("leilani", "anouk", "saoirse"):
        page = _register(folded, who)
        assert ([line.number for line in page.lines], page.total) == ([NUMBER], 1)
        assert _register(folded, who, words="cofferdam").total == 0
    assert _register(folded, "marit", words="cofferdam").total == 1


def test_everything_about_a_hidden_document_answers_as_if_it_were_not_there(folded):
    document, revision = folded.document(HIDDEN)
    leilani = folded.actor("leilani")
    for ask in (
        lambda id: documents.read_document(folded.context, leilani, id),
        lambda id: documents.read_document(folded.context, leilani, "aaaaaaaaaaaaaaaa"),
    ):
        with pytest.raises(NotFound):
            ask(document)
    for ask in (sheets.read_sheet, marks_view.list_marks, documents.download_revision, page_pictures.read_thumbnail):
        with pytest.raises(NotFound):
            ask(folded.context, leilani, revision)
    with pytest.raises(NotFound):
        folded.start((document, revision), who="paolo")
    with pytest.raises(NotFound):
        checking.check_sending(
            folded.context, folded.actor("paolo"),
            checking.CheckSending(project_id=folded.project_id, revisions=[revision], purpose="record"),
        )  # fmt: skip


def test_a_hidden_folder_is_not_in_the_tree_and_a_path_skips_it(folded):
    shown = folders.list_folders(folded.context, folded.actor("leilani"), folded.project_id)
    assert "Contractor only" not in [each.name for each in shown]
    _change(folded, "person", folded.cast.people["leilani"], "Temporary works", "read")
    shown = {
        each.name: each for each in folders.list_folders(folded.context, folded.actor("leilani"), folded.project_id)
    }
    assert "Contractor only" not in shown
    assert shown["Temporary works"].documents == 1
    dossier = documents.read_document(folded.context, folded.actor("leilani"), folded.document(HIDDEN)[0])
    assert dossier.folder == "Temporary works"


def test_a_number_that_is_taken_out_of_sight_says_no_more_than_that(folded):
    with pytest.raises(NotAllowed):
        folded.arrive({name(HIDDEN, "P02"): pdf("x")}, who="leilani")
    _change(folded, "person", folded.cast.people["paolo"], "Drawings", "file")
    batch = intake.open_batch(
        folded.context, folded.actor("paolo"),
        intake.OpenBatch(project_id=folded.project_id, folder_id=folded.cast.folders["Building services"]),
    )  # fmt: skip
    intake.add_file(folded.context, folded.actor("paolo"), batch.id, name(HIDDEN, "P02"), [pdf("x")])
    folded.look()
    (arrival,) = folded.batch(batch.id, "paolo").arrivals
    assert [finding.code for finding in arrival.findings] == ["filed_by_controllers"]
    assert "cofferdam" not in arrival.model_dump_json()
    assert [each.code for each in folded.batch(batch.id, "marit").arrivals[0].findings][:1] == ["title_changed"]


def test_a_review_is_there_for_those_who_see_all_its_documents(folded):
    both = folded.document(NUMBER), folded.document(HIDDEN)
    with pytest.raises(RuleBroken) as refused:
        folded.start(*both)
    assert refused.value.code == "reviewer_cannot_mark"
    for who in ("leilani", "anouk", "saoirse"):
        _change(folded, "person", folded.cast.people[who], "Contractor only", "mark")
    review = folded.start(*both)
    _change(folded, "person", folded.cast.people["anouk"], "Contractor only", "none")
    seen = log.list_log(folded.context, folded.actor("leilani"), log.AskedLog(folded.project_id)).lines
    assert [line.id for line in seen] == [review]
    assert log.list_log(folded.context, folded.actor("anouk"), log.AskedLog(folded.project_id)).lines == []
    with pytest.raises(NotFound):
        reviews_view.read_review(folded.context, folded.actor("anouk"), review)
    dossier = documents.read_document(folded.context, folded.actor("anouk"), both[0][0])
    assert dossier.reviews == []


def test_a_transmittal_is_there_for_whoever_was_sent_it(folded):
    command = transmittals.SendTransmittal(
        project_id=folded.project_id, revisions=[folded.document(HIDDEN)[1]], people=[folded.cast.people["anouk"]],
        purpose="record",
    )  # fmt: skip
    sent = transmittals.send_transmittal(folded.context, folded.actor("marit"), command)
    listed = {
        who: sent_log.list_log(folded.context, folded.actor(who), sent_log.AskedLog(folded.project_id)).total
        for who in ("marit", "anouk", "leilani")
    }
    assert listed == {"marit": 1, "anouk": 1, "leilani": 0}
    with pytest.raises(NotFound):
        transmittals_view.read_transmittal(folded.context, folded.actor("leilani"), sent.id)


def test_nothing_hidden_is_told_live_or_in_the_log(folded):
    leilani = folded.actor("leilani")
    before = live.last_seq(folded.context)
    document, revision = folded.document(HIDDEN)
    folded.ink(revision, folded.draw(revision, "marit"), who="marit")
    folded.file(name(HIDDEN, "P02"), who="marit")
    told = live.events_after(folded.context, leilani, before)[0]
    assert [event for event in told if event.topic in ("marks", "register")] == []
    assert {event.topic for event in live.events_after(folded.context, folded.actor("marit"), before)[0]} >= {"marks"}
    log = trail.read_log(folded.context, leilani, TrailView(project_id=folded.project_id))
    timeline = trail.read_log(folded.context, leilani, TrailView(project_id=folded.project_id, subject_id=document))
    assert timeline.entries == []
    assert HIDDEN not in log.model_dump_json()
    assert "cofferdam" not in log.model_dump_json()
    assert NUMBER in log.model_dump_json()


def test_the_name_of_a_live_event_tells_no_number(folded):
    before = live.last_seq(folded.context)
    folded.file(name(OTHER_NUMBER))
    keys = [event.key for event in live.events_after(folded.context, folded.actor("leilani"), before)[0]]
    assert keys
    assert not any(key.isdigit() for key in keys)
    assert live.seq_of(folded.context, keys[0]) > before
    assert live.seq_of(folded.context, "forgotten") is None


def test_the_grid_says_where_each_level_comes_from(world):
    assert _level(world, "rafael", "Fire") == (4, "leads and document controllers keep everything")
    assert _level(world, "leilani", "Drawings") == (2, "the role Reviewer, from Brackwater Ferry Terminal")
    assert _level(world, "dede", "Fire") == (3, "Nettlecombe Fire Advice")
    assert _level(world, "junpei", "Marine") == (1, "set for them")
    assert _level(world, "junpei", "Structure") == (0, "set for them, from Drawings")
    assert _level(world, "leilani", "Temporary works") == (0, "everyone, from Contractor only")
    by_company = _grid(world, "companies")
    assert "Hollinbrook Contracting" in [column.detail for column in by_company.columns]
    assert [column.name for column in _grid(world, "roles").columns] == ["Everyone", "Author", "Reviewer", "Reader"]


def test_a_change_is_previewed_saved_told_and_undone(world):
    paolo = world.cast.people["paolo"]
    cells = [Cell(kind="person", id=paolo, folder_id=world.cast.folders[each]) for each in ("Marine", "Fire")]
    version = _grid(world).version
    command = ChangeAccess(project_id=world.project_id, version=version, cells=cells, level="none", below=True)
    preview = access_grid.preview_access(world.context, world.actor("rafael"), command)
    assert (preview.cells, preview.people) == (2, 1)
    assert {(line.person, line.folder, line.before, line.after) for line in preview.lines} == {
        ("Paolo Marchetti", "Marine", "file", "none"), ("Paolo Marchetti", "Fire", "file", "none"),
    }  # fmt: skip
    assert _level(world, "paolo", "Marine")[0] == 3
    done = access_grid.change_access(world.context, world.actor("rafael"), command)
    assert (_level(world, "paolo", "Marine")[0], done.cells) == (0, 2)
    entry = trail.read_log(
        world.context, world.actor("marit"), TrailView(project_id=world.project_id, kind="access_changed")
    ).entries[0]
    assert entry.after == {"Paolo Marchetti": "none"}
    undo = SetGrants(project_id=world.project_id, version=done.version, grants=done.undo)
    access_grid.set_grants(world.context, world.actor("rafael"), undo)
    assert _level(world, "paolo", "Marine") == (3, "the role Author")


def test_this_folder_alone(world):
    _change(world, "company", world.actor("leilani").company_id, "Drawings", "file", below=False)
    assert _level(world, "leilani", "Drawings") == (3, "Plinthwork Structures, this folder alone")
    assert _level(world, "leilani", "Structure")[0] == 2


def test_two_leads_at_the_same_grid_the_second_is_told(world):
    version = _grid(world).version
    _change(world, "role", "reader", "Fire", "none", version=version)
    with pytest.raises(Stale):
        _change(world, "role", "reader", "Marine", "none", version=version, who="ines")
    assert _grid(world).version == version + 1


def test_two_leads_in_the_same_second(world):
    version, results = _grid(world).version, []

    def change(who, folder):
        try:
            _change(world, "role", "reader", folder, "none", version=version, who=who)
            results.append("saved")
        except Stale:
            results.append("stale")

    threads = [threading.Thread(target=change, args=each) for each in (("rafael", "Fire"), ("ines", "Marine"))]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(results) == ["saved", "stale"]


def test_nobody_takes_from_a_lead_or_gives_to_a_stranger(world):
    with pytest.raises(RuleBroken) as refused:
        _change(world, "person", world.cast.people["marit"], "Fire", "read")
    assert refused.value.code == "keeps_everything"
    for id in (world.cast.people["bronwen"], world.cast.people["yusuf"], "nobody"):
        with pytest.raises(NotFound):
            _change(world, "person", id, "Fire", "read")
    with pytest.raises(NotAllowed):
        _change(world, "role", "reader", "Fire", "read", version=1, who="leilani")


def test_a_keeper_of_a_folder_sets_access_there_and_nowhere_else(world):
    _change(world, "person", world.cast.people["leilani"], "Structure", "keep")
    grid = _grid(world, who="leilani")
    assert [each.name for each in grid.folders] == ["Structure"]
    _change(world, "role", "reader", "Structure", "none", who="leilani")
    with pytest.raises(NotAllowed):
        _change(world, "role", "reader", "Drawings", "none", who="leilani")


def _folder(world, **names):
    return folders.make_folder(
        world.context, world.actor("marit"),
        folders.MakeFolder(parent_id=world.cast.folders[names.pop("parent", "Reports")], name=names.pop("name")),
    ).id  # fmt: skip


def test_folders_are_made_renamed_moved_and_removed(world):
    made = _folder(world, name="Ground")
    folders.rename_folder(world.context, world.actor("marit"), made, folders.RenameFolder(name="Soil"))
    folders.move_folder(
        world.context, world.actor("marit"), made, folders.MoveFolder(parent_id=world.cast.folders["Fire"])
    )
    shown = {each.name: each for each in folders.list_folders(world.context, world.actor("marit"), world.project_id)}
    assert (shown["Soil"].parent_id, shown["Soil"].depth) == (world.cast.folders["Fire"], 3)
    folders.remove_folder(world.context, world.actor("marit"), made)
    assert world.kinds()[-4:] == ["folder_made", "folder_changed", "folder_changed", "folder_removed"]


@pytest.mark.parametrize(
    ("act", "code"),
    [
        (lambda w: _folder(w, parent="", name="drawings"), "folder_exists"),
        (lambda w: _folder(w, name="a/b"), "folder_name"),
        (lambda w: _move(w, "Drawings", "Fire"), "folder_under_itself"),
        (lambda w: _move(w, "", "Fire"), "root_folder"),
        (lambda w: folders.remove_folder(w.context, w.actor("marit"), w.cast.folders["Drawings"]), "folder_not_empty"),
        (lambda w: folders.remove_folder(w.context, w.actor("marit"), w.cast.folders[""]), "root_folder"),
    ],
)
def test_what_folders_do_not_do(world, act, code):
    before = world.kinds()
    with pytest.raises(RuleBroken) as refused:
        act(world)
    assert (refused.value.code, world.kinds()) == (code, before)


def _move(world, folder, target):
    ids = world.cast.folders
    folders.move_folder(world.context, world.actor("marit"), ids[folder], folders.MoveFolder(parent_id=ids[target]))


def _sign_in(world, email):
    token = sign_in.sign_in(world.context, SignIn(email=email, password=DEMO_PASSWORD), Browser("here"))[0]
    return token, sign_in.who_is(world.context, token)


def test_seeing_as_another_shows_their_eyes_changes_nothing_and_is_recorded(folded):
    token, rafael = _sign_in(folded, "rafael@hollinbrook.example")
    revision = folded.document(NUMBER)[1]
    folded.draw(revision, text="private pencil")
    command = see_as.SeeAs(project_id=folded.project_id, person_id=folded.cast.people["leilani"])
    see_as.begin(folded.context, rafael, token, command)
    eyes = sign_in.who_is(folded.context, token)
    me = sign_in.read_me(folded.context, eyes)
    assert (me.person.name, me.looker, me.steward) == ("Leilani Brandt", "Rafael Nwosu", False)
    page = register_list.list_register(folded.context, eyes.actor, AskedView(folded.project_id))
    assert [line.number for line in page.lines] == [NUMBER]
    assert marks_view.list_marks(folded.context, eyes.actor, revision) == []
    for act in (
        lambda: documents.download_revision(folded.context, eyes.actor, revision),
        lambda: marks.draw_marks(
            folded.context,
            eyes.actor,
            revision,
            PIN,
        ),
    ):
        with pytest.raises(NotAllowed) as refused:
            act()
        assert refused.value.code == "seeing_as"
    see_as.end(folded.context, eyes, token)
    assert sign_in.who_is(folded.context, token).actor.name == "Rafael Nwosu"
    assert folded.kinds()[-1] == "seeing_as_ended"
    entry = json.loads(folded.sql("SELECT body FROM audit_entry WHERE kind = 'seen_as'")[0][0])
    assert (entry["who"]["name"], entry["about"]) == ("Rafael Nwosu", "Leilani Brandt")


def test_somebody_invited_is_seen_as_they_will_see_and_cannot_come_in_yet(folded):
    token, rafael = _sign_in(folded, "rafael@hollinbrook.example")
    folded.write("UPDATE membership SET state = 'invited' WHERE person_id = '" + folded.cast.people["leilani"] + "'")
    leilani = folded.actor("leilani")
    with pytest.raises(NotFound):
        register_list.list_register(folded.context, leilani, AskedView(folded.project_id))
    command = see_as.SeeAs(project_id=folded.project_id, person_id=folded.cast.people["leilani"])
    see_as.begin(folded.context, rafael, token, command)
    eyes = sign_in.who_is(folded.context, token)
    assert [each.number for each in sign_in.read_me(folded.context, eyes).projects] == ["BFT"]
    page = register_list.list_register(folded.context, eyes.actor, AskedView(folded.project_id))
    assert [line.number for line in page.lines] == [NUMBER]


def test_only_leads_see_as_another_and_only_in_their_project(world):
    token, marit = _sign_in(world, "marit@hollinbrook.example")
    command = see_as.SeeAs(project_id=world.project_id, person_id=world.cast.people["leilani"])
    with pytest.raises(NotAllowed):
        see_as.begin(world.context, marit, token, command)
    token, rafael = _sign_in(world, "rafael@hollinbrook.example")
    for gone in ("bronwen", "yusuf", "ines"):
        with pytest.raises(NotFound):
            other = see_as.SeeAs(project_id=world.project_id, person_id=world.cast.people[gone])
            see_as.begin(world.context, rafael, token, other)
