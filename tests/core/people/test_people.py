"""Reading pasted people, proposing company codes, folder names."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from nod.core.access.folder_names import check_folder_name
from nod.core.acts.refusals import RuleBroken
from nod.core.people.company_codes import check_code, propose_code
from nod.core.people.pasted_people import Named, is_email, name_from, read_people

MARIT, TOMASZ = Named("Marit Osei", "marit@hbc.example"), Named("Tomasz Adeyemi", "t.adeyemi@tra.example")


@pytest.mark.parametrize(
    "pasted",
    [
        "Marit Osei <marit@hbc.example>, Tomasz Adeyemi <t.adeyemi@tra.example>",
        "Marit Osei <marit@hbc.example>; Tomasz Adeyemi <t.adeyemi@tra.example>;",
        '"Osei, Marit" <Marit@HBC.example>; "Adeyemi, Tomasz" <t.adeyemi@tra.example>',
        "Marit Osei\tmarit@hbc.example\r\nTomasz Adeyemi\tt.adeyemi@tra.example\r\n",
        "Marit Osei (marit@hbc.example)\n\n  Tomasz Adeyemi  mailto:t.adeyemi@tra.example",
        "Marit Osei <marit@hbc.example>\nTomasz Adeyemi <t.adeyemi@tra.example>\nagain: marit@hbc.example",
    ],
)
def test_people_are_read_from_what_was_pasted(pasted):
    assert read_people(pasted) == [MARIT, TOMASZ]


def test_bare_addresses_and_bare_names():
    assert read_people("a@b.example c@d.example\nSaoirse Tanaka") == [
        Named("", "a@b.example"), Named("", "c@d.example"), Named("Saoirse Tanaka", ""),
    ]  # fmt: skip
    assert read_people(" ,; \n\t<>") == []


@given(st.text(max_size=300))
def test_anything_can_be_pasted(text):
    people = read_people(text)
    assert all(each.name or each.email for each in people)
    assert len({each.email for each in people if each.email}) == len([each for each in people if each.email])


@pytest.mark.parametrize(
    ("text", "good"),
    [
        ("marit@hbc.example", True), ("m.o+plans@mail.hbc.example", True), ("o'neil@hbc.example", True),
        ("marit@hbc", False), ("marit@@hbc.example", False), ("marit hbc.example", False), ("@hbc.example", False),
        ("marit@-hbc.example", False), ("marit@hbc.example\nBcc: x@y.example", False),
        (f"{'a' * 250}@b.example", False),
    ],
)  # fmt: skip
def test_addresses(text, good):
    assert is_email(text) is good


def test_a_name_is_guessed_from_an_address():
    assert name_from("marit.osei2@hbc.example") == "Marit Osei"


@pytest.mark.parametrize(
    ("name", "code"),
    [
        ("Tallow Reed Architects", "TRA"), ("Plinthwork Structures", "PLS"), ("Ohmfield", "OHM"),
        ("Øster 3", "STE"), ("株式会社", "XAA"), ("A", "AAA"),
    ],
)  # fmt: skip
def test_a_code_is_proposed(name, code):
    assert propose_code(name, ()) == code


@given(st.text(max_size=40), st.frozensets(st.sampled_from(["TRA", "TAL", "TAR", "TRE", "TRAX"])))
def test_a_proposed_code_is_free_and_good(name, taken):
    assert check_code(propose_code(name, taken), taken) not in taken


@pytest.mark.parametrize("code", ["T", "TRAXXYZ", "tra", "T1A", "", "TR A"])
def test_bad_codes(code):
    with pytest.raises(RuleBroken) as refused:
        check_code(code, ())
    assert refused.value.code == "company_code"


def test_a_taken_code():
    with pytest.raises(RuleBroken) as refused:
        check_code("TRA", {"TRA"})
    assert refused.value.code == "code_taken"


@pytest.mark.parametrize(
    "name", ["", "  ", "a/b", "..", ".hidden", "end.", "con", "LPT1.txt", "a\x00b", "x" * 121, 'say "x"']
)
def test_bad_folder_names(name):
    with pytest.raises(RuleBroken) as refused:
        check_folder_name(name)
    assert refused.value.code == "folder_name"


def test_folder_names_lose_outer_spaces():
    assert check_folder_name("  Temporary   works ") == "Temporary works"


@pytest.mark.parametrize(
    "columns",
    [
        "Marit Osei\tmarit@hbc.example\tHollinbrook Contracting",
        "marit@hbc.example\tMarit Osei\tHollinbrook Contracting",
        "Hollinbrook Contracting\tMarit Osei\tmarit@hbc.example",
        "Hollinbrook Contracting\tmarit@hbc.example\tOsei, Marit",
        "Hollinbrook Contracting\t\tMarit Osei <marit@hbc.example>",
    ],
)
def test_columns_of_a_spreadsheet_may_stand_in_any_order(columns):
    assert read_people(columns) == [Named("Marit Osei", "marit@hbc.example", "Hollinbrook Contracting")]


def test_several_addresses_in_a_line_are_several_people():
    assert read_people("a@b.example\tc@d.example") == [Named("", "a@b.example"), Named("", "c@d.example")]


def test_heads_are_left_out_and_a_line_without_an_address_is_kept():
    pasted = "Name\tE-mail\tCompany\nMarit Osei\tmarit@hbc.example\tHBC\nSaoirse Tanaka\t\tTRA"
    assert read_people(pasted) == [
        Named("Marit Osei", "marit@hbc.example", "HBC"), Named("Saoirse Tanaka", "", "TRA"),
    ]  # fmt: skip
