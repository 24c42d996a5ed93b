"""The project is in the address: links open in their project, and two pages show two."""

import re

from playwright.sync_api import expect


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
    expect(other.get_by_text("Quay hall, roof plan").first).to_be_visible()
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
