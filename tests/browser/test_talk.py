"""Talking about a document: heard at once, led to from the notice, and not lost when the line breaks."""

import re
from pathlib import Path

from playwright.sync_api import expect

from tests.browser.bell import all_read
from tests.browser.on_sheet import until
from tests.browser.test_screens import axe
from tests.world import pdf

FIELD = {"role": "textbox", "name": "Say something"}


def open_talk(page, title):
    page.get_by_text(title).first.click()
    page.get_by_role("tab", name=re.compile("^Talk")).click()
    return page.get_by_role(**FIELD)


def test_what_is_said_about_a_document_is_heard_at_once(visit, nod):
    leilani = visit("leilani", "/register?words=door+schedule")
    field = open_talk(leilani, "Quay hall, door schedule")
    marit = visit("marit", "/")
    bell = all_read(marit)

    field.press_sequentially("Which lock goes here? @mar")
    names = leilani.get_by_role("listbox", name="Names").get_by_role("option")
    expect(names).to_have_text([re.compile("Marit Osei"), re.compile("Paolo Marchetti")])
    field.press("Enter")
    expect(field).to_have_value("Which lock goes here? @Marit Osei ")
    field.press("Control+Enter")
    expect(field).to_have_value("")
    log = leilani.get_by_role("log")
    expect(log).to_contain_text("Which lock goes here? @Marit Osei")

    # What others did before may still be on its way.
    expect(bell).to_have_accessible_name(re.compile(r"^Notices, \d unread"))
    bell.click()
    marit.get_by_role("link").filter(has_text="Leilani Brandt named you").click()
    expect(marit.get_by_role("tab", name=re.compile("^Talk"))).to_have_attribute("aria-selected", "true")
    answer = marit.get_by_role(**FIELD)
    answer.fill("The one of the schedule.")
    marit.get_by_role("button", name="Say it").click()
    expect(log).to_contain_text("The one of the schedule.")


def test_what_is_being_said_is_kept_until_it_is_said(visit, nod):
    page = visit("anouk", "/register?words=PLS-Z1")
    field = open_talk(page, "Quay hall, roof framing")
    field.fill("Half a thou")
    page.get_by_text("Quay hall, foundation layout").first.click()
    page.get_by_role("tab", name=re.compile("^Talk")).click()
    expect(page.get_by_role(**FIELD)).to_have_value("")
    field = open_talk(page, "Quay hall, roof framing")
    expect(field).to_have_value("Half a thou")
    page.reload()
    page.get_by_role("tab", name=re.compile("^Talk")).click()
    expect(field).to_have_value("Half a thou")
    page.route("**/api/talk/**", lambda route: route.abort())
    field.fill("Half a thought")
    page.get_by_role("button", name="Say it").click()
    expect(page.get_by_text("The line is broken. It is sent when the line is back.")).to_be_visible()
    expect(field).to_have_value("Half a thought")
    page.unroute("**/api/talk/**")
    expect(page.get_by_role("log")).to_contain_text("Half a thought")
    expect(field).to_have_value("")


def test_a_reader_reads_and_is_told_that_they_cannot_write(visit):
    page = visit("junpei", "/register")
    open_talk(page, "North linkspan, piles")
    expect(page.get_by_text("You may read this, and not write here.")).to_be_visible()
    expect(page.get_by_role(**FIELD)).to_have_count(0)


def test_a_file_goes_with_what_is_said_and_is_found_in_the_register(visit, tmp_path):
    photo = tmp_path / "Joint at grid C4.pdf"
    photo.write_bytes(pdf("joint", pages=2))
    page = visit("saoirse", "/register?words=boarding+bridge")
    field = open_talk(page, "Boarding bridge, power")
    page.get_by_label("Files to attach").set_input_files(photo)
    expect(page.get_by_role("button", name="Take Joint at grid C4.pdf back")).to_be_visible()
    page.reload()
    page.get_by_role("tab", name=re.compile("^Talk")).click()
    expect(page.get_by_role("button", name="Take Joint at grid C4.pdf back")).to_be_visible()
    field.fill("As built")
    page.get_by_role("button", name="Say it").click()
    files = page.get_by_role("list", name="Attached files")
    expect(files).to_contain_text("2 pages")
    files.get_by_role("button", name="Joint at grid C4.pdf", exact=True).click()
    look = page.get_by_role("dialog", name="Joint at grid C4.pdf")
    expect(look.get_by_alt_text("Page 2")).to_be_visible()
    until(page, lambda: look.get_by_alt_text("Page 1").evaluate("picture => picture.naturalWidth") > 320)
    axe(page)
    page.keyboard.press("Escape")
    with page.expect_download() as arriving:
        files.get_by_role("button", name="Download Joint at grid C4.pdf").click()
    assert Path(arriving.value.path()).read_bytes() == photo.read_bytes()

    anouk = visit("anouk", "/register/attached")
    anouk.get_by_role("searchbox", name="Find by name").fill("grid c4")
    expect(anouk.get_by_role("status").filter(has_text="1 file")).to_be_visible()
    expect(anouk.get_by_role("row").nth(1)).to_contain_text("Boarding bridge, power")
    axe(anouk)
