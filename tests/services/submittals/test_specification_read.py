"""Reading specifications: what three of them ask for, against keys that were written by hand (handbook §9)."""

import pypdfium2 as pdfium
import pytest

from nod.core.sheet.geometry import PageBox
from nod.core.sheet.placed_words import as_seen, size_seen_mm
from nod.core.submittals.spec_words import USUAL_WORDS
from nod.core.submittals.specification import read_specification
from nod.formats.sheet.pdf_words import read_words
from tests.services.submittals.specs import in_a_table, in_articles, in_clauses


def pages_of(content):
    with pdfium.PdfDocument(content) as file:
        found = []
        for page in file:
            box = PageBox(*page.get_cropbox(), page.get_rotation())
            found.append((as_seen(read_words(page), box, 1.0), size_seen_mm(box, 1.0)))
        return found


@pytest.mark.parametrize("manner", [in_articles, in_clauses, in_a_table])
def test_all_that_it_asks_for_and_nothing_else(manner):
    content, key = manner()
    found = read_specification(pages_of(content), USUAL_WORDS)
    said = [(each.page, each.section, each.paragraph, each.kind) for each in found]
    assert [each for each in key if each not in said] == []
    assert [each for each in said if each not in key] == []
