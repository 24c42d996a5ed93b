"""Submittals, as several people: from what is wanted to the official answer, on the clock (handbook §9)."""

import re

from playwright.sync_api import expect

from tests.browser.client import Person
from tests.browser.conftest import EMAILS
from tests.browser.test_screens import axe
from tests.world import pdf

BOLLARDS = "Mooring rings, quay wall"


def panel(page):
    return page.get_by_role("complementary", name="Submittal")


def attach(page, label, name):
    page.get_by_label(label, exact=True).locator("visible=false").first.set_input_files(
        {"name": name, "mimeType": "application/pdf", "buffer": pdf(name)}
    )
    expect(panel(page).get_by_text(name)).to_be_visible()


def press(page, name):
    panel(page).get_by_role("button", name=name, exact=True).click()


def open_one(page, title=BOLLARDS):
    page.get_by_role("grid", name="Submittals").get_by_text(title, exact=True).click()
    expect(panel(page).get_by_role("heading", name=re.compile(title))).to_be_visible()


def make(page):
    page.get_by_role("button", name="New submittal").click()
    page.get_by_label("Title", exact=True).fill(BOLLARDS)
    page.get_by_label("Kind", exact=True).last.select_option(label="shop drawing")
    page.get_by_label("Responsible company").select_option(label="Gannet Marine Engineering")
    page.get_by_label("Section", exact=True).fill("355913")
    page.get_by_role("textbox", name="Required on site").fill("30 jul")
    page.get_by_label("Lead time", exact=True).fill("30")
    page.get_by_label("Rounds expected").fill("2")
    page.get_by_role("button", name="Make it").click()


def test_from_what_is_wanted_to_the_official_answer(visit, nod):
    marit, ottilie, saoirse = visit("marit", "/submittals"), visit("ottilie"), visit("saoirse")
    make(marit)
    clock = panel(marit).get_by_role("region", name="The clock")
    # The demo's spring holiday is one day more on the way back from 30 July.
    expect(clock).to_contain_text("required 30 Jul 2027 − lead 30 − review 2 × 10 − preparation 10 − buffer 5")
    expect(clock).to_contain_text("30 Apr 2027, 37 working days from today")
    number = re.search(r"GME-\d{4}", panel(marit).inner_text()).group()
    panel(marit).get_by_role("tab", name="Copied in").click()
    marit.get_by_placeholder("People or companies").fill("Junpei")
    marit.get_by_role("option", name=re.compile("Junpei")).click()
    marit.keyboard.press("Escape")
    press(marit, "Keep")
    expect(panel(marit).get_by_role("button", name="Keep")).to_have_attribute("aria-disabled", "true")
    panel(marit).get_by_role("tab", name="Now").click()

    press(marit, "Ask for it …")
    marit.get_by_label("Somebody of GME").select_option(label="Ottilie Vestergaard")
    marit.get_by_role("dialog").get_by_label("A note").fill("With the loads, please.")
    marit.get_by_role("dialog").get_by_role("button", name="Ask", exact=True).click()
    expect(panel(marit)).to_contain_text("asked for with Ottilie Vestergaard")

    # It is on her Desk, and she sends it in from there.
    ottilie.get_by_role("listitem").filter(has_text=BOLLARDS).get_by_role("link").first.click()
    press(ottilie, "We prepare it")
    press(ottilie, "Send it in …")
    attach(ottilie, "Choose files", "rings.pdf")
    press(ottilie, "Send it in")
    expect(panel(ottilie)).to_contain_text("sent in with Marit Osei")

    expect(panel(marit)).to_contain_text("sent in with Marit Osei")
    press(marit, "Give it on to answer …")
    panel(marit).get_by_label("Who is to answer").select_option(label="Saoirse Tanaka, TRA")
    press(marit, "Give it on")
    expect(panel(marit)).to_contain_text("under review with Saoirse Tanaka")

    saoirse.goto(f"{nod.url}/submittals?view=mine")
    open_one(saoirse)
    press(saoirse, "Answer …")
    panel(saoirse).get_by_title("revise and resubmit").click()
    expect(panel(saoirse)).to_contain_text("Revision 1 is asked for at once.")
    attach(saoirse, "Choose files", "comments.pdf")
    panel(saoirse).get_by_label("A note").fill("The anchor plate is missing.")
    press(saoirse, "Answer")
    expect(panel(saoirse)).to_contain_text(f"rev 1 {BOLLARDS}")

    # The second round; the answer came on paper, and is entered on her behalf.
    expect(panel(ottilie)).to_contain_text("asked for with Ottilie Vestergaard")
    press(ottilie, "Send it in …")
    attach(ottilie, "Choose files", "rings, second.pdf")
    press(ottilie, "Send it in")
    expect(panel(marit)).to_contain_text("sent in with Marit Osei")
    press(marit, "Give it on to answer …")
    press(marit, "Give it on")
    press(marit, "Enter their answer …")
    panel(marit).get_by_title("proceed as noted").click()
    attach(marit, "Choose the evidence", "letter of 9 March.pdf")
    press(marit, "Enter the answer")
    press(marit, "Close it …")
    press(marit, "Close it")
    expect(panel(marit)).to_contain_text("closed")
    panel(marit).get_by_role("tab", name=re.compile("Rounds")).click()
    expect(panel(marit)).to_contain_text("entered by Marit Osei (HBC) on behalf of Saoirse Tanaka (TRA)")
    expect(panel(marit)).to_contain_text("The anchor plate is missing.")
    panel(marit).get_by_role("tab", name="Now").click()
    panel(marit).get_by_role("textbox", name="Delivered to site").fill("8 mar")
    press(marit, "It was delivered")
    expect(panel(marit).get_by_role("region", name="The clock")).to_contain_text("delivered 8 Mar 2027")

    # It on paper, and sent on; the month shows it where it was delivered.
    paper = panel(marit).get_by_role("region", name="On paper")
    with marit.expect_download() as taken:
        paper.get_by_role("button", name="PDF").click()
    assert taken.value.suggested_filename.endswith("rev-1.pdf")
    paper.get_by_role("button", name="Send it by mail …").click()
    marit.get_by_placeholder("People, and outside contacts").fill("Yusuf")
    marit.get_by_role("option", name=re.compile("Yusuf")).click()
    # Escape shuts the list, not the dialog.
    marit.keyboard.press("Escape")
    marit.get_by_label("Somebody else, by e-mail").fill("nell@gannetmarine.example")
    marit.get_by_role("dialog").get_by_label("Name").fill("Nell Okonkwo")
    marit.get_by_label("Their company").select_option(label="Gannet Marine Engineering")
    marit.get_by_role("dialog").get_by_role("button", name="Send", exact=True).click()
    expect(paper.get_by_role("status")).to_have_text("Sent to 2 people.")
    marit.goto(f"{nod.url}/submittals/month")
    expect(marit.get_by_role("listitem", name="Monday 8 March")).to_contain_text(f"delivered{number}")
    marit.get_by_role("button", name="The next month").click()
    expect(marit.get_by_role("status").filter(has_text="April 2027")).to_be_visible()
    axe(marit)

    # Who is copied in was told of each step, and the field reads the answer on a phone.
    junpei = Person(nod.url, EMAILS["junpei"])
    told = [each["words"] for each in junpei("GET", f"/api/notices?project_id={junpei.project_id}")["notices"]]
    assert any("closed it, answered B" in each for each in told)
    field = visit("kwabena", "/submittals?words=rings", viewport={"width": 390, "height": 844})
    open_one(field)
    expect(panel(field)).to_contain_text("proceed as noted")
    assert field.evaluate("document.documentElement.scrollWidth") <= 390


def test_the_log_is_narrowed_sorted_and_several_are_changed_and_changed_back(visit):
    page = visit("marit", "/submittals")
    log = page.get_by_role("grid", name="Submittals")
    rows = log.get_by_role("row")
    expect(rows.nth(1)).to_contain_text("Fenders, linkspan north")
    page.get_by_role("button", name=re.compile("late$")).click()
    expect(page.get_by_role("status").filter(has_text="submittals")).to_have_text("3 submittals")
    page.get_by_role("button", name="Show all").click()
    page.get_by_role("button", name=re.compile("^\\d+ planned")).click()
    expect(rows.nth(1)).to_contain_text("planned")
    page.get_by_label("Number, title, section").fill("08 44 13")
    expect(page.get_by_role("status").filter(has_text="submittals")).to_have_text("4 submittals")
    axe(page)

    log.get_by_role("checkbox").first.check()
    bar = page.get_by_role("toolbar", name="With what is marked")
    expect(bar).to_contain_text("4 submittals marked")
    bar.get_by_role("button", name="Change …").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Location").fill("Quay front")
    dialog.get_by_role("button", name="Change them").click()
    expect(dialog).to_contain_text("4 submittals changed.")
    dialog.get_by_role("button", name="Undo").click()
    expect(dialog).to_be_hidden()
    open_one(page, "Curtain wall, quay front")
    panel(page).get_by_role("tab", name="Trail").click()
    expect(panel(page).get_by_text("changed a submittal")).to_have_count(2)


def test_what_is_needed_sooner_is_late_at_once_and_live_for_others(visit):
    marit, rafael = visit("marit", "/submittals?words=Heat+pump"), visit("rafael", "/submittals?words=Heat+pump")
    open_one(marit, "Heat pump")
    press(marit, "Change the details …")
    marit.get_by_role("dialog").get_by_role("textbox", name="Required on site").fill("1 may")
    marit.get_by_role("dialog").get_by_role("button", name="Change it").click()
    expect(panel(marit).get_by_role("region", name="The clock")).to_contain_text("late")
    expect(rafael.get_by_role("grid", name="Submittals").get_by_text(re.compile("d late$")).first).to_be_visible()


def test_the_project_sets_its_buffer_and_kinds(visit):
    rafael = visit("rafael", "/setup/submittals")
    rafael.get_by_label("Buffer before the day on site").fill("15")
    rafael.get_by_role("button", name="Add a kind").click()
    kinds = rafael.get_by_label(re.compile("^Words of kind"))
    rafael.get_by_label(re.compile("^Code of kind")).last.fill("DR")
    kinds.last.fill("diving report")
    axe(rafael)
    rafael.get_by_role("button", name="Save").click()
    expect(rafael.get_by_text("Saved")).to_be_visible()
    marit = visit("marit", "/submittals?words=Mooring+bollards")
    open_one(marit, "Mooring bollards, 100 t")
    expect(panel(marit).get_by_role("region", name="The clock")).to_contain_text("− buffer 15 =")
    expect(marit.get_by_label("Kind", exact=True)).to_contain_text("diving report")


def hand_in(nod, who, review, verdict=""):
    """Their step of a review, as the screen sends it."""
    person = Person(nod.url, EMAILS[who])
    shown = person("GET", f"/api/reviews/{review}")
    step = next(each for each in shown["slip"] if each["state"] == "running")
    path = f"/api/reviews/{review}/steps/{step['id']}"
    if step["quota"] == "any" and step["places"][0]["state"] != "handed_in" and len(step["places"]) > 1:
        person("POST", f"{path}/pick-up")
    answers = [
        {"document_id": each["document_id"], "verdict": verdict, "comment": "Seen."} for each in shown["documents"]
    ]
    person("POST", f"{path}/hand-in", {"answers": answers, "note": ""})


def test_a_submittal_on_a_route_is_answered_by_its_review(visit, nod):
    marit = visit("marit", "/submittals?words=Water")
    open_one(marit, "Water meters")
    press(marit, "Give it on to answer …")
    panel(marit).get_by_label("Who is to answer").select_option(label="The route Check and decide")
    expect(panel(marit)).to_contain_text("Check, then Decide: until")
    press(marit, "Give it on")
    expect(panel(marit)).to_contain_text("under review with any of 3 for Check")
    expect(panel(marit).get_by_role("button", name="Enter their answer …")).to_have_count(0)
    panel(marit).get_by_role("tab", name=re.compile("Rounds")).click()
    expect(panel(marit)).to_contain_text("In the register: OHS-0012-0-01")
    panel(marit).get_by_role("link", name=re.compile("^RV-")).click()
    slip = marit.get_by_role("complementary", name="Review")
    expect(slip).to_contain_text("Its outcome answers OHS-0012 Water meters")
    review = marit.url.rpartition("/")[2].partition("?")[0]
    hand_in(nod, "leilani", review)
    hand_in(nod, "saoirse", review, "B")
    slip.get_by_role("link", name=re.compile("Water meters")).click()
    expect(panel(marit)).to_contain_text("answered with Marit Osei")
    panel(marit).get_by_role("tab", name=re.compile("Rounds")).click()
    expect(panel(marit)).to_contain_text("OHS-0012-0-01 B")
    expect(panel(marit).get_by_role("button", name=re.compile("^RV-.*_record.pdf$"))).to_be_visible()


def test_each_figure_of_the_analysis_leads_to_its_lines(visit):
    marit = visit("marit", "/submittals/analysis")
    row = marit.get_by_role("region", name="How long answers take").get_by_role("row").filter(has_text="Plinthwork")
    row.get_by_role("link", name=re.compile("waiting for")).click()
    expect(marit.get_by_role("button", name="waiting for Plinthwork Structures")).to_be_visible()
    lines = marit.get_by_role("grid", name="Submittals").get_by_role("row")
    expect(lines.filter(has_text="under review")).to_have_count(2)
    marit.goto(marit.url.partition("/p/")[0] + "/submittals/analysis")
    axe(marit)
    marit.get_by_role("link", name=re.compile("^2 rounds: ")).click()
    expect(lines.filter(has_text="Main switchboard")).to_have_count(1)
    marit.get_by_role("button", name="settled in 2 rounds").click()
    expect(marit.get_by_role("button", name="settled in 2 rounds")).to_have_count(0)
    marit.go_back()
    marit.goto(marit.url.partition("/p/")[0] + "/submittals/analysis")
    today = marit.get_by_role("region", name="How floats fall").get_by_role("link").last
    late = re.search(r": (\d+) of \d+ late", today.get_attribute("aria-label")).group(1)
    today.click()
    expect(marit.get_by_role("status").filter(has_text="submittals")).to_have_text(f"{late} submittals")
    lines.filter(has_text="Fenders, linkspan north").get_by_text("Fenders, linkspan north").click()
    expect(panel(marit)).to_contain_text(re.compile(r"Float since 16 Feb: 2 d late then, \d+ d late now"))


def test_items_have_verdicts_and_lots_have_days_of_their_own(visit):
    """Of GME-0001, which Leilani is asked to answer."""
    title = "Mooring bollards, 100 t"
    marit = visit("marit", "/submittals?words=bollards")
    open_one(marit, title)
    press(marit, "Items …")
    dialog = marit.get_by_role("dialog")
    dialog.get_by_label("Item 1").fill("Bollard")
    dialog.get_by_role("button", name="One more item").click()
    dialog.get_by_label("Item 2").fill("Anchor plate")
    axe(marit)
    dialog.get_by_role("button", name="Keep").click()
    parts = panel(marit).get_by_role("region", name="Items and lots")
    expect(parts.get_by_role("listitem")).to_have_text(["Bollard not answered yet", "Anchor plate not answered yet"])
    press(marit, "Lots …")
    dialog.get_by_label("Lot 1").fill("North quay")
    dialog.get_by_label("Required on site").first.fill("8 jun")
    dialog.get_by_role("button", name="One more lot").click()
    dialog.get_by_label("Lot 2").fill("South quay")
    dialog.get_by_role("button", name="Keep").click()
    expect(parts.get_by_role("listitem").filter(has_text="North quay")).to_contain_text("on site 8 Jun")
    expect(panel(marit).get_by_role("region", name="The clock")).to_contain_text("required 8 Jun 2027")

    leilani = visit("leilani", "/submittals?view=mine&words=bollards")
    open_one(leilani, title)
    press(leilani, "Answer …")
    panel(leilani).get_by_role("radiogroup", name="The verdict", exact=True).get_by_title("proceed as noted").click()
    panel(leilani).get_by_role("radiogroup", name="The verdict on Anchor plate").get_by_title(
        "proceed", exact=True
    ).click()
    attach(leilani, "Choose files", "as noted.pdf")
    press(leilani, "Answer")
    answered = panel(leilani).get_by_role("region", name="Items and lots").get_by_role("listitem")
    expect(answered.filter(has_text="Anchor plate")).to_contain_text("A")
    expect(answered.filter(has_text="Bollard")).to_contain_text("B")
    panel(marit).get_by_label("Which lot").select_option(label="South quay")
    panel(marit).get_by_role("textbox", name="Delivered to site").fill("8 mar")
    press(marit, "It was delivered")
    expect(parts.get_by_role("listitem").filter(has_text="South quay")).to_contain_text("delivered 8 Mar")
