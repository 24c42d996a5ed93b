"""A transmittal at its recipient's link, on a phone, and what its sender then sees of it."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.test_screens import axe

pytestmark = pytest.mark.browser

PLAN = "BFT-TRA-Z1-00-D-A-0100"
PHONE = {"width": 390, "height": 844}


def link_in_mail(marit, nod, subject, to):
    """The mails of a transmittal are put together in no order."""
    marit.goto(nod.url + "/post-room")
    marit.get_by_role("button").filter(has_text=to).filter(has_text=subject).last.click()
    link = marit.get_by_role("article").get_by_role("link").get_attribute("href")
    return nod.url + re.sub(r"^https?://[^/]+", "", link)


def opened(visit, link):
    guest = visit("", "/", viewport=PHONE)
    guest.goto(link)
    guest.get_by_role("button", name="Open it").click()
    return guest


def test_a_recipient_looks_takes_one_acknowledges_and_asks(visit, nod):
    marit = visit("marit", "/transmittals")
    guest = opened(visit, link_in_mail(marit, nod, "HBC-T-0001: 3 documents", "anouk@"))
    expect(guest.get_by_text(re.compile("since: Superseded"))).to_have_count(2)
    axe(guest)
    guest.get_by_role("button", name=f"Look at {PLAN}").click()
    expect(guest.get_by_role("heading")).to_contain_text(PLAN)
    expect(guest.locator("main img, main canvas").first).to_be_visible()
    axe(guest)
    guest.get_by_role("button", name="Document after").click()
    expect(guest.get_by_role("heading")).to_contain_text("BFT-TRA-Z1-01-D-A-0101")
    guest.get_by_role("button", name="Document before").click()
    with guest.expect_download() as download:
        guest.get_by_role("button", name=re.compile("^Download it, ")).click()
    assert download.value.suggested_filename == f"{PLAN}_P01_S3.pdf"
    guest.get_by_role("button", name="Back to the list").click()
    expect(guest.get_by_text("downloaded", exact=True)).to_have_count(1)

    note = guest.get_by_label(re.compile("^A note with it"))
    note.fill("The roof plan is upside down.")
    expect(guest.locator('[data-form="guest-receipt"]').first).to_be_attached()
    guest.reload()
    expect(note).to_have_value("The roof plan is upside down.")
    guest.get_by_role("button", name="Acknowledge that I have it").click()
    expect(guest.get_by_text(re.compile("^Acknowledged .* Thank you"))).to_be_visible()
    guest.get_by_label("Ask Marit Osei").fill("Is the roof plan to be built from?")
    guest.get_by_role("button", name="Ask", exact=True).click()
    expect(guest.get_by_role("region", name="Talk").get_by_text("Is the roof plan to be built from?")).to_be_visible()

    marit.goto(nod.url + "/transmittals")
    marit.get_by_text("HBC-T-0001").click()
    row = marit.get_by_role("region", name="Recipients").get_by_role("row").filter(has_text="Anouk Ferreira")
    expect(row).to_contain_text("1 of 3 one by one")
    expect(row).to_contain_text("“The roof plan is upside down.”")
    marit.get_by_role("button", name=re.compile("^Notices")).click()
    expect(marit.get_by_text(re.compile("Anouk Ferreira asks about HBC-T-0001"))).to_be_visible()


def test_to_look_at_only_until_a_day(visit, nod):
    marit = visit("marit", "/transmittals/new")
    form = marit.get_by_role("form", name="A transmittal")
    form.get_by_label("Add a document").fill("quay hall, roof plan")
    form.get_by_role("button", name=re.compile("^Add BFT-TRA-Z1-RF-D-A-0102")).first.click()
    form.get_by_label("Yusuf Haldane").check()
    form.get_by_label("To look at only, not to download").check()
    form.get_by_role("textbox", name="It works until the end of").fill("1 mar 2027")
    form.get_by_role("button", name="Send to 1").click()
    expect(form.get_by_text("The day until which it can be opened is over already.")).to_be_visible()
    form.get_by_role("textbox", name="It works until the end of").fill("+5")
    form.get_by_role("button", name="See it first").click()
    seen = marit.get_by_role("dialog")
    expect(seen.get_by_text(re.compile("Open and acknowledge them here"))).to_be_visible()
    expect(seen.get_by_text(re.compile("It can be opened until 16 March 2027"))).to_be_visible()
    axe(marit)
    with marit.expect_download() as cover:
        seen.get_by_role("link", name="Cover sheet, PDF").click()
    assert re.fullmatch(r"HBC-T-\d+ cover, not sent.pdf", cover.value.suggested_filename)
    seen.get_by_role("button", name="Back to the form").click()
    form.get_by_role("button", name="Send to 1").click()
    panel = marit.get_by_role("complementary", name="Transmittal")
    expect(panel.get_by_text(re.compile("looked at, not downloaded"))).to_be_visible()
    number = panel.get_by_role("heading").first.inner_text().split()[0]
    expect(panel.get_by_role("button", name=re.compile("^All of it, ZIP"))).to_be_visible()
    guest = opened(visit, link_in_mail(marit, nod, f"{number}: 1 document", "yusuf@"))
    expect(guest.get_by_text("It was sent to be looked at, not downloaded.")).to_be_visible()
    expect(guest.get_by_text(re.compile("This link works until the end of"))).to_be_visible()
    expect(guest.get_by_role("button", name=re.compile("Download"))).to_have_count(0)
    guest.get_by_role("button", name="Look at BFT-TRA-Z1-RF-D-A-0102").click()
    expect(guest.locator("main img, main canvas").first).to_be_visible()


def test_what_goes_along_is_chosen_seen_and_taken(visit, nod):
    marit = visit("marit", "/transmittals/new")
    form = marit.get_by_role("form", name="A transmittal")
    expect(form.get_by_role("button", name="As the matrix says")).to_have_attribute("aria-disabled", "true")
    form.get_by_label("Add a document").fill("quay hall, ground floor plan")
    form.get_by_role("button", name=re.compile(f"^Add {PLAN}")).first.click()
    form.get_by_label("Add a document").fill("quay hall, roof plan")
    form.get_by_role("button", name=re.compile("^Add BFT-TRA-Z1-RF-D-A-0102")).first.click()
    form.get_by_role("button", name="As the matrix says").click()
    expect(form.get_by_text(re.compile("^By A D, .*to act.* It says nothing of 1 document"))).to_be_visible()
    form.get_by_role("button", name="GME, all of the company").click()
    form.get_by_label("Their native files (DWG, DOCX …)").check()
    form.get_by_label("Stamped copies: status, purpose, date and a code").check()
    form.get_by_label("Of their marks").select_option("summary")
    # It is kept as what is typed is.
    expect(marit.locator('[data-form="send"]').first).to_be_attached()
    marit.reload()
    expect(form.get_by_label("Stamped copies: status, purpose, date and a code")).to_be_checked()
    axe(marit)
    form.get_by_role("button", name="See it first").click()
    words = "With native files, stamped copies and summaries of their marks."
    expect(marit.get_by_role("dialog").get_by_text(re.compile(words)).first).to_be_visible()
    marit.get_by_role("dialog").get_by_role("button", name="Back to the form").click()
    form.get_by_role("button", name=re.compile("^Send to")).click()
    panel = marit.get_by_role("complementary", name="Transmittal")
    number = panel.get_by_role("heading").first.inner_text().split()[0]
    expect(panel.get_by_text("with a stamped copy")).to_have_count(2)
    expect(panel.get_by_role("button", name=re.compile("^All of it, ZIP"))).to_be_visible(timeout=30_000)
    guest = opened(visit, link_in_mail(marit, nod, f"{number}: 2 documents", "ottilie@"))
    stamped = guest.get_by_role("button", name=f"stamped copy of {PLAN}, download")
    expect(stamped).to_be_visible()
    axe(guest)
    with guest.expect_download() as download:
        stamped.click()
    assert re.fullmatch(f"{PLAN}_.*_stamped.pdf", download.value.suggested_filename)
    with guest.expect_download() as download:
        guest.get_by_role("button", name=f"summary of the marks of {PLAN}, download").click()
    assert download.value.suggested_filename.endswith("_marks_summary.pdf")
