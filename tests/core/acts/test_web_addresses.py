"""Addresses of the web that are kept: those that lead somewhere and say where (RFC 3986)."""

import pytest

from nod.core.acts.refusals import RuleBroken
from nod.core.acts.web_addresses import check_web_address
from tests.outside import shared_data


@pytest.mark.parametrize(
    "said",
    [
        "https://tides.example/brackwater?day=9#high", " http://brackwater.example ", "https://[2001:db8::1]:8443/x",
        "https://größe.example/ü",
    ],
)  # fmt: skip
def test_an_address_is_kept_as_it_is(said):
    assert check_web_address(said) == said.strip()


@pytest.mark.parametrize(
    "said",
    [
        "", "tides.example", "javascript:alert(1)", "JAVASCRIPT:alert(1)", "data:text/html,x", "file:///etc/passwd",
        "https://", "https:///path", "https://bank.example@elsewhere.example", "https://a b.example", "ftp://x.example",
        "https://x.example/\nInjected: yes", "https://x.example:99999", "https://[::1", 'https://x.example/"onload=',
        "https://x.example/" + "a" * 1000,
    ],
)  # fmt: skip
def test_what_leads_nowhere_or_hides_where_is_refused(said):
    with pytest.raises(RuleBroken, match="web address"):
        check_web_address(said)


def test_no_payload_of_the_shared_data_is_an_address():
    lines = shared_data("payloads/XSS.txt").read_text().splitlines()
    assert len(lines) > 10
    for line in lines:
        with pytest.raises(RuleBroken):
            check_web_address(line)
