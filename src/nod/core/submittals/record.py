"""A submittal as it is put on paper: all that is known of it, in words."""

from __future__ import annotations

from dataclasses import dataclass

from nod.core.acts.told import FileTold


@dataclass(frozen=True)
class RoundTold:
    """`sent` and `answered` say who and when; `answered` is empty without an answer, and says with whom it is."""

    head: str
    sent: str
    note: str
    files: tuple[FileTold, ...]
    verdict: str
    answered: str
    answer_note: str
    answer_files: tuple[FileTold, ...]


@dataclass(frozen=True)
class SubmittalRecord:
    """`facts` are labels and words; `talk` and `history` are when, who, and what was said or done."""

    project: str
    number: str
    title: str
    state: str
    facts: tuple[tuple[str, str], ...]
    clock: tuple[tuple[str, str], ...]
    rounds: tuple[RoundTold, ...]
    talk: tuple[tuple[str, str, str], ...]
    history: tuple[tuple[str, str, str], ...]
    taken: str
