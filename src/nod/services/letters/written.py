"""All that a draft of a letter has, as it is typed."""

from __future__ import annotations

from datetime import date
from typing import Literal

from pydantic import Field

from nod.services.acts.answers import Command
from nod.services.attachments.attachments import MOST
from nod.store.tables import LetterMessageRow

LONGEST_SUBJECT, LONGEST_PAGE, LONGEST_EFFECT, LONGEST_LINE = 200, 400_000, 4000, 120
MOST_PARTIES, MOST_REFERENCES = 200, 50


class PartyGiven(Command):
    """A person of the project, outside contacts with them, or a company with its people."""

    kind: Literal["person", "company"]
    id: str = Field(max_length=LONGEST_LINE)


class ContactGiven(Command):
    """Somebody outside who is not in the project yet: made a contact as the letter is sent."""

    name: str = Field(max_length=LONGEST_LINE)
    email: str = Field(max_length=LONGEST_LINE)
    company_id: str = Field(max_length=LONGEST_LINE)
    how: Literal["to", "copied"] = "to"


class ReferenceGiven(Command):
    kind: str = Field(max_length=LONGEST_LINE)
    target: str = Field(max_length=LONGEST_LINE)


class LetterWritten(Command):
    """All that a draft has. `page` is HTML of paragraphs, lists, links and tables; anything else in it is left out.

    `to` and `copied` are all who are in the thread from this message on. `asked_id` is of whom an answer is wanted,
    empty for nobody, by `due_on`. `all_of_it`: who is new in the thread sees what was written before, too. `is_answer`:
    this is the answer that was asked for. `files` are attachments that were added to the draft.

    `checker_id` looks at it before it goes, or `signs` it. `own_ref` is the reference of who writes, `other_ref` that
    of whom it is written to. `paper_from` wrote it on paper, on the day `dated_on`; it came on `received_on`. Of a
    notice, `aware_on` is when one became aware of its matter; `served_how` and `served_on` say how it was served.
    """

    kind: str = Field(default="", max_length=LONGEST_LINE)
    subject: str = Field(default="", max_length=LONGEST_SUBJECT)
    page: str = Field(default="", max_length=LONGEST_PAGE)
    to: list[PartyGiven] = Field(default_factory=list, max_length=MOST_PARTIES)
    copied: list[PartyGiven] = Field(default_factory=list, max_length=MOST_PARTIES)
    contacts: list[ContactGiven] = Field(default_factory=list, max_length=20)
    asked_id: str = Field(default="", max_length=LONGEST_LINE)
    due_on: date | None = Field(default=None, strict=False)
    proposed: str = Field(default="", max_length=LONGEST_EFFECT)
    cost_effect: str = Field(default="", max_length=LONGEST_EFFECT)
    time_effect: str = Field(default="", max_length=LONGEST_EFFECT)
    private: bool = False
    all_of_it: bool = False
    is_answer: bool = False
    checker_id: str = Field(default="", max_length=LONGEST_LINE)
    signs: bool = False
    own_ref: str = Field(default="", max_length=LONGEST_LINE)
    other_ref: str = Field(default="", max_length=LONGEST_LINE)
    paper_from: str = Field(default="", max_length=LONGEST_LINE)
    dated_on: date | None = Field(default=None, strict=False)
    received_on: date | None = Field(default=None, strict=False)
    aware_on: date | None = Field(default=None, strict=False)
    served_how: str = Field(default="", max_length=LONGEST_LINE)
    served_on: date | None = Field(default=None, strict=False)
    files: list[str] = Field(default_factory=list, max_length=MOST)
    references: list[ReferenceGiven] = Field(default_factory=list, max_length=MOST_REFERENCES)


def written_in(message: LetterMessageRow) -> LetterWritten:
    return LetterWritten.model_validate(message.begun, strict=False)
