"""Pictures (PNG, JPEG, TIFF and the like) as sheets: a PDF with one picture to the page, at its size on paper."""

from __future__ import annotations

import warnings
import zlib
from pathlib import Path
from typing import Any

import pikepdf
from PIL import Image, ImageOps, UnidentifiedImageError

from nod.formats.sheet.pdf_look import CannotDraw

MOST_PIXELS = 400_000_000
"""An A0 scanned at 400 dpi has 250 million."""
MOST_PAGES = 500
UNTOLD_DPI = 150.0
"""Where a picture does not say how large it is on paper. Common practice for photos laid on a sheet."""
_SAYS_NOTHING = (0.0, 1.0, 72.0, 96.0)
"""Densities that cameras and screens write when they know none; common practice, from memory."""
_LONGEST_PT = 14400.0
_SIDEWAYS = {3: 180, 6: 90, 8: 270}
"""EXIF orientations that are a turn, and the /Rotate that does it (Exif 2.32, tag 0x0112; ISO 32000-1, 7.7.3.3)."""
_GREY = ("1", "L")


def picture_to_sheet(source: Path, target: Path) -> None:
    """Writes the PDF. Raises CannotDraw with words for a picture that cannot be read or is too large."""
    with warnings.catch_warnings():
        # The limit is checked below, with words; a broken note beside the pixels does not make them unreadable.
        warnings.simplefilter("ignore")
        Image.MAX_IMAGE_PIXELS = None
        try:
            with Image.open(source) as picture, pikepdf.new() as pdf:
                _write_pages(picture, source, pdf)
                pdf.save(target)
        except UnidentifiedImageError as error:
            raise CannotDraw("It says it is a picture, and cannot be read as one.") from error
        except (OSError, SyntaxError, ValueError, EOFError, MemoryError, TypeError, KeyError) as error:
            raise CannotDraw("The picture is broken: it cannot be read to its end.") from error


def _write_pages(picture: Image.Image, source: Path, pdf: pikepdf.Pdf) -> None:
    # Pages are sheets of a TIFF; the frames of others are a moving picture, whose first is shown.
    count = getattr(picture, "n_frames", 1) if picture.format == "TIFF" else 1
    if count > MOST_PAGES:
        raise CannotDraw(f"The picture has {count} pages; Nod draws up to {MOST_PAGES}.")
    for place in range(count):
        if count > 1:
            picture.seek(place)
        width, height = picture.size
        if width * height > MOST_PIXELS:
            raise CannotDraw(
                f"The picture has {width * height / 1e6:,.0f} million pixels; Nod draws up to {MOST_PIXELS / 1e6:.0f}."
            )
        # A TIFF is turned as it is read, which changes what it says of itself.
        picture.load()
        turn = _turn(picture)
        across, upwards = _density(picture)
        if picture.format == "JPEG" and picture.mode in ("L", "RGB") and turn is not None:
            image = _as_it_is(pdf, source, picture)
        else:
            upright = picture if turn is not None else ImageOps.exif_transpose(picture)
            across, upwards = (across, upwards) if upright.size == picture.size else (upwards, across)
            image = _packed(pdf, _plain(upright))
        size = (int(image.Width) * 72 / across, int(image.Height) * 72 / upwards)
        shrink = min(1.0, _LONGEST_PT / max(size))
        _add_page(pdf, image, (size[0] * shrink, size[1] * shrink), turn or 0)


def _turn(picture: Image.Image) -> int | None:
    """Degrees clockwise that the picture is seen turned; None where it is seen in a mirror."""
    orientation = picture.getexif().get(0x0112, 1)
    return _SIDEWAYS.get(orientation, 0 if orientation not in (2, 4, 5, 7) else None)


def _density(picture: Image.Image) -> tuple[float, float]:
    told = picture.info.get("dpi") or (0.0, 0.0)
    across, upwards = float(told[0]), float(told[1])
    sound = all(round(each) not in _SAYS_NOTHING and 20 <= each <= 4800 for each in (across, upwards))
    return (across, upwards) if sound else (UNTOLD_DPI, UNTOLD_DPI)


def _as_it_is(pdf: pikepdf.Pdf, source: Path, picture: Image.Image) -> Any:
    return _image(pdf, source.read_bytes(), "/DCTDecode", picture.size, 1 if picture.mode == "L" else 3, 8)


def _plain(picture: Image.Image) -> Image.Image:
    """Bits, greys or colours, on white."""
    if picture.mode in (*_GREY, "RGB") and "transparency" not in picture.info:
        return picture
    if picture.mode.startswith("I;16"):
        return picture.convert("I").point([value / 257 for value in range(65536)], "L")
    if picture.mode in ("I", "F"):
        return ImageOps.autocontrast(picture.convert("F").convert("L"))
    if picture.mode in ("LA", "PA", "RGBA", "P", "La", "RGBa") or "transparency" in picture.info:
        see_through = picture.convert("RGBA")
        ground = Image.new("RGBA", picture.size, "white")
        ground.alpha_composite(see_through)
        return ground.convert("RGB")
    return picture.convert("RGB")


def _packed(pdf: pikepdf.Pdf, picture: Image.Image) -> Any:
    bits = 1 if picture.mode == "1" else 8
    data = zlib.compress(picture.tobytes(), 4)
    return _image(pdf, data, "/FlateDecode", picture.size, 1 if picture.mode in _GREY else 3, bits)


def _image(pdf: pikepdf.Pdf, data: bytes, packing: str, size: tuple[int, int], channels: int, bits: int) -> Any:
    return pdf.make_stream(
        data,
        Type=pikepdf.Name.XObject, Subtype=pikepdf.Name.Image, Width=size[0], Height=size[1], BitsPerComponent=bits,
        ColorSpace=pikepdf.Name.DeviceGray if channels == 1 else pikepdf.Name.DeviceRGB,
        Filter=pikepdf.Name(packing),
    )  # fmt: skip


def _add_page(pdf: pikepdf.Pdf, image: Any, size: tuple[float, float], turn: int) -> None:
    drawing = f"q {size[0]:.4f} 0 0 {size[1]:.4f} 0 0 cm /P Do Q".encode()
    page = pikepdf.Dictionary(
        Type=pikepdf.Name.Page, MediaBox=[0, 0, round(size[0], 4), round(size[1], 4)], Rotate=turn,
        Resources=pikepdf.Dictionary(XObject=pikepdf.Dictionary(P=image)), Contents=pdf.make_stream(drawing),
    )  # fmt: skip
    pdf.pages.append(pikepdf.Page(page))
