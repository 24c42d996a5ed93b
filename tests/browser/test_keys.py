"""What people come in with, and what they see when it is taken from them: codes, invitations, places in a project."""

import re
from datetime import datetime

import pyotp
import pytest
from playwright.sync_api import expect

from nod.services.people.sign_in import DEMO_PASSWORD
from tests.browser.client import Person
from tests.browser.conftest import EMAILS
from tests.browser.test_screens import axe
from tests.browser.test_the_day import read_mail

pytestmark = pytest.mark.browser


def sign_in(page, who, code=""):
    page.get_by_label("E-mail").fill(EMAILS[who])
    page.get_by_label("Password", exact=True).fill(DEMO_PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    if code:
        page.get_by_label(re.compile("^Code of your authenticator app")).fill(code)
        page.get_by_role("button", name="Sign in").click()


def test_a_lost_telephone_is_made_up_for_by_a_code_on_paper_and_then_by_a_steward(visit, nod):
    dede = visit("dede", "/account")
    dede.get_by_role("button", name="Set it up").click()
    words = dede.get_by_text("type this into it by hand").text_content()
    app = pyotp.TOTP("".join(re.findall(r"\b[A-Z2-7]{4}\b", words)))
    now = datetime.fromisoformat(Person(nod.url, EMAILS["marit"])("GET", "/api/me")["now"])
    dede.get_by_label("The six figures it shows").fill(app.at(now))
    dede.get_by_role("button", name="Switch it on").click()
    codes = dede.get_by_role("list", name="Recovery codes").get_by_role("listitem")
    expect(codes).to_have_count(10)
    axe(dede)
    code = codes.nth(4).text_content()
    with dede.expect_download() as taken:
        dede.get_by_role("link", name="Keep them in a file").click()
    assert code in taken.value.path().read_text()
    dede.get_by_role("button", name="I have them").click()
    expect(dede.get_by_text("10 recovery codes left")).to_be_visible()
    axe(dede)

    # Elsewhere, without the telephone.
    away = visit(path="/sign-in")
    sign_in(away, "dede", code)
    expect(away.get_by_role("heading", name="Dede Okonkwo’s desk")).to_be_visible()
    again = visit(path="/sign-in")
    sign_in(again, "dede", code)
    expect(again.get_by_role("alert")).to_contain_text("This code is not")
    read_mail(away, "A recovery code was used", EMAILS["dede"])

    # The paper is lost as well. What the steward types is kept while the line is down and the page is loaded anew.
    ines = visit("ines", "/workspace")
    change(ines, "Dede Okonkwo")
    why = ines.get_by_label(re.compile("^Why their second factor"))
    form = ines.locator('[data-form="reset-factor"]')
    expect(form.first).to_be_visible()
    why.fill("Telephone and paper lost at sea")
    ines.reload()
    change(ines, "Dede Okonkwo")
    expect(why).to_have_value("Telephone and paper lost at sea")
    axe(ines)
    ines.get_by_role("button", name="Switch it off").click()
    expect(why).to_have_count(0)
    expect(dede.get_by_role("dialog", name="Your session is over")).to_be_visible(timeout=30_000)
    sign_in(again, "dede")
    expect(again.get_by_role("heading", name="Dede Okonkwo’s desk")).to_be_visible()


def change(ines, name):
    ines.get_by_role("tab", name="People").click()
    ines.get_by_role("listitem").filter(has_text=name).get_by_role("button", name="Change").click()


def test_a_lead_of_a_company_nobody_knows_yet_begins_with_the_project(visit):
    ines = visit("ines", "/workspace")
    ines.get_by_role("button", name="Begin a project").click()
    form = ines.get_by_role("dialog", name="Begin a project")
    form.get_by_label("Number").fill("SLK")
    form.get_by_label("Name", exact=True).fill("Sea lock")
    form.get_by_label("E-mail of its lead").fill("vera@osprey.example")
    form.get_by_label("Name of the lead").fill("Vera Lindqvist")
    form.get_by_label("Company", exact=True).select_option(label="Another company …")
    form.get_by_label("Its name").fill("Osprey Locks")
    form.get_by_label("Its code").fill("BHT")
    form.get_by_label("Its part").select_option("main contractor")
    axe(ines)
    form.get_by_role("button", name="Begin the project").click()
    expect(form.get_by_role("alert")).to_contain_text("BHT")
    form.get_by_label("Its code").fill("OSP")
    form.get_by_role("button", name="Begin the project").click()
    expect(ines.get_by_text("led by Vera Lindqvist")).to_be_visible()
    ines.get_by_role("tab", name="Companies").click()
    expect(ines.get_by_text("Osprey Locks")).to_be_visible()


def test_somebody_invited_is_looked_ahead_for(visit, nod):
    rafael = Person(nod.url, EMAILS["rafael"])
    people = [{"name": "Noor Idris", "email": "noor@gannetmarine.example", "roles": ["reader"],
               "company_id": company_of(rafael, "GME")}]  # fmt: skip
    rafael("POST", "/api/people", {"project_id": rafael.project_id, "people": people})
    # So wide that every station is in the line.
    page = visit("rafael", "/setup/access", viewport={"width": 1900, "height": 800})
    page.get_by_label("See as").select_option(label="Noor Idris")
    told = page.get_by_role("status").filter(has_text="You see this project as Noor Idris")
    expect(told).to_be_visible()
    expect(page.get_by_text("North linkspan, piles").first).to_be_visible()
    expect(page.get_by_role("link", name="Set-up")).to_have_count(0)
    told.get_by_role("button", name="Back to my own eyes").click()
    expect(page.get_by_role("link", name="Set-up")).to_be_visible()


def company_of(person, code):
    found = person("GET", f"/api/projects/{person.project_id}/people")["companies"]
    return next(each["id"] for each in found if each["code"] == code)


def test_the_open_page_of_somebody_removed_says_so_and_shows_nothing_more(own_nod, browser, browser_context_args):
    own_nod.start()
    context = browser.new_context(**browser_context_args)
    who = {"email": EMAILS["junpei"], "password": DEMO_PASSWORD}
    context.request.post(f"{own_nod.url}/api/sign-in", data=who)
    junpei = context.new_page()
    junpei.goto(f"{own_nod.url}/register")
    expect(junpei.get_by_text("North linkspan, piles").first).to_be_visible()
    rafael = Person(own_nod.url, EMAILS["rafael"])
    people = rafael("GET", f"/api/projects/{rafael.project_id}/people")["members"]
    (member,) = (each for each in people if each["who"]["name"] == "Junpei Mori")
    address = f"/api/projects/{rafael.project_id}/people/{member['who']['id']}/remove"
    rafael("POST", address, {"version": member["version"]})
    # Nobody touches the page.
    expect(junpei.get_by_text("North linkspan, piles")).to_have_count(0, timeout=30_000)
    expect(junpei.get_by_role("heading", level=1)).to_have_text("There is no project BFT for you")
    axe(junpei)
    junpei.reload()
    expect(junpei.get_by_role("heading", level=1)).to_have_text("There is no project BFT for you")
    context.close()
