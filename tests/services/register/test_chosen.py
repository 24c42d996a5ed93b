"""Many documents at once: choosing them, the list from its end, lists that the worker makes, words of files."""

import io
import json

import pytest
from docx import Document
from openpyxl import Workbook, load_workbook

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.register.columns import COLUMNS, Kind
from nod.services.register import chosen, drawing_sets, exports, folder_packs, list_packs, register_list, search
from nod.services.register.register_list import AskedView
from tests.world import NUMBER, OTHER_NUMBER, name, pdf

THIRD = "BFT-TRA-Z1-01-D-A-0102"


@pytest.fixture
def three(world):
    return world.file(name(), name(OTHER_NUMBER), name(THIRD))


def choose(world, who="marit", **asked):
    return chosen.choose(world.context, world.actor(who), chosen.Choose(project_id=world.project_id, **asked))


def numbers(found):
    return [each.number for each in found.lines]


def test_documents_and_revisions_come_in_the_order_asked_for(world, three):
    (first, revision), (second, _), _ = three
    found = choose(world, documents=[second, first, second, "x" * 16])
    assert (numbers(found), found.missing) == ([OTHER_NUMBER, NUMBER], 1)
    world.file(name(revision="P02", title="Changed"), content=pdf("two"))
    (line,) = choose(world, revisions=[revision]).lines
    assert (line.revision, line.title, line.id) == ("P01", "Quay hall plan", first)


def test_all_of_a_list_are_chosen_as_it_is_filtered(world, three):
    assert numbers(choose(world, view=chosen.ChosenView())) == [OTHER_NUMBER, NUMBER, THIRD]
    view = chosen.ChosenView(filters=json.dumps([["originator", "is", "TRA"]]))
    assert numbers(choose(world, view=view)) == [NUMBER, THIRD]
    with pytest.raises(RuleBroken):
        choose(world, view=chosen.ChosenView(filters="["))


def test_a_set_is_chosen_in_its_order(world, three):
    actor = world.actor("marit")
    made = drawing_sets.make_set(
        world.context, actor, drawing_sets.MakeSet(project_id=world.project_id, name="Stage 3")
    )
    order = [three[2][0], three[0][0]]
    drawing_sets.set_sheets(world.context, actor, made.id, drawing_sets.SetSheets(version=1, documents=order))
    found = choose(world, set_id=made.id)
    assert (numbers(found), found.name) == ([THIRD, NUMBER], "Stage 3")
    with pytest.raises(NotFound):
        choose(world, set_id="x" * 16)


def test_every_column_of_codes_has_values_to_filter_by(world, three):
    for column in COLUMNS:
        if column.kind is Kind.CODE:
            values = register_list.list_values(world.context, world.actor("marit"), world.project_id, column.key)
            assert isinstance(values, list)
    values = register_list.list_values(world.context, world.actor("marit"), world.project_id, "revision")
    assert [(each.key, each.count) for each in values] == [("P01", 3)]


def test_folders_are_counted_as_the_filter_takes_them(world):
    parent = world.cast.folders[""]
    world.file(name())
    (document, _) = world.document(NUMBER)
    inner = next(folder for path, folder in world.cast.folders.items() if path)
    world.write(f"UPDATE document SET folder_id = '{inner}' WHERE id = '{document}'")
    values = register_list.list_values(world.context, world.actor("marit"), world.project_id, "folder")
    counts = {each.key: each.count for each in values}
    assert counts[parent] == counts[inner] == 1
    assert world.list(filters=[["folder", "is", parent]]).total == 1


@pytest.mark.parametrize("sorts", [(), [["title", "down"], ["number", "up"]], [["with_whom", "up"]]])
def test_a_list_from_its_end_is_the_same_list(world, sorts):
    files = [name(f"BFT-TRA-Z1-01-D-A-02{place:02d}", title=f"Sheet {place % 3}") for place in range(7)]
    world.file(*files)
    forward = [line.number for line in world.list(sorts=sorts, limit=100).lines]
    backward, cursor = [], ""
    while True:
        page = world.list(sorts=sorts, limit=3, from_end=True, cursor=cursor)
        backward = [line.number for line in page.lines] + backward
        cursor = page.cursor
        if not cursor:
            break
    assert backward == forward
    assert len(forward) == 7


def test_a_long_list_is_made_by_the_worker(world, three, monkeypatch):
    monkeypatch.setattr(exports, "MOST_AT_ONCE", 2)
    actor = world.actor("marit")
    with pytest.raises(RuleBroken, match="Have it made"):
        exports.export_register(world.context, actor, AskedView(world.project_id), [], "csv")
    ask = list_packs.AskList(project_id=world.project_id, columns=["number", "title"], form="xlsx")
    made = list_packs.ask_list(world.context, actor, ask)
    assert (made.what, made.state, made.files) == ("xlsx", "waiting", 3)
    world.send()
    (shown,) = folder_packs.list_packs(world.context, actor, world.project_id)
    assert (shown.state, shown.done, shown.what) == ("ready", 3, "xlsx")
    file = folder_packs.download_pack(world.context, actor, made.id)
    assert file.name == "BFT register 2027-03-09.xlsx"
    with file.content as path:
        rows = list(load_workbook(path).active.iter_rows(values_only=True))
    assert rows[0] == ("Number", "Title")
    assert [row[0] for row in rows[1:]] == [OTHER_NUMBER, NUMBER, THIRD]
    with pytest.raises(NotFound):
        folder_packs.download_pack(world.context, world.actor("rafael"), made.id)
    kinds = [kind for (kind,) in world.sql("SELECT kind FROM audit_entry ORDER BY seq DESC LIMIT 4")]
    assert kinds[:3] == ["list_downloaded", "list_made", "register_exported"]


def test_a_list_that_is_not_wanted_is_not_made(world, three):
    actor = world.actor("marit")
    ask = list_packs.AskList(project_id=world.project_id, columns=[], form="csv")
    made = list_packs.ask_list(world.context, actor, ask)
    folder_packs.stop_pack(world.context, actor, made.id)
    world.send()
    (shown,) = folder_packs.list_packs(world.context, actor, world.project_id)
    assert shown.state == "stopped"
    with pytest.raises(RuleBroken):
        folder_packs.download_pack(world.context, actor, made.id)
    empty = list_packs.AskList(project_id=world.project_id, words="nowhere", columns=[], form="csv")
    with pytest.raises(RuleBroken, match="no lines"):
        list_packs.ask_list(world.context, actor, empty)


def docx(text):
    out = io.BytesIO()
    document = Document()
    document.add_heading("Access strategy", 1)
    document.add_paragraph(text)
    document.save(out)
    return out.getvalue()


def xlsx(*cells):
    out = io.BytesIO()
    book = Workbook()
    for cell in cells:
        book.active.append([cell])
    book.save(out)
    return out.getvalue()


MAIL = (
    b"From: Tomasz <t@example.com>\r\nTo: m@example.com\r\nSubject: Pontoon moorings\r\n\r\nThe fenders are amber.\r\n"
)


@pytest.mark.parametrize(
    ("ending", "content", "words"),
    [
        ("docx", docx("The bollards are heliotrope."), "heliotrope"),
        ("xlsx", xlsx(*(f"row {place}" for place in range(900)), "vermilion"), "vermilion"),
        ("eml", MAIL, "fenders amber"),
        ("txt", b"The railings are cobalt.", "cobalt"),
    ],
)
def test_words_of_files_without_pages_are_found(world, ending, content, words):
    world.register(world.arrive({name().replace(".pdf", f".{ending}"): content}))
    world.send()
    found = search.search(world.context, world.actor("marit"), world.project_id, words, 10)
    (hit,) = found.sheets
    assert (hit.number, hit.where, hit.box) == (NUMBER, "the file", [])
    assert words.split()[-1] in hit.words
