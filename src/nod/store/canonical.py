"""Canonical JSON after RFC 8785: the bytes that are hashed into the trail."""

from __future__ import annotations

import json
from typing import Any

import rfc8785

_PLAIN = json.JSONEncoder(ensure_ascii=False, sort_keys=True, separators=(",", ":"), allow_nan=False)


def canonical_json(value: dict[str, Any]) -> bytes:
    """UTF-8 bytes, the same for equal values everywhere. Raises rfc8785.CanonicalizationError for what JSON lacks.

    What is plain goes by Python's own encoder, which writes the same bytes many times as fast; an entry may name
    hundreds of documents.
    """
    if _is_plain(value):
        return _PLAIN.encode(value).encode()
    return bytes(rfc8785.dumps(value))


def _is_plain(value: object) -> bool:
    """Words, truth values, nothing, and whole numbers that a double holds; keys in ASCII, in RFC 8785's order so.

    Encoding then differs in nothing: the same escapes, no fractions, no order by UTF-16 to keep (RFC 8785 §3.2).
    """
    left: list[Any] = [value]
    while left:
        each = left.pop()
        kind = type(each)
        if kind is dict:
            if not all(map(_is_plain_key, each)):
                return False
            left.extend(each.values())
        elif kind is list or kind is tuple:
            left.extend(each)
        elif not _is_plain_leaf(kind, each):
            return False
    return True


def _is_plain_key(key: object) -> bool:
    return type(key) is str and key.isascii()


def _is_plain_leaf(kind: type, value: Any) -> bool:
    if kind is str:
        return value.isascii() or not any("\ud800" <= sign <= "\udfff" for sign in value)
    if kind is int:
        return -_LARGEST <= value <= _LARGEST  # type: ignore[no-any-return]
    return value is None or kind is bool


_LARGEST = 2**53 - 1
