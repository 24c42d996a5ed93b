"""Nod's own addresses: what is signed can be read again, and nothing else."""

from hypothesis import given
from hypothesis import strategies as st

from nod.core.mail.addresses import OwnAddress, mail_of_token, project_name, read_address, token_of

SECRET = b"s" * 32
MAIL = "abcdefgh23456777"
DOMAIN = "brackwater.example"


def test_what_is_signed_is_read_again_whatever_its_case():
    token = token_of(SECRET, MAIL)
    assert len(token) == 32
    for address in (f"bft+{token}@{DOMAIN}", f"<BFT+{token.upper()}@Brackwater.Example>"):
        assert read_address(SECRET, address, DOMAIN) == OwnAddress("bft", MAIL)


def test_another_key_another_id_and_other_signs_are_nothing():
    token = token_of(SECRET, MAIL)
    assert mail_of_token(b"t" * 32, token) == ""
    assert mail_of_token(SECRET, "b" + token[1:]) == ""
    assert mail_of_token(SECRET, token[:-1]) == ""
    assert read_address(SECRET, f"bft+{token}x@{DOMAIN}", DOMAIN) == OwnAddress("bft")


@given(st.text(max_size=80))
def test_any_address_can_be_asked(address):
    read = read_address(SECRET, address, DOMAIN)
    assert read is None or read.mail_id == ""


@given(st.text(max_size=40))
def test_a_projects_name_is_a_dot_string(number):
    assert set(project_name(number)) <= set("abcdefghijklmnopqrstuvwxyz0123456789-")
    assert project_name(number)


def test_addresses_elsewhere():
    assert read_address(SECRET, "bft@elsewhere.example", DOMAIN) is None
    assert read_address(SECRET, f"bft@{DOMAIN}.elsewhere.example", DOMAIN) is None
    assert read_address(SECRET, "bft", DOMAIN) is None
