"""Pictures seen as sheets: each pixel where it belongs, read by pdfium, poppler and qpdf."""

import io
import subprocess

import numpy as np
import pikepdf
import pypdfium2 as pdfium
import pytest
from PIL import Image, ImageOps

from nod.core.intake.findings import PICTURES
from nod.formats.files.media_types import media_type
from nod.formats.intake.pdf_facts import read_facts
from nod.formats.sheet.pdf_look import CannotDraw
from nod.formats.sheet.picture_sheet import UNTOLD_DPI, picture_to_sheet

WIDE = (60, 40)


def corners(size=WIDE, mode="RGB"):
    """White, with a black block at the upper left and a grey one at the lower right."""
    picture = Image.new("L", size, 255)
    picture.paste(0, (0, 0, 20, 10))
    picture.paste(128, (size[0] - 20, size[1] - 10, size[0], size[1]))
    return picture.convert(mode)


def saved(tmp_path, picture, form, **how):
    path = tmp_path / f"picture.{form.lower()}"
    picture.save(path, form, **how)
    return path


def sheet(tmp_path, path):
    target = tmp_path / "sheet.pdf"
    picture_to_sheet(path, target)
    checked = subprocess.run(["qpdf", "--check", target], capture_output=True, check=False, text=True)
    assert checked.returncode == 0, checked.stdout + checked.stderr
    return target


def seen(path, page=0):
    """As pdfium shows it, in grey, a pixel to a pixel of the picture of `WIDE`."""
    shown = pdfium.PdfDocument(path)[page]
    return np.asarray(shown.render(scale=0.9999 * WIDE[0] / max(shown.get_size())).to_pil().convert("L")).astype(int)


@pytest.mark.parametrize("mode", ["1", "L", "P", "RGB", "RGBA", "LA", "CMYK", "I;16"])
@pytest.mark.parametrize("form", ["PNG", "TIFF"])
def test_every_kind_of_pixels_comes_out_as_it_is(tmp_path, mode, form):
    if form == "PNG" and mode == "CMYK":
        pytest.skip("there is no such PNG")
    picture = corners(mode="L").convert("I").point(lambda v: v * 257).convert("I;16") if mode == "I;16" else corners()
    shown = seen(sheet(tmp_path, saved(tmp_path, picture if mode == "I;16" else picture.convert(mode), form)))
    assert shown[4, 8] < 6
    assert shown[20, 30] > 249
    if mode != "1":
        assert abs(shown[36, 52] - 128) < (40 if mode == "P" else 6)


def test_what_is_seen_through_lies_on_white(tmp_path):
    picture = corners(mode="RGBA")
    picture.putalpha(0)
    assert seen(sheet(tmp_path, saved(tmp_path, picture, "PNG"))).min() == 255


@pytest.mark.parametrize("orientation", range(1, 9))
@pytest.mark.parametrize("form", ["JPEG", "TIFF"])
def test_a_picture_is_seen_as_the_camera_was_held(tmp_path, orientation, form):
    """Exif 2.32, 0x0112. Pillow's own transposing is the reference."""
    exif = Image.Exif()
    exif[0x0112] = orientation
    path = saved(tmp_path, corners(), form, exif=exif, **({"quality": 95} if form == "JPEG" else {}))
    with Image.open(path) as opened:
        wanted = np.asarray(ImageOps.exif_transpose(opened).convert("L")).astype(int)
    shown = seen(sheet(tmp_path, path))
    assert shown.shape == wanted.shape
    assert np.abs(shown - wanted).mean() < 4


@pytest.mark.parametrize(
    ("dpi", "mm"), [((300, 300), 5.08), ((200, 100), 7.62), ((72, 72), 10.16), ((96, 96), 10.16), (None, 10.16)]
)
def test_its_size_is_what_it_says_on_paper(tmp_path, dpi, mm):
    """60 pixels at 300 dpi are 5.08 mm. 72 and 96 are what is written where nothing is known."""
    assert UNTOLD_DPI == 150
    facts = read_facts(sheet(tmp_path, saved(tmp_path, corners(), "JPEG", **({"dpi": dpi} if dpi else {}))))
    box = facts.pages[0].box
    assert (box.right - box.left) / 72 * 25.4 == pytest.approx(mm, abs=0.01)
    if dpi == (200, 100):
        assert (box.top - box.bottom) / 72 * 25.4 == pytest.approx(40 / 100 * 25.4, abs=0.01)


def test_the_sheets_of_a_tiff_are_pages(tmp_path):
    path = tmp_path / "set.tif"
    pages = [corners(), corners((40, 60)), corners(mode="1")]
    pages[0].save(path, save_all=True, append_images=pages[1:], dpi=(200, 200))
    assert [round(page.box.right * 200 / 72) for page in read_facts(sheet(tmp_path, path)).pages] == [60, 40, 60]


@pytest.mark.parametrize("packing", ["group3", "group4", "tiff_lzw", "packbits", "tiff_adobe_deflate"])
def test_scans_however_packed(tmp_path, packing):
    mode = "1" if packing.startswith("group") else "RGB"
    shown = seen(sheet(tmp_path, saved(tmp_path, corners(mode=mode), "TIFF", compression=packing)))
    assert shown[4, 8] < 6 < 249 < shown[20, 30]


def test_a_jpeg_is_taken_as_it_is(tmp_path):
    path = saved(tmp_path, corners(), "JPEG")
    with pikepdf.open(sheet(tmp_path, path)) as pdf:
        assert next(iter(pdf.pages[0].get_images().values())).read_raw_bytes() == path.read_bytes()


def test_a_very_long_picture_is_brought_down_to_what_a_page_can_be(tmp_path):
    box = read_facts(sheet(tmp_path, saved(tmp_path, Image.new("1", (40000, 10), 1), "PNG"))).pages[0].box
    assert box.right == pytest.approx(14400)
    assert box.top == pytest.approx(14400 / 4000)


@pytest.mark.parametrize("cut", [20, 200, 0.5, 0.9])
@pytest.mark.parametrize("form", ["PNG", "JPEG", "TIFF", "GIF", "BMP", "WEBP"])
def test_broken_pictures_are_told_or_drawn_as_far_as_they_go(tmp_path, form, cut):
    out = io.BytesIO()
    noise = np.random.default_rng(3).integers(0, 255, (80, 120, 3), dtype=np.uint8)
    Image.fromarray(noise).save(out, form)
    content = out.getvalue()
    path = tmp_path / "broken"
    path.write_bytes(content[: int(cut * len(content)) if cut < 1 else cut])
    with pytest.raises(CannotDraw, match="picture"):
        picture_to_sheet(path, tmp_path / "sheet.pdf")


def test_a_picture_too_large_is_refused_by_its_head(tmp_path):
    head = bytearray(b"BM" + bytes(52))
    head[10:14], head[14:18] = (54).to_bytes(4, "little"), (40).to_bytes(4, "little")
    head[18:22], head[22:26] = (30_000).to_bytes(4, "little"), (30_000).to_bytes(4, "little")
    head[26:28], head[28:30] = (1).to_bytes(2, "little"), (24).to_bytes(2, "little")
    path = tmp_path / "bomb.bmp"
    path.write_bytes(bytes(head))
    with pytest.raises(CannotDraw, match="900 million pixels"):
        picture_to_sheet(path, tmp_path / "sheet.pdf")


@pytest.mark.parametrize("form", ["PNG", "JPEG", "TIFF", "GIF", "BMP", "WEBP"])
def test_each_is_known_by_its_first_bytes(form):
    out = io.BytesIO()
    corners().save(out, form)
    assert media_type(out.getvalue()[:4096]) in PICTURES
