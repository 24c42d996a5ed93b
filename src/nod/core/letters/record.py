"""A thread as it is put on paper: what was written, by whom and when, with its files and their hashes, in words."""

from __future__ import annotations

from dataclasses import dataclass

from nod.core.acts.told import FileTold


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
