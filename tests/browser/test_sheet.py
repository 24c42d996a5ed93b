"""The sheet as those use it who mark it: three people, every kind of mark, by mouse and by keyboard."""

import io
import json
import re
import time

import numpy as np
import pikepdf
import pytest
from PIL import Image
from playwright.sync_api import expect

from tests.browser.client import Person
from tests.browser.conftest import EMAILS, revision_of
from tests.browser.on_sheet import (
    drag,
    draw_with_words,
    from_roll,
    marks_of,
    middle,
    open_sheet,
    take,
    until,
    wait_until_chosen,
)
from tests.world import pdf

pytestmark = pytest.mark.browser


def test_every_kind_is_drawn_in_pencil_and_inked(visit, sheet):
    leilani = open_sheet(visit, "leilani", sheet)
    before = marks_of(leilani).count()
    x, y = middle(leilani)
    for count, pen in enumerate(("Cloud", "Callout", "Arrow", "Box", "Highlight", "Freehand", "Text"), start=1):
        take(leilani, pen)
        left = x - 380 + 95 * count
        drag(leilani, (left, y - 60), (left + 60, y - 20))
        expect(marks_of(leilani)).to_have_count(before + count)
        leilani.keyboard.press("Escape")
        leilani.keyboard.press("Escape")
        leilani.keyboard.press("Escape")
    for count, pen in enumerate(("Line", "Ellipse", "Seen"), start=8):
        from_roll(leilani, pen)
        left = x - 300 + 95 * (count - 7)
        drag(leilani, (left, y + 40), (left + 60, y + 80))
        expect(marks_of(leilani)).to_have_count(before + count)
        leilani.keyboard.press("Escape")
    for count, pen in enumerate(("Polyline", "Polygon"), start=11):
        from_roll(leilani, pen)
        for across, down in ((0, 0), (40, 0), (40, 30)):
            leilani.mouse.click(x + 60 * (count - 10) + across, y + 120 + down)
        leilani.keyboard.press("Enter")
        expect(marks_of(leilani)).to_have_count(before + count)
        leilani.keyboard.press("Escape")
    take(leilani, "Count")
    for place in range(3):
        leilani.mouse.click(x - 250 + 30 * place, y + 150)
    expect(leilani.get_by_text("3 counted. Enter keeps them.")).to_be_visible()
    leilani.keyboard.press("Enter")
    expect(leilani.get_by_role("button", name=re.compile("Count of 3"))).to_be_visible()
    from_roll(leilani, "Unclear")
    leilani.mouse.click(x - 300, y + 100)
    expect(marks_of(leilani)).to_have_count(before + 14)

    anouk = open_sheet(visit, "anouk", sheet)
    expect(marks_of(anouk)).to_have_count(before)
    leilani.get_by_role("button", name=re.compile("Ink all 14 marks")).click()
    expect(marks_of(anouk)).to_have_count(before + 14, timeout=1500)


@pytest.mark.parametrize("then", ["before the next pen", "in the hand", "while it draws"])
def test_what_is_being_drawn_is_not_lost_when_the_answer_to_the_last_comes(visit, other_sheet, then):
    """Nor where the hand presses on what an earlier drag went over."""
    leilani = open_sheet(visit, "leilani", other_sheet)
    asked = []
    leilani.route("**/marks", lambda route: asked.append(route) if not asked else route.continue_())
    before = marks_of(leilani).count()
    x, y = middle(leilani)

    def answered(when):
        if when == then:
            with leilani.expect_response(lambda answer: answer.request.method == "POST"):
                asked[0].continue_()

    take(leilani, "Cloud")
    with leilani.expect_request(lambda request: request.method == "POST" and request.url.endswith("/marks")):
        drag(leilani, (x - 300, y - 60), (x - 200, y - 20))
    for _ in range(2):
        leilani.keyboard.press("Escape")
    expect(marks_of(leilani)).to_have_count(before + 1)
    answered("before the next pen")
    take(leilani, "Box")
    answered("in the hand")
    leilani.mouse.move(x - 190, y - 60)
    leilani.mouse.down()
    leilani.mouse.move(x - 160, y - 40, steps=3)
    answered("while it draws")
    leilani.mouse.move(x - 100, y - 20, steps=3)
    leilani.mouse.up()
    expect(marks_of(leilani)).to_have_count(before + 2)
    expect(leilani.locator("article[data-of^=waiting]")).to_have_count(0)


def test_the_picture_that_the_page_brings_lies_where_the_view_will_be(visit, sheet):
    """At once, before the front end has begun; and it goes when the view is as sharp."""
    page = visit("marit", "/post-room")
    page.route("**/assets/main-*.js", lambda _: None)
    page.goto(page.url.replace("/post-room", f"/sheet/{sheet}"), wait_until="commit")
    grid = page.locator("#first-look picture")
    until(page, lambda: page.evaluate("document.querySelector('#first-look img')?.naturalWidth > 0"))
    before = grid.bounding_box()
    assert page.get_by_test_id("sheet").count() == 0
    page.unroute("**/assets/main-*.js")
    page.goto(page.url, wait_until="commit")
    expect(page.locator("[data-sharp=true]")).to_be_visible()
    expect(page.locator("#first-look")).to_have_count(0)
    across, _, _, down, left, upper = page.evaluate(
        "(({ a, b, c, d, e, f }) => [a, b, c, d, e, f])(document.querySelector('[data-testid=sheet] ~ svg g').getCTM())"
    )
    view = page.get_by_test_id("sheet").bounding_box()
    # An A1 sheet, in points.
    places = (view["x"] + left, view["y"] + upper, 2383.94 * across, 1683.78 * down)
    assert places == pytest.approx([before[each] for each in ("x", "y", "width", "height")], abs=1.5)


def _paper(page):
    """What is seen of the sheet between the panels, as greys."""
    picture = Image.open(io.BytesIO(page.screenshot())).convert("L")
    return np.asarray(picture, float)[200:700, 20:900]


def test_no_line_moves_when_the_view_takes_the_picture_over(visit, nod):
    """The picture and the tiles are drawn by two programs; moved by a pixel they differ several times as much.

    On a sheet that no other test marks: the picture has no marks.
    """
    unmarked = revision_of(nod, "South linkspan, cross section")
    page = visit("marit", "/post-room")
    page.route("**/assets/main-*.js", lambda _: None)
    page.goto(page.url.replace("/post-room", f"/sheet/{unmarked}"), wait_until="commit")
    until(page, lambda: page.evaluate("document.querySelector('#first-look img')?.naturalWidth > 0"))
    before = _paper(page)
    page.unroute("**/assets/main-*.js")
    page.goto(page.url, wait_until="commit")
    expect(page.locator("[data-sharp=true]")).to_be_visible()
    expect(page.locator("#first-look")).to_have_count(0)
    after = _paper(page)
    moves = [(down, across) for down in (-1, 0, 1) for across in (-1, 0, 1)]
    apart = {move: np.abs(before - np.roll(after, move, (0, 1))).mean() for move in moves}
    unmoved = apart.pop((0, 0))
    # Half a pixel would already make one of the others the least.
    assert unmoved < min(apart.values())


def test_undo_takes_back_ones_own_while_another_marks_too(visit, sheet):
    leilani, anouk = open_sheet(visit, "leilani", sheet), open_sheet(visit, "anouk", sheet)
    before = marks_of(leilani).count()
    x, y = middle(leilani)
    take(leilani, "Box")
    drag(leilani, (x - 100, y - 150), (x, y - 100))
    expect(leilani.get_by_label("Text of the mark")).to_be_visible()
    leilani.get_by_label("Text of the mark").press("Escape")
    mine = leilani.locator("[data-mark]").last.get_attribute("data-mark")
    box = leilani.locator(f"[data-mark='{mine}']")
    first = box.bounding_box()
    drag(leilani, (x - 100, y - 125), (x - 60, y - 95))
    expect(leilani.get_by_role("button", name="Undo")).to_be_enabled()
    moved = box.bounding_box()
    assert (round(moved["x"] - first["x"]), round(moved["y"] - first["y"])) == (40, 30)

    take(anouk, "Pin")
    anouk.mouse.click(*middle(anouk))
    anouk.get_by_label("Text of the mark").fill("Bearing type?")
    anouk.get_by_label("Text of the mark").press("Enter")
    expect(anouk.get_by_role("button", name="Text kept")).to_be_visible()
    anouk.get_by_role("button", name="Ink 1 mark").click()
    expect(leilani.get_by_text("Bearing type?")).to_be_visible(timeout=1500)

    leilani.keyboard.press("Control+z")
    until(leilani, lambda: abs(box.bounding_box()["x"] - first["x"]) < 1)
    leilani.keyboard.press("Control+z")
    expect(marks_of(leilani)).to_have_count(before + 1)
    leilani.keyboard.press("Control+Shift+z")
    expect(marks_of(leilani)).to_have_count(before + 2)
    leilani.keyboard.press("Control+z")
    expect(marks_of(leilani)).to_have_count(before + 1)
    expect(leilani.get_by_text("Bearing type?")).to_be_visible()


def test_what_others_ink_comes_with_the_event_and_is_not_fetched(visit, sheet):
    leilani, anouk = open_sheet(visit, "leilani", sheet), open_sheet(visit, "anouk", sheet)
    asked = []
    anouk.on("request", lambda request: asked.append(request.url) if "/marks" in request.url else None)
    before = marks_of(anouk).count()
    draw_with_words(leilani, "1", "Comes by itself")
    expect(leilani.get_by_role("button", name="Text kept")).to_be_visible()
    leilani.get_by_role("button", name=re.compile("^Ink (all|1 mark)")).click()
    item = anouk.get_by_role("complementary", name="Marks").get_by_role("button", name="Comes by itself")
    expect(item).to_be_visible()
    expect(marks_of(anouk)).to_have_count(before + 1)
    item.click()
    anouk.get_by_label("Reply", exact=True).fill("It does")
    # What one does oneself is fetched; what the other says comes along.
    with anouk.expect_response(lambda answer: answer.request.method == "GET" and answer.url.endswith("/marks")):
        anouk.get_by_role("button", name="Reply", exact=True).click()
    expect(leilani.get_by_text("It does")).to_be_visible()
    anouk.wait_for_load_state("networkidle")
    asked.clear()
    leilani.get_by_label("Reply", exact=True).fill("And back")
    leilani.get_by_role("button", name="Reply", exact=True).click()
    expect(anouk.get_by_text("And back")).to_be_visible()
    assert asked == []


def test_marks_are_copied_shaped_locked_and_made_a_pen(visit, sheet):
    page = open_sheet(visit, "saoirse", sheet)
    before = marks_of(page).count()
    page.keyboard.press("5")
    page.keyboard.press("Enter")
    expect(marks_of(page)).to_have_count(before + 1)
    page.get_by_label("Text of the mark").press("Escape")
    page.keyboard.press("Control+c")
    page.keyboard.press("Control+v")
    expect(marks_of(page)).to_have_count(before + 2)
    wait_until_chosen(page)
    page.get_by_label("Text of the mark").press("Escape")
    wide = page.locator("[data-mark]").last.bounding_box()["width"]
    page.keyboard.press("h")
    page.keyboard.press("h")
    expect(page.get_by_text("The arrows move this corner")).to_be_visible()
    for _ in range(10):
        page.keyboard.press("ArrowRight")
    until(page, lambda: page.locator("[data-mark]").last.bounding_box()["width"] > wide + 4)
    page.keyboard.press("Escape")
    # Text, label and lock leave the hand one straight after the other, each on what the one before has left.
    page.get_by_label("Text of the mark").fill("Which bearing?")
    page.get_by_label("Label").fill("bearings")
    page.get_by_role("button", name="Lock", exact=True).click()
    expect(page.get_by_role("button", name="Take away")).to_be_disabled()
    page.keyboard.press("Delete")
    expect(marks_of(page)).to_have_count(before + 2)
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
    expect(marks_of(page)).to_have_count(1)
    page.get_by_label("Find in the marks").blur()
    page.keyboard.press("2")
    page.keyboard.press("Enter")
    # What is drawn does not vanish behind the filter.
    expect(marks_of(page)).to_have_count(before + 3)
    wait_until_chosen(page)
    page.get_by_label("Text of the mark").press("Escape")
    page.keyboard.press("Delete")
    expect(marks_of(page)).to_have_count(before + 2)
    page.keyboard.press("Control+a")
    expect(page.get_by_text(f"{before + 2} marks are chosen.")).to_be_visible()
    page.keyboard.press("Delete")
    expect(marks_of(page)).to_have_count(before)


def test_a_mark_that_names_somebody_is_told_by_mail(visit, nod, sheet):
    page = open_sheet(visit, "leilani", sheet)
    draw_with_words(page, "2", "@Anouk Ferreira which fender is this?")
    page.get_by_label("For", exact=True).select_option(label="Marit Osei (HBC)")
    expect(page.get_by_text("for Marit Osei")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Ink (all|1 mark)")).click()
    marit = Person(nod.url, EMAILS["marit"])
    for _ in range(50):
        mails = json.dumps(marit("GET", "/api/post-room", timeout=60))
        if "named you in a mark" in mails and "has a mark for you" in mails:
            break
        page.wait_for_timeout(200)
    assert "named you in a mark" in mails
    assert "has a mark for you" in mails


def test_words_are_found_on_the_sheet_and_numbers_lead_to_other_sheets(visit, sheet):
    page = open_sheet(visit, "anouk", sheet)
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
    page.get_by_label("Words on the sheet").fill("")
    way = page.get_by_role("region", name="Find on the sheet").get_by_role("button", name="ground floor plan")
    expect(way).to_be_visible()
    page.get_by_label("Words on the sheet").press("Escape")
    page.locator("[data-way]").first.click()
    expect(page.get_by_role("heading", name="Quay hall, ground floor plan")).to_be_visible()


def test_a_finger_on_a_tablet_places_and_takes_away_marks(visit, sheet):
    page = open_sheet(visit, "anouk", sheet, has_touch=True, viewport={"width": 1024, "height": 768})
    before = marks_of(page).count()
    page.get_by_role("button", name="Pin", exact=True).tap()
    page.touchscreen.tap(*middle(page))
    expect(marks_of(page)).to_have_count(before + 1)
    page.get_by_role("button", name="Take away").tap()
    expect(marks_of(page)).to_have_count(before)
    page.get_by_role("button", name="Undo").tap()
    expect(marks_of(page)).to_have_count(before + 1)
    strip = page.get_by_role("toolbar", name="Pens").bounding_box()
    assert strip["x"] >= 0
    assert strip["x"] + strip["width"] <= 1024


def test_links_of_a_file_lead_to_its_pages_and_to_the_web(visit, nod):
    """From the sheet by the mouse, from the list by the keyboard; a web address opens beside Nod."""
    with pikepdf.open(io.BytesIO(pdf("Index of details", pages=2))) as made:
        leads = (
            {"Dest": pikepdf.Array([made.pages[1].obj, pikepdf.Name.Fit])},
            {"A": pikepdf.Dictionary(S=pikepdf.Name.URI, URI=pikepdf.String("https://standards.example/9"))},
        )
        made.pages[0].Annots = pikepdf.Array(
            [
                made.make_indirect(
                    pikepdf.Dictionary(
                        Type=pikepdf.Name.Annot, Subtype=pikepdf.Name.Link,
                        Rect=pikepdf.Array([500, 300 + 60 * place, 700, 340 + 60 * place]), **each,
                    )
                )
                for place, each in enumerate(leads)
            ]
        )  # fmt: skip
        out = io.BytesIO()
        made.save(out)
    marit = Person(nod.url, EMAILS["marit"])
    batch = marit("POST", "/api/intake/batches", {"project_id": marit.project_id})["id"]
    file_name = "BFT-TRA-Z1-00-D-A-7301_P01_S3_Index of details.pdf"
    marit.upload(batch, file_name, out.getvalue())
    for _ in range(300):
        arrival = marit("GET", f"/api/intake/batches/{batch}")["arrivals"][0]
        seen = {"seen": {arrival["id"]: arrival["version"]}}
        # It is refused while the file is still being looked at.
        if marit.status("POST", f"/api/intake/batches/{batch}/register", seen)[0] == 200:
            break
        time.sleep(0.2)
    page = open_sheet(visit, "saoirse", revision_of(nod, "Index of details"))
    expect(page.locator("[data-way]")).to_have_count(2)
    page.keyboard.press("/")
    page.get_by_role("button", name="Page 2").press("Enter")
    expect(page.get_by_text("page 2 of 2")).to_be_visible()
    page.get_by_label("Words on the sheet").press("Escape")
    page.get_by_role("button", name="Previous page").click()
    page.context.route("https://standards.example/**", lambda route: route.fulfill(body="the standard"))
    with page.context.expect_page() as opened:
        page.locator("[data-way='https://standards.example/9']").click()
    expect(opened.value.get_by_text("the standard")).to_be_visible()
