"""Submittals in lists: taken in from a spreadsheet, taken out again, under headings, kept as a view."""

import io
import re
from datetime import date
from urllib.error import HTTPError
from urllib.parse import parse_qs, urlsplit
from urllib.request import urlopen

import icalendar
import pytest
from openpyxl import Workbook, load_workbook
from playwright.sync_api import expect
from pypdf import PdfReader

from tests.browser.test_screens import axe

pytestmark = pytest.mark.browser


def book(path, *rows):
    made = Workbook()
    for row in rows:
        made.active.append(row)
    made.save(path)
    return path


def take_in(page, path, purpose=""):
    page.get_by_role("button", name="Take in a list").click()
    form = page.get_by_role("dialog", name="Take in a list of submittals")
    if purpose:
        form.get_by_label("What it is").select_option(label=purpose)
    form.get_by_label("List", exact=True).set_input_files(path)
    expect(form.get_by_role("status")).to_be_visible()
    return form


def test_a_log_is_taken_in_with_its_faults_told_and_a_schedule_moves_what_is_late(visit, tmp_path):
    marit = visit("marit", "/submittals")
    log = book(
        tmp_path / "log.xlsx",
        ["Log of the glazing"], [],
        ["No", "Title", "Type", "Spec section", "Responsible", "Required date", "Lead time"],
        ["PFG-0901", "Roof lights", "shop drawing", "08 44 13", "PFG", date(2027, 8, 2), "6 weeks"],
        ["PFG-0902", "Roof light glass", "sausage", "08 44 13", "PFG", date(2027, 8, 2), 30],
    )  # fmt: skip
    form = take_in(marit, log)
    expect(form.get_by_role("status")).to_contain_text("2 rows: 1 new, 0 changed, 0 as they are, 1 trouble.")
    trouble = form.get_by_role("table", name="What is wrong with the list").get_by_role("row").nth(1)
    expect(trouble).to_contain_text("C5")
    expect(trouble).to_contain_text("sausage")
    new = form.get_by_role("region", name="What would change").get_by_role("row").nth(1)
    expect(new).to_contain_text("PFG-0901")
    axe(marit)
    form.get_by_role("button", name="Keep 1 submittal").click()
    expect(form).to_have_count(0)
    marit.get_by_label("Number, title, section").fill("PFG-0901")
    line = marit.get_by_role("grid", name="Submittals").get_by_role("row").filter(has_text="Roof lights")
    expect(line).to_contain_text("planned")

    dates = book(
        tmp_path / "dates.xlsx", ["Activity", "Name", "Start"], ["A1040", "Roof lights", date(2027, 4, 1)],
        ["A2000", "Topping out", date(2027, 9, 1)],
    )  # fmt: skip
    form = take_in(marit, dates, "Days of the schedule")
    expect(form.get_by_role("status")).to_contain_text("1 changed, 0 as they are, 1 of no submittal, 0 troubles.")
    changed = form.get_by_role("region", name="What would change")
    expect(changed).to_contain_text("Of these, 0 are late now, 1 would be.")
    expect(changed).to_contain_text("1 Apr 2027")
    form.get_by_role("button", name="Keep 1 submittal").click()
    expect(line).to_contain_text("d late")
    line.click()
    panel = marit.get_by_role("complementary", name=re.compile("^Submittal|PFG-0901"))
    expect(panel).to_contain_text("A1040")
    expect(panel).to_contain_text("1 Apr 2027")


def test_what_is_no_list_is_told_and_nothing_is_kept(visit, tmp_path):
    marit = visit("marit", "/submittals")
    marit.get_by_role("button", name="Take in a list").click()
    form = marit.get_by_role("dialog", name="Take in a list of submittals")
    broken = tmp_path / "broken.xlsx"
    broken.write_bytes(b"PK\x03\x04 not a spreadsheet")
    form.get_by_label("List", exact=True).set_input_files(broken)
    expect(form.get_by_role("alert")).to_contain_text("not a spreadsheet")
    with marit.expect_download() as download:
        form.get_by_role("link", name="A spreadsheet to fill in").click()
    template = load_workbook(io.BytesIO(download.value.path().read_bytes()))
    assert template["Submittals"]["A1"].value == "Number"
    form.get_by_label("List", exact=True).set_input_files(download.value.path())
    expect(form.get_by_role("button", name=re.compile("^Keep"))).to_be_disabled()


def test_the_log_stands_under_headings_with_ones_own_columns_and_is_kept_as_a_view(visit):
    marit = visit("marit", "/submittals", viewport={"width": 1600, "height": 800})
    grid = marit.get_by_role("grid", name="Submittals")
    marit.get_by_label("Groups").select_option(label="by company")
    heading = grid.get_by_role("row").filter(has_text="GME Gannet Marine Engineering").first
    expect(heading).to_be_visible()
    lines = grid.get_by_role("row").filter(has_text=re.compile("^GME-"))
    marit.get_by_role("button", name="Columns", exact=True).click()
    form = marit.get_by_role("dialog", name="Columns")
    for head in ("Kind", "Since"):
        form.get_by_role("button", name=f"Leave {head} out").click()
    form.get_by_role("button", name="+ Milestone").click()
    form.get_by_role("button", name="Show these").click()
    expect(grid.get_by_role("columnheader", name="Milestone")).to_be_visible()
    expect(grid.get_by_role("columnheader", name="Kind")).to_have_count(0)
    many = lines.count()
    assert many
    heading.get_by_role("button").first.click()
    expect(lines).to_have_count(0)
    marit.get_by_role("button", name="Views", exact=True).click()
    marit.get_by_label("Keep this view as").fill("By company")
    marit.get_by_role("button", name="Keep the view").click()
    kept = parse_qs(urlsplit(marit.url).query)
    marit.goto(f"{marit.url.split('/submittals')[0]}/submittals")
    marit.get_by_role("button", name="Views", exact=True).click()
    marit.get_by_role("button", name="By company", exact=True).click()
    expect(heading).to_be_visible()
    expect(lines).to_have_count(0)
    expect(grid.get_by_role("columnheader", name="Milestone")).to_be_visible()
    assert parse_qs(urlsplit(marit.url).query) == kept


def test_it_is_printed_and_read_by_a_calendar_until_that_is_withdrawn(visit, nod):
    marit = visit("marit", "/submittals")
    with marit.expect_download() as download:
        marit.get_by_role("button", name="Take the list as PDF", exact=True).click()
    pages = PdfReader(download.value.path()).pages
    assert re.search(r"\d+ planned .* \d+ late", " ".join(pages[0].extract_text().split()))
    marit.get_by_role("button", name="Calendar", exact=True).click()
    form = marit.get_by_role("dialog", name="In my calendar")
    form.get_by_label("Whose submittals").select_option(label="all that I see")
    form.get_by_role("button", name="Make the address").click()
    address = form.locator("code")
    expect(address).to_contain_text("/api/calendar/")
    axe(marit)
    # A calendar signs in nowhere.
    read = urlopen(f"{nod.url}/api/calendar/{address.inner_text().rsplit('/', 1)[1]}")
    events = icalendar.Calendar.from_ical(read.read()).walk("VEVENT")
    assert any("required on site: GME-0001" in str(each["SUMMARY"]) for each in events)
    form.get_by_role("button", name="Withdraw the address").click()
    expect(form.get_by_role("button", name="Make the address")).to_be_visible()
    with pytest.raises(HTTPError):
        urlopen(read.url)
