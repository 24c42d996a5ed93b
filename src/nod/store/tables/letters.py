"""Letters: threads between companies, what is written in them, who is in them and who has seen what."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any

from sqlalchemy import ForeignKey, Index, String
from sqlalchemy import text as sql_text
from sqlalchemy.orm import Mapped, mapped_column

from nod.store.tables.base import Base, Id, Version


class LetterRow(Base):
    """A thread. `state` as `core.letters.states.State`; without a number while it is a draft.

    `began_by` is whoever began it, or filed the mail that did; `company_id` is the company it is from. `asked_id` is
    of whom an answer is wanted, by `due_on`; `since_at` since when it is with whoever has it. `answer_id` is the
    message that is the official answer. `last_at` is when something was last written. Of a notice, `aware_on` is the
    day on which one became aware of its matter, `bar_on` the last on which it is served in time.
    """

    __tablename__ = "letter"
    id: Mapped[Id]
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"))
    number: Mapped[str] = mapped_column(default="")
    kind: Mapped[str]
    subject: Mapped[str] = mapped_column(default="")
    private: Mapped[bool] = mapped_column(default=False)
    state: Mapped[str]
    began_by: Mapped[str] = mapped_column(ForeignKey("person.id"), index=True)
    company_id: Mapped[str] = mapped_column(ForeignKey("company.id"))
    made_at: Mapped[datetime]
    sent_at: Mapped[datetime | None]
    last_at: Mapped[datetime]
    since_at: Mapped[datetime | None]
    asked_id: Mapped[str | None] = mapped_column(ForeignKey("person.id"))
    due_on: Mapped[date | None]
    answer_id: Mapped[str] = mapped_column(default="")
    proposed: Mapped[str] = mapped_column(default="")
    cost_effect: Mapped[str] = mapped_column(default="")
    time_effect: Mapped[str] = mapped_column(default="")
    aware_on: Mapped[date | None]
    bar_on: Mapped[date | None]
    version: Mapped[Version]

    __table_args__ = (
        Index("ix_letter_last", "project_id", "last_at"),
        Index("ix_letter_number", "project_id", "number", unique=True, sqlite_where=sql_text("number != ''")),
        Index("ix_letter_due", "project_id", "due_on"),
        Index("ix_letter_state", "project_id", "state", "private", "due_on", "id"),
        Index("ix_letter_private", "private", "id"),
        Index("ix_letter_company", "project_id", "company_id", "state", "private", "id"),
    )


class LetterMessageRow(Base):
    """Something written in a thread; a draft, for its author alone, while `sent_at` is empty. Never changed after that.

    `place` is its place in the thread, from 1; 0 for a draft. `way` is `person`, `mail`, `link` or `paper`;
    `author_name` and `author_company` are as they were then. Of a mail that was forwarded, `forwarded_by` is who sent
    it on, the author is as the forwarded mail says, and `written_at` its date; of one on paper, who put it in.
    `own_ref` is the reference of who wrote it, `other_ref` that of whom it is written to; `dated_on` and `received_on`
    are the days of a letter on paper. `checker_id` looks at it before it goes, or signs it: then `signatory` is their
    name; `check_state` as `core.letters.checking.Check`, with `check_note` where it was given back. `served_how` and
    `served_on` say of a notice how it was served, as the message says. `text` is what is written, `page` the same as
    clean HTML, empty for plain text; `folds` are what of the text is quoted or a signature. `to` names those whom it
    went to, as it says. `begun` is all that a draft has.
    """

    __tablename__ = "letter_message"
    seq: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    id: Mapped[str] = mapped_column(String(16), unique=True)
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id"))
    letter_id: Mapped[str] = mapped_column(ForeignKey("letter.id"))
    place: Mapped[int] = mapped_column(default=0)
    author_id: Mapped[str | None] = mapped_column(ForeignKey("person.id"), index=True)
    author_name: Mapped[str] = mapped_column(default="")
    author_email: Mapped[str] = mapped_column(default="")
    author_company: Mapped[str] = mapped_column(default="")
    way: Mapped[str] = mapped_column(default="person")
    forwarded_by: Mapped[str | None] = mapped_column(ForeignKey("person.id"))
    subject: Mapped[str] = mapped_column(default="")
    text: Mapped[str] = mapped_column(default="")
    page: Mapped[str] = mapped_column(default="")
    folds: Mapped[list[Any]] = mapped_column(default=list)
    mail_id: Mapped[str] = mapped_column(default="")
    to: Mapped[list[Any]] = mapped_column(default=list)
    written_at: Mapped[datetime]
    sent_at: Mapped[datetime | None]
    begun: Mapped[dict[str, Any]] = mapped_column(default=dict)
    own_ref: Mapped[str] = mapped_column(default="")
    other_ref: Mapped[str] = mapped_column(default="")
    dated_on: Mapped[date | None]
    received_on: Mapped[date | None]
    checker_id: Mapped[str | None] = mapped_column(ForeignKey("person.id"), index=True)
    check_state: Mapped[str] = mapped_column(default="")
    check_note: Mapped[str] = mapped_column(default="")
    checked_at: Mapped[datetime | None]
    signatory: Mapped[str] = mapped_column(default="")
    served_how: Mapped[str] = mapped_column(default="")
    served_on: Mapped[date | None]
    version: Mapped[Version]

    __table_args__ = (
        Index("ix_letter_message_letter", "letter_id", "place"),
        Index("ix_letter_message_draft", "author_id", sqlite_where=sql_text("sent_at IS NULL")),
        Index("one_place_in_a_letter", "letter_id", "place", unique=True, sqlite_where=sql_text("place > 0")),
    )


class LetterPartyRow(Base):
    """Somebody in a thread: a person, or a company with all its people. `how` is `to` or `copied`, `rank` their place
    among those that the message names.

    They see it from the message in place `first_place` on, up to `last_place` if they were taken out; whoever is added
    again has another row.
    """

    __tablename__ = "letter_party"
    letter_id: Mapped[str] = mapped_column(ForeignKey("letter.id"), primary_key=True)
    kind: Mapped[str] = mapped_column(primary_key=True)
    party_id: Mapped[str] = mapped_column(primary_key=True)
    first_place: Mapped[int] = mapped_column(primary_key=True)
    how: Mapped[str]
    rank: Mapped[int]
    last_place: Mapped[int | None]
    added_by: Mapped[str | None] = mapped_column(ForeignKey("person.id"))
    added_at: Mapped[datetime]

    __table_args__ = (Index("ix_letter_party", "party_id", "kind"),)


class LetterSeenRow(Base):
    """The place of the last message of a thread that somebody has opened."""

    __tablename__ = "letter_seen"
    letter_id: Mapped[str] = mapped_column(ForeignKey("letter.id"), primary_key=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("person.id"), primary_key=True)
    place: Mapped[int]


class LetterReferenceRow(Base):
    """What a message speaks of: a thing of the project, of any kind."""

    __tablename__ = "letter_reference"
    message_id: Mapped[str] = mapped_column(ForeignKey("letter_message.id"), primary_key=True)
    kind: Mapped[str] = mapped_column(primary_key=True)
    target: Mapped[str] = mapped_column(primary_key=True)

    __table_args__ = (Index("ix_letter_reference", "target", "kind"),)
