"""Marks that go on to the next revision, out to files and back, and onto prints."""

import re

import pypdfium2 as pdfium
import pytest
from playwright.sync_api import expect

from tests.browser.client import Person
from tests.browser.conftest import EMAILS
from tests.browser.on_sheet import draw_with_words, marks_of, open_sheet
from tests.browser.test_screens import axe

pytestmark = pytest.mark.browser


def test_open_marks_are_carried_to_the_next_revision_with_their_thread(visit, nod):
    """Two people: one carries what is open on the revision before, the other sees it appear with its answers."""
    marit = Person(nod.url, EMAILS["marit"])
    lines = marit("GET", f"/api/documents?project_id={marit.project_id}&limit=100")["lines"]
    number = next(line["number"] for line in lines if line["number"].startswith("BFT-PLS-Z1-00"))
    line = next(line for line in lines if line["number"] == number)
    revisions = marit("GET", f"/api/sheets/{line['revision_id']}")["revisions"]
    first, second = revisions[-2]["id"], revisions[-1]["id"]
    leilani = open_sheet(visit, "leilani", first)
    draw_with_words(leilani, "2", "Pile cap by others?")
    leilani.get_by_role("button", name="Ink 1 mark").click()
    expect(leilani.get_by_role("region", name="Pencil")).to_have_count(0)
    leilani.get_by_label("Reply").fill("Ask the contractor.")
    leilani.get_by_role("button", name="Reply", exact=True).click()

    anouk, saoirse = open_sheet(visit, "anouk", second), open_sheet(visit, "saoirse", second)
    anouk.get_by_role("button", name=re.compile("1 open mark of")).click()
    offered = anouk.get_by_role("region", name="Carry forward")
    expect(offered.get_by_text(re.compile("touched"))).to_be_visible()
    axe(anouk)
    offered.get_by_role("button", name="Carry", exact=True).click()
    expect(anouk.get_by_role("region", name="Carry forward")).to_have_count(0)
    carried = saoirse.get_by_role("region", name="Ink").get_by_text("Pile cap by others?")
    expect(carried).to_be_visible(timeout=3000)
    carried.click()
    expect(saoirse.get_by_text("Ask the contractor.")).to_be_visible()
    expect(saoirse.get_by_text("carried from")).to_be_visible()


def test_marks_come_back_from_a_file_and_a_print_tells_whether_it_is_in_force(visit, nod, other_sheet):
    page = open_sheet(visit, "saoirse", other_sheet)
    draw_with_words(page, "5", "Comes back")
    page.get_by_role("button", name=re.compile("^Ink (all|1 mark)")).click()
    expect(page.get_by_role("region", name="Pencil")).to_have_count(0)
    count = marks_of(page).count()

    def away(words):
        page.get_by_role("button", name="Marks and files").click()
        with page.expect_download() as given:
            page.get_by_role("menuitem", name=words).click()
        return given.value.path()

    for words in ("The sheet with its marks (PDF)", "The marks alone (XFDF)"):
        page.get_by_label("File with marks").set_input_files(away(words))
        expect(page.get_by_text(re.compile("^Taken in: .*there already"))).to_be_visible()
        page.get_by_role("button", name="Close", exact=True).click()
    assert marks_of(page).count() == count
    assert away("A summary with a clip").stat().st_size > 5000
    page.get_by_label("File with marks").set_input_files({"name": "a.pdf", "mimeType": "", "buffer": b"no marks here"})
    expect(page.get_by_text("The file is no XFDF")).to_be_visible()
    page.get_by_role("button", name="Close", exact=True).click()

    page.get_by_role("button", name="Marks and files").click()
    page.get_by_role("menuitem", name="Files that marks came from").click()
    kept = page.get_by_role("dialog", name="Files that marks came from")
    expect(kept.get_by_role("listitem")).to_have_count(2)
    axe(page)
    with page.expect_download() as given:
        kept.get_by_role("button", name="Download").first.click()
    assert given.value.path().stat().st_size > 500
    page.keyboard.press("Escape")

    page.get_by_role("button", name="Marks and files").click()
    page.get_by_role("menuitem", name="Print this sheet").click()
    page.get_by_label("Paper").select_option("A3")
    with page.expect_download() as given:
        page.get_by_role("button", name="Make the PDF").click()
    # The address stands in letters beside the code, which other tests read.
    words = pdfium.PdfDocument(given.value.path())[0].get_textpage().get_text_bounded()
    address = re.search(rf"{nod.url}/c/\w+", words)[0]
    stranger = visit("", address.removeprefix(nod.url))
    expect(stranger.get_by_role("heading")).to_have_text("○ Not released")
    expect(stranger.get_by_text("Nothing of it is in force yet.")).to_be_visible()
    axe(stranger)
    assert "BFT" not in stranger.content()
    stranger.goto(f"{nod.url}/c/nothing2222")
    expect(stranger.get_by_role("heading", name="No print has this code")).to_be_visible()


def test_a_mark_leads_to_another_document_and_that_document_back_to_the_sheet(visit, other_sheet):
    page = open_sheet(visit, "leilani", other_sheet)
    draw_with_words(page, "2", "See the pile heads")
    page.get_by_role("button", name="Link to …").click()
    page.get_by_role("combobox", name="Link to").fill("pile heads")
    option = page.get_by_role("option", name=re.compile("North linkspan, pile heads"))
    expect(option).to_be_visible()
    axe(page)
    page.get_by_role("combobox", name="Link to").press("Enter")
    links = page.get_by_role("list", name="Links")
    expect(links.get_by_role("link", name=re.compile("pile heads"))).to_be_visible()
    page.get_by_role("button", name="Ink 1 mark").click()
    expect(page.get_by_role("region", name="Pencil")).to_have_count(0)

    anouk = visit("anouk", "/register?words=pile+heads")
    anouk.get_by_role("row", name="North linkspan, pile heads").click()
    back = anouk.get_by_role("region", name="Linked on sheets")
    expect(back.get_by_text("See the pile heads")).to_be_visible()
    axe(anouk)
    back.get_by_role("link").first.click()
    expect(anouk.get_by_role("list", name="Links")).to_be_visible()

    links.get_by_role("button", name=re.compile("Take away the link")).click()
    expect(page.get_by_role("list", name="Links")).to_have_count(0)
