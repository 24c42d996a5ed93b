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
    """Somebody as pasted; any part may be empty. `company` is a name or a code, as it was pasted."""

    name: str
    email: str
    company: str = ""


def read_people(pasted: str) -> list[Named]:
    """Everybody in the order of the text, each address once.

    One person a line, or several between semicolons, or between commas where each has an address. A comma inside a
    name before an address (`Osei, Marit <marit@…>`) turns the two parts round, as mail programs write them. Columns of
    a spreadsheet (name, address, company) may stand in any order; a line of heads is left out.
    """
    found: list[Named] = []
    seen: set[str] = set()
    for named in _all(pasted):
        key = named.email or named.name.casefold()
        if key and key not in seen:
            seen.add(key)
            found.append(named)
    return found


_HEADS = frozenset({
    "name", "person", "mail", "e-mail", "email", "address", "company", "firm", "organisation", "organization", "code",
    "role", "job",
})  # fmt: skip


def _all(pasted: str) -> Iterator[Named]:
    for line in re.split(r"[\r\n]+", pasted):
        cells = [" ".join(cell.split()) for cell in line.split("\t")]
        mailed = sum(1 for cell in cells if next(_addresses(cell), None))
        # Several addresses in a line are several people, not columns of one.
        if sum(1 for cell in cells if cell) > 1 and mailed < 2:
            found = _of_columns([cell for cell in cells if cell])
            if found:
                yield found
        else:
            yield from map(_read, _pieces(line))


def _of_columns(cells: list[str]) -> Named | None:
    """Of cells without the address the name is the one that shares a part with it, otherwise the first; None: heads."""
    mailed = next((cell for cell in cells if next(_addresses(cell), None)), "")
    if not mailed and all(set(re.findall(r"[\w-]+", cell.lower())) <= _HEADS for cell in cells):
        return None
    named = _read(mailed) if mailed else Named("", "")
    rest = [cell for cell in cells if cell != mailed]
    if named.name:
        return Named(named.name, named.email, rest[0] if rest else "")
    local = named.email.partition("@")[0]
    said = [cell for cell in rest if any(len(part) > 2 and part in local for part in cell.lower().split())]
    name = (said or rest or [""])[0]
    others = [cell for cell in rest if cell != name]
    return Named(_turned(name), named.email, others[0] if others else "")


def _turned(name: str) -> str:
    """`Osei, Marit` as Marit Osei."""
    last, comma, first = name.partition(",")
    return f"{first.strip()} {last.strip()}" if comma and "," not in first else name


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
