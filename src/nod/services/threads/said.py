"""What was said in threads, as it is shown and as files name it: by whom, by what way, on which revision."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.threads.threads import Way
from nod.services.acts.answers import Answered, Who, named, people_by_id
from nod.services.acts.context import Act
from nod.services.attachments.attachments import Attachment, attachments_of
from nod.store.ids import new_id
from nod.store.tables import ReplyRow, RevisionRow, ThreadRow


class Author(Who):
    """Who said it, by the name they have where they said it; `taken_in_by` names who brought it in from a file.

    Somebody from outside has no `id`.
    """

    way: Literal["person", "file", "mail", "link"]
    taken_in_by: str


class Reply(Answered):
    """An answer; `said_on` is the code of the revision, empty where there is none.

    `folds` are what of the text is quoted or a signature, as pairs of places in it, counted in characters; `mail` is
    the mail that it came in, empty for none.
    """

    id: str
    author: Author
    text: str
    at: datetime
    said_on: str
    attachments: list[Attachment]
    folds: list[list[int]]
    mail: str


@dataclass(frozen=True)
class Outside:
    """Whoever said something elsewhere, and when; `file_id` is its identifier in the file."""

    way: Way
    name: str
    at: datetime
    company: str = ""
    file_id: str = ""


@dataclass(frozen=True)
class ByMail:
    """What a mail said: `person_id` is whoever wrote it, empty for somebody who is nobody here. `sha256` is the mail's.

    `folds` are pairs of places in the text between which it is quoted or a signature.
    """

    text: str
    folds: list[tuple[int, int]]
    mail_id: str
    person_id: str
    name: str
    company: str
    at: datetime
    sha256: str


Said = ThreadRow | ReplyRow


def author_of(said: Said, people: dict[str, Who]) -> Author:
    """`people` has everybody who is named by id."""
    who = people.get(said.author_id or "")
    way = Way(said.way)
    if way is Way.PERSON and who is not None:
        return Author(**who.model_dump(), way="person", taken_in_by="")
    return Author(
        id=who.id if who else "", name=said.author_name, company=said.author_company, way=way.value,
        taken_in_by=who.name if who and way is Way.FILE else "",
    )  # fmt: skip


def named_author(said: Said, people: dict[str, Who]) -> str:
    """As files name them."""
    author = author_of(said, people)
    return named(author) if author.company else author.name


def author_ids(said: Iterable[Said]) -> set[str]:
    return {each.author_id for each in said if each.author_id}


def reply_rows(session: Session, threads: Iterable[str]) -> list[ReplyRow]:
    """Of all these threads, the earlier first."""
    query = select(ReplyRow).where(ReplyRow.thread_id.in_(set(threads)))
    return list(session.scalars(query.order_by(ReplyRow.at, ReplyRow.seq)))


def replies_of(session: Session, threads: Iterable[str]) -> dict[str, list[Reply]]:
    """By thread, in a fixed number of queries."""
    rows = reply_rows(session, threads)
    if not rows:
        return {}
    people = people_by_id(session, author_ids(rows))
    codes = revision_codes(session, {row.said_on for row in rows})
    files = attachments_of(session, [row.id for row in rows])
    found: dict[str, list[Reply]] = {}
    for row in rows:
        shown = Reply(
            id=row.id,
            author=author_of(row, people),
            text=row.text,
            at=row.at,
            said_on=codes.get(row.said_on, ""),
            attachments=files.get(row.id, []),
            folds=row.folds,
            mail=row.mail_id,
        )
        found.setdefault(row.thread_id, []).append(shown)
    return found


def revision_codes(session: Session, ids: set[str]) -> dict[str, str]:
    wanted = ids - {""}
    if not wanted:
        return {}
    query = select(RevisionRow.id, RevisionRow.code).where(RevisionRow.id.in_(wanted))
    return {revision_id: code for revision_id, code in session.execute(query)}


def add_reply(act: Act, thread: ThreadRow, text: str, *, said_on: str = "", outside: Outside | None = None) -> ReplyRow:
    """An answer of the one who acts, or of somebody outside that they take in."""
    row = ReplyRow(
        id=new_id(), thread_id=thread.id, author_id=act.actor.person_id, text=text, said_on=said_on,
        at=min(outside.at, act.at) if outside else act.at, way=(outside.way if outside else Way.PERSON).value,
        author_name=outside.name if outside else "", author_company=outside.company if outside else "",
        file_id=outside.file_id if outside else "",
    )  # fmt: skip
    act.session.add(row)
    act.session.flush()
    return row


def add_outside_reply(
    act: Act, thread: ThreadRow, author_id: str, text: str, outside: Outside, said_on: str, mail: ByMail | None = None
) -> ReplyRow:
    """An answer of somebody outside, in their own name, whoever hands it on; `author_id` is empty for nobody here."""
    row = ReplyRow(
        id=new_id(), thread_id=thread.id, author_id=author_id or None, text=text, said_on=said_on, at=outside.at,
        way=outside.way.value, author_name=outside.name, author_company=outside.company,
        folds=[list(each) for each in mail.folds] if mail else [], mail_id=mail.mail_id if mail else "",
    )  # fmt: skip
    act.session.add(row)
    act.session.flush()
    return row
