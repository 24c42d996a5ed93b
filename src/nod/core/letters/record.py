"""A thread as it is put on paper: what was written, by whom and when, with its files and their hashes, in words."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class FileTold:
    """`size` in words; `sha256` in hex."""

    name: str
    size: str
    sha256: str


@dataclass(frozen=True)
class MessageTold:
    """`company` is at its head, by name; `facts` are labels and words, `text` all that was written."""

    company: str
    facts: tuple[tuple[str, str], ...]
    text: str
    is_answer: bool
    signatory: str
    files: tuple[FileTold, ...]


@dataclass(frozen=True)
class LetterRecord:
    """`facts` are labels and words; the earlier messages first."""

    project: str
    number: str
    subject: str
    facts: tuple[tuple[str, str], ...]
    messages: tuple[MessageTold, ...]
    taken: str
