"""The bell, as somebody uses it."""

import re

from playwright.sync_api import expect


def all_read(page):
    """Reads what there is to read, if anything is; returns the bell."""
    bell = page.get_by_role("button", name=re.compile("^Notices"))
    bell.click()
    told = page.get_by_role("dialog", name="Notices")
    expect(told.get_by_role("listitem").first).to_be_visible()
    button = told.get_by_role("button", name="All are read")
    if button.is_enabled():
        button.click()
    expect(button).to_be_disabled()
    page.keyboard.press("Escape")
    expect(bell).to_have_accessible_name("Notices")
    return bell
