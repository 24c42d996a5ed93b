"""A register of many thousand documents: to its end, all of it marked and changed, and taken away."""

import io
import re
import shutil
import sqlite3

import pytest
from openpyxl import load_workbook
from playwright.sync_api import expect

from nod.store.ids import new_id
from tests.browser.conftest import Served

MANY = 6200
"""More than the server changes in one act, and more than it makes a list of while one waits."""
LAST, SENT_IN = "OHS-0013-0-01", 22
"""Files that came with submittals stand behind the drawings: the last of them, and how many they are."""


@pytest.fixture(scope="module")
def nod(untouched, tmp_path_factory):
    served = Served(tmp_path_factory.mktemp("large") / "data")
    shutil.copytree(untouched, served.data)
    fill(served.data / "nod.db")
    served.start()
    yield served
    served.stop()


def fill(path):
    """Lines like that of one sheet, straight into the table: the list is tried here, not the filing."""
    raw = sqlite3.connect(path)
    columns = [name for _, name, *_ in raw.execute("PRAGMA table_info(document)") if name != "seq"]
    (line,) = raw.execute(f"SELECT {', '.join(columns)} FROM document ORDER BY number LIMIT 1").fetchall()
    given = dict(zip(columns, line, strict=True))
    rows = []
    for place in range(MANY):
        number = f"BFT-ZZZ-Z1-{place // 1000:02d}-D-A-{place % 1000:04d}"
        one = {"id": new_id(), "number": number, "shapes": number.replace("-", ""), "title": f"Plan {place}"}
        rows.append(tuple((given | one)[name] for name in columns))
    raw.executemany(f"INSERT INTO document ({', '.join(columns)}) VALUES ({', '.join('?' * len(columns))})", rows)
    raw.commit()
    raw.close()


@pytest.fixture
def marit(visit):
    page = visit("marit", "/register")
    expect(page.get_by_role("grid", name="Documents")).to_be_visible()
    return page


def test_end_goes_to_the_end_and_home_back(marit):
    marit.get_by_role("row").nth(1).click()
    marit.keyboard.press("Escape")
    marit.get_by_role("grid", name="Documents").get_by_role("row").nth(1).focus()
    marit.keyboard.press("End")
    expect(marit.get_by_text(LAST)).to_be_visible()
    focused = marit.locator("[role=row]:focus")
    expect(focused).to_contain_text(LAST)
    for _ in range(3):
        marit.keyboard.press("PageUp")
    up = MANY - 61 + SENT_IN
    expect(marit.locator("[role=row]:focus")).to_contain_text(f"BFT-ZZZ-Z1-06-D-A-{up % 1000:04d}")
    marit.keyboard.press("Home")
    expect(marit.locator("[role=row]:focus")).to_contain_text("BFT-BHT")


def test_all_of_a_list_is_marked_changed_and_taken_back(marit, nod):
    marit.get_by_role("row").nth(1).get_by_role("checkbox").check()
    marit.get_by_role("button", name=re.compile("^Mark all [0-9,]+ of this list")).click()
    total = marit.get_by_role("status").filter(has_text=re.compile("documents$")).inner_text().split()[0]
    expect(marit.get_by_role("status").filter(has_text="marked")).to_have_text(f"{total} marked")
    marit.get_by_role("button", name="Change a column").click()
    dialog = marit.get_by_role("dialog")
    dialog.get_by_label("Column").select_option(label="Purpose")
    dialog.get_by_label("Value").fill("For the archive")
    dialog.get_by_role("button", name="Change", exact=True).click()
    expect(dialog.get_by_role("progressbar", name="Documents changed")).to_be_visible()
    # Some 6,000 in acts of 400, on a machine that may have other work.
    expect(marit.get_by_text(f"{total} documents changed in Purpose.")).to_be_visible(timeout=90_000)
    assert purposes(nod) == {"For the archive"}
    marit.get_by_role("button", name="Undo").click()
    expect(marit.get_by_text("documents changed in Purpose.")).to_have_count(0, timeout=90_000)
    assert "For the archive" not in purposes(nod)


def purposes(nod):
    with sqlite3.connect(nod.data / "nod.db") as raw:
        lines = "FROM document WHERE NOT withdrawn AND copy_of = ''"
        return {purpose for (purpose,) in raw.execute(f"SELECT DISTINCT purpose {lines}")}


def test_a_long_list_is_made_while_one_goes_on(marit, tmp_path):
    marit.get_by_role("button", name="Take away").click()
    marit.get_by_role("menuitem", name="This list as a spreadsheet (XLSX)").click()
    made = marit.get_by_role("status").filter(has_text="Register as XLSX")
    expect(made).to_be_visible()
    expect(made.get_by_role("button", name="Download")).to_be_visible()
    with marit.expect_download() as download:
        made.get_by_role("button", name="Download").click()
    assert download.value.suggested_filename == "BFT register 2027-03-09.xlsx"
    book = load_workbook(io.BytesIO(download.value.path().read_bytes()), read_only=True)
    assert sum(1 for _ in book.active.iter_rows()) > MANY
    # Found again in another page.
    marit.reload()
    marit.get_by_role("button", name="Take away").click()
    marit.get_by_role("menuitem", name="ZIPs and lists made for me").click()
    expect(marit.get_by_role("dialog").get_by_text("Register as XLSX")).to_be_visible()
