"""Transmittals that come in: a list that is typed, and the bag of another Nod."""

import re
import zipfile

import pytest
from playwright.sync_api import expect

from tests.browser.test_screens import axe

pytestmark = pytest.mark.browser

BATCH = "Plinthwork Structures"


def bag_of(page, nod, number, target):
    """The ZIP of a transmittal that was sent."""
    page.goto(nod.url + "/transmittals")
    page.get_by_text(number, exact=True).click()
    with page.expect_download() as download:
        page.get_by_role("button", name=re.compile("^All of it, ZIP")).click()
    download.value.save_as(target)
    return target


def take_in(page, nod, *files):
    page.goto(nod.url + "/intake")
    page.get_by_label("Files to take in").set_input_files(files)


def test_a_receipt_says_what_is_missing(visit, nod):
    marit = visit("marit", "/intake")
    marit.get_by_role("navigation", name="Batches").get_by_text(BATCH).first.click()
    expect(marit.get_by_text("26 of 29 here, 2 missing, 1 in another revision, 2 files on no list")).to_be_visible()
    # Its number was wrong: once it is mended, the file is the one that was listed.
    number = marit.get_by_label(re.compile("^Number of BFT-PLS-Z1-01-D-X-0208"))
    number.fill("BFT-PLS-Z1-01-D-S-0208")
    number.press("Enter")
    expect(marit.get_by_text("27 of 29 here, 1 missing, 1 in another revision, 1 file on no list")).to_be_visible()
    marit.get_by_role("button", name="Look at PLS-T-0014").click()
    dialog = marit.get_by_role("dialog")
    expect(dialog.get_by_role("row").nth(1)).to_contain_text("came as P02")
    axe(marit)
    dialog.get_by_role("button", name="Send a receipt").click()
    expect(dialog.get_by_label("To", exact=True).locator("option:checked")).to_have_text("Leilani Brandt, PLS")
    expect(dialog.get_by_text("BFT-PLS-Z1-01-D-S-0217 P01: missing")).to_be_visible()
    dialog.get_by_label("Note (optional)").fill("Please send 0217.")
    axe(marit)
    dialog.get_by_role("button", name="Send the receipt").click()
    expect(dialog.get_by_text(re.compile("^A receipt went to Leilani Brandt"))).to_be_visible()
    expect(dialog.get_by_role("button", name="Change", exact=True)).to_be_disabled()
    marit.goto(nod.url + "/post-room")
    marit.get_by_text(re.compile("receipt for PLS-T-0014")).last.click()
    letter = marit.get_by_role("article")
    expect(letter).to_contain_text("Your transmittal PLS-T-0014 of 9 March 2027 came on 9 March 2027.")
    expect(letter).to_contain_text("Please send 0217.")
    marit.goto(nod.url + "/transmittals")
    marit.get_by_role("link", name="Came in").click()
    row = marit.get_by_role("row").filter(has_text="PLS-T-0014")
    expect(row).to_contain_text("27 of 29, 1 more")
    expect(row).to_contain_text("typed list")
    axe(marit)


def test_a_list_out_of_a_spreadsheet_is_tried_kept_changed_and_taken_away(visit, nod, tmp_path):
    marit = visit("marit", "/intake")
    marit.get_by_role("navigation", name="Batches").get_by_text("Tallow Reed Architects").first.click()
    marit.get_by_role("button", name="Enter their transmittal").click()
    form = marit.get_by_role("form", name="Their transmittal")
    table = tmp_path / "list.csv"
    table.write_text("Title,Drawing No.,Rev\nDoors,BFT-TRA-Z1-ZZ-D-A-0190,P01\nTotal,,\n")
    form.get_by_label("A spreadsheet with their list").set_input_files(table)
    expect(form.get_by_role("textbox", name="Their list")).to_have_value(re.compile("BFT-TRA-Z1-ZZ-D-A-0190"))
    form.get_by_role("button", name="Hold it against the files").click()
    expect(form.get_by_role("status")).to_contain_text("of 1 here")
    form.get_by_text("1 row left out").click()
    expect(form.get_by_text("Row 3, “Total”: no document’s number is in this row")).to_be_visible()
    form.get_by_label("Their number").fill("TRA-44")
    form.get_by_role("textbox", name="Of (optional)").fill("10 mar 2027")
    form.get_by_role("button", name="Keep", exact=True).click()
    expect(form.get_by_text("The day of the transmittal is still to come.")).to_be_visible()
    form.get_by_role("textbox", name="Of (optional)").fill("8 mar 2027")
    form.get_by_role("button", name="Keep", exact=True).click()
    expect(form).to_have_count(0)
    expect(marit.get_by_text(re.compile("^With TRA-44 of 8 Mar 2027"))).to_be_visible()
    marit.get_by_role("button", name="Look at TRA-44").click()
    marit.get_by_role("dialog").get_by_role("button", name="Change", exact=True).click()
    form.get_by_label("Their number").fill("TRA-45")
    form.get_by_role("button", name="Keep", exact=True).click()
    marit.get_by_role("button", name="Look at TRA-45").click()
    marit.get_by_role("dialog").get_by_role("button", name="Take it away").click()
    expect(marit.get_by_role("button", name="Enter their transmittal")).to_be_visible()


def test_the_bag_of_another_nod_says_who_sent_it_and_is_proven(visit, nod, tmp_path):
    marit = visit("marit", "/transmittals")
    bag = bag_of(marit, nod, "HBC-T-0001", tmp_path / "HBC-T-0001.zip")
    take_in(marit, nod, bag)
    expect(marit.get_by_role("heading", name="From Hollinbrook Contracting")).to_be_visible()
    expect(marit.get_by_text(re.compile("^With HBC-T-0001 of 1 Mar 2027: 3 of 3 here, proven"))).to_be_visible()
    marit.get_by_role("button", name="Look at HBC-T-0001").click()
    dialog = marit.get_by_role("dialog")
    expect(dialog.get_by_text("Its files are those that were sent, and its sending is proven.")).to_be_visible()
    expect(dialog.get_by_text(re.compile("It is the first with this key"))).to_be_visible()
    axe(marit)
    # One file exchanged on its way.
    forged = tmp_path / "forged.zip"
    with zipfile.ZipFile(bag) as old, zipfile.ZipFile(forged, "w") as new:
        for place, name in enumerate(old.namelist()):
            new.writestr(name, old.read(name) + (b" " if place == 2 else b""))
    take_in(marit, nod, forged)
    expect(marit.get_by_text(re.compile("not as it was sent"))).to_be_visible()
    marit.get_by_role("button", name="Look at HBC-T-0001").click()
    expect(dialog.get_by_text("It is not as it was sent, or not proven.")).to_be_visible()
    expect(dialog.get_by_text(re.compile("is not what was sent: its SHA-256 is another"))).to_be_visible()
