"""Reviews of every shape, as the people who are in them."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.test_screens import axe

pytestmark = pytest.mark.browser

THREE = "Three companies side by side, and a lead"


def name_instead(form, place, *people):
    """Whom a step of a route asks, in place of whom it asked."""
    field = form.get_by_role("combobox", name="Whom: people, roles, companies").nth(place)
    field.press("Backspace")
    for person in people:
        field.fill(person)
        expect(form.get_by_role("listbox").get_by_role("option").first).to_be_visible()
        field.press("Enter")


def write_route(rafael, copied, named, *whom):
    rafael.goto(re.sub("/reviews.*|/desk.*", "/reviews/routes", rafael.url))
    rafael.get_by_role("button", name=re.compile(f"^{copied}")).click()
    rafael.get_by_role("button", name="Copy it").click()
    form = rafael.get_by_role("form", name="A new route")
    form.get_by_label("Name of the route").fill(named)
    for place, people in enumerate(whom):
        name_instead(form, place, *people)
    form.get_by_role("button", name="Make the route").click()
    expect(rafael.get_by_role("button", name=re.compile(f"^{named}"))).to_be_visible()


def send(marit, words, route, name):
    """Everything that the words find in the register goes on the route; the review's number."""
    marit.goto(re.sub("/(reviews|register|desk).*", f"/register?words={words.replace(' ', '+')}", marit.url))
    expect(marit.get_by_role("row").filter(has_text="BFT-").first).to_be_visible()
    for row in marit.get_by_role("row").filter(has_text="BFT-").all():
        row.get_by_label("Mark this line").check()
    marit.get_by_role("button", name="Start a review").click()
    marit.get_by_label("Name").fill(name)
    marit.get_by_label("Route", exact=True).select_option(label=route)
    marit.get_by_role("button", name=re.compile(r"Send \d+ on the route")).click()
    panel = marit.get_by_role("complementary", name="Review")
    expect(panel.get_by_role("region", name="Routing slip")).to_be_visible()
    return panel.locator("p").first.text_content().split()[0]


def open_review(page, number):
    page.goto(re.sub("/(reviews|register|desk).*", "/reviews", page.url))
    page.get_by_role("row").filter(has_text=number).click()
    return page.get_by_role("complementary", name="Review")


def give(panel, letter, comment=""):
    """The same verdict on all documents, one by one."""
    expect(panel.get_by_role("radiogroup").first).to_be_visible()
    for each in panel.get_by_role("radio", name=re.compile(f"^{letter} ")).all():
        each.check()
    if comment:
        panel.get_by_label(re.compile("^Comment on")).first.fill(comment)


def test_three_companies_side_by_side_and_a_lead_who_sums_up(visit):
    """What one of them sends back leaves at the end; the lead's word counts, and it is said before each button."""
    rafael = visit("rafael", "/reviews/routes")
    write_route(rafael, THREE, "Fire, client, structure", ["dede"], ["anouk"], ["leilani"], ["rafael"])
    marit = visit("marit", "/register")
    number = send(marit, "schematic ventilation", "Fire, client, structure", "Smoke")
    slip = marit.get_by_role("region", name="Routing slip")
    expect(slip.get_by_role("list", name="Beside each other").get_by_role("listitem")).to_have_count(3)
    axe(marit)
    dede, anouk, leilani = visit("dede", "/desk"), visit("anouk", "/desk"), visit("leilani", "/desk")
    for page, verdict in ((dede, "B"), (anouk, "C"), (leilani, "A")):
        panel = open_review(page, number)
        give(panel, verdict, comment=f"{verdict}, says one")
        expect(panel.get_by_text(re.compile("^Then (it waits for|Sum up)"))).to_be_visible()
        panel.get_by_role("button", name="Hand in verdicts").click()
        expect(panel.get_by_role("button", name="Hand in verdicts")).to_have_count(0)
    expect(slip).to_contain_text("Rafael Nwosu (HBC)")
    panel = open_review(rafael, number)
    expect(panel.get_by_text("You sum up what was said: your verdict counts.")).to_be_visible()
    expect(panel.get_by_text("C, says one")).to_be_visible()
    checked = panel.get_by_role("radio", checked=True)
    expect(checked).to_have_count(panel.get_by_role("radiogroup").count())
    expect(panel.get_by_text("What has C or D goes back to its author.")).to_be_visible()
    axe(rafael)
    give(panel, "B")
    panel.get_by_role("button", name="Hand in verdicts").click()
    expect(panel.get_by_text(re.compile("^Closed"))).to_be_visible()
    expect(marit.get_by_text("Not sent out yet.")).to_be_visible()


def test_two_of_three_are_enough_and_a_lead_changes_it_on_the_way(visit):
    """k of n; one hands on; a lead puts somebody in, ends a step; the starter recalls what nobody has decided."""
    rafael = visit("rafael", "/reviews/routes")
    rafael.get_by_role("button", name="A new route").click()
    form = rafael.get_by_role("form", name="A new route")
    form.get_by_label("Name of the route").fill("Two of three")
    form.get_by_label("Step", exact=True).fill("Judge")
    form.get_by_label("Asks for").select_option(label="a verdict")
    name_instead(form, 0, "dede", "anouk", "leilani")
    form.get_by_label("How many").select_option(label="at least so many")
    form.get_by_label("At least").fill("4")
    expect(form.get_by_text("It wants 4 hands, and names 3.").first).to_be_visible()
    form.get_by_label("At least").fill("2")
    form.get_by_role("button", name="Make the route").click()
    marit = visit("marit", "/register")
    number = send(marit, "fender units", "Two of three", "Fenders")
    slip = marit.get_by_role("region", name="Routing slip")
    expect(slip).to_contain_text("at least 2 of Dede Okonkwo (NFA), Anouk Ferreira (BHT) and Leilani Brandt (PLS)")

    dede = visit("dede", "/desk")
    panel = open_review(dede, number)
    panel.get_by_role("button", name="Hand Judge on").click()
    dialog = dede.get_by_role("dialog")
    dialog.get_by_label("Who", exact=True).select_option(label="Saoirse Tanaka (TRA)")
    expect(dialog.get_by_label("Who", exact=True).locator("option", has_text="Marit Osei")).to_have_count(0)
    dialog.get_by_role("button", name="Hand Judge on").click()
    expect(slip).to_contain_text("Saoirse Tanaka (TRA) for Dede Okonkwo")

    panel = open_review(rafael, number)
    panel.get_by_role("button", name="Put somebody in for Judge").click()
    dialog = rafael.get_by_role("dialog")
    dialog.get_by_label("For whom").select_option(label="Anouk Ferreira")
    dialog.get_by_label("Who", exact=True).select_option(label="Dede Okonkwo (NFA)")
    expect(dialog.get_by_role("button", name="Put somebody in for Judge")).to_be_disabled()
    dialog.get_by_label("Why").fill("Anouk is at sea")
    dialog.get_by_role("button", name="Put somebody in for Judge").click()
    expect(slip).to_contain_text("Dede Okonkwo (NFA) for Anouk Ferreira")

    leilani = visit("leilani", "/desk")
    panel = open_review(leilani, number)
    give(panel, "A")
    expect(panel.get_by_text("Then one more hands in here.")).to_be_visible()
    panel.get_by_role("button", name="Hand in verdicts").click()
    # Decided is decided: it cannot be recalled any more, but the step ends as it stands.
    panel = open_review(marit, number)
    expect(panel.get_by_role("button", name="Recall it")).to_have_count(0)
    panel = open_review(rafael, number)
    panel.get_by_role("button", name="End Judge").click()
    rafael.get_by_label("Why").fill("One is enough after all")
    rafael.get_by_role("dialog").get_by_role("button", name="End Judge").click()
    expect(panel.get_by_text(re.compile("^Closed"))).to_be_visible()
    expect(panel).to_contain_text("One is enough after all")

    again = send(marit, "fender units", "Two of three", "Fenders, again")
    marit.get_by_role("button", name="Recall it").click()
    marit.get_by_role("dialog").get_by_role("button", name="Recall it").click()
    expect(marit.get_by_text(re.compile("^Recalled"))).to_be_visible()
    expect(open_review(leilani, again)).to_contain_text("Recalled")


def test_a_reviewer_answers_from_a_mail_on_a_phone_and_goes_on_elsewhere(visit):
    """Straight to the first sheet; what was begun is there on another device; then to the slip."""
    marit = visit("marit", "/register")
    number = send(marit, "mooring layout", "Check and decide", "Moorings")
    address = re.sub(r".*/reviews/(\w+).*", r"/reviews/\1/go-on", marit.url)
    phone = visit("leilani", address, viewport={"width": 390, "height": 844})
    strip = phone.get_by_role("region", name=f"Your part in {number}, Check")
    strip.get_by_role("button", name="Pick up").click()
    comment = strip.get_by_label("Your comment on this document")
    comment.fill("Two bollards are missing.")
    expect(strip.get_by_text("Kept. You can go on")).to_be_visible()
    axe(phone)
    desk = visit("leilani", address)
    strip = desk.get_by_role("region", name=f"Your part in {number}, Check")
    expect(strip.get_by_label("Your comment on this document")).to_have_value("Two bollards are missing.")
    strip.get_by_label("Your comment on this document").fill("Three bollards are missing.")
    expect(strip.get_by_text("Kept. You can go on")).to_be_visible()
    phone.reload()
    expect(comment).to_have_value("Three bollards are missing.")
    phone.get_by_role("button", name="Hand in").click()
    dialog = phone.get_by_role("dialog")
    expect(dialog.get_by_text("Then Decide (Saoirse Tanaka) begins.")).to_be_visible()
    dialog.get_by_label("Note to whoever comes next").fill("See the north end")
    dialog.get_by_role("button", name="Hand in comments").click()
    expect(phone.get_by_role("region", name="Routing slip")).to_contain_text("See the north end")

    saoirse = visit("saoirse", address)
    strip = saoirse.get_by_role("region", name=f"Your part in {number}, Decide")
    expect(strip).to_contain_text("Three bollards are missing.")
    strip.get_by_role("button", name="Hand in").click()
    dialog = saoirse.get_by_role("dialog")
    expect(dialog.get_by_role("button", name="Hand in verdicts")).to_be_disabled()
    dialog.get_by_role("button", name="B proceed as noted for the rest").click()
    dialog.get_by_role("button", name="Hand in verdicts").click()
    expect(saoirse.get_by_text(re.compile("^Closed"))).to_be_visible()
    # Nothing is asked of her any more: the mail leads to the slip.
    saoirse.goto(re.sub("/p/BFT.*", f"/p/BFT{address}", saoirse.url))
    expect(saoirse.get_by_text(re.compile("^Closed"))).to_be_visible()


def test_who_is_away_is_stood_in_for(visit):
    """Set by herself; what is typed is there again after a reload; a lead sees it and takes it away."""
    marit = visit("marit", "/register")
    number = send(marit, "fender units", "Check and decide", "Fenders, once more")
    leilani = visit("leilani", "/reviews")
    open_review(leilani, number).get_by_role("button", name="Pick up").click()
    leilani.get_by_role("button", name="Who is away").click()
    form = leilani.get_by_role("form", name="An absence")  # kept as "absence"
    form.get_by_label("Who stands in").select_option(label="Dede Okonkwo (NFA)")
    form.get_by_role("textbox", name="First day").fill("9 mar")
    form.get_by_role("textbox", name="First day").press("Tab")
    leilani.reload()
    leilani.get_by_role("button", name="Who is away").click()
    expect(form.get_by_label("Who stands in").locator("option:checked")).to_have_text("Dede Okonkwo (NFA)")
    expect(form.get_by_role("textbox", name="First day")).to_have_value(re.compile("9 Mar"))
    form.get_by_role("textbox", name="Last day").fill("12 mar")
    form.get_by_role("textbox", name="Last day").press("Tab")
    axe(leilani)
    form.get_by_role("button", name="Set the absence").click()
    expect(leilani.get_by_role("dialog")).to_contain_text("Dede Okonkwo stands in.")
    expect(marit.get_by_role("region", name="Routing slip")).to_contain_text("Dede Okonkwo (NFA) for Leilani Brandt")
    rafael = visit("rafael", "/reviews")
    rafael.get_by_role("button", name="Who is away").click()
    rafael.get_by_role("button", name="Take away the absence of Leilani Brandt").click()
    expect(rafael.get_by_role("button", name="Take away the absence of Leilani Brandt")).to_have_count(0)
