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
