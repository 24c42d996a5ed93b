"""Letters, as several people and two outside: an RFI from a mark, a private thread, an old mail, a reply by link."""

import re

from playwright.sync_api import expect

from tests.browser.test_outside import PHONE, link_of, open_link
from tests.browser.test_screens import axe
from tests.browser.test_sizes import at_every_size, measured
from tests.world import pdf


def panel(page):
    return page.get_by_role("complementary", name="Letter")


def to(page, name, label="To"):
    field = page.get_by_role("combobox", name=label, exact=True)
    field.fill(name)
    page.get_by_role("option", name=re.compile(name)).first.click()


def write(page, words):
    page.get_by_role("textbox", name="What you write").fill(words)


def begin(page, kind):
    page.get_by_role("button", name="Write …").click()
    page.get_by_role("menuitem", name=re.compile(f"^{kind}")).click()
    expect(page.get_by_role("textbox", name="What you write")).to_be_visible()


def is_kept(page):
    # By Nod's clock, not by that of whoever's machine it is.
    expect(page.get_by_role("status").filter(has_text=re.compile("Kept on the server, 9 Mar, "))).to_be_visible()


def answer_by_mail(page, subject, text, files=()):
    """As somebody outside answers the mail with this subject, from their mailbox."""
    page.get_by_role("navigation", name="Mail").get_by_text(re.compile(subject)).first.click()
    page.get_by_role("button", name="Answer", exact=True).click()
    page.get_by_label("Text").fill(text)
    page.locator("input[type=file]").set_input_files(files=list(files))
    page.get_by_role("button", name="Send to Nod").click()
    expect(page.get_by_text("mail server took it")).to_be_visible()


def test_a_question_from_a_mark_is_answered_from_the_mailbox(visit, nod):
    """Marit asks about a mark on a sheet; the workshop answers by mail with a file; it is closed."""
    marit = visit("marit", "/register?words=ground+floor+plan")
    marit.get_by_text("Quay hall, ground floor plan", exact=True).first.click()
    marit.get_by_role("link", name="Open the sheet", exact=True).click()
    marks = marit.get_by_role("complementary", name="Marks")
    marks.get_by_role("article").first.get_by_role("button").first.click()
    marit.get_by_role("button", name="Write about this mark …").click()
    marit.get_by_label("Kind").select_option(label="RFI")
    expect(marit.get_by_role("list", name="It speaks of").get_by_role("listitem")).to_have_count(1)
    to(marit, "Yusuf")
    expect(marit.get_by_label("An answer is wanted of")).to_have_value(re.compile("."))
    expect(marit.get_by_role("button", name=re.compile("^Send it"))).to_have_accessible_description(
        "Give it a subject."
    )
    marit.get_by_label("Subject").fill("Bolt at the mark, which grade?")
    write(marit, "The mark asks for a bolt; the list has none.")
    marit.get_by_label("The answer that you propose").fill("Grade 8.8")
    is_kept(marit)
    axe(marit)
    marit.get_by_role("button", name="Send it to the one named").click()
    expect(panel(marit)).to_contain_text("answer wanted, with Yusuf Haldane")
    expect(panel(marit)).to_contain_text("due 16 Mar")
    expect(panel(marit)).to_contain_text("Grade 8.8")
    axe(marit)

    outside = visit("rafael", "/post-room")
    drawn = {"name": "bolt.pdf", "mimeType": "application/pdf", "buffer": pdf("bolt")}
    answer_by_mail(
        outside, "Bolt at the mark", "ANSWER\n\nGrade 10.9, drawing attached.\n\n-- \nYusuf Haldane", [drawn]
    )
    expect(panel(marit)).to_contain_text("answered, with Marit Osei")
    answer = panel(marit).get_by_role("article", name="From Yusuf Haldane")
    expect(answer).to_contain_text("Grade 10.9, drawing attached.")
    expect(answer.get_by_role("button", name="bolt.pdf", exact=True)).to_be_visible()
    expect(panel(marit).get_by_text("the answer", exact=True)).to_be_visible()
    panel(marit).get_by_role("button", name="Close", exact=True).click()
    expect(panel(marit).get_by_role("button", name="Open again")).to_be_visible()


def test_a_private_thread_is_there_for_two_alone(visit, nod):
    saoirse = visit("saoirse", "/letters")
    begin(saoirse, "letter")
    to(saoirse, "Leilani")
    saoirse.get_by_label("Subject").fill("Fee for the extra stair")
    expect(saoirse.locator('[data-form="letter"]').first).to_be_attached()
    saoirse.reload()
    expect(saoirse.get_by_label("Subject")).to_have_value("Fee for the extra stair")
    assert at_every_size(saoirse) == {}
    saoirse.set_viewport_size({"width": 1280, "height": 800})
    write(saoirse, "Between us: what would it cost?")
    saoirse.get_by_role("checkbox", name=re.compile("^Private")).check()
    is_kept(saoirse)
    saoirse.get_by_role("button", name="Send it to the one named").click()
    expect(panel(saoirse)).to_contain_text("private")
    leilani = visit("leilani", "/letters?words=extra+stair")
    expect(leilani.get_by_text("Fee for the extra stair")).to_be_visible()
    for who in ("marit", "rafael"):
        other = visit(who, "/letters?words=extra+stair")
        expect(other.get_by_text("No letter is like that.")).to_be_visible()
    panel(saoirse).get_by_role("button", name="Show it to leads and controllers").click()
    expect(other.get_by_text("Fee for the extra stair")).to_be_visible()


def test_a_reply_is_kept_on_the_server_and_goes_on_elsewhere(visit, nod):
    """Begun on one machine, gone on with on another: there, somebody new is let in from here on."""
    anouk = visit("anouk", "/letters?words=obstruction")
    anouk.get_by_text("Notice: obstruction found").first.click()
    panel(anouk).get_by_role("button", name="Write in it").click()
    write(anouk, "The records, please, by Friday.")
    is_kept(anouk)
    again = visit("anouk", "/letters")
    again.get_by_role("link", name=re.compile("obstruction found")).click()
    expect(again.get_by_role("textbox", name="What you write")).to_have_text("The records, please, by Friday.")
    to(again, "Junpei", "Copied")
    expect(again.get_by_role("checkbox", name=re.compile("^Who is new"))).to_be_visible()
    is_kept(again)
    expect(again.get_by_role("checkbox", name=re.compile("^Who is new"))).to_be_visible()
    # The first window is told, and takes nothing away from the second.
    write(anouk, "The records, please.")
    expect(anouk.get_by_text("It was changed in another window.")).to_be_visible()
    expect(anouk.get_by_role("textbox", name="What you write")).to_have_text("The records, please.")
    again.get_by_role("button", name=re.compile("^Send it to the")).click()
    expect(panel(again)).to_contain_text("The records, please, by Friday.")
    junpei = visit("junpei", "/letters?words=obstruction")
    junpei.get_by_text("Notice: obstruction found").first.click()
    expect(panel(junpei)).to_contain_text("You are in it from here on")
    expect(panel(junpei)).not_to_contain_text("On driving pile 17")


def test_somebody_outside_writes_by_the_link_from_a_phone(visit, nod):
    address = link_of(nod, "Steel of the canopy, delivery")
    phone = open_link(visit, address, viewport=PHONE)
    form = phone.get_by_role("form", name="What you write")
    expect(form).to_contain_text("Your answer is wanted by")
    axe(phone)
    assert measured(phone) == []
    form.get_by_label("Your answer").fill("Frames 1 to 6 first.")
    expect(phone.locator('[data-form="guest-letter"]').first).to_be_attached()
    phone.reload()
    expect(form.get_by_label("Your answer")).to_have_value("Frames 1 to 6 first.")
    form.get_by_role("button", name="Send it to all in the thread").click()
    expect(phone.get_by_role("list", name="What was written")).to_contain_text("Frames 1 to 6 first.")
    marit = visit("marit", "/letters?words=frames")
    marit.get_by_text("Steel of the canopy, delivery").first.click()
    expect(panel(marit)).to_contain_text("answered")


def test_a_stranger_is_held_and_filed_as_a_letter_of_its_own(visit, nod):
    marit = visit("marit", "/mail")
    marit.get_by_text("Noise in the evening").first.click()
    marit.get_by_role("button", name="File it with …").click()
    marit.get_by_role("dialog").get_by_role("button", name="As a new letter").click()
    expect(marit.get_by_role("article", name="Noise in the evening")).to_contain_text("Filed as")
    marit.goto(marit.url.partition("/p/")[0] + "/letters?words=noise")
    marit.get_by_text("Noise in the evening").first.click()
    expect(panel(marit)).to_contain_text("Mia Tern")
    expect(panel(marit)).to_contain_text("Until when do you work tonight?")


def test_an_old_mail_that_was_sent_on_stands_under_who_wrote_it(visit, nod):
    tomasz = visit("tomasz", "/letters?words=criteria")
    tomasz.get_by_text("Driving criteria, north linkspan").first.click()
    slip = panel(tomasz).get_by_role("article", name="From Ilse Brandvold")
    expect(slip).to_contain_text("Sent on by Rafael Nwosu")
    expect(slip).to_contain_text("ilse@kestrelpiling.example")
    expect(panel(tomasz)).to_contain_text("24 Jan")


def test_what_is_said_in_a_letter_is_found_and_stands_in_the_dossier_of_what_it_speaks_of(visit, nod):
    marit = visit("marit", "/register?words=South+linkspan+landward+hinge")
    marit.get_by_text("South linkspan, landward hinge").first.click()
    letters = marit.get_by_role("region", name="Letters about it")
    letters.get_by_role("link", name=re.compile("Hinge bearing")).click()
    expect(panel(marit)).to_contain_text("Seaward on both.")
    marit.goto(marit.url.partition("/p/")[0] + "/letters?words=seaw")
    expect(marit.get_by_role("grid", name="Letters").get_by_text("Hinge bearing")).to_be_visible()
    marit.get_by_role("button", name=re.compile("^Late")).click()
    expect(marit.get_by_text("No letter is like that.")).to_be_visible()
