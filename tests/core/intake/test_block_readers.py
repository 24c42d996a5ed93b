"""Which reader reads a title block, and what is no value: what is not sure says so (handbook §5.3)."""

import numpy as np
import pytest

from nod.core.intake.block_picks import pick
from nod.core.intake.block_readers import BlockReader, Zone, choose_reader
from nod.core.intake.findings import Rules
from nod.core.register.numbers import Convention
from nod.core.register.revisions import Scheme
from nod.core.sheet.placed_words import PlacedWords
from nod.demo.scenario import NUMBER_FIELDS

A3 = (420.0, 297.0)
RULES = Rules(Convention(tuple(NUMBER_FIELDS)), Scheme.STAGED, ("S2", "S3"))
NUMBER = "BFT-TRA-Z1-01-D-A-0101"


def words(*placed):
    """Each a text with the left and upper edge of its box, in millimetres."""
    boxes = np.array([(x, y, x + 2.0 * len(text), y + 4.0) for text, x, y in placed], np.float32)
    return PlacedWords(tuple(text for text, _, _ in placed), boxes, np.zeros(len(placed), np.int16))


def reader(id, company, **zones):
    """By field, the left and upper edge of a zone of 80 × 10 mm."""
    made = tuple(Zone(field, "upper left", x, y, 80, 10) for field, (x, y) in zones.items())
    return BlockReader(id, company, A3, made, {})


ANYTHING = {"title": (300, 250), "drawn by": (300, 262), "folio": (300, 274), "file": (200, 250)}
TRA = reader("own", "Tallow Reed", number=(300, 250), revision=(300, 262), title=(300, 274))
ANY = reader("other", "Plinthwork", **ANYTHING)
BLOCK = words((NUMBER, 302, 253), ("unfit", 302, 265), ("Quay", 302, 277), ("elsewhere", 202, 253))


def test_a_reader_of_the_company_that_sent_it_comes_first():
    """However much zones that take anything read beside it."""
    chosen, readings = choose_reader([ANY, TRA], BLOCK, A3, RULES, "Tallow Reed", said=True)
    assert (chosen.id, readings["number"].value, readings["number"].sure) == ("own", NUMBER, True)
    assert choose_reader([ANY, TRA], BLOCK, A3, RULES, "Plinthwork", said=True)[0].id == "other"


def test_another_companys_reader_proposes_and_is_not_sure():
    chosen, readings = choose_reader([ANY], BLOCK, A3, RULES, "Tallow Reed", said=True)
    assert chosen.id == "other"
    assert {(each.sure, each.reader_of) for each in readings.values()} == {(False, "Plinthwork")}


def test_an_own_reader_that_reads_nothing_leaves_it_to_the_others():
    nothing = reader("blank", "Tallow Reed", number=(10, 10))
    chosen, readings = choose_reader([nothing, ANY], BLOCK, A3, RULES, "Tallow Reed", said=True)
    assert (chosen.id, readings["title"].sure) == ("other", False)


def test_while_nobody_has_said_the_one_that_reads_most_counts():
    chosen, readings = choose_reader([ANY, TRA], BLOCK, A3, RULES, "Tallow Reed")
    assert chosen.id == "other"
    assert readings["title"].sure
    twin = reader("twin", "Tallow Reed", **ANYTHING)
    assert choose_reader([ANY, twin], BLOCK, A3, RULES, "Tallow Reed")[0].id == "twin"


def test_a_reader_for_nobody_in_particular_is_no_other_companys():
    plain = reader("plain", "", number=(300, 250))
    _, readings = choose_reader([plain], BLOCK, A3, RULES, "Tallow Reed", said=True)
    assert readings["number"].sure


@pytest.mark.parametrize("text", ["%label3", "%{machine}", "$Revision$", "${DATE}", "<TITLE>", "---", "n/a"])
@pytest.mark.parametrize("field", ["title", "revision", "number", "drawn by"])
def test_a_placeholder_is_no_value(text, field):
    found = pick(text, field, "", RULES)
    assert (found.value, "no value" in found.why) == ("", True)


@pytest.mark.parametrize("text", ["PAGE OF", "FILE:", "Drawing No", "Gezeichnet:", "Titre :", "Plan n°", "Checked by"])
def test_a_neighbours_label_is_no_value(text):
    found = pick(text, "title", "", RULES)
    assert (found.value, "label" in found.why) == ("", True)


@pytest.mark.parametrize(
    "text", ["Index", "Page", "100 % open", "File store, level 1", "Title block of the quay", "A%B"]
)
def test_what_only_looks_like_one_is_read(text):
    """A short word may be a title; so may what begins like a label."""
    assert pick(text, "title", "", RULES).value == text
