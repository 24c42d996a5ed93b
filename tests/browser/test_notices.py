"""Following something, being told of it live, and looking at it."""

import re

from playwright.sync_api import expect

from tests.browser.bell import all_read
from tests.browser.on_sheet import draw_with_words, open_sheet


def test_what_one_follows_rings_live_and_is_quiet_once_looked_at(visit, nod):
    page = visit("marit", "/register?words=roof+plan")
    page.get_by_text("Quay hall, roof plan").first.click()
    page.get_by_role("button", name="Follow this document").click()
    expect(page.get_by_role("button", name="Stop following this document")).to_be_visible()
    href = page.get_by_role("link", name="Open the sheet", exact=True).get_attribute("href")
    page.goto(f"{nod.url}/")
    expect(page.get_by_role("heading", name="Marit Osei’s desk")).to_be_visible()
    bell = all_read(page)

    leilani = open_sheet(visit, "leilani", href.rsplit("/", 1)[1])
    draw_with_words(leilani, "2", "Which membrane is this?")
    leilani.get_by_role("button", name=re.compile(r"^Ink \d+ mark")).click()
    expect(leilani.get_by_label("Reply", exact=True)).to_be_visible()

    expect(bell).to_have_accessible_name("Notices, 1 unread")
    bell.click()
    told = page.get_by_role("dialog", name="Notices").get_by_role("link").filter(has_text="Leilani Brandt inked")
    expect(told).to_contain_text("because you follow BFT-TRA-Z1-RF-D-A-0102")
    told.click()
    expect(page.get_by_role("toolbar", name="Pens")).to_be_visible()
    expect(bell).to_have_accessible_name("Notices")

    page.goto(f"{nod.url}/account")
    followed = page.get_by_role("region", name="Following")
    expect(followed.get_by_text("Quay hall, roof plan")).to_be_visible()
    followed.get_by_role("button", name="Stop following", exact=True).click()
    expect(followed.get_by_text("You follow no single thing")).to_be_visible()


def test_a_notice_and_a_folder_open_where_they_say(visit, nod):
    leilani = visit("leilani", "/register?words=level+1+framing")
    leilani.get_by_text("Quay hall, level 1 framing").first.click()
    leilani.get_by_role("button", name="Follow its folder").click()
    href = leilani.get_by_role("link", name="Open the sheet", exact=True).get_attribute("href")
    anouk = open_sheet(visit, "anouk", href.rsplit("/", 1)[1])
    draw_with_words(anouk, "2", "@Leilani Brandt which bolts?")
    anouk.get_by_role("button", name=re.compile(r"^Ink \d+ mark")).click()
    expect(anouk.get_by_label("Reply", exact=True)).to_be_visible()

    bell = leilani.get_by_role("button", name=re.compile("^Notices, "))
    expect(bell).to_be_visible()
    bell.click()
    leilani.get_by_role("link").filter(has_text="Anouk Ferreira named you in a mark").click()
    expect(leilani).to_have_url(re.compile(r"/sheet/\w+\?page=0&mark=\w+$"))
    # The mark itself is open, in the list and on the sheet.
    expect(leilani.locator("article[aria-current=true]")).to_contain_text("which bolts?")

    leilani.goto(f"{nod.url}/account")
    followed = leilani.get_by_role("region", name="Following")
    followed.get_by_role("link").last.click()
    expect(leilani).to_have_url(re.compile(r"/register\?filters="))
    expect(leilani.get_by_role("grid").get_by_text("Quay hall, level 1 framing")).to_be_visible()
    expect(leilani.get_by_role("grid").get_by_text("Quay hall, door schedule")).to_have_count(0)
