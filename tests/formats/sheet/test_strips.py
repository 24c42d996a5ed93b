"""Pictures written in strips, read by Pillow and by OpenCV."""

import io
import zlib

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from nod.formats.sheet.strips import _adler_of_both, encode, joined, strip_of


def _picture(width, height, grey, lots):
    values = np.resize(np.frombuffer(lots, np.uint8), (height, width, 1 if grey else 3))
    return Image.fromarray(np.ascontiguousarray(np.broadcast_to(values, (height, width, 3))))


@st.composite
def pictures(draw, width):
    return _picture(width, draw(st.integers(1, 30)), draw(st.booleans()), draw(st.binary(min_size=3, max_size=60)))


def _is_grey(pixels):
    return bool((pixels == pixels[:, :, :1]).all())


@given(st.integers(1, 40).flatmap(lambda width: st.lists(pictures(width), min_size=1, max_size=4)))
def test_strips_are_the_picture_grey_ones_and_coloured_ones_together(parts):
    whole = np.concatenate([np.asarray(part) for part in parts])
    content = joined(strip_of(part) for part in parts)
    read = Image.open(io.BytesIO(content))
    read.load()
    assert np.array_equal(np.asarray(read.convert("RGB")), whole)
    if _is_grey(whole):
        assert (read.format, read.mode) == ("PNG", "L")
    if read.format == "PNG":
        other = cv2.imdecode(np.frombuffer(content, np.uint8), cv2.IMREAD_COLOR)
        assert np.array_equal(other[:, :, ::-1], whole)


@given(st.binary(max_size=300), st.binary(max_size=300))
def test_the_checksum_of_both_is_that_of_one_after_the_other(first, second):
    both = _adler_of_both(zlib.adler32(first), zlib.adler32(second), len(second))
    assert both == zlib.adler32(first + second)


def test_the_checksum_holds_for_long_strips():
    first, second = bytes(range(256)) * 4000, b"\xff" * 3_000_001
    assert _adler_of_both(zlib.adler32(first), zlib.adler32(second), len(second)) == zlib.adler32(first + second)


def test_a_photograph_is_webp_and_a_coloured_drawing_png():
    lots = np.random.default_rng(5)
    photograph = Image.fromarray(lots.integers(0, 256, (60, 80, 3), np.uint8))
    drawing = Image.new("RGB", (80, 60), "white")
    drawing.putpixel((3, 4), (200, 10, 20))
    for picture, kind in ((photograph, "WEBP"), (drawing, "PNG")):
        for content in (
            encode(picture),
            joined([strip_of(picture.crop((0, 0, 80, 25))), strip_of(picture.crop((0, 25, 80, 60)))]),
        ):
            read = Image.open(io.BytesIO(content))
            assert read.format == kind
            assert np.array_equal(np.asarray(read.convert("RGB")), np.asarray(picture))


def test_what_was_cut_off_is_not_read_as_whole():
    content = encode(_picture(40, 40, True, bytes(range(60))))
    with pytest.raises(OSError, match=r"truncated|incomplete|broken"):
        Image.open(io.BytesIO(content[:-60])).load()
