"""The drawings of the demo, read back by pdfium: they differ by kind, and each revision from the one before."""

from collections import Counter
from datetime import date

import pikepdf
import pypdfium2 as pdfium
import pytest

from nod.demo import papers, surveys
from nod.demo.sheet_list import SHEETS
from nod.demo.sheets.drawing import KINDS, draw_sheet
from nod.demo.sheets.frame import SIZES_MM, Issue, SheetSpec
from nod.demo.sheets.hall import floor
from nod.demo.sheets.tables import door_rows
from nod.demo.story import Stage
from nod.formats.intake.pdf_measures import file_scales

_MM = 72 / 25.4
_SEVERAL = [sheet for sheet in SHEETS if len(sheet.revisions) > 1]


def _draw(aside, sheet, revision):
    issues = tuple(
        Issue(code, status, "01 Mar 2027", "First issue" if place == 0 else "Revised")
        for place, (code, status) in enumerate(sheet.revisions[: revision + 1])
    )
    target = aside / f"{sheet.number}-{revision}.pdf"
    spec = SheetSpec(sheet.number, sheet.title, "Tallow Reed Architects", sheet.size, sheet.scale, issues, "S. T.")
    draw_sheet(target, spec, sheet.kind)
    return target


def _words(path):
    """Every run of text outside the title block, with its place in millimetres."""
    with pdfium.PdfDocument(path) as document:
        page = document[0]
        wide = page.get_width() / _MM
        text = page.get_textpage()
        found = []
        for place in range(text.count_rects()):
            left, bottom, right, top = (side / _MM for side in text.get_rect(place))
            if not (left > wide - 180 and top < 10 + 62 + 6 * 3):
                words = text.get_text_bounded(*text.get_rect(place)).strip()
                found.append((words, round(left), round(bottom), round(right), round(top)))
        return found


def test_there_are_sixty_sheets_of_five_disciplines_and_every_kind_is_drawn():
    assert len({sheet.number for sheet in SHEETS}) == len(SHEETS) >= 60
    assert Counter(sheet.number.split("-")[5] for sheet in SHEETS).keys() == set("ASNEF")
    assert {sheet.size for sheet in SHEETS} == {"A1", "A3"}
    assert len({sheet.kind for sheet in SHEETS}) >= 50
    assert {sheet.kind for sheet in SHEETS} <= KINDS.keys()
    assert len(_SEVERAL) >= 12


def test_no_two_sheets_show_the_same(tmp_path):
    seen = {}
    for sheet in SHEETS:
        with pdfium.PdfDocument(_draw(tmp_path, sheet, 0)) as document:
            picture = document[0].render(scale=0.25).to_pil().convert("L")
        drawing = picture.crop((0, 0, picture.width, int(picture.height * 0.74))).tobytes()
        # One schematic stands on two sheets, of two sizes, and the linkspans are built alike.
        seen.setdefault(drawing, []).append(sheet.kind)
    assert {kinds[0] for kinds in seen.values() if len(kinds) > 1} <= {"linkspan", "cross section"}


@pytest.mark.parametrize("sheet", SHEETS, ids=lambda sheet: sheet.number)
def test_words_stay_on_the_sheet_and_off_the_title_block(tmp_path, sheet):
    revision = len(sheet.revisions) - 1
    wide, high = SIZES_MM[sheet.size]
    words = _words(_draw(tmp_path, sheet, revision))
    assert len(words) > 12, "a sheet says something"
    outside = [each for each in words if each[1] < 2 or each[2] < 2 or each[3] > wide - 2 or each[4] > high - 2]
    assert outside == []
    with pdfium.PdfDocument(tmp_path / f"{sheet.number}-{revision}.pdf") as document:
        block = document[0].get_textpage().get_text_bounded((wide - 178) * _MM, 11 * _MM, (wide - 12) * _MM, 71 * _MM)
    drawn = [line for line in block.splitlines() if len(line.strip()) > 1]
    # Nine values, each under its label but the project and the company.
    assert len(drawn) <= 18, drawn


def test_revisions_differ_in_every_sort(tmp_path):
    """Moved, added, removed, changed in words and in figures: over all pairs each of them is there."""
    sorts = set()
    for sheet in _SEVERAL:
        for revision in range(1, len(sheet.revisions)):
            old, new = (Counter(_words(_draw(tmp_path, sheet, each))) for each in (revision - 1, revision))
            gone, come = old - new, new - old
            assert come, f"{sheet.number} says nothing new"
            lost, got = ({words for words, *_ in side} for side in (gone, come))
            sorts |= {"moved"} if lost & got else set()
            sorts |= {"added"} if any(not any(ch.isdigit() for ch in words) for words in got - lost) else set()
            sorts |= {"removed"} if any(not any(ch.isdigit() for ch in words) for words in lost - got) else set()
            sorts |= {"figures"} if any(words.isdigit() for words in lost - got) else set()
            left_by = {(left, bottom) for _, left, bottom, _, _ in gone}
            sorts |= {"words"} if any((left, bottom) in left_by for _, left, bottom, _, _ in come) else set()
    assert sorts == {"moved", "added", "removed", "figures", "words"}


def test_a_sheet_is_the_same_bytes_when_drawn_again(tmp_path):
    for sheet in SHEETS[:5]:
        first = _draw(tmp_path, sheet, 0).read_bytes()
        assert _draw(tmp_path, sheet, 0).read_bytes() == first


def test_the_door_schedule_has_the_doors_of_the_plans():
    for revision in (0, 1, 2):
        tags = {row[0] for row in door_rows(revision)}
        plans = {door.tag for level in ("00", "01", "02") for door in floor(level, revision).doors}
        assert tags == plans


def test_rooms_of_a_level_fill_it_and_do_not_overlap():
    """Areas by hand: 54 m by 30 m; the kiosk stands inside the ticket hall."""
    for level in ("00", "01", "02"):
        for revision in (0, 1, 2):
            rooms = [room for room in floor(level, revision).rooms if room.name != "Kiosk"]
            assert sum(room.wide * room.deep for room in rooms) == pytest.approx(54 * 30)
            for door in floor(level, revision).doors:
                near = [
                    room for room in floor(level, revision).rooms
                    if room.x - 0.01 <= door.x <= room.x + room.wide + 0.01
                    and room.y - 0.01 <= door.y <= room.y + room.deep + 0.01
                ]  # fmt: skip
                assert near, door.tag


def test_the_old_survey_says_by_itself_that_an_inch_is_twenty_feet(tmp_path):
    """ISO 32000-1, 12.9: 20 ft to 72 points, a foot being 304.8 mm, is 84.667 mm a point, or 1:240."""
    stage = Stage(None, None, tmp_path, lambda: None, date(2027, 3, 9))
    files = surveys.surveys(stage)
    quay = next(each for each in files if surveys.QUAY.number in each.name)
    with pikepdf.open(quay) as pdf:
        (scale,) = file_scales(pdf.pages[0])
    assert scale.mm_per_pt == pytest.approx(20 * 304.8 / 72, rel=1e-6)
    scanned = next(each for each in files if surveys.PITS.number in each.name)
    with pdfium.PdfDocument(scanned) as document:
        assert document[0].get_textpage().get_text_bounded().strip() == ""


def test_the_specification_has_three_sections_with_what_they_ask_for(tmp_path):
    with pdfium.PdfDocument(papers.specification(tmp_path)) as document:
        pages = [document[place].get_textpage().get_text_bounded() for place in range(len(document))]
    for number, name, parts in papers.SECTIONS:
        (first,) = (page for page in pages if f"Section {number}" in page)
        assert name in first
        asked = [line for _, articles in parts for head, lines in articles if "Submittals" in head for line in lines]
        assert len(asked) >= 5
        assert all(" ".join(line.split()) in " ".join(first.split()) for line in asked)
    assert len(papers.SECTIONS) == 3
