"""What is done on a sheet in many tests: opening it, drawing, waiting for it."""

from playwright.sync_api import expect


def open_sheet(visit, who, sheet, **more):
    page = visit(who, f"/sheet/{sheet}", **more)
    expect(page.get_by_role("toolbar", name="Pens")).to_be_visible()
    page.wait_for_load_state("networkidle")
    expect(page.get_by_role("toolbar").get_by_role("button", name="Cloud")).to_be_visible()
    # What is counted has to be there.
    expect(page.get_by_role("complementary", name="Marks")).to_have_attribute("aria-busy", "false")
    return page


def middle(page):
    box = page.get_by_test_id("sheet").bounding_box()
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def drag(page, start, end):
    page.mouse.move(*start)
    page.mouse.down()
    page.mouse.move(*end, steps=5)
    page.mouse.up()


def take(page, pen):
    page.get_by_role("toolbar", name="Pens").get_by_role("button", name=pen, exact=True).click()


def from_roll(page, pen):
    take(page, "Pen roll")
    page.get_by_role("region", name="Pen roll").get_by_role("button", name=pen, exact=True).click()


def until(page, check):
    """Waits for what the browser's own waiting has no words for."""
    for _ in range(100):
        if check():
            return
        page.wait_for_timeout(100)
    assert check()


def marks_of(page):
    return page.locator("svg [data-mark]")


def wait_until_chosen(page):
    """The mark that came last is the chosen one: what others are told of it may come before one's own answer."""
    expect(page.locator("article[data-of^=waiting]")).to_have_count(0)
    last = page.locator("[data-mark]").last.get_attribute("data-mark")
    expect(page.locator(f"article[data-of='{last}']")).to_have_attribute("aria-current", "true")


def draw_with_words(page, key, words):
    """Takes the pen of a key, places it in the middle, and keeps what its mark says."""
    page.keyboard.press(key)
    page.keyboard.press("Enter")
    page.get_by_label("Text of the mark").fill(words)
    page.get_by_label("Text of the mark").press("Enter")
    expect(page.get_by_role("button", name="Text kept")).to_be_visible()
