"""Canonical JSON after RFC 8785: the bytes that are hashed into the trail."""

from __future__ import annotations

import json
from collections.abc import Iterable
from typing import Any

import rfc8785

_PLAIN = json.JSONEncoder(ensure_ascii=False, sort_keys=True, separators=(",", ":"), allow_nan=False)


def canonical_json(value: dict[str, Any]) -> bytes:
    """UTF-8 bytes, the same for equal values everywhere. Raises rfc8785.CanonicalizationError for what JSON lacks.

    What is plain goes by Python's own encoder, which writes the same bytes many times as fast; an entry may name
    hundreds of documents.
    """
    if _is_plain(value):
        try:
            return _PLAIN.encode(value).encode()
        except UnicodeEncodeError:
            # Half a pair of UTF-16, which no bytes stand for: the reference says so.
            pass
    return bytes(rfc8785.dumps(value))


def _is_plain(value: dict[str, Any]) -> bool:
    """Words, truth values, nothing, and whole numbers that a double holds; keys in ASCII, in RFC 8785's order so.

    Encoding then differs in nothing: the same escapes, no fractions, no order by UTF-16 to keep (RFC 8785 §3.2). What
    is looked at is looked at many at a time, as Python's own functions do it.
    """
    left: list[Any] = [value]
    while left:
        each = left.pop()
        if type(each) is dict:
            if not _has_plain_keys(each):
                return False
            each = each.values()
        kinds = set(map(type, each)) - _LEAVES
        if not kinds:
            continue
        if not kinds <= _HOLDERS and not (kinds <= _MORE and _are_small(each)):
            return False
        left.extend(inner for inner in each if type(inner) in _HOLDERS)
    return True


_LEAVES: set[type] = {str, bool, type(None)}
_HOLDERS: set[type] = {dict, list, tuple}
_MORE = _HOLDERS | {int}
_LARGEST = 2**53 - 1


def _has_plain_keys(value: dict[Any, Any]) -> bool:
    return not value or (set(map(type, value)) == {str} and "".join(value).isascii())


def _are_small(values: Iterable[Any]) -> bool:
    return all(-_LARGEST <= each <= _LARGEST for each in values if type(each) is int)
