"""A folder, a drawing set and a kept view by a link: previewed, given, looked at without an account, withdrawn."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.test_screens import axe

pytestmark = pytest.mark.browser

PHONE = {"width": 390, "height": 844}


def given(page):
    """Gives the link that the open dialog is about to anyone who has it; returns its address."""
    dialog = page.get_by_role("dialog", name="Give a link")
    dialog.get_by_label("For", exact=True).select_option(label="Anyone who has the link")
    dialog.get_by_role("button", name="Give the link").click()
    expect(dialog.get_by_text(re.compile("^Pass it on with care"))).to_be_visible()
    return dialog.locator("p.code").inner_text()


def opened(visit, nod, address, **more):
    guest = visit("", "/", **more)
    guest.goto(nod.url + re.sub(r"^https?://[^/]+", "", address))
    guest.get_by_label("Your name").fill("Otto Brenner")
    guest.get_by_role("button", name="Open it").click()
    return guest


def test_a_set_is_looked_through_on_a_phone_until_the_link_is_withdrawn(visit, nod):
    marit = visit("marit", "/register/sets")
    marit.get_by_role("button", name=re.compile("^Linkspan piling")).click()
    marit.get_by_role("button", name="Give a link …").click()
    seen = marit.get_by_role("region", name="What they see")
    expect(seen).to_contain_text(re.compile(r"They see \d+ documents"))
    axe(marit)
    guest = opened(visit, nod, given(marit), viewport=PHONE)
    expect(guest.get_by_role("heading", name="Linkspan piling")).to_be_visible()
    expect(guest.get_by_text("You are here as Otto Brenner.")).to_be_visible()
    axe(guest)
    guest.get_by_role("button", name=re.compile("^Look at ")).first.click()
    expect(guest.locator("main img, main canvas").first).to_be_visible()
    guest.get_by_role("button", name="Document after").click()
    with guest.expect_download() as download:
        guest.get_by_role("button", name=re.compile("^Download it, ")).click()
    assert download.value.suggested_filename.startswith("BFT-")
    guest.get_by_role("button", name="Back to the list").click()
    marit.goto(nod.url + "/register/links")
    row = marit.get_by_role("row").filter(has_text="Linkspan piling")
    expect(row).to_contain_text("Otto Brenner")
    row.get_by_role("button", name="Withdraw …").click()
    row.get_by_role("button", name="Withdraw it for good").click()
    expect(row).to_contain_text("withdrawn")
    guest.reload()
    expect(guest.get_by_role("heading", name="This visit is over")).to_be_visible()


def test_a_folder_and_a_view_of_the_register(visit, nod):
    marit = visit("marit", '/register?filters=[["discipline","is","S"]]')
    marit.get_by_role("button", name=re.compile("^Views")).click()
    marit.get_by_label("Keep this view as").fill("Structures")
    marit.get_by_role("button", name="Keep the view").click()
    counted = marit.get_by_role("status").filter(has_text=re.compile("documents$"))
    total = counted.inner_text().split()[0]
    marit.get_by_role("button", name="Take away").click()
    marit.get_by_role("menuitem", name="Give a link to a folder or a view").click()
    dialog = marit.get_by_role("dialog", name="Give a link")
    dialog.get_by_label("Link to").select_option(label="View: Structures")
    expect(dialog.get_by_role("region", name="What they see")).to_contain_text(f"They see {total} documents")
    guest = opened(visit, nod, given(marit))
    expect(guest.get_by_text(f"A list of {total} documents, as it is now.", exact=False)).to_be_visible()
    expect(guest.get_by_role("listitem").first).to_contain_text("-S-")
    marit.get_by_role("button", name="Done").click()
    marit.get_by_role("button", name="Take away").click()
    marit.get_by_role("menuitem", name="Give a link to a folder or a view").click()
    dialog.get_by_label("Link to").select_option(label="\u2003Specifications")
    expect(dialog.get_by_role("region", name="What they see")).to_contain_text("They see 1 document")
    guest = opened(visit, nod, given(marit))
    expect(guest.get_by_role("heading", name="Specifications")).to_be_visible()
    expect(guest.get_by_text("in force").first).to_be_visible()
