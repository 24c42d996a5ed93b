"""What a file's name says: `NUMBER_REVISION_STATUS_Title.pdf` (handbook §5.3)."""

from __future__ import annotations

import re
import unicodedata
from dataclasses import dataclass

from nod.core.acts.plain_text import clean_text
from nod.core.register.look_alikes import plain
from nod.core.register.revisions import Scheme, parse

_LONGEST_TITLE = 200


@dataclass(frozen=True)
class NameReading:
    """What was read; an empty string where the name says nothing. `number` is as written, not corrected."""

    number: str
    revision: str
    status: str
    title: str


def read_file_name(file_name: str, scheme: Scheme, statuses: tuple[str, ...], separator: str = "-") -> NameReading:
    """Split the name at underscores (or at white space, where it has none) and know each part by its form.

    The first part is the number, if it has the separator of the project's numbers in it; then at most one revision and
    one status; the rest, in order, is the title.
    """
    stem = re.sub(r"\.[A-Za-z0-9]{1,5}$", "", base_name(file_name))
    parts = [part.strip() for part in (stem.split("_") if "_" in stem else stem.split()) if part.strip()]
    number, rest = (parts[0], parts[1:]) if parts and separator in plain(parts[0]) else ("", parts)
    revision = status = ""
    title: list[str] = []
    for part in rest:
        code = plain(part).upper()
        if not revision and not title and parse(scheme, code):
            revision = code
        elif not status and not title and code in statuses:
            status = code
        else:
            title.append(part)
    return NameReading(number, revision, status, " ".join(title)[:_LONGEST_TITLE])


def base_name(file_name: str) -> str:
    """The last component of a name that may carry a path of any system; control characters dropped."""
    last = clean_text(re.split(r"[/\\]", file_name)[-1])
    return "".join(ch for ch in last if ch.isprintable()).strip() or "unnamed"


def alike(file_name: str) -> str:
    """The same for names that are the same but for capitals, or for how a system writes an accent.

    Caseless matching of the Unicode Standard (3.13, D145), then composed.
    """
    return unicodedata.normalize("NFC", unicodedata.normalize("NFD", file_name).casefold())
