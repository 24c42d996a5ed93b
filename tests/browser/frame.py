"""The frame about every screen: the stations."""

import re

from playwright.sync_api import Error, Page, expect


def station(page: Page, name: str | re.Pattern[str]) -> None:
    """Goes there; those for which there is no room are behind *more*.

    Which these are is known when the fonts and the counts are: until then a station can come out of *more* while it is
    looked for there, so it is looked for anew.
    """
    stations = page.get_by_role("navigation", name="Stations")
    here, more = stations.get_by_role("link", name=name), stations.get_by_role("button", name="more")
    for last in (False, False, False, True):
        try:
            expect(here.or_(more).first).to_be_visible()
            if here.count():
                here.click(timeout=3_000)
            else:
                more.click(timeout=3_000)
                page.get_by_role("menuitem", name=name).click(timeout=3_000)
            return
        except Error:
            if last:
                raise
