"""Reading and drawing PDFs that nobody here wrote, against what qpdf and pdfium say of them."""

import io
import json
import subprocess
from collections import Counter
from decimal import Decimal

import numpy as np
import pikepdf
import pypdfium2 as pdfium
import pytest
from PIL import Image

from nod.core.sheet.placed_words import size_seen_mm
from nod.formats.files.media_types import media_type
from nod.formats.files.zip_pack import safe_name, write_zip
from nod.formats.intake.pdf_facts import read_facts
from nod.formats.intake.pdf_split import split_pages
from nod.formats.sheet import pdf_look
from nod.formats.sheet.pdf_look import CannotDraw, Looker
from nod.formats.sheet.pdf_page import look_at_page
from nod.formats.sheet.strips import joined
from nod.services.press.press import Press, PressStopped
from tests.outside import ROOT
from tests.world import pdf

FILES = sorted((ROOT / "pdf").rglob("*.pdf")) + sorted((ROOT / "drawings").rglob("*.pdf"))
ids = [str(path.relative_to(ROOT)) for path in FILES]
every_file = pytest.mark.parametrize("path", FILES, ids=ids)
geometry = pytest.mark.parametrize(
    "path", [path for path in FILES if "geometry" in path.parts], ids=lambda path: path.name
)


def _inventory():
    path = ROOT / "pdf_inventory.jsonl"
    lines = path.read_text().splitlines() if path.exists() else []
    return {entry["file"]: entry for entry in map(json.loads, lines)}


INVENTORY = _inventory()


@every_file
def test_no_file_hangs_or_kills_the_press(path, press):
    """Every file ends as facts or as a fault in words; the press goes on."""
    facts = press.facts(path)
    assert bool(facts.fault) == bool(facts.fault_words)
    if not facts.fault:
        assert facts.pages
        for place in range(min(2, len(facts.pages))):
            try:
                parts, thumbnail = press.first_look(path, place)
            except (CannotDraw, PressStopped):
                continue
            assert parts
            assert Image.open(io.BytesIO(thumbnail)).format in ("PNG", "WEBP")


def _expected(entry):
    """What the inventory says of a file it could open; a page without an entry has nothing of the kind."""
    turned = {int(angle): count for angle, count in entry.get("rot", {}).items()}
    return {
        "pages": entry["pages"],
        "sizes": entry["sizes"],
        "turned": turned,
        "annotations": entry.get("ann", {}),
        "drawn": entry.get("ap", 0),
        "layers": entry.get("ocg", []),
        "encryption": entry.get("enc", ""),
        "labels": entry.get("labels", []),
        "active": {_ACTIVE_WORDS[kind] for kind in entry.get("act", {})},
    }


_ACTIVE_WORDS = {
    "EmbeddedFile": "embedded files",
    "/JavaScript": "a script",
    "/Launch": "an action that starts a program",
}
_LETTER = {"ANSI A": "Letter"}


def _inventory_size(page):
    """The inventory names sizes its own way, and odd ones in whole millimetres of the shorter side first."""
    name = _LETTER.get(page.size_name, page.size_name)
    if "×" not in name:
        return name.replace("ANSI ", "ANSI-")
    width, height = size_seen_mm(page.box, page.user_unit)
    return f"{min(width, height):.0f}x{max(width, height):.0f}mm"


def _told(facts, labels):
    counts = Counter()
    for page in facts.pages:
        counts.update(page.contents.annotations)
    return {
        "pages": len(facts.pages),
        "sizes": dict(Counter(_inventory_size(page) for page in facts.pages)),
        "turned": dict(Counter(page.box.rotation for page in facts.pages if page.box.rotation)),
        "annotations": dict(counts),
        "drawn": sum(page.contents.drawn for page in facts.pages),
        "layers": list(facts.contents.layers),
        "encryption": facts.contents.encryption,
        "labels": list(facts.contents.labels)[:labels],
        "active": set(facts.contents.active),
    }


@pytest.mark.parametrize("name", [name for name, entry in INVENTORY.items() if "pages" in entry])
def test_a_file_is_what_the_inventory_says(name):
    """The inventory was made by qpdf and pikepdf, see the manifest beside it."""
    entry = INVENTORY[name]
    facts = read_facts(ROOT / name)
    if entry.get("enc") == "password" or facts.fault == "encrypted":
        assert facts.fault == "encrypted"
        return
    expected = _expected(entry)
    told = _told(facts, len(expected["labels"]))
    assert told == expected


# qpdf reads nothing of it, and pdfium draws its first page.
_DRAWN_ALL_THE_SAME = "pdf/malformed/Pages-tree-refs.pdf"


@pytest.mark.parametrize("name", [name for name, entry in INVENTORY.items() if "pages" not in entry])
def test_a_file_that_no_reader_opens_is_a_fault(name):
    expected = ("",) if name == _DRAWN_ALL_THE_SAME else ("unreadable", "encrypted")
    assert read_facts(ROOT / name).fault in expected


@pytest.mark.parametrize(
    ("factor", "unit", "ratio"), [("0.35277778", "mm", 1.0), ("35.277778", "mm", 100.0), ("0.5", "in", 36.0)]
)
def test_a_measure_dictionary_gives_the_scale(tmp_path, factor, unit, ratio):
    """ISO 32000-1, 12.9: /C of the first number format of /X is units per point of user space."""
    with pikepdf.new() as made:
        page = made.add_blank_page(page_size=(400, 300))
        number = pikepdf.Dictionary(Type=pikepdf.Name.NumberFormat, U=pikepdf.String(unit), C=Decimal(factor))
        measure = pikepdf.Dictionary(Type=pikepdf.Name.Measure, Subtype=pikepdf.Name.RL, X=pikepdf.Array([number]))
        page.obj.VP = pikepdf.Array([pikepdf.Dictionary(Type=pikepdf.Name.Viewport, Measure=measure)])
        made.save(tmp_path / "a.pdf")
    (page,) = read_facts(tmp_path / "a.pdf").pages
    assert page.contents.scales == pytest.approx((ratio,), rel=1e-4)


def test_a_set_is_split_into_sheets_that_look_the_same_and_do_nothing(tmp_path):
    path = tmp_path / "set.pdf"
    path.write_bytes(pdf("set", pages=4))
    with pikepdf.open(path, allow_overwriting_input=True) as made:
        script = pikepdf.Dictionary(S=pikepdf.Name.JavaScript, JS=pikepdf.String("app.alert(1)"))
        made.Root.OpenAction = script
        made.pages[1].obj.AA = pikepdf.Dictionary(O=script)
        made.pages[1].Rotate = 90
        made.save()
    again = []
    for target in (tmp_path / "one", tmp_path / "two"):
        target.mkdir()
        assert split_pages(path, target) == 4
        again.append([(target / f"{place}.pdf").read_bytes() for place in range(4)])
    assert again[0] == again[1]
    looker = Looker()
    for place in range(4):
        single = tmp_path / "one" / f"{place}.pdf"
        facts = read_facts(single)
        assert (len(facts.pages), facts.contents.active) == (1, ())
        assert looker.thumbnail(single, 0) == looker.thumbnail(path, place)
        check = subprocess.run(["qpdf", "--check", single], capture_output=True, check=False)
        assert check.returncode == 0, check.stdout
    assert read_facts(tmp_path / "one" / "1.pdf").pages[0].box.rotation == 90
    assert read_facts(path).contents.active == ("a script",)


def test_a_page_is_told_to_be_a_scan(tmp_path):
    picture = Image.new("L", (800, 600), 200)
    picture.save(tmp_path / "scan.pdf")
    (tmp_path / "drawn.pdf").write_bytes(pdf())
    looker = Looker()
    scan, drawn = (look_at_page(looker, tmp_path / name, 0) for name in ("scan.pdf", "drawn.pdf"))
    assert (scan.is_scan, scan.word_count) == (True, 0)
    assert (drawn.is_scan, drawn.text) == (False, "Quay hall 0")


@every_file
def test_what_pdfium_draws_is_not_broken(path):
    """Whatever else is wrong with it: who only looks at a sheet sees it in any program."""
    try:
        with pdfium.PdfDocument(path) as file:
            page = file[0]
            size = page.get_size()
    except pdfium.PdfiumError:
        return
    facts = read_facts(path)
    assert facts.fault in ("", "encrypted"), facts.fault_words
    if facts.pages and facts.pages[0].user_unit == 1:
        assert facts.pages[0].box.view_size() == pytest.approx(size, abs=0.1) or not all(size)


def test_a_page_tree_that_runs_in_a_circle_is_drawn_and_said_to_be_damaged():
    facts = read_facts(ROOT / _DRAWN_ALL_THE_SAME)
    assert (facts.fault, len(facts.pages)) == ("", 2)
    assert facts.contents.active == ("damage, so that scripts and files inside it cannot be told",)


def test_encrypted_files_are_told_apart_from_broken_ones():
    found = {path.name: read_facts(path).fault for path in FILES if "encrypted" in path.parts}
    if not found:
        pytest.skip("the test files are absent")
    assert found["r3-user-password.pdf"] == found["r6-user-password.pdf"] == "encrypted"
    assert found["r6-owner-password.pdf"] == found["r6-empty-password.pdf"] == ""


@geometry
def test_the_size_as_seen_is_the_size_pdfium_draws(path):
    facts = read_facts(path)
    with pdfium.PdfDocument(path) as document:
        for place, page in enumerate(facts.pages):
            drawn = document[place]
            assert page.box.view_size() == pytest.approx((drawn.get_width(), drawn.get_height()), abs=0.6)


@pytest.mark.parametrize("rotation", [0, 90, 180, 270])
def test_a_place_in_points_is_that_place_in_the_picture(tmp_path, rotation):
    """A black square at a known place of a cropped, turned page is where the matrix says."""
    path = tmp_path / "turned.pdf"
    with pikepdf.new() as made:
        page = made.add_blank_page(page_size=(400, 300))
        page.obj.Contents = made.make_stream(b"0 g 290 130 20 20 re f")
        page.obj.CropBox = pikepdf.Array([100, 50, 380, 260])
        page.obj.Rotate = rotation
        made.save(path)
    (facts,) = read_facts(path).pages
    x, y = facts.box.to_view().apply((300, 140))
    width, height = facts.box.view_size()
    parts, _ = Looker().first_look(path, 0)
    sheet = Image.open(io.BytesIO(next(each.picture for each in parts if each.level == 8))).convert("L")
    assert sheet.size == pdf_look.size_at(width, height, 8)
    scale = sheet.width / width
    assert sheet.getpixel((int(x * scale), int(y * scale))) == 0
    assert sheet.getpixel((int((x + 20) * scale) % sheet.width, int(y * scale))) == 255


def test_a_page_that_is_in_use_stays_open_whatever_is_opened_beside_it(tmp_path):
    """Two drawings are compared that are both open, or one of them is, among as many others as are kept open."""
    paths = [tmp_path / f"{place}.pdf" for place in range(pdf_look.OPEN_FILES + 1)]
    for path in paths:
        path.write_bytes(pdf(path.name))
    looker = Looker()
    for path in paths[:-1]:
        looker.page(path, 0)
    first = looker.page(paths[0], 0)
    looker.page(paths[-1], 0)
    assert first.get_width() > 0


def test_tiles_fit_together_at_every_level(tmp_path):
    path = tmp_path / "sheet.pdf"
    path.write_bytes(pdf(size_mm=(841, 594)))
    looker = Looker()
    for level in (8, 9, 11):
        width, height = pdf_look.size_at(841, 594, level)
        columns, rows = (-(-side // pdf_look.TILE_PX) for side in (width, height))
        last = Image.open(io.BytesIO(looker.tile(path, 0, level, columns - 1, rows - 1)))
        assert (columns - 1) * pdf_look.TILE_PX + last.width == width
        assert (rows - 1) * pdf_look.TILE_PX + last.height == height
        with pytest.raises(CannotDraw):
            looker.tile(path, 0, level, columns, 0)


def test_the_strips_of_a_page_are_the_page_drawn_at_once(tmp_path):
    path = tmp_path / "sheet.pdf"
    path.write_bytes(pdf(size_mm=(841, 594)))
    looker = Looker()
    at_once = {each.level: each.picture for each in looker.first_look(path, 0)[0]}
    assert set(at_once) == {8, 9, 10}
    for strips in (1, 2, 3):
        ours = joined(looker.strip(path, 0, 10, each, strips) for each in range(strips))
        pictures = [np.asarray(Image.open(io.BytesIO(each)), int) for each in (ours, at_once[10])]
        # Where a line crosses the edge between them the last bit of a grey may differ.
        assert np.abs(pictures[0] - pictures[1]).max() <= 2


def test_a_page_of_one_row_has_no_second_strip(tmp_path):
    path = tmp_path / "ribbon.pdf"
    path.write_bytes(pdf(size_mm=(2000, 1)))
    looker = Looker()
    assert looker.strip(path, 0, 8, 0, 2) is None
    assert looker.strip(path, 0, 8, 1, 2).height == 1
    press = Press(2, 20)
    try:
        assert Image.open(io.BytesIO(press.whole_page(path, 0, 10, 2))).width == 1024
    finally:
        press.close()


@pytest.mark.parametrize(("place", "level"), [(1, 9), (-2, 9), (0, 3), (0, 40), (0, 10**10)])
def test_a_page_or_level_that_is_not_there_cannot_be_drawn(tmp_path, place, level):
    path = tmp_path / "sheet.pdf"
    path.write_bytes(pdf())
    for draw in (Looker().tile, lambda path, place, level, *_: Looker().strip(path, place, level, 0, 2)):
        with pytest.raises(CannotDraw):
            draw(path, place, level, 0, 0)


def test_a_page_that_takes_too_long_is_stopped_and_the_press_goes_on(tmp_path):
    """Millions of curves: drawing them takes far longer than is allowed here."""
    slow, quick = tmp_path / "slow.pdf", tmp_path / "quick.pdf"
    quick.write_bytes(pdf())
    with pikepdf.new() as made:
        page = made.add_blank_page(page_size=(2384, 1684))
        curve = b"0 0 m 2000 1600 100 900 2300 30 c S\n"
        page.obj.Contents = made.make_stream(curve * 2_000_000)
        made.save(slow)
    press = Press(1, 3.0)
    try:
        press.facts(quick)
        with pytest.raises(PressStopped):
            press.first_look(slow, 0)
        assert press.facts(quick).pages
    finally:
        press.close()


def test_a_file_is_not_blamed_for_the_death_of_a_process(tmp_path):
    path = tmp_path / "sheet.pdf"
    path.write_bytes(pdf())
    press = Press(1, 20)
    try:
        assert press.facts(path).pages
        for _ in range(2):
            press._free.queue[0]._process.kill()
            assert press.facts(path).pages
    finally:
        press.close()


@pytest.mark.parametrize(
    ("head", "kind"),
    [
        (b"%PDF-1.7", "application/pdf"),
        (b"\x89PNG\r\n\x1a\n" + b"\0" * 40, "image/png"),
        (b"", "application/octet-stream"),
    ],
)
def test_the_type_comes_from_the_content(head, kind):
    assert media_type(head) == kind


def test_names_in_a_zip_are_safe_and_distinct(tmp_path):
    import zipfile

    file = tmp_path / "x"
    file.write_bytes(b"content")
    write_zip(tmp_path / "pack.zip", [("../a:b.pdf", file), ("-a-b.pdf", file), ("-A-B.PDF", file), (" . ", file)])
    with zipfile.ZipFile(tmp_path / "pack.zip") as pack:
        assert pack.testzip() is None
        names = pack.namelist()
    assert len({each.lower() for each in names}) == 4
    assert not any(sign in each for each in names for sign in '/\\:*?"<>|')
    assert safe_name("") == "file"


def _encrypted(dictionary):
    """A file with this encryption dictionary, written by hand: its keys open for nobody."""
    objects = (
        b"1 0 obj<</Type/Catalog/Pages 2 0 R>>endobj", b"2 0 obj<</Type/Pages/Kids[3 0 R]/Count 1>>endobj",
        b"3 0 obj<</Type/Page/Parent 2 0 R/MediaBox[0 0 612 792]>>endobj", b"4 0 obj<<" + dictionary + b">>endobj",
    )  # fmt: skip
    end = b"trailer<</Root 1 0 R/Encrypt 4 0 R/Size 5/ID[<00><00>]>>\n%%EOF\n"
    return b"%PDF-1.6\n" + b"\n".join(objects) + b"\n" + end


_STANDARD = b"/Filter/Standard/V 4/R 4/Length 128/P -4/O<" + b"41" * 32 + b">/U<" + b"42" * 32 + b">"
_CF = b"/CF<</StdCF<</CFM/AESV2/Length 16/AuthEvent/DocOpen>>>>"


@pytest.mark.parametrize(
    ("dictionary", "words"),
    [
        # ISO 32000-1, 7.6.4: public-key security handlers.
        (b"/Filter/Adobe.PubSec/SubFilter/adbe.pkcs7.s5/V 4/CF<</D<</CFM/AESV2/Recipients[<3000>]>>>>/StmF/D/StrF/D",
         "certificates"),
        # 7.6.5: crypt filters for embedded files alone.
        (_STANDARD + _CF + b"/StmF/Identity/StrF/Identity/EFF/StdCF", "attached inside it are encrypted"),
        (_STANDARD + _CF + b"/EFF /StdCF", "attached inside it are encrypted"),
        (_STANDARD + _CF + b"/StmF/StdCF/StrF/StdCF/EFF/StdCF", "opens only with a password"),
        (_STANDARD + _CF + b"/StmF/StdCF/StrF/StdCF", "opens only with a password"),
    ],
)  # fmt: skip
def test_each_way_of_encryption_has_its_words(tmp_path, dictionary, words):
    path = tmp_path / "locked.pdf"
    path.write_bytes(_encrypted(dictionary))
    facts = read_facts(path)
    assert facts.fault == "encrypted"
    assert words in facts.fault_words
