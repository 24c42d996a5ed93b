"""Lists of other companies as they come, and what they say against the files."""

import pytest

from nod.core.register.numbers import Convention, NumberField
from nod.core.register.revisions import Scheme
from nod.core.transmittals.received import Came, Found, Listed, compare, read_list, receipt_lines, rows_of

PROJECT, ORIGINATOR = NumberField("project", {"BFT": ""}), NumberField("originator", {"TRA": "", "PLS": ""})
CONVENTION = Convention((PROJECT, ORIGINATOR, NumberField("number", {}, r"\d{4}")))
HASH = "ab" * 32


def lines_of(text):
    read = read_list(rows_of(text), CONVENTION, Scheme.STAGED)
    return [(each.number, each.revision, each.title) for each in read.lines], read.unread


@pytest.mark.parametrize(
    "text",
    [
        "BFT-TRA-0101\tP02\tQuay hall plan\nBFT-TRA-0102\tC01\tRoof plan",
        "Drawing No.\tRev\tTitle\nBFT-TRA-0101\tP02\tQuay hall plan\nBFT-TRA-0102\tC01\tRoof plan",
        "Title;Number;Revision\nQuay hall plan;BFT-TRA-0101;P02\nRoof plan;BFT-TRA-0102;C01",
        'number,title,rev\nBFT-TRA-0101,"Quay hall plan",P02\r\nBFT-TRA-0102,Roof plan,C01\r\n',
        "BFT-TRA-0101 P02 Quay hall plan\n\nBFT-TRA-0102 C01 Roof plan",
        "1\tQuay hall plan\tBFT-TRA-0101\tp02\n2\tRoof plan\tBFT-TRA-0102\tc01",
    ],
)
def test_a_list_is_read_as_it_comes(text):
    found, unread = lines_of(text)
    assert [(number, revision.upper(), title) for number, revision, title in found] == [
        ("BFT-TRA-0101", "P02", "Quay hall plan"), ("BFT-TRA-0102", "C01", "Roof plan"),
    ]  # fmt: skip
    assert unread == []


def test_rows_that_name_no_document_are_told_with_their_place():
    found, unread = lines_of("Number\tRev\nBFT-TRA-0101\tP02\nTotal\t\nBFT-TRA-0101\tP02")
    assert found == [("BFT-TRA-0101", "P02", "")]
    assert [(each.row, each.words) for each in unread] == [
        (3, "no document’s number is in this row"), (4, "BFT-TRA-0101 P02 is in the list twice"),
    ]  # fmt: skip


def test_their_numbers_and_revisions_may_be_others_than_the_projects():
    found, _ = lines_of("X 4711-A\tB\tSomething of theirs")
    assert found == [("X 4711-A", "B", "Something of theirs")]


def test_a_quote_that_never_ends_is_no_fault_of_ours():
    text = 'BFT-TRA-0101,P01,"6 inch pipe\n' + "BFT-TRA-0102,P01,Roof\n" * 8000
    found, _ = lines_of(text)
    assert found[0] == ("BFT-TRA-0101", "P01", '"6 inch pipe')
    assert len(found) == 2


def test_an_empty_list_has_nothing():
    assert lines_of("") == ([], [])


def test_a_sha_column_counts_only_where_it_is_one():
    read = read_list(
        [["Number", "SHA-256"], ["BFT-TRA-0101", HASH.upper()], ["BFT-TRA-0102", "n/a"]], CONVENTION, Scheme.STAGED
    )
    assert [each.sha256 for each in read.lines] == [HASH, ""]


def states(compared):
    return [(each.found, each.key) for each in compared.lines]


def test_each_line_against_the_files():
    lines = [Listed(f"BFT-TRA-010{n}", "P02") for n in range(1, 6)]
    files = [
        Came("plan", "BFT-TRA-0101", "P02", "1"), Came("native", "bft_tra_0101", "p02", "2"),
        Came("old", "BFT-TRA-0102", "P01", "3"), Came("other", "BFT-PLS-0900", "P01", "4"),
        Came("nameless", "", "", "5"),
    ]  # fmt: skip
    compared = compare(lines, files, [("BFT-TRA-0103", "P02"), ("BFT-TRA-0104", "P01")])
    assert states(compared) == [
        (Found.HERE, "plan"), (Found.OTHER_REVISION, "old"), (Found.FILED, ""), (Found.MISSING, ""),
        (Found.MISSING, ""),
    ]  # fmt: skip
    assert compared.lines[1].revision == "P01"
    assert compared.more == ["other", "nameless"]


def test_a_hash_decides_where_the_list_has_one():
    lines = [Listed("BFT-TRA-0101", "P02", sha256=HASH), Listed("BFT-TRA-0102", "P02", sha256="cd" * 32)]
    files = [Came("renamed", "", "", HASH), Came("forged", "BFT-TRA-0102", "P02", "ef" * 32)]
    assert states(compare(lines, files)) == [(Found.HERE, "renamed"), (Found.OTHER_FILE, "forged")]


def test_a_line_without_revision_takes_any_and_two_revisions_of_one_number_are_two():
    assert states(compare([Listed("BFT-TRA-0101", "")], [Came("a", "BFT-TRA-0101", "P07", "1")])) == [(Found.HERE, "a")]
    lines = [Listed("BFT-TRA-0101", "P01"), Listed("BFT-TRA-0101", "P02")]
    files = [Came("a", "BFT-TRA-0101", "P01", "1"), Came("b", "BFT-TRA-0101", "P03", "2")]
    assert states(compare(lines, files)) == [(Found.HERE, "a"), (Found.OTHER_REVISION, "b")]


def test_a_receipt_says_what_came_and_what_did_not():
    lines = [Listed("BFT-TRA-0101", "P02"), Listed("BFT-TRA-0102", "P02"), Listed("BFT-TRA-0103", "P02")]
    files = [Came("a", "BFT-TRA-0101", "P02", "1"), Came("b", "BFT-TRA-0102", "P01", "2"), Came("c", "", "", "3")]
    said = list(receipt_lines(compare(lines, files), {"a": "a.pdf", "b": "b.pdf", "c": "letter.pdf"}))
    assert said == [
        "1 of 3 listed documents are here.", "  - BFT-TRA-0102 P02: came as P01", "  - BFT-TRA-0103 P02: missing",
        "Not on the list, but here:", "  - letter.pdf",
    ]  # fmt: skip
