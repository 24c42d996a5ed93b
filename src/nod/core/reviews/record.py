"""What the record of a review says, in words: the slip with every stamp, and each document (handbook §8)."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Hand:
    """Somebody in a step. `stamp` is what they gave and when; `state` says how it stands where they gave nothing."""

    name: str
    state: str
    verdicts: str
    at: str
    note: str


@dataclass(frozen=True)
class RecordStep:
    """`place` is its row on the slip; `facts` say what was asked, within how long, begun and ended when."""

    place: str
    name: str
    facts: str
    hands: tuple[Hand, ...]


@dataclass(frozen=True)
class Said:
    who: str
    verdict: str
    comment: str


@dataclass(frozen=True)
class RecordMark:
    """An inked mark on the revision under review; `clip` is a PNG of it in its place, empty where there is none."""

    label: str
    who: str
    words: str
    state: str
    clip: bytes = b""


@dataclass(frozen=True)
class RecordDocument:
    number: str
    revision: str
    title: str
    verdict: str
    words: str
    said: tuple[Said, ...]
    marks: tuple[RecordMark, ...]


@dataclass(frozen=True)
class Record:
    """`taken`: by whom and when this was made of it. Verdicts are codes, `verdicts` what each means."""

    project: str
    number: str
    name: str
    facts: tuple[tuple[str, str], ...]
    message: str
    steps: tuple[RecordStep, ...]
    documents: tuple[RecordDocument, ...]
    verdicts: tuple[tuple[str, str], ...]
    taken: str
