"""Pictures without loss, which several processes can write together: PNG in strips, photographs as WebP.

PNG as in ISO/IEC 15948, its rows without filters; zlib and deflate as in RFC 1950 and 1951. For drawings this is
written and read in a half to a third of the time that WebP takes, or PNG with filters, and is about as small.
"""

from __future__ import annotations

import io
import struct
import zlib
from collections.abc import Iterable
from dataclasses import dataclass

from PIL import Image

_SIGNATURE = b"\x89PNG\r\n\x1a\n"
_GREY, _COLOUR = 1, 3
_COLOUR_TYPES = {_GREY: 0, _COLOUR: 2}
_ZLIB_HEAD = b"\x78\x01"
# An empty last block of fixed codes: the strips before end where a byte does.
_ZLIB_LAST = b"\x03\x00"
_ADLER_BASE = 65_521
_PHOTOGRAPH = 0.35
"""What cannot be packed to a third is no drawing, and WebP makes it much smaller."""


@dataclass(frozen=True)
class Strip:
    """Some rows of a picture, packed; `bands` is 1 where all of them are grey, otherwise 3."""

    width: int
    height: int
    bands: int
    packed: bytes
    adler: int

    @property
    def length(self) -> int:
        """Bytes before packing: each row has one for its filter."""
        return self.height * (1 + self.width * self.bands)


def strip_of(picture: Image.Image) -> Strip:
    """Of an RGB picture."""
    red, green, blue = picture.split()
    grey = red.tobytes()
    if grey == green.tobytes() == blue.tobytes():
        return _packed(picture.size, _GREY, grey)
    return _packed(picture.size, _COLOUR, picture.tobytes())


def _packed(size: tuple[int, int], bands: int, content: bytes) -> Strip:
    width, height = size
    row = width * bands
    rows = b"".join(b"\0" + content[at : at + row] for at in range(0, len(content), row))
    packer = zlib.compressobj(1, zlib.DEFLATED, -zlib.MAX_WBITS)
    packed = packer.compress(rows) + packer.flush(zlib.Z_FULL_FLUSH)
    return Strip(width, height, bands, packed, zlib.adler32(rows))


def joined(strips: Iterable[Strip]) -> bytes:
    """One picture of strips as wide as each other, from the upper to the lower: PNG, or WebP of a photograph."""
    parts = list(strips)
    if len({each.bands for each in parts}) > 1:
        parts = [each if each.bands == _COLOUR else _in_colour(each) for each in parts]
    bands, adler = parts[0].bands, 1
    for each in parts:
        adler = _adler_of_both(adler, each.adler, each.length)
    packed = b"".join([_ZLIB_HEAD, *(each.packed for each in parts), _ZLIB_LAST, struct.pack(">I", adler)])
    size = (parts[0].width, sum(each.height for each in parts))
    head = struct.pack(">IIBBBBB", *size, 8, _COLOUR_TYPES[bands], 0, 0, 0)
    png = b"".join([_SIGNATURE, _chunk(b"IHDR", head), _chunk(b"IDAT", packed), _chunk(b"IEND", b"")])
    if bands == _COLOUR and len(packed) > _PHOTOGRAPH * sum(each.length for each in parts):
        return _webp(Image.open(io.BytesIO(png)))
    return png


def encode(picture: Image.Image) -> bytes:
    """An RGB picture by itself."""
    return joined([strip_of(picture)])


def _chunk(kind: bytes, content: bytes) -> bytes:
    return struct.pack(">I", len(content)) + kind + content + struct.pack(">I", zlib.crc32(kind + content))


def _in_colour(strip: Strip) -> Strip:
    rows, long = zlib.decompress(strip.packed + _ZLIB_LAST, -zlib.MAX_WBITS), 1 + strip.width
    content = b"".join(rows[at + 1 : at + long] for at in range(0, len(rows), long))
    coloured = Image.frombytes("L", (strip.width, strip.height), content).convert("RGB")
    return _packed(coloured.size, _COLOUR, coloured.tobytes())


def _adler_of_both(first: int, second: int, length: int) -> int:
    """The Adler-32 (RFC 1950, 8.2) of two contents one after the other; `length` of the second in bytes."""
    low = (first & 0xFFFF) + (second & 0xFFFF) - 1
    high = (first >> 16) + (second >> 16) + length * ((first & 0xFFFF) - 1)
    return (high % _ADLER_BASE) << 16 | low % _ADLER_BASE


def _webp(picture: Image.Image) -> bytes:
    out = io.BytesIO()
    picture.save(out, "WEBP", lossless=True, method=0, quality=0)
    return out.getvalue()
