"""The trail is sealed by the controller, and an entry proved to somebody who has no account."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.client import Person
from tests.browser.conftest import EMAILS
from tests.browser.test_screens import axe

pytestmark = pytest.mark.browser


def _proof(page, tmp_path):
    with page.expect_download() as download:
        page.get_by_role("button", name=re.compile("^Proof of the entry")).nth(3).click()
    target = tmp_path / "proof.json"
    download.value.save_as(target)
    return target


def test_a_controller_seals_and_an_outsider_checks(nod, visit, tmp_path):
    marit = visit("marit", "/audit")
    marit.get_by_role("button", name="Seal", exact=True).click()
    dialog = marit.get_by_role("dialog", name="Seal of the trail")
    dialog.get_by_role("button", name="Seal now").click()
    seal = dialog.get_by_role("region", name=re.compile("^The seal over")).locator("pre")
    key = dialog.get_by_role("region", name="The key that it is checked with").locator("pre")
    expect(seal).to_contain_text("— nod/")
    kept, key_words = seal.text_content(), key.text_content()
    axe(marit)
    marit.keyboard.press("Escape")
    # Something happens, so that the proof stands under a later seal than the one that was kept.
    Person(nod.url, EMAILS["junpei"])
    proof = _proof(marit, tmp_path)

    outsider = visit(path="/check")
    check = outsider.get_by_role("button", name="Check")
    expect(check).to_be_disabled()
    outsider.get_by_label("The proof, from a file").set_input_files(proof)
    outsider.get_by_label("The key, as it was handed to you").fill(key_words)
    outsider.get_by_label("A seal from before, if you have one", exact=True).fill(kept)
    check.click()
    proven = outsider.get_by_role("status", name="What is proven")
    expect(proven).to_contain_text("It holds")
    expect(proven).to_contain_text("has not been altered since")
    expect(proven).to_contain_text("nothing in that was changed")
    axe(outsider)

    spoiled = re.sub(r'"body": "\{', '"body": "{ ', proof.read_text())
    outsider.get_by_label("The proof", exact=True).fill(spoiled)
    check.click()
    expect(proven).to_contain_text("It does not hold")
    expect(proven).to_contain_text("its content has another hash")


def test_others_prove_what_they_see_and_see_no_seal(visit, tmp_path):
    leilani = visit("leilani", "/audit")
    expect(leilani.get_by_role("button", name="Seal", exact=True)).to_have_count(0)
    assert '"form": "nod-proof-1"' in _proof(leilani, tmp_path).read_text()
