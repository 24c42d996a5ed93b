"""A project from nothing to its people: the steward begins it, its lead sets it up, a guest of the mail goes in."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.client import Person
from tests.browser.conftest import EMAILS
from tests.browser.frame import station
from tests.browser.on_sheet import open_sheet
from tests.browser.test_screens import axe
from tests.browser.test_the_day import read_mail

pytestmark = pytest.mark.browser

SIX = """Ida Quill <ida@palefire.example>
"Marsh, Odo" <odo@marsh.example>; Una Marsh <una@marsh.example>
Kofi Lund\tkofi@lund.example
ines@hollinbrook.example
"""


def section(page, name):
    page.get_by_role("navigation", name="Parts of the set-up").get_by_role("link", name=name, exact=True).click()


def begin(ines):
    """The steward makes the project from a starter and names its lead."""
    ines.get_by_role("button", name="Begin a project").click()
    form = ines.get_by_role("dialog", name="Begin a project")
    form.get_by_label("Number").fill("NQ")
    form.get_by_label("Name", exact=True).fill("North quay")
    form.get_by_label("Starter").select_option(label="Building, seven-field numbers")
    form.get_by_label("E-mail of its lead").fill(EMAILS["rafael"])
    expect(form.get_by_text("Rafael Nwosu, known to the workspace")).to_be_visible()
    form.get_by_role("button", name="Begin the project").click()
    expect(ines.get_by_text("led by Rafael Nwosu").last).to_be_visible()


def number(rafael):
    """A wrong number is explained by its field; the convention is changed, and the example with it."""
    section(rafael, "Numbers")
    expect(rafael.get_by_text("NQ-ABC-ZZ-XX-D-A-0001")).to_be_visible()
    rafael.get_by_label("Try a number").fill("NQ-HBC-ZZ-XX-D-Q-0001")
    expect(rafael.get_by_text("Field discipline is “Q”, which is not a code here.")).to_be_visible()
    rafael.get_by_role("button", name=re.compile("^discipline")).click()
    rafael.get_by_role("button", name="Add a code").click()
    rafael.get_by_label("Code of code 10").fill("q")
    rafael.get_by_label("Meaning of code Q").fill("Quays")
    expect(rafael.get_by_role("status").get_by_text("Fine")).to_be_visible()
    rafael.get_by_role("button", name="Save").click()
    expect(rafael.get_by_text("Saved", exact=True)).to_be_visible()


def days(rafael):
    section(rafael, "Working days")
    rafael.get_by_label("Begin with the calendar of").select_option(label="United Kingdom")
    rafael.get_by_label("Region").select_option("SCT")
    rafael.get_by_role("button", name="Add its holidays").click()
    expect(rafael.get_by_text(re.compile(r"\d+ found"))).to_be_visible()
    rafael.get_by_label("Saturday").check()
    rafael.get_by_role("button", name="Save").click()
    expect(rafael.get_by_text("Saved", exact=True)).to_be_visible()


def invite(rafael):
    """Six people at once, pasted and typed; a company that is new; one outside contact."""
    section(rafael, "People")
    rafael.get_by_role("button", name="Add people").click()
    form = rafael.get_by_role("dialog", name="Add people")
    entry = form.get_by_label("Names or e-mail addresses")
    entry.fill(SIX)
    entry.press("Enter")
    lines = form.get_by_role("list", name="People to add").get_by_role("listitem")
    expect(lines).to_have_count(5)
    entry.fill("leil")
    expect(form.get_by_role("option").filter(has_text="Leilani Brandt")).to_be_visible()
    entry.press("Enter")
    expect(lines).to_have_count(6)
    names = (("Palefire", "PFX"), ("Marsh and Daughters", "MAD"), ("Marsh and Daughters", "MAD"), ("Lund", "LUN"))
    for place, (name, code) in enumerate(names):
        line = lines.nth(place)
        line.get_by_label("Company").select_option("new company")
        line.get_by_label("Its name").fill(name)
        expect(line.get_by_label("Code")).not_to_have_value("")
        line.get_by_label("Code").fill(code)
    lines.nth(3).get_by_label("outside contact").check()
    lines.nth(1).get_by_label("Author").check()
    form.get_by_label("A few words").fill("Welcome to the north quay.")
    form.get_by_role("button", name="Add 6 and send 5 invitations").click()
    told = rafael.get_by_role("dialog", name="Added")
    expect(told).to_contain_text("Ida Quill: invited by mail")
    expect(told).to_contain_text("Ines Carvalho: can go in at once")
    expect(told).to_contain_text("Kofi Lund: an outside contact")
    told.get_by_role("button", name="Done").click()
    expect(rafael.get_by_role("row").filter(has_text="Una Marsh")).to_contain_text("invited")


def restrict(rafael):
    """Ida is to see the drawings of the structure and nothing else."""
    section(rafael, "Folders and access")
    cell = rafael.get_by_role("gridcell", name=re.compile("^Ida Quill, North quay:"))
    cell.click()
    rafael.keyboard.press("0")
    expect(rafael.get_by_text(re.compile(r"\d+ levels change for 1 person"))).to_be_visible()
    rafael.get_by_role("button", name="Save").click()
    expect(rafael.get_by_text(re.compile(r"\d+ levels changed"))).to_be_visible()
    rafael.get_by_role("gridcell", name=re.compile("^Ida Quill, Structure:")).click()
    rafael.keyboard.press("2")
    expect(rafael.get_by_text("1 level changes for 1 person")).to_be_visible()
    rafael.get_by_role("button", name="Save").click()
    expect(rafael.get_by_role("gridcell", name="Ida Quill, Structure: mark, set for them")).to_be_visible()


def accept(guest):
    """By the mailed link: a password, and in."""
    expect(guest.get_by_text("You have been added to NQ North quay")).to_be_visible()
    axe(guest)
    guest.get_by_label("Password, at least 12").fill("short")
    guest.get_by_label("The same again").fill("short")
    guest.get_by_role("button", name="Set the password and go in").click()
    expect(guest.get_by_role("alert")).to_contain_text("at least 12 characters")
    guest.get_by_label("Password, at least 12").fill("herring gulls at dawn")
    guest.get_by_label("The same again").fill("herring gulls at dawn")
    guest.get_by_role("button", name="Set the password and go in").click()
    expect(guest.get_by_role("heading", name="Ida Quill’s desk")).to_be_visible()


def test_a_project_is_set_up_and_somebody_goes_in_by_the_mailed_link(nod, visit):
    ines, rafael = visit("ines", "/workspace"), visit("rafael")
    begin(ines)
    expect(rafael.get_by_role("button", name=re.compile("Project BFT"))).to_be_visible()
    rafael.get_by_role("button", name=re.compile("Project BFT")).click()
    rafael.get_by_role("menuitem", name=re.compile("North quay")).click()
    station(rafael, "Set-up")
    number(rafael)
    days(rafael)
    invite(rafael)
    restrict(rafael)
    mail = read_mail(rafael, "Rafael Nwosu has added you to North quay", "ida@palefire.example")
    expect(mail).to_contain_text("Welcome to the north quay.")
    link = mail.get_by_role("link").get_attribute("href").removeprefix(nod.url)
    ida = visit(path=link)
    accept(ida)
    station(ida, "Register")
    expect(ida.get_by_text("The register is empty")).to_be_visible()
    shown = Person(nod.url, "ida@palefire.example", "herring gulls at dawn")
    folders = shown("GET", f"/api/folders?project_id={shown.project_id}")
    assert [(each["name"], each["level"]) for each in folders] == [("Structure", "mark")]
    again = visit(path=link)
    expect(again.get_by_role("alert")).to_contain_text("This link has been used")


def test_the_grid_is_worked_by_keyboard_and_undone(visit):
    page = visit("rafael", "/setup/access")
    first = page.get_by_role("gridcell", name=re.compile("^Anouk Ferreira, Brackwater Ferry Terminal"))
    first.focus()
    for key in ("ArrowDown", "ArrowDown", "ArrowDown", "ArrowDown", "Shift+ArrowDown", "Shift+ArrowRight"):
        page.keyboard.press(key)
    panel = page.get_by_role("complementary", name="Change of access")
    expect(panel.get_by_role("heading", level=2)).to_have_text("Anouk Ferreira, Junpei Mori")
    page.keyboard.press("3")
    expect(panel.get_by_text("4 levels change for 2 people.")).to_be_visible()
    axe(page)
    panel.get_by_role("button", name="Save").press("Enter")
    cell = page.get_by_role("gridcell", name="Junpei Mori, Building services: file, set for them")
    expect(cell).to_be_visible()
    page.get_by_role("button", name="Undo").press("Enter")
    expect(page.get_by_text("It is as it was.")).to_be_visible()
    expect(page.get_by_role("gridcell", name=re.compile("Junpei Mori, Building services: none"))).to_be_visible()


def test_two_leads_at_the_grid_the_second_keeps_the_selection(visit):
    rafael, ines = visit("rafael", "/setup/access"), visit("ines", "/setup/access")
    for page, who in ((rafael, "Dede Okonkwo"), (ines, "Leilani Brandt")):
        page.get_by_role("gridcell", name=re.compile(f"^{who}, Reports")).click()
        page.keyboard.press("3")
        expect(page.get_by_text("1 level changes for 1 person.")).to_be_visible()
    rafael.get_by_role("button", name="Save").click()
    expect(rafael.get_by_text("1 level changed.")).to_be_visible()
    told = ines.get_by_role("alert").filter(has_text="Somebody changed access")
    expect(told).to_contain_text("Dede Okonkwo on Reports: mark → file")
    expect(ines.get_by_role("complementary").get_by_role("heading", level=2)).to_have_text("Leilani Brandt")
    told.get_by_role("button", name="Save mine on top").click()
    expect(ines.get_by_text("1 level changed.")).to_be_visible()
    for page in (ines, rafael):
        page.get_by_role("button", name="Undo").click()
    expect(ines.get_by_text("It is as it was.")).to_be_visible()


def test_folders_are_made_renamed_moved_and_removed(visit):
    page = visit("rafael", "/setup/access")
    page.get_by_role("gridcell", name=re.compile("^Anouk Ferreira, Drawings")).click()
    row = page.get_by_role("row").filter(has_text="Reports").get_by_role("gridcell").first
    for _ in range(8):
        page.keyboard.press("ArrowDown")
    expect(row).to_be_focused()
    page.keyboard.press("Enter")
    panel = page.get_by_role("complementary", name="Folder")
    expect(panel.get_by_label("Make a folder in it")).to_be_focused()
    page.keyboard.type("Ground")
    page.keyboard.press("Enter")
    page.get_by_role("rowheader").get_by_role("button", name="Ground").click()
    panel.get_by_label("Name", exact=True).fill("a/b")
    panel.get_by_role("button", name="Rename").click()
    expect(panel.get_by_role("alert")).to_contain_text("cannot have '/' in it")
    panel.get_by_label("Name", exact=True).fill("Soil")
    panel.get_by_role("button", name="Rename").click()
    expect(panel.get_by_role("heading", name="Soil")).to_be_visible()
    panel.get_by_label("It is in").select_option(label="\u2003Schedules")
    panel.get_by_role("button", name="Move", exact=True).click()
    below = page.get_by_role("rowheader").filter(has_text=re.compile("^(Schedules|Soil|Specifications)$"))
    expect(below).to_have_text(["Schedules", "Soil", "Specifications"])
    expect(panel.get_by_role("heading", name="Soil")).to_be_visible()
    panel.get_by_role("button", name="Remove the empty folder").click()
    expect(page.get_by_role("rowheader").get_by_role("button", name="Soil")).to_have_count(0)


def test_seeing_as_another_is_marked_read_only_and_ends(visit):
    # So wide that every station is in the line.
    page = visit("rafael", "/setup/access", viewport={"width": 1600, "height": 800})
    page.get_by_label("See as").select_option(label="Junpei Mori")
    told = page.get_by_role("status").filter(has_text="You see this project as Junpei Mori")
    expect(told).to_be_visible()
    expect(page.get_by_text("North linkspan, piles")).to_be_visible()
    expect(page.get_by_text("Quay hall, ground floor plan")).to_have_count(0)
    expect(page.get_by_role("link", name="Set-up")).to_have_count(0)
    axe(page)
    page.get_by_text("North linkspan, piles").click()
    page.get_by_role("link", name="Open the sheet", exact=True).click()
    expect(page.get_by_role("heading", name="North linkspan, piles")).to_be_visible()
    expect(page.get_by_role("button", name="Cloud")).to_have_count(0)
    told.get_by_role("button", name="Back to my own eyes").click()
    expect(page.get_by_role("link", name="Set-up")).to_be_visible()
    station(page, "Audit")
    expect(page.get_by_role("row").filter(has_text="saw the project as another").first).to_contain_text("Rafael Nwosu")


SECTIONS = {
    "people": "outside contact",
    "companies": "Gannet Marine Engineering",
    "roles": "keep, everywhere",
    "project": "Time zone",
    "numbers": "project-originator-functional",
    "codes": "Verdicts, the mildest first",
    "days": "Working days of the week",
    "fields": "Typed fields that documents have",
    "notices": "A step of a review is with me",
    "starter": "Small works, short numbers",
}


@pytest.mark.parametrize("scheme", ["light", "dark"])
def test_axe_finds_nothing_in_the_set_up(visit, scheme):
    page = visit("rafael", "/setup", color_scheme=scheme)
    for path, words in SECTIONS.items():
        page.goto(page.url.split("/setup")[0] + f"/setup/{path}")
        expect(page.get_by_text(words).first).to_be_visible()
        axe(page, scheme)
    section(page, "People")
    page.get_by_text("Leilani Brandt").click()
    page.get_by_role("button", name="Remove from the project").click()
    expect(page.get_by_label("Who takes this?")).to_be_visible()
    axe(page, scheme)
    page.get_by_role("button", name="Add people").click()
    entry = page.get_by_label("Names or e-mail addresses")
    entry.fill("new@x.example")
    entry.press("Enter")
    expect(page.get_by_label("outside contact")).to_be_visible()
    axe(page, scheme)
    ines = visit("ines", "/workspace", color_scheme=scheme)
    expect(ines.get_by_text("led by")).not_to_have_count(0)
    for tab in ("Projects", "Companies", "People"):
        ines.get_by_role("tab", name=tab).click()
        axe(ines, scheme)
    ines.get_by_role("button", name="Change").first.click()
    axe(ines, scheme)


def test_a_forgotten_password_and_what_was_typed_stays(visit):
    page = visit(path="/sign-in")
    page.get_by_role("link", name="I have forgotten my password").click()
    # The sign-in has a field of the same name, and stays until the page is there.
    expect(page.get_by_role("heading", name="A new password")).to_be_visible()
    page.get_by_label("E-mail").fill("nobody@x.example")
    axe(page)
    page.get_by_role("button", name="Send me a link").click()
    expect(page.get_by_role("status")).to_contain_text("If there is a sign-in for nobody@x.example")


def test_the_set_up_keeps_what_was_typed_when_another_saves(visit):
    rafael, ines = visit("rafael", "/setup/fields"), visit("ines", "/setup/fields")
    for page, name in ((rafael, "Trade"), (ines, "Fire compartment")):
        page.get_by_role("button", name="Add a field").click()
        expect(page.get_by_label("Name", exact=True).last).to_be_focused()
        page.keyboard.type(name)
    rafael.get_by_role("button", name="Save").click()
    expect(rafael.get_by_text("Saved", exact=True)).to_be_visible()
    told = ines.get_by_role("alert").filter(has_text="Somebody saved the set-up")
    expect(told).to_be_visible()
    expect(ines.get_by_label("Name", exact=True).last).to_have_value("Fire compartment")
    told.get_by_role("button", name="Show theirs").click()
    expect(ines.get_by_label("Name", exact=True).last).to_have_value("Trade")
    ines.get_by_role("button", name="Take the field Trade away").click()
    ines.get_by_role("button", name="Save").click()
    expect(ines.get_by_text("Saved", exact=True)).to_be_visible()


def test_a_lead_gives_companies_their_ink_and_their_pens_follow(visit, sheet):
    rafael, tomasz = visit("rafael", "/setup/marks"), open_sheet(visit, "tomasz", sheet)
    rafael.get_by_label("The ink goes by").select_option("company")
    rafael.get_by_label("Ink of Tallow Reed Architects").select_option("blue")
    axe(rafael)
    rafael.get_by_role("button", name="Save").click()
    expect(rafael.get_by_text("Saved", exact=True)).to_be_visible()
    tomasz.reload()
    cloud = tomasz.get_by_role("toolbar", name="Pens").get_by_role("button", name="Cloud").locator("svg")
    expect(cloud).to_have_attribute("stroke", "#0b5fa5")
    tomasz.get_by_role("toolbar").get_by_role("button", name="Pen roll").click()
    expect(tomasz.get_by_text("In this project every company has its ink")).to_be_visible()
    rafael.get_by_label("The ink goes by").select_option("")
    # "Saved" may still stand there from the save before.
    with rafael.expect_response(lambda answer: answer.request.method != "GET" and answer.ok):
        rafael.get_by_role("button", name="Save").click()


def test_a_purpose_of_issue_asks_for_its_answer_and_is_not_for_all_statuses(visit):
    rafael = visit("rafael", "/setup/purposes")
    rafael.get_by_role("button", name="Add a purpose").click()
    words = rafael.get_by_label("Words of purpose 6")
    expect(words).to_be_focused()
    words.fill("For tender")
    rafael.get_by_label("Working days for an answer, For tender; empty for none").fill("5")
    statuses = rafael.get_by_role("combobox", name="Only at these statuses, For tender")
    statuses.fill("S4")
    statuses.press("Enter")
    axe(rafael)
    rafael.get_by_role("button", name="Save", exact=True).click()
    expect(rafael.get_by_role("button", name="Save", exact=True)).to_have_attribute("aria-disabled", "true")

    marit = visit("marit", "/transmittals/new")
    form = marit.get_by_role("form", name="A transmittal")
    form.get_by_label("Add a document").fill("quay hall, ground floor plan")
    form.get_by_role("button", name=re.compile("^Add BFT-TRA-Z1-00-D-A-0100")).first.click()
    form.get_by_label("Purpose of issue").select_option(label="For tender")
    # Five working days after Tuesday.
    expect(form.get_by_role("textbox", name="Answer wanted by")).to_have_value(re.compile("16 mar", re.IGNORECASE))
    expect(form.get_by_text("Status S3 is not for tender.")).to_be_visible()
    form.get_by_label("Purpose of issue").select_option(label="For record")
    expect(form.get_by_role("textbox", name="Answer wanted by")).to_have_value("")
