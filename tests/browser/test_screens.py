"""Every screen: nothing for axe to find, and the work done by keyboard alone."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import expect

pytestmark = pytest.mark.browser

AXE = Path(__file__).resolve().parents[2] / "frontend/node_modules/axe-core/axe.min.js"
TAGS = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]
"""Every rule, those of minor weight too."""


def axe(page, scheme="light"):
    """What axe finds, and what it could not decide and nobody has looked at yet. In the dark only colours differ."""
    expect(page.locator("h1").first).to_be_attached()
    page.evaluate(AXE.read_text())
    found = page.evaluate(
        "async (only) => { const r = await axe.run({ runOnly: only });"
        " if (r.passes.length === 0) return ['nothing was looked at']; return r.violations.map("
        "v => v.id + ': ' + v.nodes.map(n => n.target + ' ' + n.html.slice(0, 120)).join(' | ')) }",
        TAGS if scheme == "light" else ["color-contrast"],
    )
    assert found == []


STATIONS = {
    "/": "Yours now",
    "/intake": "From Plinthwork Structures",
    "/intake?held=true": "Nothing is held",
    "/register": "North linkspan, general arrangement",
    '/register?group=discipline&frozen=1&filters=[["kind","is","sheet"]]': "Kind is sheet",
    "/register?look=pictures": "North linkspan, piles",
    "/register/sets": "Linkspan piling",
    "/register/out": "Adding the supply of the gangway",
    "/register/planned": "Share received",
    "/reviews": "Boarding bridge, truss and plan",
    "/submittals": "Fenders, linkspan north",
    "/transmittals": "HBC-T-0001",
    "/transmittals/received": "PLS-T-0014",
    "/transmittals/holders": "South linkspan, landward hinge",
    "/letters": "Steel of the canopy, delivery",
    "/mail": "comes in here",
    "/mail?tab=back": "No mail about this project came back.",
    "/register/links": "look, download, talk, acknowledge",
    "/audit": "Before and after",
    "/account": "Browsers that are signed in",
    "/post-room": "mail that left Nod",
}


@pytest.mark.parametrize("scheme", ["light", "dark"])
def test_axe_finds_nothing_at_any_station(own_nod, browser, browser_context_args, scheme):
    own_nod.start()
    context = browser.new_context(**{**browser_context_args, "color_scheme": scheme})
    page = context.new_page()
    page.goto(own_nod.url)
    page.get_by_role("button", name=re.compile("Marit Osei")).click()
    axe(page, scheme)
    page.get_by_role("button", name="Sign in", exact=True).click()
    expect(page.get_by_role("heading", name="Marit Osei’s desk")).to_be_visible()
    for path, words in STATIONS.items():
        page.goto(own_nod.url + path)
        expect(page.get_by_text(words).first).to_be_visible()
        axe(page, scheme)
    page.goto(own_nod.url + "/register?words=ground+floor+plan")
    page.get_by_text("Quay hall, ground floor plan").click()
    expect(page.get_by_role("complementary", name="Dossier")).to_be_visible()
    axe(page, scheme)
    page.get_by_role("link", name="Open the sheet", exact=True).click()
    expect(page.get_by_text("Turnstile width")).to_be_visible()
    page.get_by_text("Which fire rating").click()
    axe(page, scheme)
    page.goto(own_nod.url + "/reviews")
    page.get_by_text("Quay hall lighting").click()
    expect(page.get_by_role("region", name="Routing slip")).to_be_visible()
    axe(page, scheme)
    page.goto(own_nod.url + "/transmittals")
    page.get_by_text("HBC-T-0001").click()
    expect(page.get_by_role("region", name="Recipients")).to_be_visible()
    axe(page, scheme)
    context.close()


def test_a_mark_is_placed_moved_and_inked_by_keyboard(visit):
    page = visit("rafael", "/register")
    page.get_by_label("Filter by number, title or field").fill("truss")
    expect(page.get_by_text("1 document", exact=True)).to_be_visible()
    page.get_by_label("Filter by number, title or field").press("Tab")
    row = page.get_by_role("row").filter(has_text="Boarding bridge, truss elevation")
    row.focus()
    page.keyboard.press("Space")
    expect(page.get_by_role("complementary", name="Dossier")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("complementary", name="Dossier")).to_have_count(0)
    row.focus()
    page.keyboard.press("Enter")
    expect(page.get_by_text("Nobody has marked this revision")).to_be_visible()
    expect(page.get_by_role("button", name="Pin", exact=True)).to_be_visible()
    page.keyboard.press("2")
    expect(page.get_by_role("button", name="Pin", exact=True)).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("Enter")
    page.get_by_label("Text of the mark").fill("Splice here?")
    page.get_by_label("Text of the mark").press("Enter")
    expect(page.get_by_role("button", name="Text kept")).to_be_visible()
    pin = page.locator("[data-mark] .pin-mark")
    before = pin.bounding_box()
    stood = pin.get_attribute("style")
    page.keyboard.press("ArrowRight")
    expect(pin).not_to_have_attribute("style", stood)
    assert pin.bounding_box()["x"] > before["x"]
    page.keyboard.press("Delete")
    expect(pin).to_have_count(0)
    page.get_by_role("button", name="Undo").click()
    expect(pin).to_have_count(1)
    page.keyboard.press("p")
    expect(page.get_by_text("Pin 1")).to_be_visible()


def test_the_list_is_worked_by_keyboard(visit):
    page = visit("marit", "/register")
    expect(page.get_by_text("North linkspan, general arrangement")).to_be_visible()
    page.get_by_role("row").filter(has_text="North linkspan, general").focus()
    page.keyboard.press("x")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Shift+ArrowDown")
    expect(page.get_by_text("3 marked")).to_be_visible()
    page.keyboard.press(".")
    expect(page.get_by_role("button", name="Start a review")).to_be_focused()
    page.keyboard.press("Control+k")
    page.get_by_placeholder("Numbers, names, text on sheets, marks, stations").fill("0150")
    expect(page.get_by_role("option").filter(has_text="Marshalling yard, booths plan").first).to_be_visible()
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Marshalling yard, booths plan")).to_be_visible()
    page.keyboard.press("?")
    expect(page.get_by_role("dialog", name="Keys")).to_contain_text("fit the sheet")


def test_anything_is_found_by_its_name_and_opened(visit):
    page = visit("marit", "/")
    expect(page.get_by_role("heading", name="Yours now")).to_be_visible()
    page.keyboard.press("Control+k")
    page.get_by_placeholder("Numbers, names, text on sheets, marks, stations").fill("linkspan")
    reviews = page.get_by_role("group", name="Reviews")
    name = reviews.get_by_role("option").first.inner_text().strip()
    reviews.get_by_role("option").first.click()
    expect(page).to_have_url(re.compile(r"/reviews/\w+$"))
    expect(page.get_by_role("heading", name=name.split(" ", 1)[1])).to_be_visible()


def test_the_address_holds_the_view(visit):
    page = visit("tomasz", '/register?words=quay&filters=[["discipline","is","S"]]&sorts=[["title","down"]]')
    rows = page.get_by_role("grid").get_by_role("row")
    expect(rows).to_have_count(12)
    expect(rows.nth(1)).to_contain_text("Quay wall, section")
    expect(page.get_by_role("columnheader", name="Title")).to_have_attribute("aria-sort", "descending")


def test_a_broken_line_is_shown_and_what_was_typed_is_kept(visit):
    page = visit("anouk", "/register?words=roof+framing")
    page.get_by_text("Quay hall, roof framing").dblclick()
    expect(page.get_by_text("Nobody has marked this revision")).to_be_visible()
    page.get_by_role("button", name="Pin", exact=True).click()
    sheet = page.get_by_test_id("sheet").bounding_box()
    page.mouse.click(sheet["x"] + 500, sheet["y"] + 300)
    page.get_by_label("Text of the mark").fill("Which bolts?")
    page.get_by_label("Text of the mark").press("Enter")
    page.get_by_role("button", name="Ink 1 mark").click()
    expect(page.get_by_label("Reply", exact=True)).to_be_visible()
    page.route("**/replies", lambda route: route.abort())
    page.get_by_label("Reply", exact=True).fill("M20, grade 8.8")
    page.get_by_role("button", name="Reply").click()
    expect(page.get_by_text("The line is broken. It is sent when the line is back.")).to_be_visible()
    expect(page.get_by_label("Reply", exact=True)).to_have_value("M20, grade 8.8")
    page.unroute("**/replies")
    expect(page.get_by_label("Reply", exact=True)).to_have_value("")
    expect(page.get_by_text("M20, grade 8.8")).to_be_visible()


@pytest.mark.parametrize("act", ["Start a review", "Send out"])
def test_axe_finds_nothing_where_documents_are_sent_round_or_out(visit, act):
    page = visit("marit", "/register")
    page.get_by_role("row").filter(has_text="South linkspan, general").get_by_label("Mark this line").click()
    page.get_by_role("button", name=act).click()
    expect(page.get_by_role("heading", level=1, name=act)).to_be_visible()
    expect(page.get_by_text("South linkspan, general arrangement")).to_be_visible()
    axe(page)


def test_a_reader_sees_no_station_that_is_not_theirs(visit):
    page = visit("leilani")
    stations = page.get_by_role("navigation", name="Stations")
    expect(stations.get_by_role("link", name="Register")).to_be_visible()
    expect(stations.get_by_role("link", name="Intake")).to_have_count(0)
    expect(stations.get_by_role("link", name="Set-up")).to_have_count(0)


def test_a_link_that_is_none_says_so(visit):
    page = visit(path="/t/made-up")
    expect(page.get_by_role("heading", name="This link leads nowhere")).to_be_visible()
    page = visit(path="/reviews")
    expect(page.get_by_role("button", name="Sign in", exact=True)).to_be_visible()
