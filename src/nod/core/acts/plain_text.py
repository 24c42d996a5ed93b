"""Text as Nod keeps it: only characters that every format it goes out in can carry."""

from __future__ import annotations

from typing import Any

_DROPPED = {code: None for code in range(0x20) if chr(code) not in "\t\n\r"}
_DROPPED |= dict.fromkeys(range(0x7F, 0xA0))
_DROPPED |= dict.fromkeys(range(0xFDD0, 0xFDF0))
_DROPPED |= {plane | last: None for plane in range(0, 0x110000, 0x10000) for last in (0xFFFE, 0xFFFF)}
_DROPPED |= dict.fromkeys(range(0xD800, 0xE000))
"""Controls (C0 but for tab and line ends, DEL, C1), noncharacters and lone surrogates, by code point.

XML 1.0, 2.2: neither the first kind of controls nor surrogates nor U+FFFE, U+FFFF can stand in a document; UTF-8 has
no surrogates (RFC 3629, 3); Unicode 23.7: noncharacters are not for interchange.
"""
_MOST_DEEP = 40


def clean_text(text: str) -> str:
    """Without what cannot be carried; all else as it is, and the same object where nothing is wrong."""
    if text.isascii() and text.isprintable():
        return text
    return text.translate(_DROPPED)


def clean_all(value: Any, depth: int = 0) -> Any:
    """The same of all text in lists, tuples and dicts, keys included. Raises ValueError for what is nested too deep."""
    if isinstance(value, str):
        return clean_text(value)
    if isinstance(value, dict | list | tuple):
        if depth > _MOST_DEEP:
            raise ValueError("nested too deep")
        if isinstance(value, dict):
            return {clean_all(key, depth + 1): clean_all(each, depth + 1) for key, each in value.items()}
        return type(value)(clean_all(each, depth + 1) for each in value)
    return value
