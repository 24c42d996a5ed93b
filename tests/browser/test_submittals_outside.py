"""Submittals with people outside: a supplier sends in by the link of a mail, an approver answers by mail."""

import os
import re

from playwright.sync_api import expect

from tests.browser.client import Person
from tests.browser.conftest import EMAILS
from tests.browser.test_outside import PHONE, link_of, open_link
from tests.browser.test_screens import axe
from tests.browser.test_sizes import measured
from tests.browser.test_submittals import attach, panel, press
from tests.world import pdf

LARGE = 100 * 1024 * 1024
TITLE = "Hinge bearings, linkspan"


def _make(page):
    page.get_by_role("button", name="New submittal").click()
    page.get_by_label("Title", exact=True).fill(TITLE)
    page.get_by_label("Kind", exact=True).last.select_option(label="product data")
    page.get_by_label("Responsible company").select_option(label="Sparrowgate Steel")
    page.get_by_role("textbox", name="Required on site").fill("30 jul")
    page.get_by_label("Lead time", exact=True).fill("30")
    page.get_by_role("button", name="Make it").click()


def test_a_supplier_sends_in_a_large_file_by_the_link_and_reads_the_answer(visit, nod, tmp_path):
    marit = visit("marit", "/submittals")
    _make(marit)
    press(marit, "Ask for it …")
    marit.get_by_label("Somebody of SGS").select_option(label="Yusuf Haldane (outside, by link or mail)")
    marit.get_by_role("dialog").get_by_label("A note").fill("The drawing of the bearing, please.")
    marit.get_by_role("dialog").get_by_role("button", name="Ask", exact=True).click()
    expect(panel(marit)).to_contain_text("asked for with Yusuf Haldane")

    address = link_of(nod, f"{TITLE}: you are asked for it")
    phone = open_link(visit, address, viewport=PHONE)
    form = phone.get_by_role("form", name="What you send in")
    expect(form).to_contain_text("To be sent in by")
    expect(form.get_by_role("button", name="Send it in")).to_have_accessible_description("Attach what you send in.")
    axe(phone)
    assert measured(phone) == []
    phone.get_by_label("A question, or a word").fill("Is the old bearing wanted, too?")
    phone.get_by_role("button", name="Say it").click()
    expect(phone.get_by_role("region", name="Talk")).to_contain_text("Is the old bearing wanted, too?")

    large = tmp_path / "bearing, all parts.bin"
    large.write_bytes(os.urandom(LARGE))
    desk = open_link(visit, address)
    form = desk.get_by_role("form", name="What you send in")
    form.get_by_label("A note").fill("All parts of it.")
    form.locator("input[type=file]").set_input_files(large)
    expect(form.get_by_text("104.9 MB")).to_be_visible()
    expect(form.get_by_role("button", name="Take bearing, all parts.bin back")).to_be_visible(timeout=60_000)
    expect(desk.locator('[data-form="guest-submittal"]').first).to_be_attached()
    desk.reload()
    expect(form.get_by_label("A note")).to_have_value("All parts of it.")
    form.get_by_role("button", name="Send it in").click()
    expect(desk.get_by_role("status").filter(has_text="It has been sent in. Thank you.")).to_be_visible()
    expect(desk.get_by_role("region", name="Rounds")).to_contain_text("bearing, all parts.bin")

    expect(panel(marit)).to_contain_text("sent in with Marit Osei")
    panel(marit).get_by_role("tab", name=re.compile("Rounds")).click()
    expect(panel(marit)).to_contain_text("All parts of it.")
    panel(marit).get_by_role("tab", name=re.compile("Talk")).click()
    expect(panel(marit)).to_contain_text("Is the old bearing wanted, too?")
    told = Person(nod.url, EMAILS["marit"])
    words = [each["words"] for each in told("GET", f"/api/notices?project_id={told.project_id}")["notices"]]
    assert any(f"{TITLE}: sent in" in each for each in words)


RAILS = "Crane rails, yard"


def _sent_in(page):
    page.get_by_role("button", name="New submittal").click()
    page.get_by_label("Title", exact=True).fill(RAILS)
    page.get_by_label("Kind", exact=True).last.select_option(label="product data")
    page.get_by_label("Responsible company").select_option(label="Gannet Marine Engineering")
    page.get_by_role("button", name="Make it").click()
    press(page, "Send it in …")
    attach(page, "Choose files", "rails.pdf")
    press(page, "Send it in")


def test_an_approver_without_an_account_answers_by_mail(visit, nod):
    marit = visit("marit", "/submittals")
    _sent_in(marit)
    press(marit, "Give it on to answer …")
    panel(marit).get_by_label("Who is to answer").select_option(label="Yusuf Haldane (outside, by link or mail), SGS")
    press(marit, "Give it on")
    expect(panel(marit)).to_contain_text("under review with Yusuf Haldane")

    # By the link they see what was sent in; they answer the mail.
    guest = open_link(visit, link_of(nod, f"{RAILS}: an answer is wanted"))
    expect(guest.get_by_role("form", name="Your answer")).to_contain_text("Your answer is wanted by")
    with guest.expect_download() as download:
        guest.get_by_role("button", name="Download rails.pdf").click()
    assert download.value.suggested_filename == "rails.pdf"
    axe(guest)
    outside = visit("rafael", "/post-room")
    mails = outside.get_by_role("navigation", name="Mail")
    mails.get_by_text(re.compile(f"{RAILS}: an answer is wanted")).first.click()
    outside.get_by_role("button", name="Answer", exact=True).click()
    outside.get_by_label("Text").fill("B\n\nLonger bolts, please.\n\n-- \nYusuf Haldane")
    marked = {"name": "marked.pdf", "mimeType": "application/pdf", "buffer": pdf("marked")}
    outside.locator("input[type=file]").set_input_files(files=[marked])
    outside.get_by_role("button", name="Send to Nod").click()

    expect(panel(marit)).to_contain_text("answered with Marit Osei")
    panel(marit).get_by_role("tab", name=re.compile("Rounds")).click()
    expect(panel(marit)).to_contain_text("proceed as noted")
    expect(panel(marit)).to_contain_text("Longer bolts, please.")
    expect(panel(marit)).not_to_contain_text("Yusuf Haldane --")
    expect(panel(marit)).to_contain_text("marked.pdf")
