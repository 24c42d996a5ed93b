"""Ink for some, what is said until the end, and a step in words, as those who read it and those who do not."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.on_sheet import draw_with_words, open_sheet
from tests.browser.test_reviews import give, open_review, send
from tests.browser.test_routes import name_for_step
from tests.browser.test_screens import axe

pytestmark = pytest.mark.browser


def marks_list(page):
    return page.get_by_role("complementary", name="Marks")


def ink_for(page, readers):
    marks_list(page).get_by_label("Ink it for").select_option(label=readers)
    page.get_by_role("button", name=re.compile("^Ink 1 mark")).click()
    expect(marks_list(page).get_by_role("region", name="Pencil")).to_have_count(0)


def test_a_company_keeps_its_ink_to_itself_until_it_opens_it(visit, sheet):
    tomasz, anouk, marit = (open_sheet(visit, who, sheet) for who in ("tomasz", "anouk", "marit"))
    draw_with_words(tomasz, "2", "Quinceblossom")
    tomasz.keyboard.press("Escape")
    ink_for(tomasz, "TRA alone")
    item = marks_list(tomasz).get_by_role("article").filter(has_text="Quinceblossom")
    expect(item).to_contain_text("TRA alone")
    # The design lead of the same company has it live; client and controller never hear of it.
    saoirse = open_sheet(visit, "saoirse", sheet)
    theirs = marks_list(saoirse).get_by_role("article").filter(has_text="Quinceblossom")
    expect(theirs).to_contain_text("TRA alone")
    theirs.get_by_role("button").first.click()
    expect(theirs.get_by_role("button", name="Attach files")).to_have_count(0)
    expect(theirs.get_by_role("button", name="Let them read it")).to_have_count(0)
    saoirse.get_by_role("textbox", name="Reply").fill("Agreed, not yet.")
    saoirse.get_by_role("button", name="Reply").click()
    expect(item).to_contain_text("Agreed, not yet.")
    for page in (anouk, marit):
        page.keyboard.press("Control+k")
        page.get_by_role("combobox").first.fill("Quinceblossom")
        page.wait_for_load_state("networkidle")
        expect(page.get_by_text("Agreed, not yet.")).to_have_count(0)
        page.keyboard.press("Escape")
        expect(marks_list(page).get_by_text("Quinceblossom")).to_have_count(0)
    axe(tomasz)

    item.get_by_role("button").first.click()
    item.get_by_role("button", name="Let them read it").click()
    expect(item.get_by_text("will be read by everybody who sees the sheet, for good")).to_be_visible()
    axe(tomasz)
    item.get_by_role("button", name="Yes, for good").click()
    for page in (anouk, marit):
        expect(marks_list(page).get_by_role("article").filter(has_text="Quinceblossom")).to_contain_text(
            "Agreed, not yet."
        )
    expect(item.get_by_text("TRA alone")).to_have_count(0)


def test_what_is_said_waits_for_the_end_and_words_are_all_that_one_step_takes(visit):
    marit = visit("marit", "/reviews/routes")
    marit.get_by_role("button", name="A new route").click()
    form = marit.get_by_role("form", name="A new route")
    form.get_by_label("Name of the route").fill("Quietly")
    form.get_by_label("Step", exact=True).fill("Client’s word")
    name_for_step(form, 0, "anouk")
    # The list of names shuts with the field.
    form.get_by_label("Name of the route").click()
    form.get_by_label("in words alone, no marks").check()
    form.get_by_role("button", name="Add a step").click()
    form.get_by_label("Step", exact=True).nth(1).fill("Decide")
    form.get_by_label("Asks for").nth(1).select_option(label="a verdict")
    name_for_step(form, 1, "saoirse")
    form.get_by_label("Name of the route").click()
    form.get_by_label("what is said is kept among its people").check()
    form.get_by_role("button", name="Make the route").click()
    expect(marit.get_by_role("button", name=re.compile("^Quietly"))).to_be_visible()
    number = send(marit, "schematic ventilation", "Quietly", "Between us")

    anouk = visit("anouk", "/reviews")
    panel = open_review(anouk, number)
    panel.get_by_role("link", name="Answer on the sheet").click()
    expect(anouk.get_by_role("toolbar", name="Pens")).to_contain_text(
        f"{number} asks you for words here, and no marks."
    )
    expect(anouk.get_by_role("toolbar", name="Pens").get_by_role("button", name="Cloud")).to_have_count(0)
    expect(anouk.get_by_text("In words alone: this step takes no marks.")).to_be_visible()
    axe(anouk)
    anouk.get_by_label("Your comment on this document").fill("Quinceblossom")
    anouk.get_by_role("button", name="Hand in …").click()
    anouk.get_by_role("dialog").get_by_role("button", name=re.compile("^Hand in")).click()
    expect(anouk.get_by_role("dialog")).to_have_count(0)

    dede, saoirse = visit("dede", "/reviews"), visit("saoirse", "/reviews")
    outside = open_review(dede, number)
    expect(outside.get_by_text("What is said in it is kept among its people.")).to_be_visible()
    expect(outside.get_by_text("Quinceblossom")).to_have_count(0)
    outside.get_by_role("tab", name=re.compile("^Comments")).click()
    expect(outside.get_by_text("Comments are kept among the people of this review.")).to_be_visible()
    inside = open_review(saoirse, number)
    expect(inside.get_by_text("Quinceblossom").first).to_be_visible()
    give(inside, "A")
    inside.get_by_role("button", name="Hand in verdicts").click()
    # It has closed: what was said is there for whoever sees the review.
    expect(outside.get_by_text("Quinceblossom").first).to_be_visible()


def test_a_view_of_the_log_is_kept_and_opened_by_another(visit):
    marit = visit("marit", "/reviews")
    marit.get_by_label("State").select_option(label="closed")
    expect(marit.get_by_role("status").filter(has_text="reviews")).to_be_visible()
    marit.get_by_role("button", name="Views").click()
    marit.get_by_label("Keep this view as").fill("Closed ones")
    marit.get_by_label("For everybody in the project").check()
    axe(marit)
    marit.get_by_role("button", name="Keep the view").click()
    expect(marit.get_by_role("button", name="Views: Closed ones")).to_be_visible()
    tomasz = visit("tomasz", "/reviews")
    expect(tomasz.get_by_label("State")).to_have_value("")
    tomasz.get_by_role("button", name="Views").click()
    tomasz.get_by_role("button", name=re.compile("^Closed ones")).click()
    expect(tomasz.get_by_label("State")).to_have_value("closed")
    # The register has its own.
    tomasz.goto(re.sub("/reviews.*", "/register", tomasz.url))
    tomasz.get_by_role("button", name="Views").click()
    expect(tomasz.get_by_role("button", name=re.compile("^Closed ones"))).to_have_count(0)
