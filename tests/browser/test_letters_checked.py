"""Letters that somebody looks at before they go, to many, on paper; notices that run out; kinds in Set-up."""

import re

from playwright.sync_api import expect

from tests.browser.test_letters import answer_by_mail, begin, is_kept, panel, to, write
from tests.browser.test_screens import axe
from tests.browser.test_sizes import at_every_size
from tests.world import pdf

PEOPLE = (
    "Anouk Ferreira", "Junpei Mori", "Ottilie Vestergaard", "Kwabena Lindqvist", "Rafael Nwosu", "Dede Okonkwo",
    "Paolo Marchetti", "Leilani Brandt", "Saoirse Tanaka", "Tomasz Adeyemi", "Yusuf Haldane",
)  # fmt: skip


def desk_act(page, subject, words):
    """The button of a line of the Desk."""
    page.goto(page.url.partition("/p/")[0])
    page.get_by_role("link", name=re.compile(f"^{words} ?: .*{subject}")).first.click()


def day(page, label, value):
    page.get_by_label(label, exact=True).fill(value)
    page.keyboard.press("Tab")


def test_a_letter_is_given_back_changed_and_signed(visit, nod):
    saoirse, tomasz = visit("saoirse", "/letters"), visit("tomasz")
    begin(saoirse, "letter")
    to(saoirse, "Anouk")
    saoirse.get_by_label("Subject").fill("Samples of the roof edge")
    write(saoirse, "Three samples come on Monday.")
    saoirse.get_by_label("Before it goes").select_option(label="Tomasz Adeyemi (TRA)")
    saoirse.get_by_role("checkbox", name=re.compile("^and signs it")).check()
    is_kept(saoirse)
    axe(saoirse)
    saoirse.get_by_role("button", name="Give it to Tomasz Adeyemi").click()
    expect(
        saoirse.get_by_role("status").filter(has_text="It is with Tomasz Adeyemi (TRA), who signs it")
    ).to_be_visible()
    expect(saoirse.get_by_role("textbox", name="What you write")).to_have_count(0)

    desk_act(tomasz, "Samples of the roof edge", "Look at it")
    look = tomasz.get_by_role("article", name="A letter before it goes")
    expect(look).to_contain_text("Saoirse Tanaka (TRA) asks you to sign this")
    expect(look).to_contain_text("Three samples come on Monday.")
    axe(tomasz)
    assert at_every_size(tomasz) == {}
    tomasz.set_viewport_size({"width": 1280, "height": 800})
    tomasz.get_by_label("What is to change").fill("Tuesday, not Monday.")
    expect(tomasz.locator('[data-form="letter-look"]').first).to_be_attached()
    tomasz.reload()
    expect(tomasz.get_by_label("What is to change")).to_have_value("Tuesday, not Monday.")
    expect(tomasz.get_by_role("button", name="Sign it and let it go")).to_have_accessible_description(
        re.compile("give it back")
    )
    tomasz.get_by_role("button", name="Give it back").click()
    expect(tomasz.get_by_role("heading", name=re.compile("desk"))).to_be_visible()

    expect(saoirse.get_by_text("Tomasz Adeyemi gave it back: Tuesday, not Monday.")).to_be_visible()
    write(saoirse, "Three samples come on Tuesday.")
    is_kept(saoirse)
    saoirse.get_by_role("button", name="Give it to Tomasz Adeyemi").click()
    expect(saoirse.get_by_text("It is with Tomasz Adeyemi")).to_be_visible()
    desk_act(tomasz, "Samples of the roof edge", "Look at it")
    expect(look).to_contain_text("come on Tuesday.")
    tomasz.get_by_role("button", name="Sign it and let it go").click()
    expect(tomasz.get_by_role("heading", name=re.compile("desk"))).to_be_visible()

    anouk = visit("anouk", "/letters?words=roof+edge")
    anouk.get_by_text("Samples of the roof edge").first.click()
    expect(panel(anouk)).to_contain_text("Signed by Tomasz Adeyemi.")
    expect(panel(anouk).get_by_role("article", name="From Saoirse Tanaka")).to_contain_text("come on Tuesday.")
    with anouk.expect_download() as taken:
        panel(anouk).get_by_role("button", name="PDF", exact=True).click()
    assert taken.value.suggested_filename == "TRA-BHT-L-0002.pdf"


def test_a_letter_to_twelve_of_which_one_comes_back(visit, nod):
    marit = visit("marit", "/letters")
    begin(marit, "memo")
    for each in PEOPLE:
        to(marit, each)
    marit.keyboard.press("Tab")
    marit.get_by_role("button", name="Somebody who is not in the list …").click()
    new = marit.get_by_role("group", name="Somebody new, outside")
    new.get_by_label("Name").fill("Ida Tern")
    new.get_by_label("E-mail").fill("ida@ternsurveys.example")
    new.get_by_label("Company").select_option(index=1)
    new.get_by_role("button", name="Add", exact=True).click()
    marit.get_by_label("Subject").fill("Site shut on Friday")
    write(marit, "The site is shut on Friday from noon.")
    marit.get_by_role("button", name="Send it to the 12 named").click()
    expect(panel(marit).get_by_role("tab", name=re.compile("People"))).to_contain_text("12")

    outside = visit("rafael", "/post-room")
    mails = outside.get_by_role("navigation", name="Mail").get_by_role("button").filter(has_text="Site shut on Friday")
    expect(mails).to_have_count(12, timeout=60_000)
    mails.filter(has_text="ida@ternsurveys.example").click()
    outside.get_by_role("button", name="Let it come back").click()
    outside.get_by_role("button", name="Send it back").click()
    expect(outside.get_by_role("status").filter(has_text="250")).to_be_visible()
    answer_by_mail(outside, "Site shut on Friday", "Understood.")

    panel(marit).get_by_role("tab", name="Trail").click()
    expect(panel(marit)).to_contain_text("ida@ternsurveys.example")
    marit.goto(f"{nod.url}/post-room")
    told = marit.get_by_role("navigation", name="Mail").get_by_text(re.compile("did not reach"))
    expect(told.first).to_be_visible()


def test_a_notice_runs_out_on_the_desk_until_it_is_served(visit, nod):
    rafael = visit("rafael")
    desk_act(rafael, "tide gate out of service", "Open")
    expect(panel(rafael)).to_contain_text("time bar 12 Mar 2027")
    expect(panel(rafael)).to_contain_text("what is written is theirs alone until then")
    axe(rafael)
    panel(rafael).get_by_role("link", name="Go on writing").click()
    day(rafael, "Became aware of it on", "15 Feb 2027")
    expect(rafael.get_by_text("It is to be served by 15 Mar 2027, 28 days from then.")).to_be_visible()
    is_kept(rafael)
    assert at_every_size(rafael) == {}
    rafael.set_viewport_size({"width": 1280, "height": 800})
    rafael.get_by_role("button", name="Send it to the one named").click()
    expect(panel(rafael)).to_contain_text("Served through Nod on 9 Mar 2027, 6 d before its time bar.")

    panel(rafael).get_by_role("button", name="Write in it").click()
    write(rafael, "Handed over at the gate.")
    rafael.get_by_label("Served").select_option("by hand")
    day(rafael, "On", "9 Mar 2027")
    rafael.locator("input[type=file]").set_input_files(
        files=[{"name": "receipt.pdf", "mimeType": "application/pdf", "buffer": pdf("receipt")}]
    )
    rafael.get_by_role("button", name=re.compile("^Send it to")).click()
    anouk = visit("anouk", "/letters?words=tide+gate+out")
    anouk.get_by_text("tide gate out of service").first.click()
    expect(panel(anouk)).to_contain_text("Served by hand on 9 Mar 2027, 6 d before its time bar.")
    expect(panel(anouk).get_by_role("button", name="receipt.pdf", exact=True)).to_be_visible()


def test_a_letter_that_came_on_paper_is_filed_under_who_wrote_it(visit, nod):
    marit = visit("marit", "/letters")
    begin(marit, "letter")
    to(marit, "Rafael")
    marit.get_by_label("Subject").fill("Price of the longer frames")
    marit.get_by_role("button", name="References, or a letter that came on paper …").click()
    marit.get_by_label("It came on paper from").select_option(label="Yusuf Haldane (SGS)")
    send = marit.get_by_role("button", name="Send it to the one named")
    expect(send).to_have_accessible_description(re.compile("the day that the letter bears"))
    marit.get_by_label("Their reference").fill("SGS/0412")
    day(marit, "The day it bears", "3 Mar 2027")
    day(marit, "Came on", "8 Mar 2027")
    expect(send).to_have_accessible_description("Add the scan of the letter.")
    marit.locator("input[type=file]").set_input_files(
        files=[{"name": "scan.pdf", "mimeType": "application/pdf", "buffer": pdf("scan")}]
    )
    is_kept(marit)
    axe(marit)
    send.click()
    expect(panel(marit)).to_contain_text("On paper of 3 Mar 2027, came on 8 Mar 2027, put in by Marit Osei.")
    expect(panel(marit)).to_contain_text("reference SGS/0412")
    expect(panel(marit).get_by_role("article", name="From Yusuf Haldane")).to_be_visible()
    expect(panel(marit)).to_contain_text("Sparrowgate Steel")


def test_the_kinds_of_letters_are_set_by_a_lead(visit, nod):
    rafael = visit("rafael", "/setup/letters")
    instruction = rafael.get_by_role("listitem", name="instruction", exact=True)
    instruction.get_by_role("checkbox", name="somebody looks at it before it goes").check()
    instruction.get_by_label("Days for an answer, instruction; empty for none").fill("5")
    axe(rafael)
    rafael.get_by_role("button", name="Save", exact=True).click()
    expect(rafael.get_by_role("status").filter(has_text="Saved")).to_be_visible()
    saoirse = visit("saoirse", "/letters")
    begin(saoirse, "instruction")
    to(saoirse, "Rafael")
    saoirse.get_by_label("Subject").fill("Instruction 7: kerb of the yard")
    write(saoirse, "Lower it by 20 mm.")
    expect(saoirse.get_by_role("button", name="Send it to the one named")).to_have_accessible_description(
        "Say who looks at this instruction before it goes."
    )
    marit = visit("marit", "/setup/letters")
    expect(marit.get_by_text("Leads of the project change this.")).to_be_visible()
