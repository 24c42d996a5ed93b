"""Receipts: what each recipient of a transmittal did with it, and when."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.services.acts.answers import Answered, Who, people_by_id
from nod.store.dialects.sqlite import one_of
from nod.store.tables import LinkRow, PersonRow, RecipientFileRow, RecipientRow


class RecipientShown(Answered):
    """`acknowledged_how` is `mail` where they answered the mail; `bounced_why` follows “came back:”.

    `files_taken` are revisions whose files they took one by one; `link_closed` says why their link does not open.

    `copied`: it went to them for information, and nothing is wanted of them. Without a `receipt` it is another
    company's, and no time of theirs is shown.
    """

    who: Who
    email: str
    outside: bool
    copied: bool
    mailed_at: datetime | None
    opened_at: datetime | None
    downloaded_at: datetime | None
    acknowledged_at: datetime | None
    acknowledged_how: str
    acknowledged_note: str
    files_taken: list[str]
    link_closed: str
    bounced_at: datetime | None
    bounced_why: str
    receipt: bool


def is_silent(each: RecipientShown) -> bool:
    return not each.copied and each.acknowledged_at is None and each.bounced_at is None


def files_taken(session: Session, recipient_ids: Sequence[str]) -> dict[str, list[str]]:
    """By recipient, the revisions whose files they took one by one, the first first."""
    query = select(RecipientFileRow).where(one_of(RecipientFileRow.recipient_id, recipient_ids))
    found: dict[str, list[str]] = {}
    for row in session.scalars(query.order_by(RecipientFileRow.downloaded_at, RecipientFileRow.revision_id)):
        found.setdefault(row.recipient_id, []).append(row.revision_id)
    return found


def _links_closed(session: Session, recipient_ids: Sequence[str], now: datetime) -> dict[str, str]:
    """By recipient, why their link does not open any more."""
    query = select(LinkRow.id, LinkRow.withdrawn_at, LinkRow.ends_at).where(one_of(LinkRow.id, recipient_ids))
    found = {}
    for id, withdrawn_at, ends_at in session.execute(query):
        if withdrawn_at:
            found[id] = "link withdrawn"
        elif ends_at and ends_at <= now:
            found[id] = "link expired"
    return found


def recipients_of(session: Session, transmittal_id: str, company_id: str | None, now: datetime) -> list[RecipientShown]:
    """With the times of one company alone, or with all."""
    return receipts_of(session, {transmittal_id: company_id}, now)[transmittal_id]


def receipts_of(
    session: Session, whose: Mapping[str, str | None], now: datetime
) -> dict[str, list[RecipientShown]]:  # fmt: skip
    """By transmittal, in the order of its recipients; `whose` has the company whose times alone are told, or None."""
    query = (
        select(RecipientRow, PersonRow)
        .join(PersonRow, PersonRow.id == RecipientRow.person_id)
        .where(one_of(RecipientRow.transmittal_id, list(whose)))
        .order_by(RecipientRow.transmittal_id, RecipientRow.place)
    )
    pairs = list(session.execute(query))
    people = people_by_id(session, {person.id for _, person in pairs})
    ids = [row.id for row, _ in pairs]
    taken, closed = files_taken(session, ids), _links_closed(session, ids, now)
    found: dict[str, list[RecipientShown]] = {each: [] for each in whose}
    for row, person in pairs:
        shown = RecipientShown(
            who=people[person.id], email=person.email, outside=not person.password_hash, copied=row.copied,
            mailed_at=row.mailed_at, opened_at=row.opened_at, downloaded_at=row.downloaded_at,
            acknowledged_at=row.acknowledged_at, acknowledged_how=row.acknowledged_how,
            acknowledged_note=row.acknowledged_note, files_taken=taken.get(row.id, []),
            link_closed=closed.get(row.id, ""), bounced_at=row.bounced_at, bounced_why=row.bounced_why, receipt=True,
        )  # fmt: skip
        company_id = whose[row.transmittal_id]
        theirs = company_id is None or row.company_id == company_id
        found[row.transmittal_id].append(shown if theirs else _without_times(shown))
    return found


def _without_times(shown: RecipientShown) -> RecipientShown:
    """What those see of it to whom it was sent, too."""
    return RecipientShown(
        who=shown.who, email="", outside=shown.outside, copied=shown.copied, mailed_at=None, opened_at=None,
        downloaded_at=None, acknowledged_at=None, acknowledged_how="", acknowledged_note="", files_taken=[],
        link_closed="", bounced_at=None, bounced_why="", receipt=False,
    )  # fmt: skip
