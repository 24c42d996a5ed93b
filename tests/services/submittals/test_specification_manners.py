"""Manners in which specifications ask for submittals, one at a time; each with what it asks for."""

import pytest
from reportlab.lib.units import mm

from nod.core.submittals.spec_words import USUAL_WORDS, ReadingWords
from nod.core.submittals.specification import read_specification
from tests.services.submittals.specs import Paper
from tests.services.submittals.test_specification_read import pages_of

GATE, PAINT, STEEL, CONCRETE = "35 20 16", "09 90 00", "05 12 00", "03 30 00"


def in_parts(paper):
    for text, indent in (
        ("SECTION 352016 - HYDRAULIC GATES", 0),
        ("PART 1 - GENERAL", 0),
        ("1.2 DEFINITIONS", 0),
        ("A. Working drawing: what the fabricator builds from.", 8),
        ("1.4 ACTION SUBMITTALS", 0),
        ("A. Product Data: For each seal and bearing.", 8),
        ("1. Include hardness, wear and how each is exchanged.", 16),
        ("B. Shop Drawings: For leaves and frames. Include sections at full size:", 8),
        ("1. Welds, showing the following:", 16),
        ("a. Sequence.", 24),
        ("b. Drawings of jigs.", 24),
        ("C. Samples for First Choice: Paint, in the maker's colours.", 8),
        ("D. Samples for Verification: Of each colour that was chosen, 200 mm square.", 8),
        ("E. Delegated-Design Submittal: Leaves under tide and waves, with calculations signed by an engineer.", 8),
        ("1.5 INFORMATIONAL SUBMITTALS", 0),
        ("A. Qualification Data: For the fabricator.", 8),
        ("B. Quality-Control Program: For this project.", 8),
        ("C. Source quality-control reports.", 8),
        ("D. Sample Warranties: For seals.", 8),
        ("1.6 CLOSEOUT SUBMITTALS", 0),
        ("A. Maintenance Data: For gates, to be bound in manuals.", 8),
        ("1.7 QUALITY ASSURANCE", 0),
        ("A. Mockups: Build one joint of the seal to check what was seen in samples.", 8),
        ("1.8 WARRANTY", 0),
        ("A. Special Warranty: The maker mends what fails within ten years.", 8),
        ("PART 3 - EXECUTION", 0),
        ("3.4 FIELD QUALITY CONTROL", 0),
        ("A. Prepare test reports of each gate.", 8),
        ("B. Submit test reports within 5 days.", 8),
        ("END OF SECTION 352016", 0),
    ):
        paper.write(text, indent=indent * mm, before=2)
    ways = (
        "1.4.A PD", "1.4.B SD", "1.4.C SA", "1.4.D SA", "1.4.E CA", "1.5.A CE", "1.5.B ", "1.5.C TR", "1.5.D WA",
        "1.6.A MA", "3.4.B TR",
    )  # fmt: skip
    return [(GATE, *each.split(" ")) for each in ways]


def without_heads_of_items(paper):
    for text, indent in (
        ("SECTION 35 20 16", 0),
        ("GATES", 0),
        ("1.02 SUBMITTALS", 0),
        ("A. Submit under Section 01 33 00.", 8),
        ("B. Product data, with the maker's advice for each seal.", 8),
        ("C. Shop drawings. Show profiles, welds and anchors.", 8),
        ("D. Samples, two, 150 mm long, of each seal.", 8),
        ("E. Welders' certificates.", 8),
        ("F. Erection schedule.", 8),
        ("G. Submit three copies of each.", 8),
        ("1.03 STORAGE", 0),
        ("A. Seals are kept dark; certificates travel with them.", 8),
    ):
        paper.write(text, indent=indent * mm)
    return [(GATE, *each.split(" ")) for each in ("1.02.B PD", "1.02.C SD", "1.02.D SA", "1.02.E CE", "1.02.F ")]


def in_brackets(paper):
    for text, indent in (
        ("3. STRUCTURAL STEEL (05 12 00)", 0),
        ("3.1 GENERAL", 0),
        ("3.1.1 This section covers the supply of steel.", 0),
        ("3.2 DOCUMENTS TO BE SUBMITTED", 0),
        ("The Contractor shall submit the following documents to the Engineer for review:", 0),
        ("(a) Shop drawings of all members and connections;", 8),
        ("(b) Welding procedures and welder certificates;", 8),
        ("(c) Mill test reports for all plates;", 8),
        ("(d) Method statement for erection.", 8),
        ("3.3 MATERIALS", 0),
        ("3.3.1 Steel shall be of grade S355. Mill certificates shall be kept on site for inspection.", 0),
        ("3.3.2 Samples of paint, 300 x 300 mm, shall be submitted for approval 30 days before use.", 0),
        ("4. PAINTING (09 90 00)", 0),
        ("4.1 SUBMITTALS", 0),
        ("4.1.1 Product data", 0),
        ("Submit the data sheets of each coat, with film thicknesses.", 8),
        ("4.1.2 Colour samples", 0),
        ("Submit three of each colour.", 8),
    ):
        paper.write(text, indent=indent * mm, before=2)
    steel = [(STEEL, *each.split(" ")) for each in ("3.2.a SD", "3.2.b CE", "3.2.c TR", "3.2.d ", "3.3.2 SA")]
    return [*steel, (PAINT, "4.1.1", "PD"), (PAINT, "4.1.2", "SA")]


def in_bullets(paper):
    paper.write("Section 35 20 16", bold=True, size=14)
    paper.write("Hydraulic gates", bold=True, size=14)
    paper.write("1.4 Submissions", bold=True)
    paper.write("Provide the following for approval:")
    for text in ("Product data for seals.", "Shop drawings at 1:20 with all anchors.", "Pressure test reports."):
        paper.write(f"\u2022 {text}", indent=5 * mm)
    paper.write("1.5 Delivery", bold=True)
    paper.write("Seals are capped. Certificates travel with the load.")
    return [(GATE, "1.4", kind) for kind in ("PD", "SD", "TR")]


def ticked(paper):
    """A column for each kind, heads on two lines, a section that stands only in its first row."""
    places = (0, 25 * mm, 85 * mm, 105 * mm, 125 * mm, 145 * mm)
    paper.write("SUBMITTAL SCHEDULE", bold=True)
    paper.row(("Section", "Description", "Product data", "Shop drawings", "Samples", "Remarks"), places, bold=True)
    paper.row((CONCRETE, "Concrete mix", "X", "", "", ""), places)
    paper.row(("", "Curing compound", "X", "", "X", "two tins"), places)
    paper.row((STEEL, "Structural steel", "", "X", "", "20 days"), places)
    return [(CONCRETE, "", "PD"), (CONCRETE, "", "PD"), (CONCRETE, "", "SA"), (STEEL, "", "SD")]


def with_clauses_and_codes(paper):
    places = (0, 12 * mm, 40 * mm, 66 * mm, 122 * mm)
    paper.write("Schedule of submittals", bold=True)
    paper.row(("No.", "Spec. section", "Clause", "Submittal", "Type"), places, bold=True)
    paper.row(("1", CONCRETE, "1.3.A", "Mix designs for all concrete that is used below water", "PD"), places)
    paper.row(("2", CONCRETE, "1.3.B", "Bending schedules", "SD"), places)
    paper.row(("3", STEEL, "1.4", "Erection method", "Method statement"), places)
    paper.write("General notes on the schedule follow here and are long enough to run over the columns of the table.")
    return [(CONCRETE, "1.3.A", "PD"), (CONCRETE, "1.3.B", "SD"), (STEEL, "1.4", "")]


MANNERS = (in_parts, without_heads_of_items, in_brackets, in_bullets, ticked, with_clauses_and_codes)


@pytest.mark.parametrize("manner", MANNERS)
def test_it_asks_for_these_and_nothing_else(manner):
    paper = Paper("Page {page}", "Works specification")
    key = manner(paper)
    found = read_specification(pages_of(paper.done()), USUAL_WORDS)
    assert sorted((each.section, each.paragraph, each.kind) for each in found) == sorted(key)


def test_where_the_section_stands_only_on_the_edge_of_its_pages():
    paper = Paper("05 12 00 - {page}", "Steel")
    for page in range(3):
        paper.write("Steel of the hall.")
        paper.write(f"{page + 1}.1 SUBMITTALS", before=30)
        paper.write("A. Shop drawings of each piece.", indent=8 * mm)
        if page < 2:
            paper.turn()
    found = read_specification(pages_of(paper.done()), USUAL_WORDS)
    assert [(each.page, each.section, each.paragraph) for each in found] == [
        (0, STEEL, "1.1.A"), (1, STEEL, "2.1.A"), (2, STEEL, "3.1.A"),
    ]  # fmt: skip


def test_words_that_are_the_projects_own():
    paper = Paper("Seite {page}", "Pflichtenheft")
    paper.write("Section 05 12 00", bold=True, size=14)
    paper.write("Stahlbau", bold=True, size=14)
    for text in ("1.2 Einzureichen", "A. Werkplanung aller Teile.", "B. Muster der Farbe."):
        paper.write(text)
    words = ReadingWords(("einzureichen",), {"SD": ("werkplanung",), "SA": ("muster",)}, ())
    pages = pages_of(paper.done())
    found = read_specification(pages, words)
    assert [(each.paragraph, each.kind) for each in found] == [("1.2.A", "SD"), ("1.2.B", "SA")]
    assert read_specification(pages, USUAL_WORDS) == []


def test_short_sections_one_after_the_other_with_their_names_on_every_page():
    """What heads a page is the section's own, and an article goes on over the page."""
    paper, key = Paper("", "Works"), []
    for place, (section, part) in enumerate(((STEEL, "the hall"), (PAINT, "the coats"), (GATE, "the leaves"))):
        for page in (1, 2):
            paper.head, paper.foot = f"SECTION {section} - {part.upper()}", f"{section} - {page}"
            if place or page > 1:
                paper.turn()
            else:
                paper.canvas.drawString(25 * mm, 282 * mm, paper.head)
            if page == 1:
                paper.write(f"SECTION {section}", bold=True, size=13)
                paper.write(f"Works of {part}", bold=True, size=13)
                paper.write("1.3 SUBMITTALS", before=6)
            for at in range(3):
                letter = chr(65 + at + 3 * (page - 1))
                paper.write(f"{letter}. Shop drawings of {part}, part {letter}.", indent=8 * mm)
                key.append((2 * place + page - 1, section, f"1.3.{letter}"))
    found = read_specification(pages_of(paper.done()), USUAL_WORDS)
    assert [(each.page, each.section, each.paragraph) for each in found] == key
    assert {each.section_title for each in found} == {"Works of the hall", "Works of the coats", "Works of the leaves"}
