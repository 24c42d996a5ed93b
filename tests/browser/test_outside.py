"""Somebody without an account: answers in a review from a mail, and responds to what was said of their documents."""

import re
import sqlite3
import time

from playwright.sync_api import expect

from tests.browser.client import Person
from tests.browser.conftest import EMAILS
from tests.browser.on_sheet import drag, middle
from tests.browser.test_screens import axe
from tests.browser.test_sizes import measured

PHONE = {"width": 390, "height": 844}


def link_of(nod, words):
    """Where the mail to the workshop leads whose subject has these words."""
    marit = Person(nod.url, EMAILS["marit"])
    until = time.monotonic() + 60
    while time.monotonic() < until:
        for mail in marit("GET", "/api/post-room", timeout=60):
            found = re.search(r"(/l/[0-9a-f]+)", mail["text"])
            if mail["to"] == ["yusuf@sparrowgate.example"] and words in mail["subject"] and found:
                return found.group(1)
        time.sleep(0.2)
    raise TimeoutError("the mail has not left")


def _lose_the_answer(route):
    if route.request.method == "POST":
        route.fetch()
        route.abort()
    else:
        route.fallback()


def open_link(visit, address, **more):
    page = visit(path=address, **more)
    page.get_by_role("button", name="Open it").click()
    return page


def test_the_workshop_answers_from_its_mail_begun_on_a_phone(visit, nod):
    """It sees what goes round and nothing else; what it begins is there on another device, and goes on the slip."""
    address = link_of(nod, "Shop check by")
    phone = visit(path=address, viewport=PHONE)
    expect(phone.get_by_role("heading")).to_have_text("A review for Yusuf Haldane")
    phone.get_by_role("button", name="Open it").click()
    strip = phone.get_by_role("region", name="Your part in RV-0012, Shop check")
    expect(strip.get_by_text("1 of 2")).to_be_visible()
    expect(phone.locator("[data-sharp=true]")).to_be_visible()
    axe(phone)
    assert measured(phone) == []
    phone.context.set_offline(True)
    strip.get_by_label("Your comment on this document").fill("Hole 12 meets the stiffener: move it 40 mm.")
    expect(strip.get_by_text("Not kept on the server yet; it stays in this browser.")).to_be_visible()
    # The line is back, and nobody types: it goes by itself.
    phone.context.set_offline(False)
    expect(strip.get_by_text("Kept. You can go on another day, or on another device.")).to_be_visible()

    desk = open_link(visit, address)
    strip = desk.get_by_role("region", name="Your part in RV-0012, Shop check")
    comment = strip.get_by_label("Your comment on this document")
    expect(comment).to_have_value("Hole 12 meets the stiffener: move it 40 mm.")
    # What is marked is ink at once, in their own name, and can be taken away until somebody has answered it.
    ink = desk.get_by_role("region", name="Marks")
    for place, words in ((90, "Hole 12"), (30, "Not this one")):
        desk.get_by_role("button", name="Cloud").click()
        x, y = middle(desk)
        drag(desk, (x - place, y - 40), (x + 60, y + 30))
        desk.get_by_role("dialog").get_by_label("Text").fill(words)
        put = desk.get_by_role("button", name="Put it on the sheet")
        if words == "Hole 12":
            # The answer is lost: what was typed stays, and pressed again it is there once.
            lost = re.compile("/api/guest/review/[a-z0-9]+/marks$")
            desk.route(
                lost,
                lambda route: (route.fetch(), route.abort()) if route.request.method == "POST" else route.fallback(),
            )
            put.click()
            expect(desk.get_by_role("dialog").get_by_role("alert")).to_be_visible()
            expect(desk.get_by_role("dialog").get_by_label("Text")).to_have_value(words)
            desk.unroute(lost)
        put.click()
        expect(ink.get_by_text(words)).to_have_count(1)
    ink.get_by_text("Not this one").click()
    ink.get_by_role("button", name="Take it away").click()
    expect(ink.get_by_text("Not this one")).to_have_count(0)
    axe(desk)
    expect(ink.get_by_text("Yusuf Haldane")).to_be_visible()
    strip.get_by_label("How grave your comment is").select_option("must")
    strip.get_by_role("button", name="Next", exact=True).click()
    expect(desk.get_by_role("complementary", name="Document")).to_contain_text("Quay hall, column bases")
    strip.get_by_role("button", name="Hand in …").click()
    dialog = desk.get_by_role("dialog", name="Hand in for Shop check")
    axe(desk)
    dialog.get_by_label("Note to whoever comes next").fill("Cutting begins on the 16th.")
    dialog.get_by_role("button", name="Hand in comments").click()
    expect(desk.get_by_role("status")).to_have_text("Handed in. Thank you.")
    # The phone, which was open all the time, is led to the same end, and nothing is said twice.
    phone.get_by_role("button", name="Hand in …").click()
    phone.get_by_role("button", name="Hand in comments").click()
    expect(phone.get_by_role("status")).to_have_text("Handed in. Thank you.")

    saoirse = visit("saoirse", "/reviews")
    saoirse.get_by_role("row").filter(has_text="Steel details").click()
    panel = saoirse.get_by_role("complementary", name="Review")
    expect(panel).to_contain_text("Hole 12 meets the stiffener: move it 40 mm.")
    expect(panel.get_by_role("region", name="Routing slip")).to_contain_text("Yusuf Haldane (SGS)")


def test_an_author_outside_responds_and_the_comment_is_closed(visit, nod):
    with sqlite3.connect(nod.data / "nod.db", timeout=30) as raw:
        raw.execute(
            "UPDATE revision SET came_from = 'Sparrowgate Steel' WHERE id IN (SELECT revision_id FROM document"
            " WHERE title LIKE 'Quay hall, % lighting')"
        )
    raw.close()
    rafael = visit("rafael", "/reviews")
    rafael.get_by_text("Quay hall lighting").click()
    rafael.get_by_role("tab", name=re.compile("^Comments")).click()
    outside = rafael.get_by_role("region", name="Authors outside")
    outside.get_by_role("button", name=re.compile("^Ask for a response")).click()
    outside.get_by_label("A word with it").fill("Before the site meeting.")
    # What was typed outlives a reload: the form "ask-responses".
    rafael.reload()
    rafael.get_by_role("tab", name=re.compile("^Comments")).click()
    outside.get_by_role("button", name=re.compile("^Ask for a response")).click()
    expect(outside.get_by_label("A word with it")).to_have_value("Before the site meeting.")
    axe(rafael)
    outside.get_by_role("button", name="Send what is open").click()
    expect(outside.get_by_text("The mail is on its way.")).to_be_visible()
    expect(outside).to_contain_text(", asked")

    guest = open_link(visit, link_of(nod, "your response is wanted"), viewport=PHONE)
    first = guest.get_by_role("list", name="Comments").get_by_role("listitem").first
    expect(first).to_contain_text("open")
    axe(guest)
    assert measured(guest) == []
    first.get_by_role("button", name=re.compile("^BFT-")).click()
    expect(guest.locator("[data-sharp=true]")).to_be_visible()
    guest.get_by_role("button", name="Back to the comments").click()
    first.get_by_label("Your response").fill("Moved to grid line 4.")
    first.get_by_role("button", name="Send the response").click()
    expect(first).to_contain_text("responded")

    line = rafael.get_by_role("list", name="Comments").get_by_role("listitem").first
    expect(line).to_contain_text("Moved to grid line 4.")
    expect(line).to_contain_text("Yusuf Haldane (SGS)")
    line.get_by_role("button", name="Close it: comment 1").click()
    line.get_by_role("button", name="Close the comment").click()
    expect(line).to_contain_text("Closed by Rafael")
    expect(first).to_contain_text("closed", timeout=40_000)
