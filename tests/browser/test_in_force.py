"""What is in force while a newer revision goes round, and the comment sheet, as the people concerned."""

import re
from pathlib import Path

import openpyxl
import pytest
from playwright.sync_api import expect

from tests.browser.client import Person
from tests.browser.conftest import EMAILS
from tests.browser.test_reviews import give, open_review, send
from tests.browser.test_screens import axe

pytestmark = pytest.mark.browser

HINGE = "South linkspan, landward hinge"


def line_of(page, words):
    page.goto(re.sub("/(reviews|register|desk|sheet).*", f"/register?words={words.replace(' ', '+')}", page.url))
    row = page.get_by_role("row").filter(has_text=words).first
    expect(row).to_be_visible()
    return row


def open_line(page, words):
    line_of(page, words).get_by_text(words).first.click()
    return page.get_by_role("complementary").first


def test_c02_is_reviewed_and_released_while_the_site_works_from_c01(visit, nod):
    site = visit("anouk", "/register")
    row = line_of(site, HINGE)
    expect(row).to_contain_text("C02")
    expect(row.get_by_title("C01 is in force; C02 is not released")).to_be_visible()
    marit = Person(nod.url, EMAILS["marit"])
    lines = marit("GET", f"/api/documents?project_id={marit.project_id}&limit=200")["lines"]
    latest = next(line for line in lines if line["title"] == HINGE)["revision_id"]
    site.goto(f"{nod.url}/p/BFT/sheet/{latest}")
    expect(site.get_by_role("status").filter(has_text="Not released. In force is C01.")).to_be_visible()
    site.get_by_role("button", name="Compare with C01 (c)").click()
    expect(site.get_by_role("complementary", name="Changed places")).to_be_visible()
    site.go_back()
    site.get_by_role("link", name="Open C01").click()
    expect(site.get_by_text("In force. The latest, C02, is not released.")).to_be_visible()

    saoirse = visit("saoirse", "/reviews")
    panel = open_review(saoirse, "RV-0007")
    expect(panel.get_by_text("A: status A1, which may be built from")).to_be_visible()
    give(panel, "A")
    panel.get_by_role("button", name="Hand in verdicts").click()
    expect(panel.get_by_text(re.compile("^Closed"))).to_be_visible()

    # The page of C01 learns of it by itself, and so does the register.
    site.reload()
    expect(site.get_by_text("Superseded. In force is C02.")).to_be_visible()
    row = line_of(site, HINGE)
    expect(row.get_by_title("the latest is in force")).to_have_text("C02")
    controller = visit("marit", "/post-room")
    expect(controller.get_by_text(re.compile("South linkspan, hinge again")).first).to_be_visible()


def test_a_controller_takes_a_release_back_and_gives_it_again(visit):
    """What follows is said before each button; nothing in force is said as such."""
    marit = visit("marit", "/register")
    dossier = open_line(marit, "South linkspan, pile schedule")
    dossier.get_by_role("tab", name=re.compile("^Revisions")).click()
    expect(dossier.get_by_text("in force", exact=True)).to_be_visible()
    dossier.get_by_role("button", name="Set its status").click()
    dialog = marit.get_by_role("dialog")
    dialog.get_by_label("New status").select_option("S4")
    expect(dialog.get_by_text("C01 is no longer in force, and nothing is.")).to_be_visible()
    dialog.get_by_role("button", name="Set S4").click()
    expect(dialog.get_by_role("alert")).to_contain_text("Say why")
    dialog.get_by_label("Why").fill("Pile 7 is wrong")
    axe(marit)
    dialog.get_by_role("button", name="Set S4").click()
    expect(dialog).to_have_count(0)
    expect(dossier.get_by_text("not released", exact=True)).to_be_visible()
    dossier.get_by_role("button", name="Set its status").click()
    dialog.get_by_label("New status").select_option("A1")
    expect(dialog.get_by_text("C01 comes in force.")).to_be_visible()
    dialog.get_by_role("button", name="Set A1").click()
    expect(dossier.get_by_text("in force", exact=True)).to_be_visible()
    # A reader has no such button.
    anouk = visit("anouk", "/register")
    dossier = open_line(anouk, "South linkspan, pile schedule")
    dossier.get_by_role("tab", name=re.compile("^Revisions")).click()
    expect(dossier.get_by_role("button", name="Download").first).to_be_visible()
    expect(dossier.get_by_role("button", name="Set its status")).to_have_count(0)


def test_a_comment_sheet_is_answered_outside_and_closed(visit, tmp_path):
    """A must stands in the way; the author answers in the sheet, the reviewer closes, and the verdict can be given."""
    marit = visit("marit", "/register")
    number = send(marit, "Luminaires", "Check and decide", "Luminaires, first")
    leilani, saoirse = visit("leilani", "/reviews"), visit("saoirse", "/reviews")
    panel = open_review(leilani, number)
    panel.get_by_role("button", name="Pick up").click()
    panel.get_by_label(re.compile("^Comment on")).fill("Type L3 is no longer made.")
    panel.get_by_label(re.compile("^How grave")).select_option("must")
    panel.get_by_role("button", name="Hand in comments").click()

    panel = open_review(saoirse, number)
    give(panel, "A")
    panel.get_by_role("button", name="Hand in verdicts").click()
    expect(panel.get_by_role("alert")).to_contain_text("must be done, and is open")

    sheet = open_review(marit, number)
    sheet.get_by_role("tab", name=re.compile("^Comments")).click()
    expect(sheet.get_by_text("1 must be done")).to_be_visible()
    axe(marit)
    with marit.expect_download() as taking:
        sheet.get_by_role("button", name="Take the sheet (XLSX)").click()
    path = tmp_path / "comments.xlsx"
    taking.value.save_as(path)
    book = openpyxl.load_workbook(path)
    heads = [cell.value for cell in book.active[1]]
    book.active.cell(2, heads.index("Response") + 1).value = "L3 becomes L5."
    book.active.cell(2, heads.index("Responded by") + 1).value = "Otto Brenner, outside"
    book.save(path)
    marit.set_input_files('input[type="file"]', path)
    expect(sheet.get_by_text("1 response taken in")).to_be_visible()
    expect(sheet.get_by_text("Otto Brenner, outside, taken in by Marit Osei")).to_be_visible()

    panel = open_review(leilani, number)
    panel.get_by_role("tab", name=re.compile("^Comments")).click()
    expect(panel.get_by_text("L3 becomes L5.")).to_be_visible()
    panel.get_by_role("button", name="Close it: comment 1").click()
    panel.get_by_label("A word with it").fill("Fine.")
    panel.get_by_role("button", name="Close the comment").click()
    expect(panel.get_by_text("Closed by Leilani Brandt")).to_be_visible()

    saoirse.get_by_role("button", name="Hand in verdicts").click()
    expect(saoirse.get_by_text(re.compile("^Closed")).first).to_be_visible()


def test_what_stands_in_the_way_is_left_out_with_one_click(visit):
    """And the contract's day is said beside those of the path."""
    marit = visit("marit", "/register")
    marit.goto(re.sub("/register.*", "/register?words=quay+hall+lighting", marit.url))
    marit.goto(re.sub("/register.*", "/register?words=lighting", marit.url))
    expect(marit.get_by_role("row").filter(has_text="BFT-").first).to_be_visible()
    marit.goto(re.sub("/register.*", "/register?words=GME", marit.url))
    for title in ("North linkspan, cross section", "North linkspan, piles", "North linkspan, general arrangement"):
        marit.get_by_role("row").filter(has_text=title).get_by_label("Mark this line").check()
    marit.get_by_role("button", name="Start a review").click()
    expect(marit.get_by_text("2 of them cannot go.")).to_be_visible()
    expect(marit.get_by_text("It is in RV-0011 already.").first).to_be_visible()
    expect(marit.get_by_text(re.compile("The contract wants an answer by"))).to_be_visible()
    expect(marit.get_by_role("alert").filter(has_text="Too late by the contract")).to_be_visible()
    marit.get_by_label("Name").fill("Fenders")
    dead = marit.get_by_role("button", name="Send 3 on the route")
    expect(dead).to_have_attribute("aria-disabled", "true")
    axe(marit)
    marit.get_by_role("button", name="Leave these out").click()
    expect(marit.get_by_role("button", name="Send 1 on the route")).to_be_enabled()
    marit.get_by_role("button", name="Put them back").click()
    expect(marit.get_by_text("2 of them cannot go.")).to_be_visible()


def test_what_is_late_is_found_and_reminded_of(visit):
    rafael = visit("rafael", "/reviews?late=true")
    expect(rafael.get_by_role("row").filter(has_text="Boarding bridge, truss and plan")).to_be_visible()
    expect(rafael.get_by_role("row").filter(has_text="RV-")).to_have_count(1)
    rafael.get_by_role("button", name="Show all").click()
    expect(rafael.get_by_role("row").filter(has_text="Quay hall lighting")).to_be_visible()
    with rafael.expect_download() as taken:
        rafael.get_by_role("button", name="Take the list as CSV").click()
    assert "Quay hall lighting" in Path(taken.value.path()).read_text(encoding="utf-8-sig")
    rafael.get_by_label("Whose").select_option("my_company")
    expect(rafael).to_have_url(re.compile("whose="))
    rafael.get_by_role("link", name="Late").click()
    expect(rafael.get_by_role("img", name=re.compile("Median 2"))).not_to_have_count(0)
    axe(rafael)
    rafael.get_by_role("button", name="Remind of 1 review").click()
    expect(rafael.get_by_text("Reminded of 1 step.")).to_be_visible()


def test_a_path_for_one_review_and_who_else_should_know(visit):
    """Begun from a dossier; a lead writes the path on the spot, and the site hears of it and of the end."""
    marit = visit("marit", "/register")
    dossier = open_line(marit, "Mooring layout")
    dossier.get_by_role("button", name="Start a review").click()
    marit.get_by_label("Route", exact=True).select_option(label="a path of its own")
    path = marit.get_by_role("region", name="The path of this review")
    path.get_by_label("Step", exact=True).fill("Look at the bollards")
    field = path.get_by_role("combobox", name="Whom: people, roles, companies")
    field.fill("Leilani")
    expect(path.get_by_role("listbox").get_by_role("option").first).to_be_visible()
    field.press("Enter")
    expect(path.get_by_text("1 person")).to_be_visible()
    others = marit.get_by_role("combobox", name=re.compile("^Who else should know"))
    others.fill("Dede")
    expect(marit.get_by_role("listbox").get_by_role("option").first).to_be_visible()
    others.press("Enter")
    marit.get_by_label("Name").fill("Bollards")
    axe(marit)
    marit.get_by_role("button", name="Send 1 on the route").click()
    panel = marit.get_by_role("complementary", name="Review")
    expect(panel.get_by_text(re.compile("a path of its own"))).to_be_visible()
    expect(panel.get_by_text("Leilani Brandt (PLS)")).to_be_visible()
    dede = visit("dede", "/")
    dede.get_by_role("button", name=re.compile("^Notices")).click()
    expect(dede.get_by_role("dialog").get_by_text(re.compile("started · RV-.*Bollards"))).to_be_visible()
