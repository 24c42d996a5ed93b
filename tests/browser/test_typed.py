"""What is typed is never lost: every form of Nod, a broken line, an ended session, a page loaded anew, back.

The forms are read from the front end's own list; one without an entry here fails the test.
"""

import re
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import expect

from nod.services.people.sign_in import DEMO_PASSWORD
from tests.browser.client import Person
from tests.browser.conftest import EMAILS, ROOT
from tests.browser.on_sheet import drag, marks_of, middle, open_sheet
from tests.browser.test_screens import axe
from tests.browser.typed_elsewhere import ELSEWHERE

REGISTRY = ROOT / "frontend/src/domain/forms.ts"
PLAN = "Quay hall, ground floor plan"
MEETING = "Level 1, what hangs below the slab"
PLAN_AT = "/register?words=ground+floor+plan"


@dataclass(frozen=True)
class Form:
    """Who opens it where; `steps` are buttons, tabs and lines to press after that; `label` is a field to type in."""

    who: str
    path: str
    steps: tuple[Any, ...] = ()
    label: Any = ""
    words: str = "Half a thought"
    name: str = ""


def button(name, exact=True):
    # Not one of the note about a draft that was left.
    return lambda page: page.locator("main").get_by_role("button", name=name, exact=exact).first.click()


def unless_open(role, words, step):
    """What has a draft is open by itself."""

    def open_it(page):
        expect(page.get_by_role("grid")).to_be_visible()
        if not page.get_by_role(role, name=words).count():
            step(page)

    return open_it


def in_dialog(name):
    return lambda page: page.get_by_role("dialog").get_by_role("button", name=name, exact=True).click()


def tab(name):
    return lambda page: page.get_by_role("tab", name=re.compile(f"^{name}")).click()


def text(words):
    return lambda page: page.get_by_text(words, exact=True).first.click()


def item(name):
    return lambda page: page.get_by_role("menuitem", name=name).click()


def mark_line(title):
    return lambda page: page.get_by_role("row").filter(has_text=title).first.get_by_role("checkbox").check()


def chosen(label, option):
    return lambda page: page.get_by_label(label, exact=True).select_option(label=option)


def file_line(place):
    """The panel of a file of the batch that is open; the address knows it when one comes back."""

    def open_panel(page):
        if "file=" not in page.url:
            page.get_by_role("grid").get_by_role("row").nth(place).get_by_role("button").click()

    return open_panel


def first_mark(page):
    mark = page.get_by_role("complementary", name="Marks").get_by_role("article").first.get_by_role("button").first
    if mark.get_attribute("aria-expanded") == "false":
        mark.click()


def reader(page):
    if not page.url.rstrip("/").split("?")[0].endswith("/reader"):
        page.get_by_role("link", name="Read title blocks").click()


PLAN_LINE = text(PLAN)
ACTS = button("More acts", exact=False)
FORMS = {
    "access-folder": Form("rafael", "/setup/access", (button("Drawings", exact=False),), "Make a folder in it"),
    "add-people": Form("rafael", "/setup/people", (button("Add people"),), "Names or e-mail addresses"),
    "arrival-cell": Form("marit", "/intake", (), re.compile("^Title of"), "Half a title"),
    "arrival-value": Form("marit", "/intake", (file_line(1), tab("Witnesses")), re.compile(", to be filed$")),
    "arrivals-replace": Form("marit", "/intake", (button("Find and replace"),), "Find"),
    "begin-project": Form("ines", "/workspace", (button("Begin a project"),), "Name"),
    "bring-revision-back": Form("marit", PLAN_AT, (PLAN_LINE, tab("Revisions"), button("Bring back as new")), "Why"),
    "cancel-review": Form("tomasz", "/reviews", (text("Quay hall lighting"), button("Cancel the review")), "Why"),
    "came-from": Form(
        "marit", "/intake", (unless_open("form", "From whom", button("Change")),), "Person (optional)"
    ),
    "check-proof": Form("", "/check", (), "The proof"),
    "discard": Form("marit", "/intake", (file_line(1), button("Discard")), "Why"),
    "document-act": Form("marit", PLAN_AT, (PLAN_LINE, ACTS, item("Withdraw")), "Why"),
    "document-change": Form(
        "marit", PLAN_AT, (mark_line(PLAN), button("Change a column"), chosen("Column", "Title")), "Value"
    ),
    "drawing-set": Form("marit", "/register/sets", (button("Make a drawing set"),), "Name"),
    "end-check-out": Form("marit", "/register/out", (button("Break it", exact=False),), "Why"),
    "review-comment": Form(
        "rafael", "/reviews", (text("Quay hall lighting"), tab("Comments"), button("Respond: comment 1")),
        "Your response",
    ),
    "set-status": Form("marit", PLAN_AT, (PLAN_LINE, tab("Revisions"), button("Set its status")), "Why"),
    "step-change": Form(
        "rafael", "/reviews", (text("Quay hall lighting"), button("End Decide")), "Why"
    ),
    "hand-in": Form("saoirse", "/reviews", (text("Quay hall lighting"),), "Note to whoever comes next"),
    "keep-starter": Form("rafael", "/setup/starter", (), "What it is for"),
    "keep-view": Form("marit", "/register", (button("Views"),), "Keep this view as"),
    "member": Form("rafael", "/setup/people", (text("Anouk Ferreira"),), "Job"),
    "new-revision": Form("marit", PLAN_AT, (PLAN_LINE, button("New revision", exact=False)), "Comment"),
    "outside-mail": Form("marit", "/post-room", (button("Write from outside", exact=False),), "Text"),
    "receipt": Form("marit", "/intake", (button("Look at PLS-T-0014"), in_dialog("Send a receipt")), "Note (optional)"),
    "received": Form("marit", "/intake", (button("Look at PLS-T-0014"), in_dialog("Enter another")), "Their number"),
    "register-with": Form(
        "marit", "/intake", (unless_open("region", "Registered with", button("Set, note, tell …")),),
        "Note, kept with each revision",
    ),
    "route": Form("rafael", "/reviews/routes", (button("A new route"),), "What it is for"),
    "say": Form(
        "marit", "/register?words=marshalling+yard", (text("Marshalling yard, survey"), tab("Talk")), "Say something"
    ),
    "send-back": Form("marit", "/intake", (file_line(1), button("Send back")), "Note (optional)"),
    "set-up": Form("rafael", "/setup/project", (), "Name"),
    "share": Form(
        "marit", PLAN_AT, (PLAN_LINE, tab("Sent"), button("Give a link …")), "Visits at most, if any", "7"
    ),
    "account-notices": Form("marit", "/account", (), "Daily summary at", "5"),
    "document-field": Form("marit", PLAN_AT, (PLAN_LINE,), "Needed on site", "14 Apr 2027"),
    "mark-label": Form("marit", "SHEET", (first_mark,), "Label"),
    "mark-text": Form("marit", "SHEET", (first_mark,), "Text of the mark", "Half a thought about it"),
    "scale": Form("marit", "SHEET", (button("Measure", exact=False),), "Scale", "1:75"),
    "send": Form("marit", "/transmittals/new?revisions=REVISION", (), "Covering note"),
    "make-session": Form("marit", "/sessions/new?revisions=REVISION", (), "What it is for, in the invitation"),
    "session-change": Form("marit", "/sessions", (text(MEETING), button("Name, time, host …")), "What it is for"),
    "session-take-out": Form(
        "marit", "/sessions", (text(MEETING), button("Take out BFT-OHS-Z1-01-D-E-0411")), "Why, if you want to say so"
    ),
    "start-review": Form("tomasz", "/reviews/new?documents=DOCUMENT", (), "Message to the reviewers"),
    "submittal": Form("marit", "/submittals", (button("New submittal"),), "Title"),
    "submittal-parts": Form(
        "marit", "/submittals", (text("Fenders, linkspan north"), button("Items …")), "Item 1"
    ),
    "submittal-act": Form(
        "marit", "/submittals", (text("Fenders, linkspan north"), button("Give it to somebody else …")), "A note"
    ),
    "void": Form("marit", "/transmittals", (text("HBC-T-0001"), button("Void it …")), "Why it is void"),
    "hand-over": Form("marit", PLAN_AT, (PLAN_LINE, tab("Sent"), button("Handed over on paper …")), "Who took it"),
    "zones": Form("marit", "/intake", (reader,), "Company"),
    "workspace-company": Form("ines", "/workspace", (tab("Companies"), button("Change")), "Name"),
    "workspace-person": Form("ines", "/workspace", (tab("People"), button("Change")), "Name"),
}  # fmt: skip


def test_every_form_is_typed_into():
    names = set(re.findall(r"^  '?([a-z-]+)'?:", REGISTRY.read_text(), re.M))
    assert names == FORMS.keys() | ELSEWHERE.keys()
    for name, test in ELSEWHERE.items():
        assert f'"{name}"' in (Path(__file__).parent / f"{test}.py").read_text()


@pytest.fixture(scope="module")
def places(nod):
    """The plan's document and revision, with a mark of Marit's in pencil on it."""
    marit = Person(nod.url, EMAILS["marit"])
    lines = marit("GET", f"/api/documents?project_id={marit.project_id}&limit=100")["lines"]
    line = next(line for line in lines if line["title"] == PLAN)
    mark = {"page": 0, "kind": "rectangle", "points": [[900, 900], [960, 940]], "text": "To be typed about"}
    marit("POST", f"/api/sheets/{line['revision_id']}/marks", {"marks": [mark]})
    return {"SHEET": f"/sheet/{line['revision_id']}", "REVISION": line["revision_id"], "DOCUMENT": line["id"]}


def opened(page, form):
    for step in form.steps:
        step(page)
    named = page.get_by_label(form.label, exact=True)
    # A choice is not typed.
    return named if form.name == "account-notices" else page.locator(f"[data-form={form.name}]").and_(named).first


def put(typed, words):
    if typed.evaluate("(field) => field.tagName") == "SELECT":
        typed.select_option(words)
    else:
        typed.fill(words)


BROKEN = re.compile("No connection to Nod|line is broken|waits? for the line")
SEND = """(field) => {
    field.blur()
    const button = field.form?.querySelector("[type=submit]")
    if (!button || button.disabled || button.ariaDisabled === 'true' || !field.form.checkValidity()) return false
    field.form.requestSubmit()
    return true
}"""


@pytest.mark.parametrize("name", sorted(FORMS))
def test_what_is_typed_is_kept(visit, places, name):
    form = replace(FORMS[name], name=name)
    path = form.path
    for word, place in places.items():
        path = path.replace(word, place)
    # So wide that every station is in the line.
    page = visit(form.who, path, viewport={"width": 1600, "height": 800})
    typed = opened(page, form)
    put(typed, form.words)
    page.context.set_offline(True)
    if typed.evaluate(SEND):
        # Above the form, never instead of it.
        expect(page.get_by_text(BROKEN).first).to_be_visible()
    expect(typed).to_have_value(form.words)
    page.context.set_offline(False)
    if goes(form):
        expect(page.get_by_text(BROKEN)).to_have_count(0)
        found(page, form, again=False)
    if form.who:
        elsewhere_and_back(page, form)
    page.reload()
    found(page, form)


def found(page, form, *, again=True):
    typed = opened(page, form) if again else None
    if goes(form):
        # It went by itself when the line was back, and once.
        expect(page.get_by_text(form.words, exact=True).first).to_be_visible()
        expect(page.get_by_role("log").get_by_text(form.words)).to_have_count(int(form.name == "say"))
    else:
        expect(typed).to_have_value(form.words)


def goes(form):
    return form.name in ("say", "mark-text")


def elsewhere_and_back(page, form):
    """The session ends, one is somewhere else when it is noticed, signs in again and goes back."""
    page.context.clear_cookies()
    # Also from under a dialog, as the browser's own buttons do.
    page.locator("nav[aria-label=Stations] a", has_text="Desk").dispatch_event("click")
    over = page.get_by_role("dialog", name="Your session is over")
    over.get_by_label("Password").fill(DEMO_PASSWORD)
    over.get_by_role("button", name="Sign in and go on").click()
    expect(over).to_have_count(0)
    expect(page.get_by_role("heading", name=re.compile("s desk$"), level=1)).to_be_visible()
    page.go_back()
    found(page, form)


def test_a_draft_is_told_of_found_again_discarded_and_brought_back(visit):
    page = visit("marit", "/register/sets")
    page.get_by_role("button", name="Make a drawing set").first.click()
    page.get_by_role("dialog").get_by_label("Name", exact=True).fill("Stage 5")
    page.keyboard.press("Escape")
    note = page.get_by_role("status").filter(has_text="Not sent, kept as a draft")
    expect(note).to_contain_text("A drawing set")
    axe(page)
    page.get_by_role("link", name="Reviews").click()
    page.get_by_role("button", name="1 draft, typed and not sent").click()
    drafts = page.get_by_role("dialog", name="Typed and not sent")
    expect(drafts).to_contain_text("Stage 5")
    axe(page)
    drafts.get_by_role("button", name="Discard").click()
    drafts.get_by_role("button", name="Undo").click()
    drafts.get_by_role("button", name="Back to it").click()
    page.get_by_role("button", name="Make a drawing set").first.click()
    expect(page.get_by_role("dialog").get_by_label("Name", exact=True)).to_have_value("Stage 5")


def test_a_download_after_the_session_leaves_the_page_as_it_is(visit):
    page = visit("marit", PLAN_AT)
    page.get_by_text(PLAN, exact=True).first.click()
    expect(page.get_by_role("button", name="Download", exact=True)).to_be_visible()
    page.context.clear_cookies()
    page.get_by_role("button", name="Download", exact=True).click()
    over = page.get_by_role("dialog", name="Your session is over")
    axe(page)
    over.get_by_label("Password").fill("not hers")
    over.get_by_role("button", name="Sign in and go on").click()
    expect(over.get_by_role("alert")).to_be_visible()
    over.get_by_label("Password").fill(DEMO_PASSWORD)
    over.get_by_role("button", name="Sign in and go on").click()
    expect(over).to_have_count(0)
    with page.expect_download() as download:
        page.get_by_role("button", name="Download", exact=True).click()
    assert download.value.suggested_filename.endswith(".pdf")
    page.context.set_offline(True)
    page.get_by_role("button", name="Download", exact=True).click()
    expect(page.get_by_role("alert").filter(has_text="No connection to Nod")).to_be_visible()


def test_somebody_else_who_signs_in_is_shown_nothing_of_the_first(visit):
    page = visit("marit", "/register/sets")
    page.get_by_role("button", name="Make a drawing set").first.click()
    page.get_by_role("dialog").get_by_label("Name", exact=True).fill("Stage 5")
    other = page.context.new_page()
    page.context.clear_cookies()
    other.goto(page.url.partition("/p/")[0])
    other.get_by_role("button", name=re.compile("Junpei")).click()
    other.get_by_role("button", name="Sign in").click()
    expect(other.get_by_role("button", name=re.compile("^Junpei Mori"))).to_be_visible()
    # The first page hears of it.
    expect(page.get_by_role("button", name=re.compile("^Junpei Mori"))).to_be_visible()
    expect(page.get_by_text("Stage 5")).to_have_count(0)
    expect(page.get_by_role("button", name=re.compile("typed and not sent"))).to_have_count(0)


def test_what_is_drawn_and_set_while_the_line_is_down_waits_and_is_done_once(visit, other_sheet):
    page = open_sheet(visit, "leilani", other_sheet)
    before = marks_of(page).count()
    page.context.set_offline(True)
    page.keyboard.press("5")
    x, y = middle(page)
    drag(page, (x - 60, y - 40), (x, y))
    marks = page.get_by_role("complementary", name="Marks")
    expect(marks.get_by_text("waits for the line, and goes when it is back")).to_be_visible()
    expect(marks_of(page)).to_have_count(before + 1)
    expect(page.get_by_role("banner").get_by_text("1 waits for the line")).to_be_visible()
    page.context.set_offline(False)
    expect(page.get_by_label("Text of the mark")).to_be_visible()
    expect(page.get_by_text("waits for the line")).to_have_count(0)
    expect(marks_of(page)).to_have_count(before + 1)
    page.reload()
    expect(marks_of(page)).to_have_count(before + 1)
    # Others ink what they drew on this sheet.
    page.get_by_role("region", name="Pencil").get_by_role("article").last.get_by_role("button").first.click()
    page.get_by_role("button", name="Take away").click()
    expect(marks_of(page)).to_have_count(before)


def test_a_station_chosen_while_the_line_is_down_says_so_and_comes_when_it_is_back(visit):
    page = visit("marit", "/")
    expect(page.get_by_role("link", name="Register")).to_be_visible()
    page.context.set_offline(True)
    page.get_by_role("link", name="Register").click()
    expect(page.get_by_role("alert").filter(has_text="No connection to Nod").first).to_be_visible()
    page.context.set_offline(False)
    page.get_by_role("button", name="Try again").first.click()
    expect(page.get_by_text("North linkspan, piles", exact=True).first).to_be_visible()


def test_marked_lines_are_marked_still_after_a_sheet_was_looked_at(visit):
    page = visit("marit", PLAN_AT)
    page.get_by_role("row").filter(has_text=PLAN).get_by_role("checkbox").check()
    page.get_by_text(PLAN, exact=True).first.click()
    page.get_by_role("link", name="Open the sheet", exact=True).click()
    expect(page.get_by_role("toolbar", name="Pens")).to_be_visible()
    page.go_back()
    expect(page.get_by_role("row").filter(has_text=PLAN).get_by_role("checkbox")).to_be_checked()


def test_two_in_one_cell_keep_mine_and_show_theirs(visit):
    mine, theirs = visit("marit", "/intake"), visit("rafael", "/intake")
    cell = re.compile("^Title of")
    mine.get_by_label(cell).nth(2).fill("My title")
    theirs.get_by_label(cell).nth(2).fill("Their title")
    theirs.get_by_label(cell).nth(2).press("Enter")
    kept = mine.get_by_label(cell).nth(2)
    expect(mine.get_by_text("Somebody has put")).to_be_visible()
    expect(mine.get_by_text("Their title", exact=True)).to_be_visible()
    expect(kept).to_have_value("My title")
    kept.press("Escape")
    expect(kept).to_have_value("Their title")
    kept.fill("My title after all")
    kept.press("Enter")
    expect(theirs.get_by_label(cell).nth(2)).to_have_value("My title after all")
