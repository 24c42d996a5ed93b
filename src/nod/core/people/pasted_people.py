"""Names and e-mail addresses out of whatever was pasted: a mail program's line, a spreadsheet's column, a list."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

_ADDRESS_PARTS = re.compile(r"[^\s<>()\[\],;:\"'“”|]+")
_CLOSED = re.compile(r"\s?[>)\]]")
_PLAIN_ADDRESS = re.compile(
    r"[a-z0-9.!#$%&'*+/=?^_`{|}~-]+@[a-z0-9](?:[a-z0-9-]*[a-z0-9])?(?:\.[a-z0-9](?:[a-z0-9-]*[a-z0-9])?)+"
)
_LONGEST_ADDRESS = 254


@dataclass(frozen=True)
class Named:
    """Somebody as pasted; either part may be empty."""

    name: str
    email: str


def read_people(pasted: str) -> list[Named]:
    """Everybody in the order of the text, each address once.

    One person a line, or several between semicolons, or between commas where each has an address. A comma inside a
    name before an address (`Osei, Marit <marit@…>`) turns the two parts round, as mail programs write them.
    """
    found: list[Named] = []
    seen: set[str] = set()
    for piece in _pieces(pasted):
        named = _read(piece)
        key = named.email or named.name.casefold()
        if key and key not in seen:
            seen.add(key)
            found.append(named)
    return found


def _pieces(pasted: str) -> list[str]:
    pieces: list[str] = []
    for line in re.split(r"[\r\n;]+", pasted):
        start = 0
        for address in _addresses(line):
            closed = _CLOSED.match(line, address.end())
            end = closed.end() if closed else address.end()
            pieces.append(line[start:end])
            start = end
        pieces.append(line[start:])
    return [piece.strip(" ,\t") for piece in pieces if piece.strip(" ,\t<>()")]


def _addresses(text: str) -> Iterator[re.Match[str]]:
    """Runs with an @ inside: found run by run, so that a long text without one is walked over once."""
    return (each for each in _ADDRESS_PARTS.finditer(text) if "@" in each.group()[1:-1])


def _read(piece: str) -> Named:
    address = next(_addresses(piece), None)
    email = address.group().strip(".").lower() if address else ""
    rest = piece[: address.start()] if address else piece
    name = " ".join(re.sub(r"[<>()\[\]\"“”|\t]|mailto:", " ", rest).split()).strip(" ,'")
    if email and name.count(",") == 1:
        last, first = (part.strip() for part in name.split(","))
        name = f"{first} {last}"
    return Named(name, email)


def is_email(text: str) -> bool:
    """An address that mail can be sent to over SMTP as it is: the usual form of RFC 5321, without quoted parts."""
    return len(text) <= _LONGEST_ADDRESS and _PLAIN_ADDRESS.fullmatch(text) is not None


def name_from(email: str) -> str:
    """A first guess at a name for an address that came without one: `marit.osei@…` is Marit Osei."""
    parts = re.split(r"[._-]+", re.sub(r"\d+", "", email.partition("@")[0]))
    return " ".join(part.capitalize() for part in parts if part)
