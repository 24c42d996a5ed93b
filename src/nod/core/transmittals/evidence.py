"""What is shown of a transmittal as evidence: what went, to whom, when each thing happened, and what proves it."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class EvidenceRecipient:
    """`steps` are pairs of what happened and when, in words."""

    name: str
    steps: tuple[tuple[str, str], ...]
    note: str


@dataclass(frozen=True)
class EvidenceDocument:
    number: str
    revision: str
    title: str
    file: str
    sha256: str
    taken_by: str


@dataclass(frozen=True)
class EvidenceEntry:
    """An entry of the trail; `leaf` is its hash there."""

    at: str
    who: str
    words: str
    leaf: str


@dataclass(frozen=True)
class Evidence:
    """`seal` is to the letter: the note of a seal with everything here under it."""

    project: str
    number: str
    facts: tuple[tuple[str, str], ...]
    note: str
    recipients: tuple[EvidenceRecipient, ...]
    documents: tuple[EvidenceDocument, ...]
    entries: tuple[EvidenceEntry, ...]
    seal: str
    taken: str
