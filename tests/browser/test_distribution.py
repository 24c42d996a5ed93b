"""The distribution matrix: a lead says who gets what, a controller prepares what is due, another sends it."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.test_screens import axe

pytestmark = pytest.mark.browser


def test_the_matrix_says_what_is_due_and_it_is_prepared_and_sent(visit):
    rafael, marit = visit("rafael", "/setup/distribution"), visit("marit", "/transmittals")
    due = marit.get_by_role("region", name="Due by the matrix")
    expect(due.get_by_role("button", name="PLS 1 document to act on")).to_be_visible()
    grid = rafael.get_by_role("grid", name="Distribution matrix")
    marine = grid.get_by_role("button", name=re.compile("^GME .*; Architecture, drawing"))
    marine.focus()
    rafael.keyboard.press("k")
    expect(marine).to_have_accessible_name(re.compile(": to know$"))
    rafael.keyboard.press("ArrowDown")
    expect(grid.get_by_role("button", name=re.compile("^GME .*; Fire, drawing"))).to_be_focused()
    panel = rafael.get_by_role("complementary", name="Line of the matrix")
    expect(panel.get_by_role("listitem").filter(has_text="GME")).to_have_text("GME: 1 document due")
    axe(rafael)
    rafael.reload()
    expect(marine).to_have_accessible_name(re.compile(": to know$"))
    rafael.get_by_role("button", name="Save", exact=True).click()
    expect(rafael.get_by_text("The matrix is saved.")).to_be_visible()
    expect(due.get_by_role("button", name="GME 1 document to know")).to_be_visible()
    rafael.get_by_role("button", name="Undo").click()
    expect(due.get_by_role("button", name="GME 1 document to know")).to_have_count(0)
    expect(marine).to_have_accessible_name(re.compile(": nothing$"))

    due.get_by_role("button", name="PLS 1 document to act on").click()
    expect(due.get_by_text("Quay hall, roof plan")).to_be_visible()
    axe(marit)
    due.get_by_role("button", name="Prepare what is due to PLS").click()
    expect(due.get_by_role("button", name=re.compile("^PLS"))).to_have_count(0)
    visit("rafael", "/transmittals").get_by_role("region", name="Drafts").get_by_role(
        "link", name="1 document to Leilani Brandt"
    ).click()  # fmt: skip


def test_a_line_is_added_and_told_when_it_is_there_twice(visit):
    rafael = visit("rafael", "/setup/distribution")
    rafael.get_by_role("button", name="Add a line").click()
    panel = rafael.get_by_role("complementary", name="Line of the matrix")
    panel.get_by_label("Discipline").select_option("N")
    panel.get_by_label("Form").select_option("D")
    panel.get_by_label("Due", exact=True).select_option("released")
    expect(panel.get_by_role("alert")).to_contain_text("There are two lines for N D, when it comes in force.")
    panel.get_by_label("Status").select_option("A1")
    expect(panel.get_by_role("alert")).to_have_count(0)
    panel.get_by_role("button", name="Take the line away").click()
    expect(rafael.get_by_role("button", name="Save", exact=True)).to_have_attribute("aria-disabled", "true")
    # Who runs the project without leading it reads the matrix.
    marit = visit("marit", "/setup/distribution")
    expect(marit.get_by_text("Leads of the project change this.")).to_be_visible()
    expect(marit.get_by_role("button", name="Add a line")).to_have_count(0)


def test_a_line_sends_by_itself_once_it_names_a_status_and_a_day(visit, nod):
    rafael = visit("rafael", "/setup/distribution")
    rafael.get_by_role("button", name="Add a line").click()
    panel = rafael.get_by_role("complementary", name="Line of the matrix")
    expect(panel.get_by_label("Send it by itself")).to_be_disabled()
    expect(panel.get_by_text("Choose a status, and from which day on, before it may go by itself.")).to_be_visible()
    panel.get_by_label("Discipline").select_option("A")
    panel.get_by_label("Status").select_option("S2")
    panel.get_by_label("Due", exact=True).select_option("filed")
    day = panel.get_by_role("textbox", name="Only what is filed from")
    day.fill("1 jan 2027")
    day.press("Tab")
    panel.get_by_label("Send it by itself").check()
    grid = rafael.get_by_role("grid", name="Distribution matrix")
    grid.get_by_role("button", name=re.compile("^GME .*at S2, when it is filed")).click()
    axe(rafael)
    rafael.get_by_role("button", name="Save", exact=True).click()
    expect(rafael.get_by_text("The matrix is saved.")).to_be_visible()
    expect(panel.get_by_text(re.compile("^As soon as it is due it goes out by itself"))).to_be_visible()

    marit = visit("marit", "/register?words=quay+hall+roof+plan")
    marit.get_by_text("Quay hall, roof plan").first.click()
    marit.get_by_role("tab", name=re.compile("^Revisions")).click()
    marit.get_by_role("button", name="Set its status").first.click()
    dialog = marit.get_by_role("dialog")
    dialog.get_by_label("New status").select_option("S2")
    dialog.get_by_label("Why").fill("As agreed in the meeting")
    dialog.get_by_role("button", name=re.compile("^Give|^Set")).click()
    expect(dialog).to_have_count(0)
    marit.goto(nod.url + "/transmittals")
    line = marit.get_by_role("row").filter(has_text="Rafael").filter(has_text="1").first
    expect(line).to_be_visible()
    line.click()
    expect(marit.get_by_text("The distribution matrix sent it by itself.")).to_be_visible()
    expect(marit.get_by_text("“Sent by the distribution matrix of the project.”")).to_be_visible()
