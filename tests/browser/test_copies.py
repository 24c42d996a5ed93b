"""Copies in folders: the site sees what was accepted and nothing else; whoever sees both sees one document."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.client import Person
from tests.browser.conftest import EMAILS
from tests.browser.test_in_force import HINGE, line_of, open_line
from tests.browser.test_reviews import give, open_review, send
from tests.browser.test_routes import name_for_step
from tests.browser.test_screens import axe

pytestmark = pytest.mark.browser

PILES = "South linkspan, pile schedule"
BOARD = "Luminaires"
SITE = "Issued to the site"


def as_it_is_now(page):
    """The page is told that the register changed, and changes when its reader wants it to."""
    page.get_by_role("button", name=re.compile("^Others changed the register")).click()


def test_the_site_sees_what_was_accepted_until_the_next_takes_its_place(visit):
    site = visit("kwabena", "/register")
    expect(site.get_by_text("2 documents").first).to_be_visible()
    row = line_of(site, HINGE)
    expect(row).to_contain_text("C01")
    expect(row.get_by_role("img", name="a copy in this folder")).to_be_visible()
    expect(row).not_to_contain_text("C02")
    dossier = open_line(site, HINGE)
    expect(dossier.get_by_text(re.compile("A copy, put into this folder .* by RV-[0-9]+, verdict A"))).to_be_visible()
    axe(site)
    dossier.get_by_role("link", name="Open the sheet", exact=True).click()
    expect(site.get_by_text(re.compile("A copy in this folder, by RV-[0-9]+, verdict A"))).to_be_visible()
    expect(site.get_by_label("Revision").locator("option")).to_have_text(["C01 in force"])
    axe(site)

    lead = visit("rafael", "/register")
    row = line_of(lead, HINGE)
    expect(row).to_contain_text("C02")
    dossier = open_line(lead, HINGE)
    also = dossier.get_by_role("link", name=f"C01 in {SITE}")
    expect(also).to_be_visible()
    expect(lead.get_by_role("row").filter(has_text=HINGE)).to_have_count(1)
    axe(lead)
    # What the site has is looked at by the lead, too, and is no document of its own in any list.
    also.click()
    expect(dossier.get_by_text(re.compile("^A copy, put into this folder"))).to_be_visible()

    register = line_of(site, HINGE)
    saoirse = visit("saoirse", "/reviews")
    panel = open_review(saoirse, "RV-0007")
    expect(panel.get_by_text(f"A: status A1, which may be built from; a copy goes into {SITE}")).to_be_visible()
    give(panel, "A")
    panel.get_by_role("button", name="Hand in verdicts").click()
    expect(panel.get_by_text(re.compile("^Closed"))).to_be_visible()
    as_it_is_now(site)
    expect(register).to_contain_text("C02")
    expect(register.get_by_title("the latest is in force")).to_have_text("C02")
    dossier = open_line(site, HINGE)
    dossier.get_by_role("tab", name=re.compile("^Revisions")).click()
    expect(dossier.get_by_text("superseded", exact=True)).to_be_visible()


def test_what_is_no_longer_in_force_is_told_to_the_site_and_taken_out_by_the_controller(visit):
    marit = visit("marit", "/register")
    dossier = open_line(marit, PILES)
    dossier.get_by_role("tab", name=re.compile("^Revisions")).click()
    dossier.get_by_role("button", name="Set its status").click()
    dialog = marit.get_by_role("dialog")
    dialog.get_by_label("New status").select_option("S4")
    dialog.get_by_label("Why").fill("Pile 7 is wrong")
    dialog.get_by_role("button", name="Set S4").click()
    expect(dialog).to_have_count(0)
    site = visit("kwabena", "/register")
    row = line_of(site, PILES)
    expect(row.get_by_title("nothing is in force")).to_be_attached()
    row.get_by_text(PILES).first.click()
    dossier = site.get_by_role("complementary").first
    expect(dossier.get_by_text("nothing yet")).to_be_visible()
    # A reader of one folder changes nothing there.
    expect(dossier.get_by_role("button", name="More acts")).to_have_count(0)
    expect(dossier.get_by_role("button", name="New revision")).to_have_count(0)

    # The controller takes it out, and puts it back.
    dossier = open_line(marit, PILES)
    dossier.get_by_role("link", name=f"C01 in {SITE}").click()
    dossier.get_by_role("button", name="More acts").click()
    marit.get_by_role("menuitem", name="Take it out of this folder …").click()
    dialog = marit.get_by_role("dialog")
    dialog.get_by_label("Why").fill("Not for the site any more")
    axe(marit)
    dialog.get_by_role("button", name="Take it out").click()
    expect(dossier.get_by_text("Not for the site any more")).to_be_visible()
    as_it_is_now(site)
    expect(site.get_by_role("row").filter(has_text=PILES)).to_have_count(0)
    # Found again from its document.
    dossier = open_line(marit, PILES)
    expect(dossier.get_by_text("; taken out")).to_be_visible()
    dossier.get_by_role("link", name=f"C01 in {SITE}").click()
    dossier.get_by_role("button", name="More acts").click()
    marit.get_by_role("menuitem", name="Put it back into this folder …").click()
    marit.get_by_role("dialog").get_by_role("button", name="Put it back").click()
    as_it_is_now(site)
    expect(site.get_by_role("row").filter(has_text=PILES)).to_have_count(1)


def test_a_lead_writes_a_route_that_copies_what_it_accepts_with_its_ink(visit, nod):
    rafael = visit("rafael", "/reviews/routes")
    rafael.get_by_role("button", name="A new route").click()
    form = rafael.get_by_role("form", name="A new route")
    form.get_by_label("Name of the route").fill("To the site")
    form.get_by_label("Step", exact=True).fill("Decide")
    form.get_by_label("Asks for").select_option(label="a verdict")
    name_for_step(form, 0, "saoirse")
    # What does not let a document be used has nothing to copy.
    expect(form.get_by_label("Copied after C into")).to_have_count(0)
    form.get_by_label("Copied after A into").select_option(label=SITE)
    form.get_by_label("with its ink after A").check()
    expect(form.get_by_text(f"A: a copy goes into {SITE}, with its ink.")).to_be_visible()
    axe(rafael)
    form.get_by_role("button", name="Make the route").click()
    expect(rafael.get_by_role("button", name=re.compile("^To the site"))).to_be_visible()

    number = send(visit("marit", "/register"), BOARD, "To the site", "Luminaires for the site")
    who = Person(nod.url, EMAILS["saoirse"])
    lines = who("GET", f"/api/documents?project_id={who.project_id}&words={BOARD}")["lines"]
    (line,) = [each for each in lines if BOARD in each["title"] and each["number"].startswith("BFT-")]
    drawn = who(
        "POST", f"/api/sheets/{line['revision_id']}/marks",
        {"marks": [{"page": 0, "kind": "pin", "points": [[200, 200]], "text": "Mind the new type"}]},
    )  # fmt: skip
    who("POST", f"/api/sheets/{line['revision_id']}/ink", {"marks": {drawn[0]["id"]: drawn[0]["version"]}})
    saoirse = visit("saoirse", "/reviews")
    panel = open_review(saoirse, number)
    give(panel, "A")
    panel.get_by_role("button", name="Hand in verdicts").click()
    expect(panel.get_by_text(re.compile("^Closed"))).to_be_visible()

    site = visit("kwabena", "/register", viewport={"width": 390, "height": 844})
    open_line(site, BOARD).get_by_role("link", name="Open the sheet", exact=True).click()
    site.get_by_role("button", name="Marks").click()
    expect(site.get_by_text("Mind the new type").first).to_be_visible()
