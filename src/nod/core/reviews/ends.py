"""What a route does with a document when it leaves the review, by its verdict (handbook §8, on the end)."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from nod.core.acts.counted import listed
from nod.core.register.in_force import USES, Use, use_of
from nod.core.reviews.path import Named

MOST_FIELDS = 5


@dataclass(frozen=True)
class End:
    """`status` is given to the revision, `fields` to its document: values by key. `tell` are told, with `note`.

    `copy_to` is a folder in which it is copied, `with_marks` with the ink on it. `draft`: a transmittal of it is
    drafted, to those told.
    """

    status: str = ""
    fields: Mapping[str, str] | None = None
    tell: tuple[Named, ...] = ()
    note: str = ""
    copy_to: str = ""
    with_marks: bool = False
    draft: bool = False

    @property
    def nothing(self) -> bool:
        return not (self.status or self.fields or self.tell or self.copy_to or self.draft)


@dataclass(frozen=True)
class Sayings:
    """How the project calls things: `field` by its key, `folder` by its id, `named` whom a step or an end names."""

    uses: Mapping[str, str]
    field: Callable[[str], str]
    folder: Callable[[str], str]
    named: Callable[[Named], str]


def end_in_words(code: str, end: End, say: Sayings) -> str:
    """Like `A: status A1, which may be built from; the document controllers are told.`; empty for nothing."""
    parts = []
    if end.status:
        use = use_of(end.status, say.uses)
        released = f", which {USES[use.code]}" if use > Use.RECEIVED else ""
        parts.append(f"status {end.status}{released}")
    parts += [f"{say.field(key)} becomes {value or 'empty'}" for key, value in (end.fields or {}).items()]
    if end.copy_to:
        parts.append(f"a copy goes into {say.folder(end.copy_to)}{', with its ink' if end.with_marks else ''}")
    if end.tell:
        names = listed([say.named(each) for each in end.tell])
        parts.append(f"{names} {'is' if len(end.tell) == 1 else 'are'} told{', with a note' if end.note else ''}")
    if end.draft:
        parts.append("a transmittal is drafted for the company of whoever started the review")
    return f"{code}: {'; '.join(parts)}." if parts else ""
