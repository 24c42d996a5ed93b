"""Who holds what, drafts that others send, a void one: as controllers, as a recipient, as somebody by a link."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.test_screens import axe

pytestmark = pytest.mark.browser

PROGRAMME = "BFT-HBC-ZZ-ZZ-S-A-0608"


def cell(page, company, number):
    return page.get_by_role("button", name=re.compile(f"^{company}, {number}:"))


def test_who_builds_from_an_old_revision_is_caught_up_by_another_controller(visit):
    """One controller finds who is behind and prepares; the project lead sends; the grid says so."""
    marit, rafael = visit("marit", "/transmittals"), visit("rafael", "/transmittals")
    marit.get_by_role("link", name="Holders").click()
    expect(cell(marit, "SGS", "BFT-GME-Z3-XX-D-N-0314")).to_have_accessible_name(re.compile("not acknowledged"))
    axe(marit)
    marit.get_by_role("button", name="Who builds from an old revision?").click()
    expect(marit.get_by_role("row").filter(has_text="BFT-")).to_have_count(1)
    expect(cell(marit, "SGS", PROGRAMME)).to_have_accessible_name(re.compile("behind: has P01, and not P02"))
    cell(marit, "SGS", PROGRAMME).focus()
    marit.keyboard.press("Space")
    expect(cell(marit, "SGS", PROGRAMME)).to_have_attribute("aria-pressed", "true")
    marit.keyboard.press("ArrowLeft")
    expect(cell(marit, "PLS", PROGRAMME)).to_be_focused()
    marit.get_by_role("button", name=re.compile("Mark the 3 behind")).click()
    expect(marit.get_by_text("3 cells marked, of 3 companies")).to_be_visible()
    marit.get_by_role("button", name="Prepare 3 transmittals").click()
    drafts = rafael.get_by_role("region", name="Drafts")
    expect(drafts.get_by_text("brings SGS up to date")).to_be_visible()
    axe(rafael)
    drafts.get_by_role("link", name=re.compile("Yusuf Haldane")).click()
    form = rafael.get_by_role("form", name="A transmittal")
    expect(form.get_by_text(re.compile("A draft of your company, brings SGS up to date"))).to_be_visible()
    form.get_by_label("Covering note").fill("In place of the programme that you have.")
    axe(rafael)
    form.get_by_role("button", name="Send to 1").click()
    panel = rafael.get_by_role("complementary", name="Transmittal")
    expect(panel.get_by_text("In place of the programme that you have.")).to_be_visible()
    marit.get_by_role("link", name="Holders").click()
    expect(cell(marit, "SGS", PROGRAMME)).to_have_accessible_name(re.compile("was sent P02, not acknowledged"))
    expect(cell(marit, "BHT", PROGRAMME)).to_have_accessible_name(re.compile("behind"))
    # Somebody else's company: its own column, and no marking.
    anouk = visit("anouk", "/transmittals/holders")
    expect(anouk.get_by_role("columnheader")).to_have_count(4)
    expect(anouk.get_by_text(re.compile(f"BHT, {PROGRAMME}: behind"))).to_have_count(1)
    expect(anouk.get_by_role("button", name=re.compile("Prepare"))).to_have_count(0)


def test_two_send_one_draft_and_the_second_is_told(visit):
    marit, rafael = visit("marit", "/transmittals/new"), visit("rafael", "/transmittals")
    form = marit.get_by_role("form", name="A transmittal")
    form.get_by_label("Add a document").fill("landward hinge")
    form.get_by_role("button", name=re.compile("^Add BFT-GME-Z3-XX-D-N-0314 C01, in force")).click()
    form.get_by_role("button", name=re.compile("^Add BFT-GME-Z3-XX-D-N-0314 C02, latest, not released")).click()
    form.get_by_role("button", name="SGS, all of the company").click()
    expect(form.get_by_role("alert")).to_contain_text("1 line with a reason")
    expect(form.get_by_text("Not released. In force is C01.")).to_be_visible()
    expect(form.get_by_text(re.compile("Yusuf Haldane has exactly this"))).to_be_visible()
    form.get_by_role("button", name="Leave these out").click()
    form.get_by_role("button", name="Keep as a draft").click()
    pages = []
    for page in (marit, rafael):
        page.get_by_role("region", name="Drafts").get_by_role("link", name=re.compile("Yusuf Haldane")).last.click()
        pages.append(page.get_by_role("form", name="A transmittal").get_by_role("button", name="Send to 1"))
    for send in pages:
        expect(send).to_be_enabled()
    pages[0].click()
    expect(marit.get_by_role("complementary", name="Transmittal")).to_be_visible()
    pages[1].click()
    expect(rafael.get_by_role("alert").filter(has_text="sent or discarded meanwhile")).to_be_visible()


def test_a_void_one_says_so_to_its_recipient_and_is_replaced(visit, nod):
    marit = visit("marit", "/transmittals")
    marit.get_by_text("HBC-T-0003").click()
    panel = marit.get_by_role("complementary", name="Transmittal")
    expect(panel.get_by_text(re.compile("Void since .* C02 of the hinge is still under review"))).to_be_visible()
    marit.goto(nod.url + "/post-room")
    marit.get_by_text(re.compile("HBC-T-0003: 1 document")).last.click()
    link = marit.get_by_role("article").get_by_role("link").get_attribute("href")
    guest = visit("", "/", viewport={"width": 390, "height": 844})
    guest.goto(nod.url + re.sub(r"^https?://[^/]+", "", link))
    guest.get_by_role("button", name="Open it").click()
    expect(guest.get_by_text("Do not work from it.")).to_be_visible()
    expect(guest.get_by_role("button", name=re.compile("Download"))).to_have_count(0)
    axe(guest)

    marit.goto(nod.url + "/transmittals")
    marit.get_by_text("HBC-T-0002").click()
    panel.get_by_role("button", name="Remind the silent").click()
    expect(panel.get_by_text("1 person reminded.")).to_be_visible()
    panel.get_by_role("button", name="Void it …").click()
    dialog = marit.get_by_role("dialog")
    axe(marit)
    dialog.get_by_label("Why it is void").fill("The wrong programme.")
    dialog.get_by_role("button", name="Void it").click()
    form = marit.get_by_role("form", name="A transmittal")
    expect(form.get_by_text(re.compile("in place of HBC-T-0002"))).to_be_visible()
    form.get_by_role("button", name=re.compile(f"^Leave {PROGRAMME} out")).click()
    form.get_by_role("button", name="Send to 2").click()
    expect(panel.get_by_text(re.compile("It came in place of"))).to_contain_text("HBC-T-0002")


def test_paper_is_entered_in_the_dossier_and_taken_back(visit):
    marit = visit("marit", "/register?words=pile+schedule")
    marit.get_by_text("South linkspan, pile schedule").first.click()
    marit.get_by_role("tab", name=re.compile("^Sent")).click()
    marit.get_by_role("button", name="Handed over on paper …").click()
    form = marit.get_by_role("form", name="Handed over on paper")
    form.get_by_label("Company").select_option(label="NFA Nettlecombe Fire Advice")
    form.get_by_label("Who took it").fill("Otto at the gate")
    form.get_by_label("Copies").fill("4")
    axe(marit)
    form.get_by_role("button", name="Enter it").click()
    holding = marit.get_by_role("list", name="Who has it").get_by_role("listitem").filter(has_text="NFA")
    expect(holding).to_contain_text("in step with C01")
    marit.get_by_text("All that was sent of it").click()
    line = marit.get_by_role("list", name="All that was sent of it").get_by_role("listitem").filter(has_text="Otto")
    expect(line).to_contain_text("4 on paper")
    line.get_by_role("button", name="Take it back").click()
    expect(holding).to_have_count(0)


def test_what_one_has_sent_goes_to_somebody_else_from_its_panel(visit):
    marit = visit("marit", "/transmittals")
    marit.get_by_text("HBC-T-0001").click()
    panel = marit.get_by_role("complementary", name="Transmittal")
    listed = panel.get_by_text(re.compile(r"^BFT-[A-Z0-9-]+$"))
    expect(listed.first).to_be_visible()
    numbers = set(listed.all_inner_texts())
    panel.get_by_role("button", name="Send these to somebody else").click()
    form = marit.get_by_role("form", name="A transmittal")
    for number in numbers:
        expect(form.get_by_role("button", name=re.compile(f"^Leave {number} out"))).to_be_visible()
    expect(form.get_by_role("button", name=re.compile("^Leave BFT-"))).to_have_count(len(numbers))
