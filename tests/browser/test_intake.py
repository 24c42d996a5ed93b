"""The controller takes a consultant's issue of thirty sheets from the drop to the register."""

import json
import re
import zipfile
from datetime import date

import pytest
from playwright.sync_api import expect

from nod.demo.issue import COMPANY, Issue
from nod.demo.sheet_list import SHEETS
from nod.demo.story import Stage
from tests.browser.client import Person
from tests.browser.conftest import EMAILS
from tests.browser.test_screens import axe
from tests.world import pdf

pytestmark = pytest.mark.browser

STAGE = Stage(None, None, None, None, date(2027, 3, 9))
"""Draws the sheets as the demo drew them, so that the same again is the same again."""
KNOWN = {each.number: each for each in SHEETS if each.number.split("-")[1] == "PLS"}


@pytest.fixture
def page(own_nod, browser, browser_context_args):
    """Marit in Intake of a demo of her own; errors of the page fail the test."""
    own_nod.start()
    context = browser.new_context(**browser_context_args)
    page = context.new_page()
    trouble = []
    page.on("pageerror", lambda error: trouble.append(str(error)))
    page.goto(own_nod.url)
    page.get_by_role("button", name=re.compile("Marit Osei")).click()
    page.get_by_role("button", name="Sign in", exact=True).click()
    expect(page.get_by_role("heading", name="Marit Osei’s desk")).to_be_visible()
    yield page
    context.close()
    assert trouble == []


def _shown(page, name):
    page.get_by_role("group", name="Show").get_by_role("button", name=re.compile(f"^{name}")).click()


def _finding(page, name):
    chooser = page.get_by_label("Filter by finding")
    label = chooser.locator("option").filter(has_text=name).first.text_content()
    chooser.select_option(label=label)


def _panel(page):
    return page.get_by_role("complementary", name=re.compile("^About"))


def _rows(page):
    return page.get_by_role("grid", name="Files of the batch").get_by_role("row")


def test_an_issue_from_drop_to_register(page, own_nod, tmp_path):
    aside = tmp_path / "issue"
    aside.mkdir()
    files = Issue(aside, KNOWN, STAGE.spec_of).files()
    packed = tmp_path / "Issue 3.zip"
    with zipfile.ZipFile(packed, "w") as pack:
        for file in files:
            pack.write(file, f"Issue 3/{file.name}")

    page.goto(own_nod.url + "/intake")
    page.get_by_label("Files to take in").set_input_files(packed)
    expect(page.get_by_text("1 of 1 taken in")).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("^Register .*, hold"))).to_be_enabled(timeout=60_000)
    expect(page.get_by_role("group", name="Show").get_by_role("button", name="All")).to_have_text("All 30")
    axe(page)

    _mend_what_is_wrong(page)
    _look_at_a_silent_change(page)
    _send_back_two(page)
    _register(page)
    _agree(page, own_nod)


def _mend_what_is_wrong(page):
    """One finding at a time: its files, and the usual mend for all of them; a cell by hand; a column at once."""
    _finding(page, "Look-alike characters")
    page.get_by_role("button", name="Take the mend").click()
    expect(page.get_by_text("1 mended.")).to_be_visible()
    _finding(page, "Wrong number")
    page.get_by_role("button", name=re.compile("Take (all|the) ")).click()
    expect(page.get_by_text(re.compile("mended"))).to_be_visible()
    _shown(page, "All")
    cell = page.get_by_label("Revision of BFT-PLS-Z1-01-D-S-0211_P02_S3_Quay hall, gantry.pdf")
    cell.fill("P01")
    cell.press("Enter")
    expect(page.get_by_text("Revision of BFT-PLS-Z1-01-D-S-0211")).to_be_visible()
    page.get_by_role("button", name="Find and replace").click()
    page.get_by_label("Find", exact=True).fill("Boarding bridge, node")
    page.get_by_label("Replace by").fill("Boarding bridge, truss node")
    expect(page.get_by_text("6 cells change")).to_be_visible()
    page.get_by_role("button", name="Replace in 6").click()
    expect(page.get_by_label(re.compile("Title of Boarding bridge nodes, page 1"))).to_have_value(
        "Boarding bridge, truss node 1"
    )
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_label(re.compile("Title of Boarding bridge nodes, page 1"))).to_have_value(
        "Boarding bridge, node 1"
    )


def _look_at_a_silent_change(page):
    _finding(page, "Silent change")
    _rows(page).filter(has_text="Silent change").get_by_role("button").click()
    panel = _panel(page)
    panel.get_by_role("tab", name=re.compile("Changes")).click()
    picture = panel.get_by_role("img", name=re.compile("Place 1"))
    expect(picture).to_be_visible()
    picture.evaluate("image => image.decode()")
    expect(panel.get_by_text(re.compile("1 of [1-9]"))).to_be_visible()
    panel.get_by_role("tab", name="Witnesses").click()
    expect(panel.get_by_role("cell", name="P01").first).to_be_visible()
    axe(page)
    page.keyboard.press("Escape")


def _send_back_two(page):
    """The locked file and the one that is cut off go back; the mail says why."""
    for name in ("Encrypted", "Unreadable"):
        _finding(page, name)
        page.get_by_label(re.compile("^Mark BFT")).check()
    page.get_by_role("button", name="Send back").click()
    dialog = page.get_by_role("dialog", name="Send back")
    expect(dialog.get_by_label("To")).to_contain_text("Leilani Brandt")
    expect(dialog).to_contain_text("it opens only with a password")
    dialog.get_by_label("Note (optional)").fill("Please plot both again.")
    axe(page)
    dialog.get_by_role("button", name="Send back 2 files").click()
    expect(dialog).to_have_count(0)


def _register(page):
    _shown(page, "All")
    page.get_by_role("button", name=re.compile("^Register")).click()
    expect(page.get_by_text(re.compile(r"\d+ registered, 2 already there, \d+ held"))).to_be_visible()


def _agree(page, own_nod):
    """What Intake said, the register, the dossier and the trail say too; the mail has arrived."""
    outcome = page.get_by_role("status").filter(has_text="already there").text_content()
    registered, _, held = (int(each) for each in re.findall(r"\d+", outcome))
    marit = Person(own_nod.url, EMAILS["marit"])
    lines = marit("GET", f"/api/documents?project_id={marit.project_id}&words=boarding+node&limit=50")
    assert lines["total"] == 6
    today = f"/api/audit?project_id={marit.project_id}&from_on=2027-03-09&until_on=2027-03-09"
    assert len(marit("GET", f"{today}&kind=file_sent_back")["entries"]) == 2
    assert len(marit("GET", f"{today}&kind=revision_filed")["entries"]) == registered
    assert len(marit("GET", f"/api/intake/held?project_id={marit.project_id}")) == held
    page.goto(own_nod.url + "/register?words=0209")
    page.get_by_text("Quay hall, roof purlins").click()
    dossier = page.get_by_role("complementary", name="Dossier")
    expect(dossier).to_contain_text("BFT-PLS-Z1-01-D-S-0209")
    expect(dossier).to_contain_text("P01")
    page.goto(own_nod.url + "/post-room")
    expect(page.get_by_text(re.compile("2 files sent back")).first).to_be_visible()
    page.goto(own_nod.url + "/intake?held=true")
    expect(page.get_by_role("heading", name="Held")).to_be_visible()
    axe(page)


def test_a_reader_is_drawn_with_the_mouse_and_read_at_once(page, own_nod):
    """A company whose sheets nobody has a reader for: its zone is drawn, tried on all, kept, and reads the batch."""
    marit = Person(own_nod.url, EMAILS["marit"])
    readers = marit("GET", f"/api/intake/batches/{_first_batch(marit)}/readers")["readers"]
    for each in readers:
        body = {"batch_id": _first_batch(marit), "version": each["version"]}
        marit("POST", f"/api/intake/readers/{each['id']}/remove", body)
    page.goto(own_nod.url + "/intake")
    page.get_by_role("link", name="Read title blocks").click()
    expect(page.get_by_role("heading", name="Read title blocks")).to_be_visible()
    page.get_by_role("button", name="Add a zone for Revision").click()
    for label, value in (("Across, mm", "38"), ("Up or down, mm", "10"), ("Width, mm", "30"), ("Height, mm", "14")):
        page.get_by_label(label).fill(value)
    expect(page.get_by_text(re.compile(r"\d+ of \d+ pages read whole"))).to_be_visible()
    zone = page.get_by_role("button", name=re.compile("^Zone Revision"))
    zone.press("ArrowRight")
    expect(page.get_by_label("Across, mm")).to_have_value("37")
    zone.press("Shift+ArrowLeft")
    expect(page.get_by_label("Width, mm")).to_have_value("29")
    page.get_by_role("button", name="Lower right corner").click()
    page.get_by_role("button", name="Title", exact=True).click()
    box = page.get_by_test_id("sheet").bounding_box()
    page.mouse.move(box["x"] + box["width"] * 0.2, box["y"] + box["height"] * 0.3)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] * 0.9, box["y"] + box["height"] * 0.7, steps=4)
    page.mouse.up()
    expect(page.get_by_role("button", name=re.compile("^Zone Title"))).to_be_visible()
    axe(page)
    page.get_by_role("button", name=re.compile("^Keep and read")).click()
    expect(page.get_by_role("heading", name=f"From {COMPANY}")).to_be_visible()
    kept = marit("GET", f"/api/intake/batches/{_first_batch(marit)}/readers")["readers"]
    assert [[zone["field"] for zone in each["zones"]] for each in kept] == [["revision", "title"]]


def _first_batch(marit):
    return marit("GET", f"/api/intake/batches?project_id={marit.project_id}")[0]["id"]


def test_the_demo_issue_has_each_finding(own_nod):
    """Of the handbook's list, all that can be found before documents are checked out."""
    own_nod.start()
    marit = Person(own_nod.url, EMAILS["marit"])
    batch = marit("GET", f"/api/intake/batches/{_first_batch(marit)}")
    arrivals = [each for each in batch["arrivals"] if each["state"] == "waiting"]
    assert len(arrivals) == 30
    codes = {finding["code"] for each in arrivals for finding in each["findings"]}
    assert codes >= {
        "encrypted", "unreadable", "number_breaks_convention", "look_alikes", "silent_change", "older_than_current",
        "twice_in_batch", "revision_gap", "size_changed", "scale_changed", "title_changed", "new_number",
        "already_there", "only_saved_again", "witnesses_disagree", "changed_outside_clouds", "active_content",
        "not_a_sheet", "references_missing",
    }  # fmt: skip
    # A scan, read by OCR where tesseract is installed.
    assert codes & {"no_text", "read_by_ocr"}
    assert "fine" in {each["weight"] for each in arrivals}
    assert json.dumps(batch).count('"split"') == 1
    assert date.fromisoformat(batch["line"]["arrived_at"][:10]) == date(2027, 3, 9)


def test_files_of_one_revision_history_a_set_and_who_is_told(page, own_nod):
    page.get_by_role("link", name="Intake").click()
    number = "BFT-TRA-Z1-01-D-A-0901"
    files = {
        f"{number}_P01_S3_Kiosk plan.pdf": pdf("kiosk"),
        f"{number}_P01_S3_Kiosk plan.dwg": b"AC1032 the drawing itself",
        "BFT-TRA-Z1-01-D-A-0101_P01.01_S3_Early plan.pdf": pdf("early"),
    }
    page.get_by_label("Files to take in").set_input_files(
        [{"name": name, "mimeType": "application/octet-stream", "buffer": content} for name, content in files.items()]
    )
    expect(page.get_by_role("button", name="Register 2, hold 1")).to_be_enabled()
    # Proposed by the numbers, then said.
    expect(page.get_by_role("heading", name="From Tallow Reed Architects")).to_be_visible()
    expect(page.get_by_text("3 of 3 numbers are TRA’s.")).to_be_visible()
    page.get_by_role("button", name="Say from whom").click()
    whom = page.get_by_role("form", name="From whom")
    whom.get_by_label("Person").fill("Leilani Kahale")
    whom.get_by_label("How").select_option(label="from a drive")
    axe(page)
    whom.get_by_role("button", name="Keep").click()
    expect(page.get_by_text("Leilani Kahale, from a drive, 9 Mar")).to_be_visible()
    # The older one is meant as history.
    page.get_by_role("button", name=re.compile("^P01.01 is older than the latest")).click()
    page.get_by_role("button", name="File as history").click()
    expect(page.get_by_role("button", name="Not as history")).to_be_visible()
    # Into a set of its own, with a note, and telling a company.
    page.get_by_role("button", name="Set, note, tell …").click()
    extra = page.get_by_role("region", name="Registered with")
    extra.get_by_label("Into a drawing set").select_option(label="a new one …")
    expect(page.get_by_text("Give the new drawing set a name.").first).to_be_visible()
    expect(page.get_by_role("button", name="Register 3")).to_be_disabled()
    extra.get_by_label("Its name").fill("Kiosk")
    extra.get_by_label("Note, kept with each revision").fill("For the kiosk.")
    field = extra.get_by_role("combobox", name="Tell at once")
    field.fill("tallow")
    field.press("Enter")
    expect(extra.get_by_role("button", name="Without Tallow Reed Architects")).to_be_visible()
    axe(page)
    page.get_by_role("button", name="Register 3").click()
    expect(page.get_by_role("status").filter(has_text="3 registered, in Kiosk")).to_contain_text("2 people told")
    marit = Person(own_nod.url, EMAILS["marit"])
    lines = marit("GET", f"/api/documents?project_id={marit.project_id}&limit=100&words={number}")["lines"]
    assert [(each["file_kinds"], each["came_person"], each["sets"]) for each in lines] == [
        ("PDF, DWG", "Leilani Kahale", ["Kiosk"])
    ]
    saoirse = Person(own_nod.url, EMAILS["saoirse"])
    notices = saoirse("GET", f"/api/notices?project_id={saoirse.project_id}")["notices"]
    assert f"registered, {number} P01" in [each["words"] for each in notices]
    page.goto(f"{own_nod.url}/register?words=BFT-TRA-Z1-01-D-A")
    page.get_by_text("Kiosk plan", exact=True).click()
    page.get_by_role("tab", name=re.compile("^Revisions")).click()
    with page.expect_download() as download:
        page.get_by_role("button", name="Download DWG").click()
    assert download.value.suggested_filename == f"{number}_P01_S3.dwg"
    assert download.value.path().read_bytes() == files[f"{number}_P01_S3_Kiosk plan.dwg"]
    page.get_by_text("BFT-TRA-Z1-01-D-A-0101", exact=True).first.click()
    page.get_by_role("tab", name=re.compile("^Revisions")).click()
    expect(page.get_by_text("filed as history", exact=True)).to_be_visible()
