"""The sheet as those use it who mark it: three people, every kind of mark, by mouse and by keyboard."""

import json
import re

import pypdfium2 as pdfium
import pytest
from playwright.sync_api import expect

from tests.browser.client import Person
from tests.browser.conftest import EMAILS
from tests.browser.test_screens import axe

pytestmark = pytest.mark.browser


@pytest.fixture
def sheet(nod):
    """The revision of a sheet that nobody has marked when the first test begins."""
    marit = Person(nod.url, EMAILS["marit"])
    lines = marit("GET", f"/api/documents?project_id={marit.project_id}&limit=50")["lines"]
    return next(line["revision_id"] for line in lines if line["title"] == "North linkspan, general arrangement")


def _open(visit, who, sheet, **more):
    page = visit(who, f"/sheet/{sheet}", **more)
    expect(page.get_by_role("toolbar", name="Pens")).to_be_visible()
    page.wait_for_load_state("networkidle")
    expect(page.get_by_role("toolbar").get_by_role("button", name="Cloud")).to_be_visible()
    # What is counted has to be there.
    expect(page.get_by_role("complementary", name="Marks")).to_have_attribute("aria-busy", "false")
    return page


def _middle(page):
    box = page.get_by_test_id("sheet").bounding_box()
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def _drag(page, start, end):
    page.mouse.move(*start)
    page.mouse.down()
    page.mouse.move(*end, steps=5)
    page.mouse.up()


def _take(page, pen):
    page.get_by_role("toolbar", name="Pens").get_by_role("button", name=pen, exact=True).click()


def _from_roll(page, pen):
    _take(page, "Pen roll")
    page.get_by_role("region", name="Pen roll").get_by_role("button", name=pen, exact=True).click()


def _until(page, check):
    """Waits for what the browser's own waiting has no words for."""
    for _ in range(100):
        if check():
            return
        page.wait_for_timeout(100)
    assert check()


def _marks(page):
    return page.locator("svg [data-mark]")


def test_every_kind_is_drawn_in_pencil_and_inked(visit, sheet):
    leilani = _open(visit, "leilani", sheet)
    before = _marks(leilani).count()
    x, y = _middle(leilani)
    for count, pen in enumerate(("Cloud", "Callout", "Arrow", "Box", "Highlight", "Freehand", "Text"), start=1):
        _take(leilani, pen)
        left = x - 380 + 95 * count
        _drag(leilani, (left, y - 60), (left + 60, y - 20))
        expect(_marks(leilani)).to_have_count(before + count)
        leilani.keyboard.press("Escape")
        leilani.keyboard.press("Escape")
        leilani.keyboard.press("Escape")
    for count, pen in enumerate(("Line", "Ellipse", "Seen"), start=8):
        _from_roll(leilani, pen)
        left = x - 300 + 95 * (count - 7)
        _drag(leilani, (left, y + 40), (left + 60, y + 80))
        expect(_marks(leilani)).to_have_count(before + count)
        leilani.keyboard.press("Escape")
    for count, pen in enumerate(("Polyline", "Polygon"), start=11):
        _from_roll(leilani, pen)
        for across, down in ((0, 0), (40, 0), (40, 30)):
            leilani.mouse.click(x + 60 * (count - 10) + across, y + 120 + down)
        leilani.keyboard.press("Enter")
        expect(_marks(leilani)).to_have_count(before + count)
        leilani.keyboard.press("Escape")
    _take(leilani, "Count")
    for place in range(3):
        leilani.mouse.click(x - 250 + 30 * place, y + 150)
    expect(leilani.get_by_text("3 counted. Enter keeps them.")).to_be_visible()
    leilani.keyboard.press("Enter")
    expect(leilani.get_by_role("button", name=re.compile("Count of 3"))).to_be_visible()
    _from_roll(leilani, "Unclear")
    leilani.mouse.click(x - 300, y + 100)
    expect(_marks(leilani)).to_have_count(before + 14)

    anouk = _open(visit, "anouk", sheet)
    expect(_marks(anouk)).to_have_count(before)
    leilani.get_by_role("button", name=re.compile("Ink 14 marks")).click()
    expect(_marks(anouk)).to_have_count(before + 14, timeout=1500)


def test_undo_takes_back_ones_own_while_another_marks_too(visit, sheet):
    leilani, anouk = _open(visit, "leilani", sheet), _open(visit, "anouk", sheet)
    before = _marks(leilani).count()
    x, y = _middle(leilani)
    _take(leilani, "Box")
    _drag(leilani, (x - 100, y - 150), (x, y - 100))
    expect(leilani.get_by_label("Text of the mark")).to_be_visible()
    leilani.get_by_label("Text of the mark").press("Escape")
    mine = leilani.locator("[data-mark]").last.get_attribute("data-mark")
    box = leilani.locator(f"[data-mark='{mine}']")
    first = box.bounding_box()
    _drag(leilani, (x - 100, y - 125), (x - 60, y - 95))
    expect(leilani.get_by_role("button", name="Undo")).to_be_enabled()
    moved = box.bounding_box()
    assert (round(moved["x"] - first["x"]), round(moved["y"] - first["y"])) == (40, 30)

    _take(anouk, "Pin")
    anouk.mouse.click(*_middle(anouk))
    anouk.get_by_label("Text of the mark").fill("Bearing type?")
    anouk.get_by_label("Text of the mark").press("Enter")
    expect(anouk.get_by_role("button", name="Text kept")).to_be_visible()
    anouk.get_by_role("button", name="Ink 1 mark").click()
    expect(leilani.get_by_text("Bearing type?")).to_be_visible(timeout=1500)

    leilani.keyboard.press("Control+z")
    _until(leilani, lambda: abs(box.bounding_box()["x"] - first["x"]) < 1)
    leilani.keyboard.press("Control+z")
    expect(_marks(leilani)).to_have_count(before + 1)
    leilani.keyboard.press("Control+Shift+z")
    expect(_marks(leilani)).to_have_count(before + 2)
    leilani.keyboard.press("Control+z")
    expect(_marks(leilani)).to_have_count(before + 1)
    expect(leilani.get_by_text("Bearing type?")).to_be_visible()


def test_marks_are_copied_shaped_locked_and_made_a_pen(visit, sheet):
    page = _open(visit, "saoirse", sheet)
    before = _marks(page).count()
    page.keyboard.press("5")
    page.keyboard.press("Enter")
    expect(_marks(page)).to_have_count(before + 1)
    page.get_by_label("Text of the mark").press("Escape")
    page.keyboard.press("Control+c")
    page.keyboard.press("Control+v")
    expect(_marks(page)).to_have_count(before + 2)
    page.get_by_label("Text of the mark").press("Escape")
    wide = page.locator("[data-mark]").last.bounding_box()["width"]
    page.keyboard.press("h")
    page.keyboard.press("h")
    expect(page.get_by_text("The arrows move this corner")).to_be_visible()
    for _ in range(10):
        page.keyboard.press("ArrowRight")
    _until(page, lambda: page.locator("[data-mark]").last.bounding_box()["width"] > wide + 4)
    page.keyboard.press("Escape")
    # Text, label and lock leave the hand one straight after the other, each on what the one before has left.
    page.get_by_label("Text of the mark").fill("Which bearing?")
    page.get_by_label("Label").fill("bearings")
    page.get_by_role("button", name="Lock", exact=True).click()
    expect(page.get_by_role("button", name="Take away")).to_be_disabled()
    page.keyboard.press("Delete")
    expect(_marks(page)).to_have_count(before + 2)
    page.get_by_role("button", name="Unlock").click()
    page.get_by_role("button", name="violet").click()
    page.get_by_role("button", name="Make a pen of it").click()
    mine = page.get_by_role("list", name="My pens")
    expect(mine.get_by_role("button", name="bearings", exact=True)).to_be_visible()
    last = mine.get_by_role("listitem").count() - 1
    up = mine.get_by_role("button", name="bearings up")
    up.focus()
    for place in range(last - 1, 7, -1):
        page.keyboard.press("Enter")
        expect(mine.get_by_role("listitem").nth(place)).to_contain_text("bearings")
        expect(up).to_be_focused()
    page.get_by_role("region", name="Pen roll").get_by_role("button", name="Close").click()
    expect(page.get_by_role("toolbar").get_by_role("button", name="bearings")).to_be_visible()
    page.get_by_label("Find in the marks").fill("bearings")
    expect(_marks(page)).to_have_count(1)
    page.get_by_label("Find in the marks").blur()
    page.keyboard.press("2")
    page.keyboard.press("Enter")
    # What is drawn does not vanish behind the filter.
    expect(_marks(page)).to_have_count(before + 3)
    page.get_by_label("Text of the mark").press("Escape")
    page.keyboard.press("Delete")
    expect(_marks(page)).to_have_count(before + 2)
    page.keyboard.press("Control+a")
    expect(page.get_by_text(f"{before + 2} marks are chosen.")).to_be_visible()
    page.keyboard.press("Delete")
    expect(_marks(page)).to_have_count(before)


def test_a_mark_that_names_somebody_is_told_by_mail(visit, nod, sheet):
    page = _open(visit, "leilani", sheet)
    page.keyboard.press("2")
    page.keyboard.press("Enter")
    page.get_by_label("Text of the mark").fill("@Anouk Ferreira which fender is this?")
    page.get_by_label("Text of the mark").press("Enter")
    expect(page.get_by_role("button", name="Text kept")).to_be_visible()
    page.get_by_label("For", exact=True).select_option(label="Marit Osei (HBC)")
    expect(page.get_by_text("for Marit Osei")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Ink ")).click()
    marit = Person(nod.url, EMAILS["marit"])
    for _ in range(50):
        mails = json.dumps(marit("GET", "/api/post-room"))
        if "named you in a mark" in mails and "has a mark for you" in mails:
            break
        page.wait_for_timeout(200)
    assert "named you in a mark" in mails
    assert "has a mark for you" in mails


def test_words_are_found_on_the_sheet_and_numbers_lead_to_other_sheets(visit, sheet):
    page = _open(visit, "anouk", sheet)
    page.keyboard.press("/")
    page.get_by_label("Words on the sheet").fill("discrepancies")
    panel = page.get_by_role("region", name="Find on the sheet")
    expect(panel.get_by_text("1 place", exact=True)).to_be_visible()
    page.get_by_label("Words on the sheet").press("Enter")
    expect(panel.get_by_text("1 of 1")).to_be_visible()
    expect(page.get_by_test_id("found")).to_be_visible()
    page.get_by_label("Words on the sheet").fill("no such words")
    expect(panel.get_by_text("The sheet does not say that.")).to_be_visible()
    page.get_by_label("Words on the sheet").press("Escape")
    expect(panel).to_have_count(0)
    expect(page.get_by_test_id("found")).to_have_count(0)
    # Found by its words it stands in the middle, clear of the title block.
    page.keyboard.press("/")
    page.get_by_label("Words on the sheet").fill("levels of the quay")
    expect(panel.get_by_text("1 place", exact=True)).to_be_visible()
    page.get_by_label("Words on the sheet").press("Enter")
    expect(page.get_by_test_id("found")).to_be_visible()
    page.locator("[data-reference]").first.click()
    expect(page.get_by_role("heading", name="Quay hall, ground floor plan")).to_be_visible()


def test_a_finger_on_a_tablet_places_and_takes_away_marks(visit, sheet):
    page = _open(visit, "anouk", sheet, has_touch=True, viewport={"width": 1024, "height": 768})
    before = _marks(page).count()
    page.get_by_role("button", name="Pin", exact=True).tap()
    page.touchscreen.tap(*_middle(page))
    expect(_marks(page)).to_have_count(before + 1)
    page.get_by_role("button", name="Take away").tap()
    expect(_marks(page)).to_have_count(before)
    page.get_by_role("button", name="Undo").tap()
    expect(_marks(page)).to_have_count(before + 1)
    strip = page.get_by_role("toolbar", name="Pens").bounding_box()
    assert strip["x"] >= 0
    assert strip["x"] + strip["width"] <= 1024


def test_a_length_is_measured_by_two_places_and_an_area_with_a_hole(visit, sheet):
    page = _open(visit, "leilani", sheet)
    x, y = _middle(page)
    x += 190
    page.keyboard.press("m")
    panel = page.get_by_role("region", name="Measure")
    expect(panel.get_by_text("This page has no scale yet")).to_be_visible()
    panel.get_by_role("button", name="Show two places").click()
    page.mouse.click(x - 150, y - 50)
    page.mouse.click(x + 50, y - 50)
    panel.get_by_label("Distance between the two places").fill("far away")
    panel.get_by_role("button", name="Set for the page").click()
    expect(panel.get_by_text("is no length")).to_be_visible()
    panel.get_by_label("Distance between the two places").fill("20 m")
    panel.get_by_role("button", name="Set for the page").click()
    expect(panel.get_by_text("20 m between two places")).to_be_visible()

    panel.get_by_role("button", name="Distance", exact=True).click()
    page.mouse.click(x - 150, y - 20)
    page.mouse.move(x, y - 20, steps=3)
    expect(page.get_by_test_id("measuring")).to_contain_text(re.compile(r"1[45]\.\d+ m"))
    page.mouse.click(x + 50, y - 20)
    marks = page.get_by_role("complementary", name="Marks")
    expect(marks.get_by_text(re.compile(r"^(19\.[89]|20\.[01])\d* m ± 0\.\d+ m$"))).to_be_visible()

    panel.get_by_role("button", name="Area", exact=True).click()
    for at in ((-150, 20), (50, 20), (50, 120), (-150, 120)):
        page.mouse.click(x + at[0], y + at[1])
    page.keyboard.press("Enter")
    expect(marks.get_by_text(re.compile(r"^(19\d|20\d) m² ± \d+ m²$"))).to_be_visible()
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Cut out a hole").click()
    for at in ((-100, 45), (0, 45), (0, 95), (-100, 95)):
        page.mouse.click(x + at[0], y + at[1])
    page.keyboard.press("Enter")
    expect(marks.get_by_text(re.compile(r"^(14|15)\d m² ± \d+ m²$"))).to_be_visible()
    page.get_by_label("Label").fill("slab")
    page.get_by_label("Label").press("Tab")
    expect(panel.get_by_role("row").filter(has_text="slab")).to_contain_text("1 × area")
    axe(page)
    page.get_by_role("button", name=re.compile("^Ink ")).click()
    expect(marks.get_by_role("region", name="Pencil")).to_have_count(0)
    with page.expect_download() as given:
        panel.get_by_role("button", name="What is in ink as CSV").click()
    assert "slab" in given.value.path().read_text(encoding="utf-8-sig")


def test_two_revisions_are_compared_place_by_place_and_what_has_no_cloud_is_clouded(visit, nod):
    marit = Person(nod.url, EMAILS["marit"])
    lines = marit("GET", f"/api/documents?project_id={marit.project_id}&limit=100")["lines"]
    plan = next(line for line in lines if line["number"].startswith("BFT-TRA-Z1-00"))
    page = _open(visit, "saoirse", plan["revision_id"])
    page.keyboard.press("c")
    places = page.get_by_role("complementary", name="Changed places")
    # Two rooms changed, and the name in each.
    expect(places.get_by_role("heading")).to_have_text("4 changed places")
    expect(places.get_by_text("no cloud")).to_have_count(0)
    expect(page.get_by_test_id("changed-place")).to_have_count(4)
    page.get_by_label("Leave the title block out").click()
    expect(places.get_by_text("no cloud").first).to_be_visible()
    page.keyboard.press("n")
    expect(places.locator("[aria-current=true]")).to_have_count(1)
    axe(page)

    for way in ("Beside", "Slider", "Overlay"):
        page.get_by_role("button", name=way).click()
        expect(page.get_by_role("button", name=way)).to_have_attribute("aria-pressed", "true")
        expect(page.get_by_test_id("sheet")).to_have_count(1 if way == "Overlay" else 2)
    bare = places.get_by_text("no cloud").count()
    places.get_by_role("button", name=re.compile("^Cloud all")).click()
    expect(places.get_by_role("status")).to_contain_text(f"{bare} cloud")

    page.get_by_role("button", name="Pick places").click()
    for x, y in ((0, 0), (60, 40)):
        for side in ("first", "second"):
            pane = page.get_by_role("application").nth(0 if side == "first" else 1)
            box = pane.bounding_box()
            page.mouse.click(box["x"] + box["width"] / 2 + 60 + x, box["y"] + box["height"] / 2 + y)
    page.get_by_role("button", name="Lay by 2 places").click()
    expect(page.get_by_text(re.compile("Laid by picked places"))).to_be_visible()
    page.get_by_role("button", name="Let Nod lay it").click()
    expect(page.get_by_text("Both lie on each other as they are.")).to_be_visible()

    page.get_by_label("Lay another sheet under the second").fill("foundation layout")
    page.get_by_role("button", name=re.compile("Quay hall, foundation layout")).click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("BFT-PLS-Z1-00-D-S-0200")
    page.get_by_role("link", name="BFT-TRA-Z1-00").first.click()
    marks = page.get_by_role("complementary", name="Marks")
    expect(marks.get_by_text("Changed since BFT-TRA-Z1-00-D-A-0100 P01.").first).to_be_visible()


def test_open_marks_are_carried_to_the_next_revision_with_their_thread(visit, nod):
    """Two people: one carries what is open on the revision before, the other sees it appear with its answers."""
    marit = Person(nod.url, EMAILS["marit"])
    lines = marit("GET", f"/api/documents?project_id={marit.project_id}&limit=100")["lines"]
    number = next(line["number"] for line in lines if line["number"].startswith("BFT-PLS-Z1-00"))
    line = next(line for line in lines if line["number"] == number)
    revisions = marit("GET", f"/api/sheets/{line['revision_id']}")["revisions"]
    first, second = revisions[-2]["id"], revisions[-1]["id"]
    leilani = _open(visit, "leilani", first)
    leilani.keyboard.press("2")
    leilani.keyboard.press("Enter")
    leilani.get_by_label("Text of the mark").fill("Pile cap by others?")
    leilani.get_by_label("Text of the mark").press("Enter")
    expect(leilani.get_by_role("button", name="Text kept")).to_be_visible()
    leilani.get_by_role("button", name="Ink 1 mark").click()
    expect(leilani.get_by_role("region", name="Pencil")).to_have_count(0)
    leilani.get_by_label("Reply").fill("Ask the contractor.")
    leilani.get_by_role("button", name="Reply", exact=True).click()

    anouk, saoirse = _open(visit, "anouk", second), _open(visit, "saoirse", second)
    anouk.get_by_role("button", name=re.compile("1 open mark of")).click()
    offered = anouk.get_by_role("region", name="Carry forward")
    expect(offered.get_by_text(re.compile("touched"))).to_be_visible()
    axe(anouk)
    offered.get_by_role("button", name="Carry", exact=True).click()
    expect(anouk.get_by_role("region", name="Carry forward")).to_have_count(0)
    carried = saoirse.get_by_role("region", name="Ink").get_by_text("Pile cap by others?")
    expect(carried).to_be_visible(timeout=3000)
    carried.click()
    expect(saoirse.get_by_text("Ask the contractor.")).to_be_visible()
    expect(saoirse.get_by_text("carried from")).to_be_visible()


def test_marks_come_back_from_a_file_and_a_print_tells_whether_it_is_current(visit, nod, sheet):
    page = _open(visit, "saoirse", sheet)
    page.keyboard.press("5")
    page.keyboard.press("Enter")
    page.get_by_label("Text of the mark").fill("Comes back")
    page.get_by_label("Text of the mark").press("Enter")
    expect(page.get_by_role("button", name="Text kept")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Ink ")).click()
    expect(page.get_by_role("region", name="Pencil")).to_have_count(0)
    count = _marks(page).count()

    def away(words):
        page.get_by_role("button", name="Marks and files").click()
        with page.expect_download() as given:
            page.get_by_role("menuitem", name=words).click()
        return given.value.path()

    for words in ("The sheet with its marks (PDF)", "The marks alone (XFDF)"):
        page.get_by_label("File with marks").set_input_files(away(words))
        expect(page.get_by_text(re.compile("^Taken in: .*there already"))).to_be_visible()
        page.get_by_role("button", name="Close", exact=True).click()
    assert _marks(page).count() == count
    assert away("A summary with a clip").stat().st_size > 5000
    page.get_by_label("File with marks").set_input_files({"name": "a.pdf", "mimeType": "", "buffer": b"no marks here"})
    expect(page.get_by_text("The file is no XFDF")).to_be_visible()
    page.get_by_role("button", name="Close", exact=True).click()

    page.get_by_role("button", name="Marks and files").click()
    page.get_by_role("menuitem", name="Print this sheet").click()
    page.get_by_label("Paper").select_option("A3")
    with page.expect_download() as given:
        page.get_by_role("button", name="Make the PDF").click()
    # The address stands in letters beside the code, which other tests read.
    words = pdfium.PdfDocument(given.value.path())[0].get_textpage().get_text_bounded()
    address = re.search(rf"{nod.url}/c/\w+", words)[0]
    stranger = visit("", address.removeprefix(nod.url))
    expect(stranger.get_by_role("heading")).to_have_text("✓ Current")
    axe(stranger)
    assert "BFT" not in stranger.content()
    stranger.goto(f"{nod.url}/c/nothing2222")
    expect(stranger.get_by_role("heading", name="No print has this code")).to_be_visible()


def test_a_pen_catches_the_ends_of_the_drawings_lines(visit, nod):
    marit = Person(nod.url, EMAILS["marit"])
    lines = marit("GET", f"/api/documents?project_id={marit.project_id}&limit=100")["lines"]
    plan = next(line for line in lines if line["number"].startswith("BFT-TRA-Z1-00"))["revision_id"]
    page = _open(visit, "saoirse", plan)
    box = marit("GET", f"/api/sheets/{plan}")["pages"][0]
    view = page.get_by_test_id("sheet").bounding_box()
    scale = min(view["width"] / box["width_pt"], view["height"] / box["height_pt"])
    corners = marit("GET", f"/api/sheets/{plan}/corners/0?left=1200&low=400&right=1500&high=700")["points"]
    x, y = corners[0]
    middle = view["x"] + view["width"] / 2, view["y"] + view["height"] / 2
    at = middle[0] + (x - box["width_pt"] / 2) * scale, middle[1] + (box["height_pt"] / 2 - y) * scale
    page.keyboard.press("4")
    page.mouse.move(at[0] + 2, at[1] + 1)
    # The corners around the hand are fetched when it comes there first.
    _until(page, lambda: _moved(page, at) and page.get_by_test_id("caught").count() == 1)
    caught = page.get_by_test_id("caught").bounding_box()
    off = caught["x"] + caught["width"] / 2 - at[0], caught["y"] + caught["height"] / 2 - at[1]
    assert max(map(abs, off)) < 6


def _moved(page, at):
    page.mouse.move(at[0] + 1, at[1] + 1)
    page.mouse.move(at[0] + 2, at[1] + 1)
    return True
