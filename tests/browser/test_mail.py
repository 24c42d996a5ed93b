"""Mail both ways: a transmittal acknowledged from a mailbox, mail that is held, mail that comes back."""

import re
import time

import pytest
from playwright.sync_api import expect

from tests.browser.client import Person
from tests.browser.conftest import EMAILS, revision_of
from tests.browser.frame import station
from tests.browser.test_screens import axe
from tests.world import pdf


@pytest.fixture
def sent(nod):
    """A transmittal to an outside contact whose mail has left: its id, its number and the contact's address."""
    marit = Person(nod.url, EMAILS["marit"])
    people = marit("GET", f"/api/addressees?project_id={marit.project_id}")["people"]
    contact = next(each for each in people if each["outside"])
    body = {
        "project_id": marit.project_id, "revisions": [revision_of(nod, "South linkspan, general arrangement")],
        "people": [contact["who"]["id"]], "purpose": "construction", "note": "Please build.",
    }  # fmt: skip
    made = marit("POST", "/api/transmittals", body)
    until = time.monotonic() + 60
    while time.monotonic() < until:
        mails = [
            each for each in marit("GET", "/api/post-room", timeout=60) if each["subject"].startswith(made["number"])
        ]
        if mails:
            return made["id"], made["number"], contact
        time.sleep(0.2)
    raise TimeoutError("the mail has not left")


def in_post_room(page, nod, number):
    page.goto(f"{nod.url}/post-room")
    page.get_by_role("navigation", name="Mail").get_by_text(re.compile(f"^{number}")).first.click()
    return page


def test_a_transmittal_is_acknowledged_by_answering_its_mail(visit, nod, sent):
    transmittal, number, contact = sent
    marit = visit("marit", f"/transmittals/{transmittal}")
    row = marit.get_by_role("region", name="Recipients").get_by_role("row").filter(has_text=contact["who"]["name"])
    expect(row).to_contain_text("not yet")
    outside = in_post_room(visit("rafael"), nod, number)
    expect(outside.get_by_text(f"{number}_cover.pdf")).to_be_visible()
    outside.get_by_role("button", name="Answer", exact=True).click()
    outside.get_by_label("Text").fill("All three received, thank you.\n\n-- \nYusuf Haldane")
    note = {"name": "delivery note.pdf", "mimeType": "application/pdf", "buffer": pdf("note")}
    outside.locator("input[type=file]").set_input_files(files=[note])
    outside.get_by_role("button", name="Send to Nod").click()
    expect(outside.get_by_role("status").filter(has_text="250")).to_be_visible()

    expect(row).to_contain_text("by mail")
    marit.get_by_role("tab", name=re.compile("^Talk")).click()
    log = marit.get_by_role("log")
    expect(log).to_contain_text("All three received, thank you.")
    expect(log).to_contain_text("by mail")
    expect(log).not_to_contain_text("Please build.")
    log.get_by_role("button", name="Show what is quoted").click()
    expect(log).to_contain_text("Please build.")
    expect(log.get_by_text("delivery note.pdf")).to_be_visible()
    with marit.expect_download() as download:
        log.get_by_role("button", name="the mail as it came").click()
    assert download.value.suggested_filename.endswith(".eml")
    axe(marit)


def test_a_mail_of_somebody_unknown_is_held_added_and_filed(visit, nod, sent):
    _, number, _ = sent
    marit = visit("marit", "/post-room")
    me = marit.context.request.get(f"{nod.url}/api/me").json()
    box = marit.context.request.get(f"{nod.url}/api/mail?project_id={me['projects'][0]['id']}").json()
    marit.get_by_role("button", name="Write from outside").click()
    for label, words in (("From, name", "Otto Brenner"), ("From, address", "otto@kestrelpiling.example"),
                         ("To", box["address"]), ("Subject", "Pile tests"), ("Text", "Attached.")):  # fmt: skip
        marit.get_by_label(label, exact=True).fill(words)
    marit.get_by_role("button", name="Send to Nod").click()
    expect(marit.get_by_role("status").filter(has_text="250")).to_be_visible()

    # Two have been held before.
    station(marit, re.compile(r"^Mail 3"))
    held = marit.get_by_role("region", name="Held")
    expect(held).to_contain_text("Its sender is nobody in this project.")
    axe(marit)
    held.get_by_role("button", name="Add its sender …").click()
    dialog = marit.get_by_role("dialog", name="Add its sender")
    expect(dialog.get_by_label("Name")).to_have_value("Otto Brenner")
    expect(dialog.get_by_role("button", name="Add and judge again")).to_be_disabled()
    dialog.get_by_label("Company").select_option(label="Another company …")
    dialog.get_by_label("Its name").fill("Kestrel Piling")
    dialog.get_by_label("Its code").fill("kpl")
    expect(dialog.locator("[data-form]").first).to_have_attribute("data-form", "held-sender")
    marit.reload()
    held.get_by_role("button", name="Add its sender …").click()
    expect(dialog.get_by_label("Its name")).to_have_value("Kestrel Piling")
    dialog.get_by_label("Its part").select_option("subcontractor")
    dialog.get_by_role("button", name="Add and judge again").click()
    # From an outside contact it begins a thread of its own.
    expect(marit.get_by_role("article", name="Pile tests")).to_contain_text("Filed as KPL-HBC-L-0001 Pile tests")

    marit.goto(f"{nod.url}/mail")
    marit.get_by_text("Noise in the evening").first.click()
    held.get_by_role("button", name="File it with …").click()
    dialog = marit.get_by_role("dialog", name="File it with")
    dialog.get_by_label("Document, letter, review, submittal or transmittal").fill(number)
    dialog.get_by_role("radio", name=re.compile(number)).check()
    dialog.get_by_role("button", name="File it").click()
    expect(marit.get_by_text("Handed on to")).to_be_visible()
    marit.get_by_role("article").get_by_role("link", name=re.compile(number)).click()
    marit.get_by_role("tab", name=re.compile("^Talk")).click()
    expect(marit.get_by_role("log")).to_contain_text("Mia Tern by mail")
    # Who does not run the project has no such station, also not by its address.
    leilani = visit("leilani", "/")
    expect(leilani.get_by_role("link", name="Register")).to_be_visible()
    expect(leilani.get_by_role("link", name=re.compile("^Mail"))).to_have_count(0)
    leilani.goto(f"{nod.url}/mail")
    expect(leilani.get_by_text(re.compile("for the project.s leads and controllers"))).to_be_visible()


def test_a_mail_that_comes_back_is_sent_to_another_address(visit, nod, sent):
    transmittal, number, contact = sent
    outside = in_post_room(visit("rafael"), nod, number)
    outside.get_by_role("button", name="Let it come back").click()
    outside.get_by_role("button", name="Send it back").click()
    expect(outside.get_by_role("status").filter(has_text="250")).to_be_visible()

    marit = visit("marit", f"/transmittals/{transmittal}")
    recipients = marit.get_by_role("region", name="Recipients")
    expect(recipients).to_contain_text("came back")
    expect(recipients).to_contain_text("there is no such mailbox")
    axe(marit)
    recipients.get_by_role("button", name="Another address, send again …").click()
    dialog = marit.get_by_role("dialog")
    dialog.get_by_label("E-mail address").fill(EMAILS["anouk"])
    dialog.get_by_role("button", name="Send again").click()
    expect(dialog).to_contain_text("is the address of somebody else here")
    expect(dialog.get_by_label("E-mail address")).to_have_value(EMAILS["anouk"])
    other = f"mail{number[-4:]}@{contact['email'].partition('@')[2]}"
    dialog.get_by_label("E-mail address").fill(other)
    expect(dialog.locator("[data-form]")).to_have_attribute("data-form", "send-again")
    marit.reload()
    recipients.get_by_role("button", name="Another address, send again …").click()
    expect(dialog.get_by_label("E-mail address")).to_have_value(other)
    dialog.get_by_role("button", name="Send again").click()
    expect(dialog).to_have_count(0)
    expect(recipients).not_to_contain_text("came back")
    outside.goto(f"{nod.url}/post-room")
    expect(outside.get_by_role("navigation", name="Mail").get_by_text(other)).to_be_visible()
    marit.goto(f"{nod.url}/mail?tab=back")
    expect(marit.get_by_role("row").filter(has_text=contact["email"]).first).to_contain_text("no such mailbox")
