"""Measuring, catching line ends and comparing, as those do it who have to rely on it."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.client import Person
from tests.browser.conftest import EMAILS
from tests.browser.on_sheet import middle, open_sheet, until
from tests.browser.test_screens import axe

pytestmark = pytest.mark.browser


def test_a_length_is_measured_by_two_places_and_an_area_with_a_hole(visit, other_sheet):
    page = open_sheet(visit, "leilani", other_sheet)
    x, y = middle(page)
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
    page.get_by_role("button", name=re.compile("^Ink (all|1 mark)")).click()
    expect(marks.get_by_role("region", name="Pencil")).to_have_count(0)
    with page.expect_download() as given:
        panel.get_by_role("button", name="What is in ink as CSV").click()
    assert "slab" in given.value.path().read_text(encoding="utf-8-sig")


def test_two_revisions_are_compared_place_by_place_and_what_has_no_cloud_is_clouded(visit, nod):
    marit = Person(nod.url, EMAILS["marit"])
    lines = marit("GET", f"/api/documents?project_id={marit.project_id}&limit=100")["lines"]
    plan = next(line for line in lines if line["number"].startswith("BFT-TRA-Z1-00"))
    page = open_sheet(visit, "saoirse", plan["revision_id"])
    page.keyboard.press("c")
    places = page.get_by_role("complementary", name="Changed places")
    # A door moved, a kiosk built, a room renamed, the dimensions that follow: all of it clouded.
    expect(places.get_by_role("heading")).to_have_text(re.compile(r"^\d+ changed places$"))
    expect(places.get_by_text("no cloud")).to_have_count(0)
    count = int(places.get_by_role("heading").text_content().split()[0])
    assert count >= 6
    expect(page.get_by_test_id("changed-place")).to_have_count(count)
    page.get_by_label("Leave the title block out").click()
    expect(places.get_by_text("no cloud").first).to_be_visible()
    page.keyboard.press("n")
    expect(places.locator("[aria-current=true]")).to_have_count(1)
    axe(page)

    for way in ("Beside", "Slider", "Overlay"):
        page.get_by_role("button", name=way).click()
        expect(page.get_by_role("button", name=way)).to_have_attribute("aria-pressed", "true")
        expect(page.get_by_test_id("sheet")).to_have_count(1 if way == "Overlay" else 2)
    page.get_by_role("button", name="Beside").click()
    both = page.get_by_test_id("sheet")
    apart = [both.nth(each).locator("~ svg > g").first for each in (0, 1)]
    page.get_by_label("Move together").click()
    until(page, lambda: all(each.get_attribute("transform") for each in apart))
    before = [each.get_attribute("transform") for each in apart]
    page.mouse.move(1100 - 340, 500)
    page.mouse.wheel(0, -300)
    until(page, lambda: apart[1].get_attribute("transform") != before[1])
    assert apart[0].get_attribute("transform") == before[0]
    page.get_by_label("Move together").click()
    page.get_by_role("button", name="Overlay").click()
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


def test_a_pen_catches_the_ends_of_the_drawings_lines(visit, nod):
    marit = Person(nod.url, EMAILS["marit"])
    lines = marit("GET", f"/api/documents?project_id={marit.project_id}&limit=100")["lines"]
    plan = next(line for line in lines if line["number"].startswith("BFT-TRA-Z1-00"))["revision_id"]
    page = open_sheet(visit, "saoirse", plan)
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
    until(page, lambda: _moved(page, at) and page.get_by_test_id("caught").count() == 1)
    caught = page.get_by_test_id("caught").bounding_box()
    off = caught["x"] + caught["width"] / 2 - at[0], caught["y"] + caught["height"] / 2 - at[1]
    assert max(map(abs, off)) < 6

    # Both ends caught, a distance is as exact as the drawing: without a scale it has no ± of the screen.
    page.keyboard.press("Escape")
    page.keyboard.press("m")
    page.get_by_role("region", name="Measure").get_by_role("button", name="Distance", exact=True).click()
    far = max(corners, key=lambda each: abs(each[0] - x) + abs(each[1] - y))
    ends = at, (at[0] + (far[0] - x) * scale, at[1] - (far[1] - y) * scale)
    for end in ends:
        until(page, lambda end=end: _moved(page, end) and page.get_by_test_id("caught").count() == 1)
        page.mouse.click(end[0] + 2, end[1] + 1)
    pencil = page.get_by_role("region", name="Pencil")
    told = pencil.locator("span.code", has_text=re.compile(r"^[\d.,]+ m{1,2}( ± .*)?$"))
    expect(told).to_have_count(1)
    expect(told).not_to_contain_text("±")

    # Past the corners, with Alt held, the hand says where it is, and the value says how far that can be off.
    page.keyboard.press("Escape")
    page.get_by_role("region", name="Measure").get_by_role("button", name="Distance", exact=True).click()
    page.keyboard.down("Alt")
    for end in ends:
        page.mouse.click(end[0] + 2, end[1] + 1)
    page.keyboard.up("Alt")
    expect(told.filter(has_text="±")).to_have_count(1)


def _moved(page, at):
    page.mouse.move(at[0] + 1, at[1] + 1)
    page.mouse.move(at[0] + 2, at[1] + 1)
    return True
