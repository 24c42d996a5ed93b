"""Links for people without an account: given from a dossier, opened with a press, talked by, withdrawn."""

import re
import sqlite3

from playwright.sync_api import expect

from tests.browser.client import Person
from tests.browser.conftest import EMAILS
from tests.browser.test_screens import axe

TITLE = "Quay hall, roof framing"


def give_link(page, **fields):
    """From the dossier of a document; returns the address."""
    page.get_by_text(TITLE).first.click()
    page.get_by_role("tab", name=re.compile("^Sent")).click()
    page.get_by_role("button", name="Give a link …").click()
    dialog = page.get_by_role("dialog", name="Give a link")
    expect(dialog.get_by_role("button", name="Give the link")).to_be_disabled()
    axe(page)
    dialog.get_by_label("For", exact=True).select_option(label="Anyone who has the link")
    dialog.get_by_label("Read and say things in its Talk").check()
    for label, words in fields.items():
        dialog.get_by_label(label).fill(words)
    dialog.get_by_role("button", name="Give the link").click()
    return dialog


def address_in(dialog):
    address = dialog.get_by_text(re.compile(r"^http.*/l/")).inner_text()
    dialog.get_by_role("button", name="Done").click()
    return address


def test_a_link_with_a_password_is_opened_talked_by_and_withdrawn(visit, nod):
    marit = visit("marit", "/register?words=roof+framing")
    dialog = give_link(marit, **{"Password, if wanted": "short"})
    expect(dialog).to_contain_text("12 characters")
    dialog.get_by_label("Password, if wanted").fill("quiet tidal estuary")
    dialog.get_by_role("button", name="Give the link").click()
    address = address_in(dialog)

    guest = visit(path=address.removeprefix(nod.url))
    expect(guest.get_by_role("heading")).to_have_text("A document for you")
    expect(guest.get_by_text(TITLE)).to_have_count(0)
    axe(guest)
    guest.get_by_label("Your name").fill("Otto Brenner")
    guest.get_by_label("Password of the link").fill("wrong tidal estuary")
    guest.get_by_role("button", name="Open it").click()
    expect(guest.get_by_text("This is not the password of the link.")).to_be_visible()
    expect(guest.get_by_label("Your name")).to_have_value("Otto Brenner")
    guest.get_by_label("Password of the link").fill("quiet tidal estuary")
    guest.get_by_role("button", name="Open it").click()
    expect(guest.get_by_role("heading", level=1)).to_contain_text(TITLE)
    expect(guest.get_by_text("You are here as Otto Brenner.")).to_be_visible()
    expect(guest.get_by_role("img", name="Page 1")).to_be_visible()
    axe(guest)
    with guest.expect_download() as download:
        guest.get_by_role("button", name=re.compile("^Download")).click()
    assert download.value.suggested_filename.endswith(".pdf")
    guest.get_by_label("Say something").fill("Are the purlins galvanised?")
    expect(guest.locator("[data-form]")).to_have_attribute("data-form", "guest-talk")
    guest.reload()
    expect(guest.get_by_label("Say something")).to_have_value("Are the purlins galvanised?")
    guest.get_by_role("button", name="Say it").click()
    expect(guest.get_by_label("Say something")).to_have_value("")
    guest.reload()
    expect(guest.get_by_text("Are the purlins galvanised?")).to_be_visible()

    marit.get_by_role("tab", name=re.compile("^Talk")).click()
    expect(marit.get_by_role("log")).to_contain_text("Otto Brenner guest of HBC by a link")
    marit.get_by_role("link", name="Links").click()
    row = marit.get_by_role("row").filter(has_text=TITLE).filter(has_text="with a password")
    row.get_by_text("1", exact=True).click()
    expect(row).to_contain_text("Otto Brenner, ")
    axe(marit)
    row.get_by_role("button", name="Withdraw …").click()
    row.get_by_role("button", name="Withdraw it for good").click()
    expect(row).to_contain_text("withdrawn")

    guest.get_by_label("Say something").fill("And the bolts?")
    guest.get_by_role("button", name="Say it").click()
    expect(guest.get_by_label("Say something")).to_have_value("And the bolts?")
    guest.reload()
    guest.get_by_role("button", name="Back to the link").click()
    expect(guest.get_by_role("heading")).to_have_text("This link has been withdrawn.")


def test_a_link_that_is_used_up_or_made_up_opens_nothing(visit, nod):
    marit = visit("marit", "/register?words=roof+framing")
    address = address_in(give_link(marit, **{"Visits at most, if any": "1"}))
    first = visit(path=address.removeprefix(nod.url))
    first.get_by_label("Your name").fill("Otto Brenner")
    first.get_by_role("button", name="Open it").click()
    expect(first.get_by_role("heading", level=1)).to_contain_text(TITLE)
    second = visit(path=address.removeprefix(nod.url))
    expect(second.get_by_role("heading")).to_have_text("This link has been opened as often as it may be.")
    expect(second.get_by_role("button")).to_have_count(0)
    made_up = visit(path="/l/made-up")
    expect(made_up.get_by_role("heading")).to_have_text("This link leads nowhere")


def test_named_people_get_it_by_mail(visit, nod):
    marit = visit("marit", "/register?words=roof+framing")
    marit.get_by_text(TITLE).first.click()
    marit.get_by_role("tab", name=re.compile("^Sent")).click()
    marit.get_by_role("button", name="Give a link …").click()
    dialog = marit.get_by_role("dialog", name="Give a link")
    dialog.get_by_label("Find by name or company").fill("haldane")
    dialog.get_by_label(re.compile("^Yusuf Haldane")).check()
    dialog.get_by_role("button", name="Give the link").click()
    expect(dialog).to_contain_text("Each has it by mail.")
    dialog.get_by_role("button", name="Done").click()
    marit.goto(f"{nod.url}/post-room")
    mails = marit.get_by_role("navigation", name="Mail")
    mails.get_by_text(re.compile("^BFT: .*, from Marit Osei")).first.click()
    link = marit.get_by_role("article").get_by_role("link").first.get_attribute("href")
    yusuf = visit(path=link.removeprefix(nod.url))
    expect(yusuf.get_by_role("heading")).to_have_text("A document for Yusuf Haldane")
    expect(yusuf.get_by_label("Your name")).to_have_count(0)
    yusuf.get_by_role("button", name="Open it").click()
    expect(yusuf.get_by_text("You are here as Yusuf Haldane.")).to_be_visible()


def test_an_expired_link_and_that_of_somebody_removed_say_so(visit, nod):
    marit = Person(nod.url, EMAILS["marit"])
    rafael = Person(nod.url, EMAILS["rafael"])
    company = rafael("GET", f"/api/projects/{rafael.project_id}/people")["companies"][0]["id"]
    contact = {"name": "Petra Novak", "email": "petra@sparrowgate.example", "company_id": company, "contact": True}
    added = rafael("POST", "/api/people", {"project_id": rafael.project_id, "people": [contact]})
    person = added["people"][0]["person_id"]
    lines = marit("GET", f"/api/documents?project_id={marit.project_id}&limit=100")["lines"]
    document = next(line["id"] for line in lines if line["title"] == TITLE)
    wish = {"kind": "document", "target": document, "for_kind": "named", "people": [person]}
    (given,) = marit("POST", "/api/links", wish)["links"]
    petra = visit(path=given["address"].removeprefix(nod.url))
    petra.get_by_role("button", name="Open it").click()
    expect(petra.get_by_text("You are here as Petra Novak.")).to_be_visible()
    rafael("POST", f"/api/projects/{rafael.project_id}/people/{person}/remove", {"version": 1})
    petra.reload()
    petra.get_by_role("button", name="Back to the link").click()
    expect(petra.get_by_role("heading")).to_have_text("This link does not open anything any more.")

    wish |= {"for_kind": "anyone", "people": [], "ends_on": "2027-03-31"}
    (given,) = marit("POST", "/api/links", wish)["links"]
    guest = visit(path=given["address"].removeprefix(nod.url))
    expect(guest.get_by_text("It can be opened until")).to_be_visible()
    with sqlite3.connect(nod.data / "nod.db", timeout=20) as database:
        now = "2027-03-08T00:00:00.000000Z"
        database.execute("UPDATE link SET ends_at = ? WHERE id = ?", (now, given["id"]))
    guest.reload()
    expect(guest.get_by_role("heading")).to_have_text("This link has expired.")
