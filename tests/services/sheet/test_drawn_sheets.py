"""Pictures and CAD drawings from arrival to the sheet: looked at, marked, compared and printed like any other."""

import io

import ezdxf
import pikepdf
import pypdfium2 as pdfium
import pytest
from PIL import Image, ImageDraw

from nod.core.acts.refusals import NotFound
from nod.services.marks import mark_files, prints
from nod.services.register import documents
from nod.services.sheet import page_pictures, previews, sheets
from tests.world import bytes_of, name, pdf

PHOTO = name(title="Quay wall").replace(".pdf", ".png")
DRAWING = name(number="BFT-TRA-Z1-00-D-A-2002", title="Plan").replace(".pdf", ".dxf")


def photo(*spots, size=(600, 400)):
    picture = Image.new("RGB", size, "white")
    pen = ImageDraw.Draw(picture)
    for place in range(0, size[0], 40):
        pen.line([(place, 0), (size[0] - place, size[1])], fill="black", width=2)
    for spot in spots:
        pen.rectangle(spot, fill="navy")
    out = io.BytesIO()
    picture.save(out, "PNG", dpi=(100, 100))
    return out.getvalue()


def plan():
    drawing = ezdxf.new("R2010")
    drawing.units = 4
    drawing.layers.add("SURVEY").off()
    drawing.modelspace().add_lwpolyline([(0, 0), (9000, 0), (9000, 6000)])
    drawing.modelspace().add_circle((1000, 1000), 500, dxfattribs={"layer": "SURVEY"})
    drawing.modelspace().add_text("Pump room", height=300).set_placement((2000, 4000))
    out = io.StringIO()
    drawing.write(out)
    return out.getvalue().encode()


def codes(arrival):
    return {finding.code for finding in arrival.findings}


def test_a_photo_is_registered_seen_marked_and_sent_as_it_came(world):
    content = photo()
    batch = world.arrive({PHOTO: content})
    assert "not_a_sheet" not in codes(world.arrivals(batch)[PHOTO])
    (filed,) = world.register(batch)
    assert filed.result == "registered"
    ((revision,),) = world.sql("SELECT revision_id FROM document")
    sheet = sheets.read_sheet(world.context, world.actor("leilani"), revision)
    assert [(round(page.width_mm), round(page.height_mm)) for page in sheet.pages] == [(152, 102)]
    tile = page_pictures.read_tile(world.context, world.press, world.actor("leilani"), revision, (0, 9, 0, 0))
    with Image.open(tile) as picture:
        assert picture.size == (512, 342)
    mark = world.draw(revision)
    world.ink(revision, mark)
    marked = mark_files.export_marks(world.context, world.press, world.actor("anouk"), revision, "pdf")
    assert pdfium.PdfDocument(marked.content)[0].get_size() == pytest.approx((432, 288), abs=0.01)
    sent = documents.download_revision(world.context, world.actor("marit"), revision)
    assert bytes_of(sent) == content
    assert sent.name.endswith(".png")


def test_a_cad_drawing_is_searched_and_measured(world):
    batch = world.arrive({DRAWING: plan()})
    world.register(batch)
    ((revision, kind, size),) = world.sql("SELECT revision_id, kind, sheet_size FROM document")
    assert kind == "sheet"
    assert size
    sheet = sheets.read_sheet(world.context, world.actor("leilani"), revision)
    assert [page.name for page in sheet.pages] == ["Model"]
    layers = sheets.list_layers(world.context, world.press, world.actor("leilani"), revision).layers
    assert {layer.name: layer.on for layer in layers} == {"0": True, "SURVEY": False}
    corners = sheets.list_corners(world.context, world.press, world.actor("leilani"), revision, 0, (0, 0, 5000, 5000))
    assert len(corners.points) >= 3
    assert world.sql("SELECT word_count FROM page") == [(2,)]


def test_a_drawing_that_cannot_be_read_is_filed_as_it_is_and_says_why(world):
    files = {DRAWING: b"  0\nSECTION\n  2\nENTITIES\n  0\nLINE\n", PHOTO: photo()[:80]}
    arrivals = world.arrivals(world.arrive(files))
    for file_name, words in ((DRAWING, "drawing"), (PHOTO, "The picture is broken")):
        (finding,) = [each for each in arrivals[file_name].findings if each.code == "not_a_sheet"]
        assert finding.weight == "look"
        assert words in finding.words
        assert not arrivals[file_name].can_look
    outcomes = world.register(world.sql("SELECT id FROM batch")[0][0])
    assert {outcome.result for outcome in outcomes} == {"registered"}
    assert {kind for (kind,) in world.sql("SELECT kind FROM document")} == {"file"}


def test_a_picture_that_says_it_is_a_pdf_is_stopped(world):
    (arrival,) = world.arrivals(world.arrive({name(): photo()})).values()
    (finding,) = [each for each in arrival.findings if each.code == "not_pdf"]
    assert "PNG" in finding.words


def test_a_photo_sent_again_with_something_changed_is_found_out(world):
    world.register(world.arrive({PHOTO: photo()}))
    batch = world.arrive({PHOTO: photo((300, 200, 380, 260))})
    world.look()
    arrival = world.arrivals(batch)[PHOTO]
    (finding,) = [each for each in arrival.findings if each.code == "silent_change"]
    assert "1 place" in finding.words


def test_a_set_in_one_tiff_stays_whole(world):
    out = io.BytesIO()
    pages = [Image.new("1", (200, 100), 1) for _ in range(3)]
    pages[0].save(out, "TIFF", save_all=True, append_images=pages[1:])
    file_name = PHOTO.replace(".png", ".tif")
    (arrival,) = world.arrivals(world.arrive({file_name: out.getvalue()})).values()
    assert arrival.page_count == 3
    assert arrival.sheets_inside == 0


def test_a_print_of_a_photo(world):
    world.register(world.arrive({PHOTO: photo()}))
    ((revision,),) = world.sql("SELECT revision_id FROM document")
    made = prints.print_sheet(world.context, world.press, world.actor("leilani"), revision, "A3", with_marks=False)
    assert len(pdfium.PdfDocument(made.content)) == 1


def test_a_file_without_pages_is_read_in_plain_parts(world):
    schedule = PHOTO.replace(".png", ".csv")
    world.register(world.arrive({schedule: b"Door;Width\nD-101;1010\n"}))
    ((revision,),) = world.sql("SELECT revision_id FROM document")
    assert sheets.read_sheet(world.context, world.actor("leilani"), revision).pages == []
    found = previews.read_file_preview(world.context, world.press, world.actor("leilani"), revision)
    assert (found.what, found.size_bytes, found.trouble) == ("Table", 22, "")
    assert found.parts[0].rows == [["Door", "Width"], ["D-101", "1010"]]


def test_a_file_of_no_known_kind_says_so(world):
    world.register(world.arrive({PHOTO.replace(".png", ".xyz"): b"\0\1\2"}))
    ((revision,),) = world.sql("SELECT revision_id FROM document")
    found = previews.read_file_preview(world.context, world.press, world.actor("leilani"), revision)
    assert found.parts == []
    assert found.trouble == "Nod has no preview for this kind of file."


def test_a_tile_is_refused_as_soon_as_the_sheet_may_not_be_seen_any_more(world):
    """Who may see it is remembered from tile to tile, and no longer than until something changes."""
    ((document, revision),) = world.file(name())
    tile = (world.context, world.press, world.actor("leilani"), revision, (0, 8, 0, 0))
    for _ in range(3):
        assert page_pictures.read_tile(*tile).is_file()
    hidden = world.cast.folders["Contractor only"]
    with world.context.database.write() as session:
        session.connection().exec_driver_sql("UPDATE document SET folder_id = ? WHERE id = ?", (hidden, document))
    with pytest.raises(NotFound):
        page_pictures.read_tile(*tile)


def leading_to(*files):
    """A sheet with a link to each of these files."""
    with pikepdf.open(io.BytesIO(pdf("Details"))) as made:
        links = [
            pikepdf.Dictionary(
                Type=pikepdf.Name.Annot, Subtype=pikepdf.Name.Link, Rect=[10, 10, 50, 20],
                A=pikepdf.Dictionary(S=pikepdf.Name.GoToR, F=pikepdf.Dictionary(Type=pikepdf.Name.Filespec, UF=each)),
            )
            for each in files
        ]  # fmt: skip
        made.pages[0].Annots = made.make_indirect(pikepdf.Array(links))
        out = io.BytesIO()
        made.save(out)
        return out.getvalue()


def missing(world, batch, file_name):
    return [each.words for each in world.arrivals(batch)[file_name].findings if each.code == "references_missing"]


def test_references_that_have_not_come_are_told_and_those_that_came_are_not(world):
    """Beside it in the batch, or in the register from before; names whichever way their paths are written."""
    old = name(number="BFT-TRA-Z1-00-D-A-2009", title="Old")
    world.file(old)
    content = leading_to("C:\\plans\\site.dwg", f"../{old.upper()}", "a.pdf", "b.pdf", "c.pdf")
    first = world.arrive({name(): content})
    assert missing(world, first, name()) == [
        "It refers to 4 files that have not come: a.pdf, b.pdf, c.pdf and 1 more."
    ]  # fmt: skip
    assert missing(world, world.arrive({name(): leading_to("Straße.dwg")}), name()) == [
        "It refers to a file that has not come: Straße.dwg."
    ]  # fmt: skip
    third = world.arrive({name(): leading_to("Straße.dwg"), "STRASSE.DWG": b"x"})
    assert missing(world, third, name()) == []
    second = world.arrive({name(): content, "A.PDF": pdf("a"), "site.dwg": b"x", "b.pdf": pdf("b")})
    assert missing(world, second, name()) == ["It refers to a file that has not come: c.pdf."]
