"""Every screen and dialog on a phone, a tablet and a desk: nothing is wider than the window, cut off or covered."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import expect

from tests.browser.on_sheet import until
from tests.browser.test_screens import STATIONS
from tests.browser.test_typed import FORMS, opened, places  # noqa: F401  (a fixture)

SIZES = {"phone": (390, 844), "tablet": (1024, 768), "desk": (1280, 800)}
MEASURE = (Path(__file__).parent / "sizes.js").read_text()
SETUP = (
    "project", "numbers", "codes", "days", "fields", "people", "roles", "access", "starter", "notices", "marks",
    "attached", "answers", "natives", "purposes", "submittals", "letters",
    "distribution",
)  # fmt: skip
SCREENS = [
    *STATIONS, *(f"/setup/{part}" for part in SETUP), "/transmittals/new", "/reviews/new", "/reviews/late",
    "/submittals/month", "/submittals/analysis", "/submittals/specification",
]  # fmt: skip


def measured(page):
    """Once what is on its way is there."""
    expect(page.get_by_text(re.compile("^Reading |^Loading"))).to_have_count(0)
    page.wait_for_load_state("networkidle")
    there = "Array.from(document.images).every(each => each.complete || each.loading === 'lazy')"
    until(page, lambda: page.evaluate(there))
    return page.evaluate(MEASURE)


def at_every_size(page):
    """Size to what is wrong with the page at it, and stays wrong: the line of stations is laid out once more after."""
    wrong = {}
    for size, (width, height) in SIZES.items():
        page.set_viewport_size({"width": width, "height": height})
        if wrong_now := measured(page):
            page.wait_for_timeout(1000)
            wrong_now = measured(page)
        wrong[size] = wrong_now
    return {size: found for size, found in wrong.items() if found}


def test_every_screen_fits(visit):
    page = visit("marit", "/")
    wrong = {}
    for path in SCREENS:
        page.goto(page.url.partition("/p/")[0] + path)
        expect(page.get_by_role("banner")).to_be_visible()
        if found := at_every_size(page):
            wrong[path] = found
    assert wrong == {}


@pytest.mark.parametrize("size", SIZES)
def test_every_dossier_and_the_sheet_fit(visit, size):
    page = visit("marit", "/register?words=ground+floor+plan")
    width, height = SIZES[size]
    page.set_viewport_size({"width": width, "height": height})
    wrong = {}
    page.get_by_text("Quay hall, ground floor plan", exact=True).first.click()
    for tab in ("Now", "Revisions", "Reviews", "Sent", "Talk", "Trail"):
        page.get_by_role("tab", name=re.compile(f"^{tab}")).click()
        wrong[tab] = measured(page)
    page.get_by_role("tab", name=re.compile("^Now")).click()
    page.get_by_role("link", name="Open the sheet", exact=True).click()
    expect(page.get_by_role("toolbar", name="Pens")).to_be_visible()
    wrong["sheet"] = measured(page)
    if size == "phone":
        page.get_by_role("button", name="Pens and more").click()
        wrong["pens"] = measured(page)
        page.get_by_role("button", name="Marks", exact=True).click()
    page.get_by_role("complementary", name="Marks").get_by_role("article").first.get_by_role("button").first.click()
    wrong["mark"] = measured(page)
    for path, words in (
        ("/reviews", "Quay hall lighting"),
        ("/transmittals", "HBC-T-0001"),
        ("/submittals", "Fenders, linkspan south"),
        ("/letters", "Steel of the canopy, delivery"),
    ):
        page.goto(page.url.partition("/p/")[0] + path)
        page.get_by_text(words).first.click()
        wrong[path] = measured(page)
    assert {key: found for key, found in wrong.items() if found} == {}


@pytest.mark.parametrize("name", sorted(FORMS))
def test_every_form_fits(visit, places, name):  # noqa: F811
    form = FORMS[name]
    path = form.path
    for word, place in places.items():
        path = path.replace(word, place)
    page = visit(form.who, path)
    opened(page, form)
    assert at_every_size(page) == {}
