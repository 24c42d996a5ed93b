"""The specification of the register is read, and what it asks for is taken into the log (handbook §9)."""

import re

from playwright.sync_api import expect

from tests.browser.test_screens import axe
from tests.browser.test_sizes import measured
from tests.browser.test_submittals import panel


def test_what_a_specification_asks_for_is_taken_into_the_log_beside_its_page(visit):
    page = visit("marit", "/submittals")
    page.get_by_role("button", name="From the specification").click()
    page.get_by_role("list", name="Found in the register").get_by_role(
        "link", name=re.compile("three sections")
    ).click()
    told = page.get_by_role("status").filter(has_text="items on")
    expect(told).to_contain_text("15 items on 3 pages: 14 new, 1 in the log")
    beside = page.get_by_role("complementary", name="Page 1")
    expect(beside.get_by_role("img")).to_have_js_property("complete", True)
    assert beside.get_by_role("img").evaluate("each => each.naturalWidth") > 1000
    axe(page)

    steel = page.get_by_role("region", name="05 12 00 Structural steel")
    steel.get_by_role("button", name="1.3.B").click()
    expect(page.get_by_role("complementary", name="Page 2")).to_be_visible()
    steel.get_by_role("checkbox", name="05 12 00 Structural steel").check()
    steel.get_by_role("checkbox", name=re.compile("^Take 1.3.E")).uncheck()
    steel.get_by_label("Title of 1.3.B").fill("Connections that are not drawn")
    steel.get_by_label("Kind of 1.3.D").select_option(label="certificate, for information")
    take = page.get_by_role("button", name="Take 4 into the log")
    expect(take).to_have_accessible_description("Say which company is responsible for them.")
    # What was marked and changed is there after a reload, too.
    expect(page.locator('[data-form="submittal-spec"]').first).to_be_attached()
    page.reload()
    expect(steel.get_by_label("Title of 1.3.B")).to_have_value("Connections that are not drawn")
    page.get_by_label("Responsible for what is marked").select_option(label="Sparrowgate Steel")
    take.click()
    expect(page.get_by_role("status").filter(has_text="4 submittals made.")).to_be_visible()
    expect(told).to_contain_text("10 new, 5 in the log")
    assert measured(page) == []

    steel.get_by_role("listitem").filter(has_text="in the log").nth(1).get_by_role("link").click()
    expect(panel(page)).to_contain_text("Connections that are not drawn")
    expect(panel(page)).to_contain_text("BFT-TRA-ZZ-ZZ-P-A-0700, page 2")
    panel(page).get_by_role("link", name=re.compile("page 2")).click()
    expect(page).to_have_url(re.compile(r"/sheet/\w+\?page=1"))
