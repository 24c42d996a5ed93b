"""A controller's morning in the register: narrowing, keeping a view, changing many lines, revising one document."""

import io
import re
import shutil
import zipfile

import pytest
from openpyxl import Workbook, load_workbook
from playwright.sync_api import expect

from tests.browser.conftest import Served
from tests.world import pdf


@pytest.fixture(scope="module")
def nod(untouched, tmp_path_factory):
    """Of its own, as documents are counted here."""
    served = Served(tmp_path_factory.mktemp("register") / "data")
    shutil.copytree(untouched, served.data)
    served.start()
    yield served
    served.stop()


@pytest.fixture
def marit(visit):
    return visit("marit", "/register")


def _line(page, words):
    return page.get_by_role("grid").get_by_role("row").filter(has_text=words)


def _filter(page, column, values=(), how=None, bound=None):
    page.get_by_role("button", name="Filter", exact=True).click()
    box = page.get_by_role("dialog", name="A new filter")
    box.get_by_label("Column").select_option(label=column)
    if how:
        box.get_by_label("How").select_option(label=how)
    for value in values:
        box.get_by_role("checkbox", name=re.compile(value)).check()
    if bound:
        box.get_by_label(re.compile("Day|Number|Words|Bytes")).fill(bound)
    box.get_by_role("button", name="Filter").click()


def _count(page, words):
    expect(page.get_by_role("status").filter(has_text=re.compile("documents?$"))).to_have_text(words)


def test_the_controller_narrows_groups_keeps_and_shares_a_view(marit, visit):
    _count(marit, "96 documents")
    _filter(marit, "Company", ["TRA", "PLS"])
    expect(marit.get_by_role("button", name=re.compile("^Company is"))).to_be_visible()
    _filter(marit, "Title", how="has in it", bound="roof")
    _count(marit, "2 documents")
    marit.get_by_label("Group by").select_option(label="Groups: Discipline")
    heading = marit.get_by_role("button", name="A Architecture 1")
    expect(heading).to_be_visible()
    heading.click()
    expect(_line(marit, "Quay hall, roof plan")).to_have_count(0)
    expect(_line(marit, "Quay hall, roof framing")).to_have_count(1)
    heading.click()
    marit.get_by_role("button", name="Title", exact=True).click(modifiers=["Shift"])
    expect(marit.get_by_role("columnheader", name="Title")).to_have_attribute("aria-sort", "ascending")
    marit.get_by_role("button", name="Columns").click()
    dialog = marit.get_by_role("dialog", name="Columns")
    dialog.get_by_role("button", name="+ Sheet").click()
    dialog.get_by_role("button", name="Leave Due out").click()
    dialog.get_by_label("Width of Number in pixels").fill("210")
    dialog.get_by_role("button", name="Show these").click()
    expect(marit.get_by_role("columnheader", name="Sheet", exact=True)).to_be_visible()
    marit.get_by_role("button", name="Views").click()
    marit.get_by_label("Keep this view as").fill("Quay hall drawings")
    marit.get_by_label("For everybody in the project").check()
    marit.get_by_role("button", name="Keep the view").click()
    expect(marit.get_by_role("button", name="Views: Quay hall drawings")).to_be_visible()
    anouk = visit("anouk", "/register")
    anouk.get_by_role("button", name="Views").click()
    anouk.get_by_role("button", name=re.compile("Quay hall drawings")).click()
    _count(anouk, "2 documents")
    expect(anouk.get_by_role("columnheader", name="Sheet", exact=True)).to_be_visible()
    link = marit.url
    again = visit("tomasz", link[link.index("/register") :])
    _count(again, "2 documents")
    expect(again.get_by_role("button", name=re.compile("^Title has"))).to_be_visible()
    again.get_by_role("button", name=re.compile("Take the filter away: Title")).click()
    _count(again, "33 documents")


def test_many_lines_are_changed_undone_put_in_a_set_and_taken_away(marit):
    for title in ("North linkspan, general", "North linkspan, piles"):
        _line(marit, title).get_by_label("Mark this line").check()
    marit.get_by_role("button", name="Change a column").click()
    dialog = marit.get_by_role("dialog")
    dialog.get_by_label("Column").select_option(label="Purpose")
    dialog.get_by_label("Value").fill("For pricing")
    dialog.get_by_role("button", name="Change", exact=True).click()
    expect(marit.get_by_text("2 documents changed in Purpose.")).to_be_visible()
    _filter(marit, "Purpose", ["For pricing"], how="is one of")
    _count(marit, "2 documents")
    marit.get_by_role("button", name="Undo").click()
    _count(marit, "0 documents")
    marit.get_by_role("button", name="Clear the filters").click()
    marit.get_by_role("button", name="Add to a drawing set").click()
    dialog.get_by_label("Its name").fill("Linkspan tender")
    dialog.get_by_role("button", name="Add", exact=True).click()
    expect(dialog).to_have_count(0)
    marit.get_by_role("link", name="Drawing sets").click()
    marit.get_by_role("button", name=re.compile("Linkspan tender")).click()
    sheets = marit.get_by_role("region", name="Drawing sets").get_by_role("listitem")
    expect(sheets.filter(has_text="N-0301")).to_have_text(re.compile("^2BFT"))
    marit.get_by_role("button", name=re.compile("Move .*0301 up")).click()
    expect(sheets.filter(has_text="N-0301")).to_have_text(re.compile("^1BFT"))
    marit.get_by_role("button", name="Undo").click()
    expect(sheets.filter(has_text="N-0300")).to_have_text(re.compile("^1BFT"))
    marit.get_by_role("button", name="Show in the register").click()
    _count(marit, "2 documents")
    marit.get_by_role("button", name="Take away").click()
    with marit.expect_download() as taken:
        marit.get_by_role("menuitem", name=re.compile("XLSX")).click()
    book = load_workbook(io.BytesIO(taken.value.path().read_bytes()))
    rows = list(book.active.iter_rows(values_only=True))
    assert [row[0] for row in rows] == ["Number", "BFT-GME-Z2-XX-D-N-0300", "BFT-GME-Z2-XX-D-N-0301"]


def _act(page, words):
    page.get_by_role("button", name="More acts").click()
    page.get_by_role("menuitem", name=re.compile(words)).click()
    return page.get_by_role("dialog")


def _revise(page, content, button):
    page.get_by_role("button", name=button).click()
    dialog = page.get_by_role("dialog")
    file = {"name": "rev.pdf", "mimeType": "application/pdf", "buffer": content}
    dialog.get_by_label("File").set_input_files(file)
    dialog.get_by_label("Comment").fill("Pile caps lowered")
    dialog.get_by_role("button", name="Check the file").click()
    return dialog


def test_a_document_is_checked_out_in_renamed_withdrawn_and_found_again(visit):
    ottilie = visit("ottilie", "/register?words=south+linkspan,+general")
    _line(ottilie, "South linkspan").click()
    dialog = _act(ottilie, "Check out")
    dialog.get_by_label("What you are working on").fill("Pile caps")
    dialog.get_by_role("button", name="Check out").click()
    expect(ottilie.get_by_text("Checked out by Ottilie Vestergaard")).to_be_visible()
    marit = visit("marit", "/register/out")
    expect(marit.get_by_role("row").filter(has_text="Pile caps")).to_contain_text("Ottilie Vestergaard")
    marit.get_by_role("link", name=re.compile("N-0310")).click()
    expect(marit.get_by_text("Checked out by Ottilie Vestergaard")).to_be_visible()
    expect(marit.get_by_role("button", name="New revision")).to_have_count(0)
    dialog = _revise(ottilie, pdf("South linkspan", size_mm=(841, 594)), "Check in")
    expect(dialog.get_by_label("Findings").or_(dialog.get_by_role("list"))).to_be_visible()
    dialog.get_by_role("button", name="File P02").click()
    expect(dialog).to_have_count(0)
    expect(ottilie.get_by_text("Checked out by Ottilie")).to_have_count(0)
    ottilie.get_by_role("tab", name=re.compile("Revisions")).click()
    expect(ottilie.get_by_text("“Pile caps lowered”")).to_be_visible()
    marit.reload()
    dialog = _act(marit, "Rename")
    dialog.get_by_label("New number").fill("BFT-GME-Z3-XX-D-N-0319")
    dialog.get_by_label("Why").fill("Numbered twice")
    dialog.get_by_role("button", name="Rename").click()
    expect(marit.get_by_role("complementary").get_by_text("Before")).to_be_visible()
    dialog = _act(marit, "Withdraw")
    dialog.get_by_label("Why").fill("Replaced by the model")
    dialog.get_by_role("button", name="Withdraw").click()
    expect(marit.get_by_text("Withdrawn 9 Mar: Replaced by the model")).to_be_visible()
    marit.keyboard.press("Control+k")
    marit.get_by_placeholder("Numbers, names").fill("n0310")
    hit = marit.get_by_role("option").filter(has_text="the number it had before, withdrawn")
    expect(hit).to_contain_text("BFT-GME-Z3-XX-D-N-0319")
    marit.keyboard.press("Escape")
    _act(marit, "Bring back").get_by_role("button", name="Bring back").click()
    expect(marit.get_by_text("Withdrawn 9 Mar")).to_have_count(0)
    marit.get_by_role("tab", name="Trail").click()
    for words in ("checked a document out", "filed a revision", "renamed", "withdrew", "brought a document back"):
        expect(marit.get_by_role("complementary").get_by_text(words).first).to_be_visible()


def test_a_hit_on_a_sheet_opens_it_at_the_place(marit):
    expect(_line(marit, "North linkspan, piles")).to_be_visible()
    marit.keyboard.press("Control+k")
    marit.get_by_placeholder("Numbers, names").fill("waiting lounge")
    hit = marit.get_by_role("option").filter(has_text="the sheet, page 1").first
    expect(hit).to_contain_text("Waiting lounge")
    hit.click()
    expect(marit.get_by_test_id("found")).to_be_visible()
    box, sheet = marit.get_by_test_id("found").bounding_box(), marit.get_by_test_id("sheet").bounding_box()
    assert sheet["x"] < box["x"] < sheet["x"] + sheet["width"]
    assert box["width"] > 40


def test_a_folder_is_fetched_as_one_zip(marit):
    marit.get_by_role("button", name="Take away").click()
    marit.get_by_role("menuitem", name=re.compile("as a ZIP")).click()
    dialog = marit.get_by_role("dialog")
    expect(dialog.get_by_label("Revisions")).to_have_value("in_force")
    dialog.get_by_label("Revisions").select_option(label="The latest, released or not")
    expect(dialog.get_by_role("status")).to_contain_text("98 files")
    dialog.get_by_label("Revisions").select_option(label="All, the superseded ones aside")
    expect(dialog.get_by_role("status")).to_contain_text(re.compile(r"1[01]\d files"))
    count = int(dialog.get_by_role("status").text_content().split()[0])
    dialog.get_by_role("button", name="Make the ZIP").click()
    with marit.expect_download() as taken:
        dialog.get_by_role("button", name="Download").first.click()
    with zipfile.ZipFile(taken.value.path()) as archive:
        names = archive.namelist()
    assert len(names) == count
    # The latest of each, and one that is in force while a later one waits.
    assert sum("superseded/" in name for name in names) == count - 98 - 1


def test_a_list_of_planned_documents_is_tried_then_kept(visit):
    book = Workbook()
    book.active.append(["Read me first"])
    sheet = book.create_sheet("List")
    for row in (
        ["Brackwater Ferry Terminal, what is planned"],
        [],
        ["Document number", "Title", "By", "Planned"],
        ["BFT-TRA-Z1-01-D-A-0101", "Quay hall, level 1 plan", "TRA", "2027-02-20"],
        ["BFT-TRA-Z1-02-D-A-0103", "Quay hall, level 2 plan", "TRA", "2027-03-01"],
        ["BFT-TRA-Z9-02-D-A-0104", "A zone there is not", "TRA", "2027-03-01"],
    ):
        sheet.append(row)
    out = io.BytesIO()
    book.save(out)
    page = visit("marit", "/register/planned")
    page.get_by_role("button", name="Take in a list").first.click()
    dialog = page.get_by_role("dialog")
    file = {"name": "plan.xlsx", "mimeType": "application/octet-stream", "buffer": out.getvalue()}
    dialog.get_by_label("List").set_input_files(file)
    dialog.get_by_label("Sheet, of 2").select_option("List")
    expect(dialog.get_by_label("The row that names the columns")).to_have_value("3")
    expect(dialog.get_by_role("row").filter(has_text="A6")).to_contain_text("Z9")
    dialog.get_by_role("button", name="Keep 2 planned documents").click()
    expect(dialog).to_have_count(0)
    page.get_by_role("button", name="TRA", exact=True).first.click()
    expect(_line(page, "level 2 plan")).to_contain_text("late")
    expect(_line(page, "level 1 plan")).to_contain_text("received")
    saoirse = visit("saoirse", "/register/planned")
    saoirse.get_by_role("button", name="TRA", exact=True).first.click()
    expect(_line(saoirse, "level 2 plan")).to_be_visible()
    expect(saoirse.get_by_role("button", name="Take in a list")).to_have_count(0)
