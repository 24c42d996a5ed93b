"""A session among several people at once: made, gone through together, closed; its record in other programs."""

import io
import re
import subprocess
import zipfile

import pytest
from openpyxl import load_workbook
from playwright.sync_api import expect
from pypdf import PdfReader

from tests.browser.client import Person
from tests.browser.conftest import EMAILS
from tests.browser.frame import station
from tests.browser.on_sheet import drag, draw_with_words, middle, until
from tests.browser.test_screens import axe

pytestmark = pytest.mark.browser

NAME = "Foundations against drains"


def make(page, *people):
    """From two marked lines of the register; `people` are names with what they may do."""
    for title in ("Quay hall, frame on line A", "Quay hall, frame on line 1"):
        page.get_by_role("row").filter(has_text=title).get_by_label("Mark this line").check()
    page.get_by_role("button", name="Make a session").click()
    page.get_by_label("Name", exact=True).fill(NAME)
    for field, who in people:
        page.get_by_role("combobox", name=field, exact=True).fill(who)
        page.get_by_role("option").first.click()


def go_in(page):
    """From the station, as whoever is invited."""
    station(page, "Sessions")
    page.get_by_role("grid", name="Sessions").get_by_text(NAME).first.click()
    page.get_by_role("button", name="Go in").click()
    expect(page.get_by_role("region", name=re.compile("^Session S-"))).to_be_visible()
    expect(page.get_by_role("toolbar", name="Pens")).to_be_visible()


def ready(page):
    """The pens and the marks are there, and it is known whom ink is for."""
    expect(page.get_by_role("complementary", name="Marks")).to_have_attribute("aria-busy", "false")
    expect(page.get_by_role("toolbar", name="Pens").get_by_role("button", name="Cloud")).to_be_visible()
    expect(page.get_by_role("toolbar", name="Pens").get_by_role("button", name="In ink")).to_be_visible()


def place(page):
    """A pin in the middle, without words."""
    ready(page)
    for key in ("2", "Enter"):
        page.keyboard.press(key)


def pin(page, words):
    """Draws a pin in the middle of the sheet, and says something with it."""
    ready(page)
    draw_with_words(page, "2", words)
    for _ in range(2):
        page.keyboard.press("Escape")


@pytest.fixture
def room(nod, visit):
    """The host, a member who may mark, one who may answer, and somebody who is not invited."""
    marit = visit("marit", "/p/BFT/register?words=frame+on+line")
    make(marit, ("May mark", "Saoirse"), ("May answer and set states", "Kwabena"))
    expect(
        marit.get_by_text("Kwabena Lindqvist (HBC) will see 2 sheets that they could not see otherwise")
    ).to_be_visible()
    marit.get_by_role("button", name="Make and open it").click()
    expect(marit.get_by_role("heading", name=re.compile(NAME))).to_be_visible()
    marit.get_by_role("button", name="Go in").click()
    expect(marit.get_by_role("toolbar", name="Pens")).to_be_visible()
    session = re.search("session=([a-z0-9]{16})", marit.url)[1]
    yield marit
    # Its sheets are for the next one again.
    host = Person(nod.url, EMAILS["marit"])
    shown = host("GET", f"/api/sessions/{session}")
    if shown["line"]["state"] == "open":
        host("POST", f"/api/sessions/{session}/close", {"version": shown["version"]})


def test_several_people_go_through_the_sheets_together(nod, visit, room, tmp_path):
    marit = room
    saoirse, kwabena, anouk = visit("saoirse"), visit("kwabena"), visit("anouk")
    go_in(saoirse)
    go_in(kwabena)
    # Each sees who else is here.
    expect(marit.get_by_role("button", name=re.compile("Saoirse Tanaka, on this sheet"))).to_be_visible()
    expect(kwabena.get_by_role("button", name=re.compile("Marit Osei, on this sheet"))).to_be_visible()
    expect(marit.get_by_test_id("looks")).to_have_count(2)
    # Whoever may answer has no pens; ink of others is there at once, pencil is not.
    expect(kwabena.get_by_role("toolbar", name="Pens").get_by_role("button", name="Cloud")).to_have_count(0)
    pin(saoirse, "The drain runs through this footing")
    for page in (marit, kwabena):
        expect(page.get_by_role("region", name="Ink").get_by_text("The drain runs through")).to_be_visible()
    saoirse.keyboard.press("p")
    expect(saoirse.get_by_role("button", name="In pencil")).to_be_visible()
    draw_with_words(saoirse, "2", "Not sure of this")
    saoirse.keyboard.press("Escape")
    saoirse.keyboard.press("Escape")
    kwabena.get_by_role("region", name="Ink").get_by_text("The drain runs through").click()
    kwabena.get_by_role("textbox", name="Reply").fill("It is already in the ground there.")
    kwabena.get_by_role("button", name="Reply").click()
    expect(saoirse.get_by_text("It is already in the ground there.").first).to_be_visible()
    expect(marit.get_by_text("Not sure of this")).to_have_count(0)
    # Following goes from sheet to sheet, until one moves oneself.
    marit.get_by_role("button", name=re.compile("^ST TRA")).click()
    marit.get_by_role("menuitem", name="Follow them").click()
    expect(marit.get_by_text("You follow Saoirse Tanaka")).to_be_visible()
    before = re.search("/sheet/([a-z0-9]+)", marit.url)[1]
    saoirse.keyboard.press(".")
    until(marit, lambda: re.search("/sheet/([a-z0-9]+)", marit.url)[1] != before)
    expect(marit.get_by_role("navigation", name="Sheets of the session")).to_be_visible()
    marit.mouse.click(*middle(marit))
    expect(marit.get_by_text("You follow Saoirse Tanaka")).to_have_count(0)
    # The host calls all to a place.
    marit.get_by_role("button", name="Call all here").click()
    kwabena.get_by_role("alert").get_by_role("button", name="Go there").click()
    until(kwabena, lambda: re.search("/sheet/([a-z0-9]+)", kwabena.url)[1] != before)
    # What happened can be read back, and leads there.
    kwabena.get_by_role("button", name="What happened").click()
    kwabena.get_by_role("complementary", name="What happened").get_by_text("The drain runs through").first.click()
    until(kwabena, lambda: re.search("/sheet/([a-z0-9]+)", kwabena.url)[1] == before)
    # It is not there for who is not invited.
    session = re.search("session=([a-z0-9]+)", marit.url)[1]
    anouk.goto(f"{nod.url}/p/BFT/sessions")
    expect(anouk.get_by_role("grid", name="Sessions")).to_be_visible()
    expect(anouk.get_by_text(NAME)).to_have_count(0)
    anouk.goto(f"{nod.url}/p/BFT/sessions/{session}")
    expect(anouk.get_by_text("There is nothing here under this address")).to_be_visible()
    close_and_read(nod, marit, kwabena, tmp_path)


def give_link(page):
    """The address of a link for guests, from the session's panel."""
    page.get_by_role("region", name=re.compile("^Session S-")).get_by_role("link", name="Leave").click()
    page.get_by_role("tab", name=re.compile("^People")).click()
    page.get_by_role("button", name="Give a link").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("button", name="Give the link").click()
    address = dialog.get_by_text(re.compile("/l/")).text_content()
    page.keyboard.press("Escape")
    return address


def test_a_guest_on_a_tablet_comes_by_a_link(nod, visit, room):
    marit = room
    token = give_link(marit).rpartition("/")[2]
    guest = visit(path=f"/l/{token}", viewport={"width": 820, "height": 1180})
    guest.get_by_label("Your name").fill("Otto Brenner")
    guest.get_by_role("button", name="Open it").click()
    expect(guest.get_by_text("You are Otto Brenner, guest of HBC")).to_be_visible()
    expect(guest.get_by_role("status").filter(has_text="Live")).to_be_visible()
    axe(guest)
    saoirse = visit("saoirse")
    go_in(saoirse)
    expect(saoirse.get_by_role("button", name=re.compile("Otto Brenner, on this sheet"))).to_be_visible()
    # What is inked is there at once, both ways; what is in pencil is not.
    pin(saoirse, "Is the anchor plate here?")
    expect(guest.get_by_text("Is the anchor plate here?")).to_be_visible()
    guest.get_by_role("button", name="Cloud").click()
    x, y = middle(guest)
    drag(guest, (x - 80, y - 40), (x + 60, y + 50))
    guest.get_by_role("dialog").get_by_label("Text").fill("Bolts are too short here")
    guest.get_by_role("button", name="Put it on the sheet").click()
    expect(saoirse.get_by_role("region", name="Ink").get_by_text("Bolts are too short here")).to_be_visible()
    guest.get_by_text("Is the anchor plate here?").click()
    guest.get_by_label("Your answer").fill("Yes, 40 mm off.")
    guest.get_by_role("button", name="Answer").click()
    expect(saoirse.get_by_text("Yes, 40 mm off.").first).to_be_visible()
    guest.get_by_label("It is").select_option("agreed")
    axe(guest)
    # What is drawn while the line is down goes when it is back, also after the page was loaded anew.
    broken = re.compile("/api/guest/session/sheets/.*/marks$")
    guest.route(broken, lambda route: route.abort() if route.request.method == "POST" else route.fallback())
    guest.get_by_role("button", name="Arrow").click()
    drag(guest, (x - 120, y + 90), (x + 20, y + 120))
    guest.get_by_role("dialog").get_by_label("Text").fill("And here")
    guest.get_by_role("button", name="Put it on the sheet").click()
    waits = guest.get_by_role("status").filter(has_text="Waiting for the line: 1 to send")
    expect(waits).to_be_visible()
    expect(guest.get_by_role("region", name="Marks").get_by_text("And here")).to_be_visible()
    guest.reload()
    expect(waits).to_be_visible()
    # A request on its way through the route would hang there.
    expect(guest.get_by_role("region", name="Marks").get_by_text("Bolts are too short here")).to_be_visible()
    guest.unroute(broken)
    expect(guest.get_by_role("status").filter(has_text="Live")).to_be_visible()
    ink = saoirse.get_by_role("region", name="Ink").get_by_text("And here")
    expect(ink).to_have_count(1)
    expect(guest.get_by_role("region", name="Marks").get_by_text("And here")).to_have_count(1)
    # There is nothing else for them, and when it closes, no more of this.
    guest.get_by_role("button", name="Next").click()
    expect(guest.get_by_text("Nobody has marked this sheet yet.")).to_be_visible()
    marit.get_by_role("tab", name="Now").click()
    marit.get_by_role("button", name="Close the session").click()
    marit.get_by_role("dialog").get_by_role("button", name="Close the session").click()
    expect(guest.get_by_text(re.compile("The session has closed"))).to_be_visible()


def send_record(marit):
    """With its sheets, to those who took part, in one act."""
    marit.get_by_role("region", name="The record").get_by_role("button", name="Send it out").click()
    form = marit.get_by_role("form", name="A transmittal")
    expect(form.get_by_text(re.compile(f"The record of S-[0-9]+ {NAME}"))).to_be_visible()
    form.get_by_role("button", name="Send to 2").click()
    panel = marit.get_by_role("complementary", name="Transmittal")
    expect(panel.get_by_text("with a record of the session")).to_be_visible()


def close_and_read(nod, marit, kwabena, tmp_path):
    marit.get_by_role("region", name=re.compile("^Session S-")).get_by_role("link", name="Leave").click()
    marit.get_by_role("button", name="Close the session").click()
    dialog = marit.get_by_role("dialog")
    expect(dialog.get_by_text("Saoirse Tanaka (TRA)")).to_be_visible()
    dialog.get_by_label("The 1 open mark").select_option("agreed")
    dialog.get_by_role("button", name="Close the session").click()
    # Whoever was let in is let out again.
    expect(kwabena.get_by_text(re.compile("closed, |There is nothing here")).first).to_be_visible()
    record = marit.get_by_role("region", name="The record")
    with marit.expect_download() as taken:
        record.get_by_role("button", name=re.compile("Download, ZIP")).click()
    path = tmp_path / "record.zip"
    taken.value.save_as(path)
    with zipfile.ZipFile(path) as archive:
        assert archive.testzip() is None
        names = archive.namelist()
        pdfs = {name: archive.read(name) for name in names if name.endswith(".pdf")}
        (book,) = (archive.read(name) for name in names if name.endswith(".xlsx"))
    assert len(pdfs) == 2
    said = [
        str(note.get_object().get("/Contents", ""))
        for content in pdfs.values()
        for page in PdfReader(io.BytesIO(content)).pages
        for note in page.get("/Annots", [])
    ]
    assert "The drain runs through this footing" in said
    assert "It is already in the ground there." in said
    assert "Not sure of this" not in said
    for name, content in pdfs.items():
        sheet = tmp_path / name.rpartition("/")[2]
        sheet.write_bytes(content)
        subprocess.run(["pdftotext", sheet, "-"], check=True, capture_output=True)
    workbook = load_workbook(io.BytesIO(book), read_only=True)
    people = {row[0] for row in workbook["People"].iter_rows(min_row=2, values_only=True)}
    assert people == {"Marit Osei", "Saoirse Tanaka", "Kwabena Lindqvist"}
    marks = [row for row in workbook["Marks"].iter_rows(min_row=2, values_only=True)]
    assert len(marks) == 1
    assert "agreed" in marks[0]
    send_record(marit)
    verified = nod.verify("--tables")
    assert verified.returncode == 0, verified.stdout


def test_what_is_drawn_while_the_line_is_down_is_there_once_also_over_a_reload(visit, room):
    marit, saoirse = room, visit("saoirse")
    go_in(saoirse)
    saoirse.on("dialog", lambda dialog: dialog.accept())
    drawn = re.compile("/api/sessions/.*/marks$")
    # The answer is lost, though what was asked for is done: sent again, it is not done twice.
    lost = []

    def lose(route):
        if not lost:
            lost.append(route.fetch())
        route.abort()

    before = marit.locator("svg [data-mark]").count()
    saoirse.route(drawn, lose)
    place(saoirse)
    waits = saoirse.get_by_role("banner").get_by_text("1 waits for the line")
    expect(waits).to_be_visible()
    expect(marit.locator("svg [data-mark]")).to_have_count(before + 1)
    saoirse.reload()
    expect(saoirse.get_by_role("toolbar", name="Pens")).to_be_visible()
    expect(waits).to_be_visible()
    expect(saoirse.get_by_text("waits for the line, and goes when it is back")).to_be_visible()
    saoirse.unroute(drawn)
    expect(waits).to_have_count(0)
    expect(saoirse.locator("article[data-of^=waiting]")).to_have_count(0)
    expect(marit.locator("svg [data-mark]")).to_have_count(before + 1)
    expect(saoirse.get_by_role("region", name="Ink").get_by_role("article")).to_have_count(before + 1)


def test_an_answer_goes_when_the_line_is_back_and_its_field_is_empty_then(visit, room):
    marit, saoirse = room, visit("saoirse")
    pin(marit, "Which drain is this?")
    go_in(saoirse)
    saoirse.on("dialog", lambda dialog: dialog.accept())
    saoirse.get_by_role("region", name="Ink").get_by_text("Which drain is this?").click()
    said = re.compile("/api/marks/.*/replies$")
    saoirse.route(said, lambda route: route.abort())
    field = saoirse.get_by_role("textbox", name="Reply")
    field.fill("The one to the quay.")
    saoirse.get_by_role("button", name="Reply", exact=True).click()
    waits = saoirse.get_by_role("banner").get_by_text("1 waits for the line")
    expect(waits).to_be_visible()
    saoirse.reload()
    expect(waits).to_be_visible()
    saoirse.get_by_role("region", name="Ink").get_by_text("Which drain is this?").click()
    expect(field).to_have_value("The one to the quay.")
    saoirse.unroute(said)
    expect(waits).to_have_count(0)
    expect(field).to_have_value("")
    marit.get_by_role("region", name="Ink").get_by_text("Which drain is this?").click()
    expect(marit.get_by_text("The one to the quay.")).to_have_count(1)


def test_one_sees_where_all_look_or_one_alone_or_nobody(visit, room):
    marit, saoirse, kwabena = room, visit("saoirse"), visit("kwabena")
    go_in(saoirse)
    go_in(kwabena)
    looks = marit.get_by_test_id("looks")
    expect(looks).to_have_count(2)
    axe(marit)
    marit.get_by_role("button", name=re.compile("^ST TRA")).click()
    marit.get_by_role("menuitem", name="Show only where they look").click()
    expect(looks).to_have_count(1)
    expect(marit.get_by_role("button", name="Where Saoirse Tanaka looks")).to_be_visible()
    marit.keyboard.press("o")
    expect(looks).to_have_count(0)
    marit.keyboard.press("o")
    expect(looks).to_have_count(2)
    # On a phone the strip of sheets is a list to choose from.
    marit.set_viewport_size({"width": 390, "height": 844})
    before = marit.url
    marit.get_by_label("Sheets of the session").select_option(index=1)
    until(marit, lambda: marit.url != before)


def test_what_waits_for_a_session_that_closes_meanwhile_stays_in_pencil(visit, room):
    marit, saoirse = room, visit("saoirse")
    go_in(saoirse)
    drawn = re.compile("/api/sessions/.*/marks$")
    saoirse.route(drawn, lambda route: route.abort())
    ready(saoirse)
    pencil = saoirse.get_by_role("region", name="Pencil").get_by_role("article")
    before = pencil.count()
    place(saoirse)
    expect(saoirse.get_by_role("banner").get_by_text("1 waits for the line")).to_be_visible()
    marit.get_by_role("region", name=re.compile("^Session S-")).get_by_role("link", name="Leave").click()
    marit.get_by_role("button", name="Close the session").click()
    marit.get_by_role("dialog").get_by_role("button", name="Close the session").click()
    expect(marit.get_by_role("region", name="The record")).to_be_visible()
    saoirse.unroute(drawn)
    expect(saoirse.get_by_text("What you drew is there in pencil, for you alone.")).to_be_visible()
    expect(pencil).to_have_count(before + 1)
