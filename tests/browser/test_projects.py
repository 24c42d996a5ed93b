"""The project is in the address: links open in their project, and two pages show two."""

import re

from playwright.sync_api import expect

from tests.browser.client import Person
from tests.browser.conftest import EMAILS
from tests.browser.test_screens import axe
from tests.world import pdf

DRAFT = "ready-route"
"""The form whose typed words are found again here (see `test_typed`)."""


def test_addresses_from_before_lead_into_their_project(visit, nod):
    page = visit("marit", "/reviews?x=1")
    expect(page).to_have_url(re.compile(r"/p/BFT/reviews\?x=1$"))
    page.get_by_text("Boarding bridge, truss and plan").first.click()
    expect(page).to_have_url(re.compile(r"/p/BFT/reviews/\w{16}$"))
    old = page.url.replace("/p/BFT", "")
    page.goto(old)
    expect(page).to_have_url(re.compile(r"/p/BFT/reviews/\w{16}$"))
    expect(page.get_by_role("heading", name="Boarding bridge, truss and plan")).to_be_visible()
    page.go_back()
    expect(page.get_by_role("region", name="Reviews")).to_be_visible()


def test_two_projects_in_two_pages(visit, nod):
    ines = visit("ines", "/workspace")
    ines.get_by_role("button", name="Begin a project").click()
    form = ines.get_by_role("dialog")
    form.get_by_label("Number").fill("SLP")
    form.get_by_label("Name", exact=True).fill("South slip")
    form.get_by_label("E-mail of its lead").fill("marit@hollinbrook.example")
    form.get_by_role("button", name="Begin").click()
    expect(form).to_be_hidden()

    marit = visit("marit", "/")
    expect(marit).to_have_url(re.compile("/p/BFT/$"))
    marit.get_by_role("button", name=re.compile("switch")).click()
    marit.get_by_role("menuitem", name=re.compile("SLP")).click()
    expect(marit).to_have_url(re.compile("/p/SLP/$"))
    marit.get_by_role("link", name="Register").click()
    expect(marit).to_have_url(re.compile("/p/SLP/register"))
    expect(marit.get_by_text("0 documents")).to_be_visible()
    other = marit.context.new_page()
    other.goto(f"{nod.url}/p/BFT/register")
    expect(other.get_by_text("North linkspan, piles").first).to_be_visible()
    marit.reload()
    expect(marit.get_by_text("0 documents")).to_be_visible()
    marit.go_back()
    marit.go_back()
    expect(marit).to_have_url(re.compile("/p/BFT/$"))
    expect(marit.get_by_role("heading", name="Marit Osei’s desk")).to_be_visible()
    expect(marit.get_by_text("Boarding bridge, truss and plan").first).to_be_visible()

    other.goto(f"{nod.url}/p/NONE/register")
    expect(other.get_by_role("heading", name="There is no project NONE for you")).to_be_visible()
    other.get_by_role("link", name=re.compile("SLP")).click()
    expect(other).to_have_url(re.compile("/p/SLP/$"))


def test_signing_in_leads_back_to_the_project_that_was_asked_for(browser, nod):
    page = browser.new_page()
    page.goto(f"{nod.url}/p/BFT/register?words=roof")
    expect(page).to_have_url(re.compile("/sign-in"))
    page.get_by_role("button", name=re.compile("^Marit Osei")).click()
    page.get_by_role("button", name="Sign in").click()
    expect(page).to_have_url(re.compile(r"/p/BFT/register\?words=roof"))
    expect(page.get_by_text("Quay hall, roof plan").first).to_be_visible()
    page.close()


def test_a_new_project_starts_its_first_review_by_names(visit, nod):
    ines = visit("ines", "/workspace")
    ines.get_by_role("button", name="Begin a project").click()
    form = ines.get_by_role("dialog")
    form.get_by_label("Number").fill("NBH")
    form.get_by_label("Name", exact=True).fill("North berth")
    form.get_by_label("E-mail of its lead").fill("marit@hollinbrook.example")
    form.get_by_role("button", name="Begin").click()
    expect(form).to_be_hidden()
    marit = Person(nod.url, "marit@hollinbrook.example")
    project = next(each["id"] for each in marit("GET", "/api/me")["projects"] if each["number"] == "NBH")
    saoirse = {"name": "Saoirse Tanaka", "email": EMAILS["saoirse"], "roles": ["reviewer"]}
    marit("POST", "/api/people", {"project_id": project, "people": [saoirse]})
    marit("POST", "/api/intake/batches", {"project_id": project, "came_from": "", "folder_id": ""})
    page = visit("marit", "/p/NBH/intake")
    files = [{"name": "NBH-HBC-Z1-00-D-A-0001_P01_S0_Berth.pdf", "mimeType": "application/pdf", "buffer": pdf("berth")}]
    page.get_by_label("Files to take in").set_input_files(files)
    page.get_by_role("button", name="Register 1").click()
    page.get_by_role("link", name="Register", exact=True).click()
    page.get_by_role("row").filter(has_text="Berth").get_by_role("checkbox").check()
    page.get_by_role("button", name="Start a review").click()
    # A project begins with routes by role, so that nobody is stuck; what cannot work today is said.
    ready = page.get_by_label("Route", exact=True)
    # The ready ones, and a path of its own.
    expect(ready.locator("option")).to_have_count(5)
    ready.select_option(label="Check and decide")
    expect(page.get_by_role("region", name="The path")).to_contain_text("Reviewer")
    for each in marit("GET", f"/api/routes?project_id={project}"):
        marit("POST", f"/api/routes/{each['id']}/retire", {"version": each["version"]})
    page.reload()
    expect(page.get_by_text("This project has no route yet.")).to_be_visible()
    route = page.get_by_role("form", name="The ready route")
    make = route.get_by_role("button", name="Make the route")
    make.hover()
    expect(route.get_by_text("Name at least one who decides first.")).to_be_visible()
    route.get_by_role("combobox", name="Who decides").fill("saoirse")
    page.keyboard.press("Enter")
    route.get_by_label("Name of the route").fill("Decide")
    axe(page)
    page.reload()
    expect(route.get_by_label("Name of the route")).to_have_value("Decide")
    make.click()
    page.get_by_label("Name", exact=True).fill("First look")
    page.get_by_role("button", name="Send 1 on the route").click()
    expect(page.get_by_role("heading", name="First look")).to_be_visible()
