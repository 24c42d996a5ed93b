"""Words on a sheet: found, and numbers among them that lead to other sheets."""

import io

import numpy as np
import pikepdf
import pytest
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from nod.core.acts.refusals import NotFound
from nod.core.sheet.placed_words import NO_WORDS, PlacedWords
from nod.core.sheet.words_on_sheet import occurrences
from nod.services.intake import intake
from nod.services.sheet import sheet_links, sheet_words
from tests.world import NUMBER, OTHER_NUMBER, name, pdf


def sheet_saying(*pages):
    """Each page a list of (x mm, y mm, text)."""
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(420 * mm, 297 * mm), invariant=1)
    for page in pages:
        for x, y, text in page:
            canvas.drawString(x * mm, y * mm, text)
        canvas.rect(10, 10, 100, 100)
        canvas.showPage()
    canvas.save()
    return out.getvalue()


def _find(world, revision, words, who="leilani"):
    return sheet_words.find_words(world.context, world.actor(who), revision, words)


def test_words_are_found_on_every_page_with_their_place(world):
    first = [(50, 100, "Fire rated door FD60"), (50, 50, "no door here")]
    content = sheet_saying(first, [(80, 200, "FIRE  RATED DOOR")])
    ((_, revision),) = world.file(name(), content=content)
    found = _find(world, revision, "fire rated door")
    assert [hit.page for hit in found.hits] == [0, 1]
    left, low, right, _ = found.hits[0].box
    assert (left, low) == pytest.approx((50 * mm, 100 * mm), abs=4)
    assert 60 < right - left < 120
    assert found.hits[0].words.startswith("Fire rated door FD60")
    assert len(_find(world, revision, "door").hits) == 3
    assert (_find(world, revision, "window").hits, _find(world, revision, "  ").hits) == ([], [])


def test_a_sheet_without_words_says_so(world):
    ((_, revision),) = world.file(name(), content=sheet_saying([]))
    found = _find(world, revision, "door")
    assert (found.hits, found.has_words) == ([], False)


def test_words_far_apart_are_not_said_together():
    boxes = np.array([[0, 0, 30, 10], [400, 0, 430, 10], [440, 0, 470, 10]], np.float32)
    placed = PlacedWords(("fire", "door", "FD60"), boxes, np.zeros(3, np.int16))
    assert occurrences(placed, "fire door", 9) == []
    assert [each.box for each in occurrences(placed, "DOOR fd60", 9)] == [(400.0, 0.0, 470.0, 10.0)]
    assert len(occurrences(placed, "f", 1)) == 1
    assert occurrences(NO_WORDS, "door", 9) == []


def test_numbers_of_other_sheets_lead_there_unless_these_are_hidden(world):
    ((other, other_revision),) = world.file(name(number=OTHER_NUMBER, title="Level 1 framing"))
    said = [(50, 100, f"See ({OTHER_NUMBER})."), (50, 80, NUMBER), (50, 60, "BFT-XXX-Z9-01-D-A-9999")]
    ((_, revision),) = world.file(name(), content=sheet_saying(said))
    found = sheet_words.list_references(world.context, world.actor("leilani"), revision).references
    assert [(each.number, each.title, each.revision_id) for each in found] == [
        (OTHER_NUMBER, "Level 1 framing", other_revision)
    ]
    assert found[0].document_id == other
    assert found[0].box[1] == pytest.approx(100 * mm, abs=4)
    with pytest.raises(NotFound):
        sheet_words.list_references(world.context, world.actor("yusuf"), revision)


def _leading(*links):
    """A PDF whose page has links: a page from 0, a web address, or the name of a file."""
    with pikepdf.open(io.BytesIO(pdf("Site plan", pages=2))) as made:
        entries = []
        for place, each in enumerate(links):
            if isinstance(each, int):
                leads = {"Dest": pikepdf.Array([made.pages[each].obj, pikepdf.Name.Fit])}
            elif "://" in each or ":" in each:
                leads = {"A": pikepdf.Dictionary(S=pikepdf.Name.URI, URI=pikepdf.String(each))}
            else:
                leads = {"A": pikepdf.Dictionary(S=pikepdf.Name.GoToR, F=pikepdf.String(each))}
            rect = pikepdf.Array([10, 10 + 20 * place, 50, 20 + 20 * place])
            link = pikepdf.Dictionary(Type=pikepdf.Name.Annot, Subtype=pikepdf.Name.Link, Rect=rect, **leads)
            entries.append(made.make_indirect(link))
        made.pages[0].Annots = pikepdf.Array(entries)
        out = io.BytesIO()
        made.save(out)
        return out.getvalue()


def links(world, revision, who="leilani", page=0):
    return sheet_links.list_links(world.context, world.press, world.actor(who), revision, page)


def test_links_of_the_file_lead_to_pages_addresses_and_documents(world):
    """By the name that a document's file came under, now or before, whichever way its path and letters are written."""
    other = name(number=OTHER_NUMBER, title="Level 1 framing")
    ((document, _),) = world.file(other)
    leading = (1, "https://example.org/spec", f"..\\old\\{other.upper()}", "never came.pdf", "javascript:alert(1)")
    ((_, revision),) = world.file(name(title="Site plan"), content=_leading(*leading))
    found = links(world, revision)
    assert [(each.kind, each.words, each.page, each.address, each.document_id) for each in found.links] == [
        ("page", "Page 2", 1, "", ""),
        ("web", "https://example.org/spec", -1, "https://example.org/spec", ""),
        ("document", f"{OTHER_NUMBER} Level 1 framing", -1, "", document),
    ]
    assert found.links[0].box == (10, 10, 50, 20)
    assert found.nowhere == 2
    assert links(world, revision, page=1) == sheet_links.SheetLinks(links=[], nowhere=0)
    with pytest.raises(NotFound):
        links(world, revision, page=2)
    with pytest.raises(NotFound):
        links(world, revision, "yusuf")


def test_a_link_to_a_document_that_one_may_not_see_leads_nowhere(world):
    opened = intake.OpenBatch(project_id=world.project_id, folder_id=world.cast.folders["Temporary works"])
    batch = intake.open_batch(world.context, world.actor("marit"), opened)
    hidden = name(number=OTHER_NUMBER, title="Cofferdam")
    intake.add_file(world.context, world.actor("marit"), batch.id, hidden, [pdf("Cofferdam")])
    world.look()
    world.register(batch.id)
    ((_, revision),) = world.file(name(), content=_leading(hidden))
    assert [each.words for each in links(world, revision, "marit").links] == [f"{OTHER_NUMBER} Cofferdam"]
    assert links(world, revision, "leilani") == sheet_links.SheetLinks(links=[], nowhere=1)
