"""Drawing sets, views, lists taken away, folders as ZIPs, search."""

import csv
import io
import zipfile
from datetime import date, timedelta

import pytest
from openpyxl import load_workbook

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken, Stale
from nod.services.acts.work import Job
from nod.services.intake import intake
from nod.services.register import changes, drawing_sets, exports, folder_packs, saved_views, search, withdrawals
from nod.services.register.changes import ChangeDocuments, DocumentChange
from nod.services.register.drawing_sets import AddByView, ChangeSet, MakeSet, SeenSet, SetSheets
from nod.services.register.folder_packs import AskPack
from nod.services.register.register_list import AskedView
from nod.services.register.saved_views import KeepView, SeenView
from tests.world import NUMBER, OTHER_NUMBER, name, pdf

NUMBERS = [f"BFT-TRA-Z1-01-D-A-010{place}" for place in range(1, 6)]


@pytest.fixture
def sheets(world):
    """Five documents' ids by number."""
    return [document for document, _ in world.file(*(name(number=number) for number in NUMBERS))]


def _as(world, who="marit"):
    return world.context, world.actor(who)


def _set(world, name="Stage 3", on=None):
    return drawing_sets.make_set(*_as(world), MakeSet(project_id=world.project_id, name=name, on=on)).id


def _put(world, set_id, documents, who="marit"):
    version = drawing_sets.read_set(*_as(world, who), set_id).version
    return drawing_sets.set_sheets(*_as(world, who), set_id, SetSheets(version=version, documents=documents))


def _order(world, set_id, who="marit"):
    return [each.id for each in drawing_sets.read_set(*_as(world, who), set_id).sheets]


def test_a_set_keeps_its_order_and_each_change_can_be_taken_back(world, sheets):
    stage = _set(world, on=date(2027, 4, 1))
    _put(world, stage, [sheets[3], sheets[0], sheets[3]])
    assert _order(world, stage) == [sheets[3], sheets[0]]
    done = _put(world, stage, [sheets[0]])
    _put(world, stage, done.before)
    assert _order(world, stage) == [sheets[3], sheets[0]]
    added = drawing_sets.add_by_view(
        *_as(world), stage, AddByView(version=done.version + 1, filters='[["number","has","-010"]]')
    )
    assert _order(world, stage) == [sheets[3], sheets[0], sheets[1], sheets[2], sheets[4]]
    assert added.before == [sheets[3], sheets[0]]
    (line,) = drawing_sets.list_sets(*_as(world), world.project_id)
    assert (line.name, line.on, line.sheets) == ("Stage 3", date(2027, 4, 1), 5)
    assert world.kinds().count("set_sheets_put") == 4


def test_a_sheet_is_in_many_sets_and_the_register_groups_and_filters_by_them(world, sheets):
    stage, tender = _set(world), _set(world, "Tender")
    _put(world, stage, sheets[:2])
    _put(world, tender, sheets[1:3])
    page = world.list(group="sets")
    assert [(each.words, each.count) for each in page.groups] == [("none", 2), ("Stage 3", 2), ("Tender", 2)]
    assert [line.id for line in page.lines].count(sheets[1]) == 2
    assert {line.id for line in world.list(filters=[["sets", "is", tender]]).lines} == set(sheets[1:3])
    assert world.list(filters=[["sets", "none"]]).total == 2
    assert world.list(filters=[["sets", "is", "", stage]]).total == 4
    assert world.list(filters=[["sets", "is", stage]]).filter_words == ["Drawing set is Stage 3"]
    assert next(line.sets for line in page.lines if line.id == sheets[1]) == ["Stage 3", "Tender"]


def test_who_does_not_see_a_sheet_neither_learns_of_it_nor_throws_it_out(world, sheets):
    secret = world.cast.folders["Temporary works"]
    version = world.sql("SELECT version FROM document WHERE id = ?", sheets[0])[0][0]
    moving = DocumentChange(id=sheets[0], version=version, values={"folder": secret})
    changes.change_documents(*_as(world), ChangeDocuments(project_id=world.project_id, changes=[moving]))
    stage = _set(world)
    _put(world, stage, sheets[:3])
    assert _order(world, stage, "paolo") == sheets[1:3]
    assert drawing_sets.list_sets(*_as(world, "paolo"), world.project_id)[0].sheets == 2
    with pytest.raises(NotFound):
        _put(world, stage, [sheets[0]], "paolo")
    _put(world, stage, [sheets[2]], "paolo")
    assert _order(world, stage) == [sheets[2], sheets[0]]


def test_sets_refuse_what_cannot_be(world, sheets):
    stage = _set(world)
    with pytest.raises(RuleBroken) as refused:
        _set(world, "stage 3")
    assert refused.value.code == "set_exists"
    with pytest.raises(RuleBroken):
        _set(world, "  ")
    with pytest.raises(NotAllowed):
        drawing_sets.make_set(*_as(world, "leilani"), MakeSet(project_id=world.project_id, name="Mine"))
    with pytest.raises(Stale):
        drawing_sets.set_sheets(*_as(world), stage, SetSheets(version=9, documents=[]))
    drawing_sets.change_set(*_as(world), stage, ChangeSet(version=1, name="Stage 4"))
    drawing_sets.remove_set(*_as(world), stage, SeenSet(version=2))
    with pytest.raises(NotFound):
        drawing_sets.read_set(*_as(world), stage)
    other = _set(world, "Stage 4")
    with pytest.raises(RuleBroken) as refused:
        drawing_sets.bring_back_set(*_as(world), stage)
    assert refused.value.code == "set_exists"
    drawing_sets.remove_set(*_as(world), other, SeenSet(version=1))
    drawing_sets.bring_back_set(*_as(world), stage)
    assert drawing_sets.read_set(*_as(world), stage).name == "Stage 4"


def test_views_are_ones_own_until_they_are_shared(world):
    content = {"filters": [["discipline", "is", "A"]], "group": "status"}
    command = KeepView(project_id=world.project_id, name="Architecture", shared=False, content=content)
    kept = saved_views.keep_view(*_as(world, "leilani"), command)
    assert saved_views.list_views(*_as(world, "anouk"), world.project_id) == []
    changed = command.model_copy(update={"id": kept.id, "version": kept.version, "shared": True})
    saved_views.keep_view(*_as(world, "leilani"), changed)
    (seen,) = saved_views.list_views(*_as(world, "anouk"), world.project_id)
    assert (seen.name, seen.mine, seen.may_remove, seen.content) == ("Architecture", False, False, content)
    with pytest.raises(NotAllowed):
        saved_views.remove_view(*_as(world, "anouk"), kept.id, SeenView(version=2))
    with pytest.raises(RuleBroken):
        saved_views.keep_view(*_as(world, "leilani"), command)
    saved_views.remove_view(*_as(world, "marit"), kept.id, SeenView(version=2))
    assert saved_views.list_views(*_as(world, "leilani"), world.project_id) == []


def _export(world, form, keys=(), who="marit", **view):
    asked = AskedView(world.project_id, **view)
    return exports.export_register(*_as(world, who), asked, list(keys), form)


def test_the_list_is_taken_away_as_it_is_shown(world):
    world.file(name(title="=2+2, hall"), name(number=OTHER_NUMBER, title="Roof"))
    sorts, keys = '[["title","down"]]', ["number", "title", "size_bytes", "filed_at", "withdrawn"]
    made = _export(world, "csv", keys, sorts=sorts)
    rows = list(csv.reader(io.StringIO(made.content.decode("utf-8-sig"))))
    assert rows[0] == ["Number", "Title", "Size", "Filed", "Withdrawn"]
    assert [row[1] for row in rows[1:]] == ["Roof", "'=2+2, hall"]
    sheet = load_workbook(io.BytesIO(_export(world, "xlsx", keys, sorts=sorts).content)).active
    cells = [[cell.value for cell in row] for row in sheet.iter_rows()]
    assert cells[0] == rows[0]
    assert (cells[2][1], sheet["B3"].data_type) == ("=2+2, hall", "s")
    assert isinstance(cells[1][2], int)
    assert cells[1][3].isoformat(timespec="minutes") == rows[1][3][:16]
    assert world.kinds().count("register_exported") == 2
    with pytest.raises(RuleBroken):
        _export(world, "csv", ["password_hash"])


def test_a_long_list_being_written_keeps_nobody_from_writing(world, monkeypatch):
    world.file(*(name(number=number) for number in NUMBERS))
    lines_of, made = exports.lines_of, []

    def meanwhile(*given):
        made.append(_set(world, f"Set {len(made)}"))
        return lines_of(*given)

    monkeypatch.setattr(exports, "lines_of", meanwhile)
    assert len(_export(world, "csv", ["number"]).content.splitlines()) == 6
    assert made


def test_a_long_list_is_taken_away_whole(world, monkeypatch):
    monkeypatch.setattr(exports, "_PAGE", 2)
    world.file(*(name(number=number) for number in NUMBERS))
    rows = _export(world, "csv", ["number"]).content.decode().splitlines()
    assert rows[1:] == NUMBERS
    monkeypatch.setattr(exports, "MOST_LINES", 4)
    with pytest.raises(RuleBroken, match="5 lines"):
        _export(world, "csv")


def _ask_pack(world, folder="", who="marit", **more):
    command = AskPack(
        **{"folder_id": world.cast.folders[folder], "revisions": "latest", "names_as_came": False, **more}
    )
    return folder_packs.ask_pack(*_as(world, who), command)


def _names(world, pack, who="marit"):
    file = folder_packs.download_pack(*_as(world, who), pack.id)
    with file.content as path, zipfile.ZipFile(path) as archive:
        assert archive.testzip() is None
        return sorted(archive.namelist())


def test_a_folder_goes_into_one_zip_current_or_whole(world):
    world.file(name(), name(number=OTHER_NUMBER))
    world.file(name(revision="P02"))
    size = folder_packs.read_size(*_as(world), world.cast.folders[""], revisions="all")
    assert (size.files, folder_packs.read_size(*_as(world), world.cast.folders[""], revisions="latest").files) == (
        3,
        2,
    )
    current, every = _ask_pack(world), _ask_pack(world, revisions="all")
    assert size.size_bytes == every.size_bytes
    world.send()
    assert _names(world, current) == [f"{OTHER_NUMBER}_P01_S3.pdf", f"{NUMBER}_P02_S3.pdf"]
    assert _names(world, every) == [*_names(world, current), f"superseded/{NUMBER}_P01_S3.pdf"]
    states = {each.state for each in folder_packs.list_packs(*_as(world), world.project_id)}
    assert states == {"ready"}
    with pytest.raises(NotFound):
        folder_packs.download_pack(*_as(world, "rafael"), current.id)


def test_a_zip_in_the_making_keeps_its_lease_and_goes_no_further_once_stopped(world, monkeypatch):
    monkeypatch.setattr(folder_packs, "TELL_EVERY", 1)
    world.file(*(name(number=number) for number in NUMBERS))
    pack = _ask_pack(world)
    kept_on = []

    def keep_on():
        kept_on.append(folder_packs.list_packs(*_as(world), world.project_id)[0].done)
        if len(kept_on) == 3:
            folder_packs.stop_pack(*_as(world), pack.id)

    folder_packs.make_pack(Job(world.context, world.press, go_on=keep_on), {"pack_id": pack.id})
    assert kept_on == [0, 1, 2]
    assert folder_packs.list_packs(*_as(world), world.project_id)[0].state == "stopped"
    assert list((world.context.settings.data_dir / "packs").iterdir()) == []
    world.clock.advance(timedelta(seconds=1))
    again = _ask_pack(world)
    folder_packs.make_pack(Job(world.context, world.press), {"pack_id": again.id})
    folder_packs.make_pack(Job(world.context, world.press), {"pack_id": again.id})
    assert len(_names(world, again)) == 5
    world.clock.advance(timedelta(days=8))
    assert folder_packs.forget_old_packs(world.context) == 1
    assert folder_packs.forget_old_packs(world.context) == 0
    assert folder_packs.list_packs(*_as(world), world.project_id)[0].state == "put_away"
    with pytest.raises(RuleBroken):
        folder_packs.download_pack(*_as(world), again.id)


def test_linked_files_keep_the_places_they_came_in(world):
    batch = intake.open_batch(*_as(world), intake.OpenBatch(project_id=world.project_id))
    for number, place in ((NUMBER, "Issue 3"), (OTHER_NUMBER, "Issue 3/xref")):
        intake.add_file(*_as(world), batch.id, name(number=number), [pdf(number)], place)
    world.look()
    world.register(batch.id)
    pack = _ask_pack(world, names_as_came=True)
    world.send()
    assert _names(world, pack) == [f"Issue 3/{name()}", f"Issue 3/xref/{name(number=OTHER_NUMBER)}"]


def test_a_zip_holds_what_its_asker_may_see_and_can_be_stopped(world):
    world.file(name())
    secret = world.cast.folders["Temporary works"]
    batch = world.arrive({name(number=OTHER_NUMBER): pdf("secret")})
    intake.change_batch(*_as(world), batch, intake.ChangeBatch(folder_id=secret, keep_tree=False))
    world.register(batch)
    pack, stopped = _ask_pack(world, who="leilani"), _ask_pack(world)
    folder_packs.stop_pack(*_as(world), stopped.id)
    world.send()
    assert _names(world, pack, "leilani") == [f"{NUMBER}_P01_S3.pdf"]
    with pytest.raises(RuleBroken) as refused:
        folder_packs.download_pack(*_as(world), stopped.id)
    assert refused.value.code == "pack_not_ready"
    with pytest.raises(NotFound):
        _ask_pack(world, "Temporary works", "leilani")
    with pytest.raises(RuleBroken) as refused:
        _ask_pack(world, "Drawings")
    assert refused.value.code == "folder_empty"


def _search(world, words, who="marit", limit=8):
    return search.search(*_as(world, who), world.project_id, words, limit)


def test_words_are_found_on_the_sheet_and_say_where(world):
    world.file(name(), content=pdf("Fire shutter FS-07 by others"))
    world.send()
    (hit,) = _search(world, "shutter").sheets
    assert (hit.number, hit.page, hit.where) == (NUMBER, 0, "the sheet, page 1")
    assert "Fire shutter FS-07" in hit.words
    left, low, right, high = hit.box
    # The text begins at 72 pt from the left, 72 pt up: `tests.world.pdf` draws it there.
    assert 72 < left < right < 200
    assert 65 < low < high < 90
    assert _search(world, "shut").sheets == [hit]
    assert _search(world, "nothing like it").sheets == []
    world.file(name(revision="P02"), content=pdf("No such thing any more"))
    world.send()
    assert _search(world, "shutter").sheets == []


def test_marks_are_found_by_their_words_and_replies_pencil_by_its_author_alone(world):
    revision = world.file(name())[0][1]
    drawn = world.draw(revision, text="Headroom under the flight?")
    assert [hit.mark_id for hit in _search(world, "headroom", "leilani").marks] == [drawn.id]
    assert _search(world, "headroom").marks == []
    world.ink(revision, drawn)
    world.reply(drawn, "2.20 m at the landing")
    (hit,) = _search(world, "landing").marks
    assert (hit.mark_id, hit.where, hit.words) == (drawn.id, "a mark by Leilani Brandt", "Headroom under the flight?")


def test_documents_are_found_by_old_numbers_and_withdrawn_ones_say_so(world):
    document = world.file(name())[0][0]
    rename = withdrawals.RenameDocument(version=2, number="BFT-TRA-Z1-02-D-A-0155", reason="r")
    version = world.sql("SELECT version FROM document")[0][0]
    withdrawals.rename_document(*_as(world), document, rename.model_copy(update={"version": version}))
    assert [each.where for each in _search(world, "A0155").documents] == [""]
    assert _search(world, "a0101").documents == _search(world, "A-0101").documents
    (hit,) = _search(world, "A-0101").documents
    assert (hit.where, hit.words) == ("the number it had before", NUMBER)
    withdrawals.withdraw(*_as(world), document, withdrawals.Withdraw(version=version + 1, reason="r"))
    assert [each.where for each in _search(world, "0155").documents] == ["withdrawn"]


def test_a_search_tells_nothing_of_what_is_hidden(world):
    batch = world.arrive({name(title="Cofferdam"): pdf("cofferdam pump")})
    secret = world.cast.folders["Temporary works"]
    intake.change_batch(*_as(world), batch, intake.ChangeBatch(folder_id=secret, keep_tree=False))
    world.register(batch)
    world.send()
    assert len(_search(world, "cofferdam").sheets) == 1
    found = _search(world, "cofferdam", "leilani")
    assert (found.documents, found.sheets, found.marks, found.more) == ([], [], [], [])


def test_more_than_asked_for_is_said(world):
    world.file(*(name(number=number) for number in NUMBERS))
    found = _search(world, "quay", limit=3)
    assert (len(found.documents), found.more) == (3, ["documents"])
    assert _search(world, "  ").documents == []
