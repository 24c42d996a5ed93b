"""A lead and a controller write the paths that reviews take, and somebody sends documents on one."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.test_reviews import open_review, send
from tests.browser.test_screens import axe

pytestmark = pytest.mark.browser


def name_for_step(form, place, *people):
    field = form.get_by_role("combobox", name="Whom: people, roles, companies").nth(place)
    for person in people:
        field.fill(person)
        expect(form.get_by_role("listbox").get_by_role("option").first).to_be_visible()
        field.press("Enter")


def test_a_route_is_written_copied_changed_retired_and_gone_on(visit):
    marit = visit("marit", "/reviews")
    marit.get_by_role("link", name="Routes").click()
    expect(marit.get_by_role("heading", name="Routes", level=1)).to_be_visible()
    marit.get_by_role("button", name="A new route").click()
    form = marit.get_by_role("form", name="A new route")
    form.get_by_label("Name of the route").fill("Marine path")
    form.get_by_label("Step", exact=True).fill("Look")
    make = form.get_by_role("button", name="Make the route")
    expect(make).to_be_disabled()
    expect(form.get_by_text("Nobody is named for it.").first).to_be_visible()
    name_for_step(form, 0, "leilani", "anouk")
    form.get_by_role("button", name="Add a step").click()
    expect(form.get_by_label("Step", exact=True).nth(1)).to_be_focused()
    marit.keyboard.type("Decide")
    form.get_by_label("Asks for").nth(1).select_option(label="a verdict")
    name_for_step(form, 1, "saoirse")
    form.get_by_label("Within").nth(1).fill("2")
    # Begun on Tuesday 9 March: three working days, then two.
    expect(form.get_by_text(re.compile("begun today, by"))).to_have_text([re.compile("12 Mar"), re.compile("16 Mar")])
    axe(marit)
    form.get_by_role("button", name="Move Decide up").click()
    expect(form.get_by_label("Step", exact=True).first).to_have_value("Decide")
    form.get_by_role("button", name="Move Decide down").click()
    make.click()
    routes = marit.get_by_role("region", name="Routes")
    routes.get_by_role("button", name=re.compile("^Marine path")).click()

    rafael = visit("rafael", "/reviews/routes")
    rafael.get_by_role("button", name=re.compile("^Marine path")).click()
    rafael.get_by_role("button", name="Copy it").click()
    copy = rafael.get_by_role("form", name="A new route")
    expect(copy.get_by_label("Name of the route")).to_have_value("Marine path, another")
    copy.get_by_role("button", name="Take Look away").click()
    copy.get_by_role("button", name="Make the route").click()
    # The controller sees it appear, and both have a path of their own.
    expect(routes.get_by_role("button", name=re.compile("^Marine path, another"))).to_contain_text("1 step")

    # Both write on one; the second is told, and nothing of either is lost unseen.
    routes.get_by_role("button", name=re.compile("^Marine path(?!, another)")).click()
    hers = marit.get_by_role("form", name="The route Marine path")
    hers.get_by_label("What it is for").fill("Piles and decks")
    rafael.get_by_role("button", name=re.compile("^Marine path(?!, another)")).click()
    his = rafael.get_by_role("form", name="The route Marine path")
    his.get_by_label("What it is for").fill("All that floats")
    his.get_by_role("button", name="Save the route").click()
    told = hers.get_by_role("alert").filter(has_text="Somebody changed this route")
    expect(told).to_be_visible()
    expect(hers.get_by_label("What it is for")).to_have_value("Piles and decks")
    expect(hers.get_by_role("button", name="Save the route")).to_be_disabled()
    axe(marit)
    told.get_by_role("button", name="Show theirs").click()
    expect(hers.get_by_label("What it is for")).to_have_value("All that floats")

    marit.goto(re.sub("/reviews.*", "/register?words=south+linkspan,+cross", marit.url))
    marit.get_by_role("row").filter(has_text="cross section").get_by_label("Mark this line").check()
    marit.get_by_role("button", name="Start a review").click()
    marit.get_by_label("Name").fill("Deck")
    marit.get_by_label("Route", exact=True).select_option(label="Marine path")
    expect(marit.get_by_role("region", name="The path")).to_contain_text("by 16 Mar")

    rafael.get_by_role("button", name=re.compile("^Marine path, another")).click()
    rafael.get_by_role("button", name="Retire it").click()
    rafael.get_by_role("button", name=re.compile("^Yes, nobody")).click()
    expect(rafael.get_by_role("button", name="Bring it back")).to_be_visible()
    axe(rafael)

    leilani = visit("leilani", "/reviews")
    expect(leilani.get_by_role("heading", name="Reviews")).to_be_visible()
    expect(leilani.get_by_role("link", name="Routes")).to_have_count(0)


def test_a_project_has_verdicts_of_its_own_for_a_step_and_the_reviewer_gives_those(visit):
    rafael = visit("rafael", "/setup/codes")
    add = rafael.get_by_role("button", name="Add a verdict")
    expect(rafael.get_by_label("Code of verdict 4")).to_have_value("D")
    for code, words, meaning in (("F0", "no remark", "go"), ("F1", "refused by fire", "stop")):
        count = rafael.get_by_label(re.compile("^Code of verdict")).count()
        add.click()
        rafael.get_by_label(f"Code of verdict {count + 1}").fill(code)
        rafael.get_by_label(f"Meaning of verdict {code}").fill(words)
        rafael.get_by_label(f"The set of {code}").fill("Fire")
        rafael.get_by_label(f"What {code} means").select_option(meaning)
    rafael.get_by_role("button", name="Save", exact=True).click()
    expect(rafael.get_by_role("alert").filter(has_text="At least one verdict of the set Fire")).to_be_visible()
    line = rafael.get_by_role("listitem").filter(has=rafael.get_by_label("The set of F0"))
    line.get_by_label("may be used").check()
    rafael.get_by_role("button", name="Save", exact=True).click()
    expect(rafael.get_by_text("Saved", exact=True).first).to_be_visible()
    axe(rafael)

    rafael.goto(rafael.url.split("/setup")[0] + "/reviews/routes")
    rafael.get_by_role("button", name="A new route").click()
    form = rafael.get_by_role("form", name="A new route")
    form.get_by_label("Name of the route").fill("Fire alone")
    form.get_by_label("Step", exact=True).fill("Fire check")
    form.get_by_label("Asks for").select_option(label="a verdict, Fire")
    name_for_step(form, 0, "dede")
    expect(form.get_by_label("A document with F1, refused by fire")).to_be_visible()
    expect(form.get_by_label("A document with A, proceed")).to_have_count(0)
    expect(form.get_by_label("Status after F0")).to_be_visible()
    axe(rafael)
    form.get_by_role("button", name="Make the route").click()
    expect(rafael.get_by_role("button", name=re.compile("^Fire alone"))).to_be_visible()

    number = send(visit("marit", "/register"), "Luminaires", "Fire alone", "Luminaires by fire")
    dede = visit("dede", "/reviews")
    panel = open_review(dede, number)
    verdicts = panel.get_by_role("radiogroup").first
    expect(verdicts.get_by_role("radio")).to_have_count(2)
    verdicts.get_by_label(re.compile("^F0")).check()
    panel.get_by_role("button", name="Hand in verdicts").click()
    expect(panel.get_by_text(re.compile("^Closed"))).to_be_visible()
    dede.goto(re.sub("/reviews.*", "/register?words=Luminaires", dede.url))
    expect(dede.get_by_role("row").filter(has_text="BFT-").first.get_by_text("F0")).to_be_visible()
