"""Header fields of mail from anywhere: in one line, cut before they are understood, and never a reason to give up."""

from __future__ import annotations

import re
from collections.abc import Iterator
from email.errors import MessageError
from email.message import Message
from itertools import islice
from typing import Any

LONGEST_FIELD, LONGEST_ADDRESSES, MOST_HEADERS = 20_000, 4_000, 2_000
ODD = (KeyError, LookupError, ValueError, AttributeError, TypeError, MessageError)
"""What the package raises for headers and parts that break the rules."""


def field_of(message: Message[Any, Any], name: str, longest: int = LONGEST_FIELD) -> str:
    """In one line, without characters that end one or are none."""
    return tidy(" ".join(next(values_of(message, name, longest), "").split()))


def values_of(message: Message[Any, Any], name: str, longest: int = LONGEST_FIELD) -> Iterator[str]:
    """Of a header, as often as it is there; what is very long is cut before it is understood, which takes long."""
    for each, value in islice(message.raw_items(), MOST_HEADERS):
        if each.lower() == name.lower():
            try:
                yield str(message.policy.header_fetch_parse(each, str(value)[:longest]))
            except ODD:
                yield ""


def tidy(text: str) -> str:
    """Without NULs, broken halves of characters, and what ends a line in other ways than a line does."""
    whole = text.encode("utf-8", errors="replace").decode("utf-8")
    return re.sub(r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f]", "\N{REPLACEMENT CHARACTER}", whole.replace("\r\n", "\n"))
