"""Files that are no PDF, as they are opened from the register: a CAD drawing, a photo, a spreadsheet, a document."""

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import revision_of
from tests.browser.on_sheet import drag, marks_of, middle, open_sheet, take
from tests.browser.test_screens import axe

pytestmark = pytest.mark.browser


def test_layers_of_a_cad_drawing_are_switched_and_its_scale_measures(visit, nod):
    page = open_sheet(visit, "leilani", revision_of(nod, "Marshalling yard, survey"))
    expect(page.get_by_text("Survey A3")).to_be_visible()
    asked = []
    page.on("request", lambda request: asked.append(request.url))
    page.get_by_role("button", name="Layers").click()
    panel = page.get_by_role("region", name="Layers")
    expect(panel.get_by_text("5 of 6 on")).to_be_visible()
    expect(panel.get_by_label("Buried services")).not_to_be_checked()
    axe(page)
    with page.expect_response(lambda answer: "/layered/none/" in answer.url) as switched:
        panel.get_by_label("Buried services").press("Space")
    assert switched.value.ok
    expect(panel.get_by_text("6 of 6 on")).to_be_visible()
    panel.get_by_role("button", name="All off").press("Enter")
    expect(panel.get_by_text("0 of 6 on")).to_be_visible()
    panel.get_by_role("button", name="As the file has them").click()
    expect(panel.get_by_text("5 of 6 on")).to_be_visible()
    panel.get_by_role("button", name="Close").click()

    # The map shows where one is as long as that is only a part of the sheet.
    expect(page.get_by_test_id("map")).to_be_hidden()
    page.get_by_role("button", name="Nearer").click()
    page.get_by_role("button", name="Nearer").click()
    expect(page.get_by_test_id("map")).to_be_visible()
    axe(page)
    page.keyboard.press("f")
    expect(page.get_by_test_id("map")).to_be_hidden()

    # The window into the model is at 1:250, which the file tells by itself.
    page.get_by_role("button", name="Measure").click()
    expect(page.get_by_role("region", name="Measure").get_by_text("1:250").first).to_be_visible()


def test_a_photo_is_marked_like_any_sheet(visit, nod):
    page = open_sheet(visit, "leilani", revision_of(nod, "North linkspan, pile heads"))
    take(page, "Cloud")
    x, y = middle(page)
    drag(page, (x - 40, y - 40), (x + 60, y + 50))
    expect(marks_of(page)).to_have_count(1)


def test_a_spreadsheet_and_a_document_are_read_in_place(visit, nod):
    page = visit("saoirse", "/register?words=door+schedule")
    page.get_by_role("row", name="Quay hall, door schedule").click()
    page.get_by_role("link", name="Open the file").click()
    expect(page.get_by_role("cell", name="Ticket hall")).to_be_visible()
    expect(page.get_by_text("Spreadsheet")).to_be_visible()
    axe(page)
    with page.expect_download() as given:
        page.get_by_role("button", name="Download").click()
    assert given.value.suggested_filename.endswith(".xlsx")
    page.goto(f"{nod.url}/sheet/{revision_of(nod, 'North linkspan, piling method')}")
    expect(page.get_by_role("heading", name="Noise")).to_be_visible()
    expect(page.get_by_role("cell", name="75 dB")).to_be_visible()
    axe(page)
