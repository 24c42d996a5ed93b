"""How the words of a page are kept: boxes, turns and texts in one compressed block of bytes."""

from __future__ import annotations

import struct
import zlib

import numpy as np

from nod.core.sheet.placed_words import NO_WORDS, PlacedWords

_HEAD = struct.Struct("<I")


def pack_words(words: PlacedWords) -> bytes:
    count = len(words.texts)
    body = b"".join((
        _HEAD.pack(count),
        words.boxes.astype("<f4").tobytes(),
        words.turns.astype("<i2").tobytes(),
        "\n".join(words.texts).encode("utf-8", "replace"),
    ))  # fmt: skip
    return zlib.compress(body, 1)


def unpack_words(packed: bytes) -> PlacedWords:
    """Raises zlib.error for bytes that `pack_words` did not make."""
    body = zlib.decompress(packed)
    (count,) = _HEAD.unpack_from(body)
    if not count:
        return NO_WORDS
    boxes = np.frombuffer(body, "<f4", count * 4, _HEAD.size).reshape(count, 4)
    turns = np.frombuffer(body, "<i2", count, _HEAD.size + count * 16)
    texts = tuple(body[_HEAD.size + count * 18 :].decode().split("\n"))
    return PlacedWords(texts, boxes, turns)
