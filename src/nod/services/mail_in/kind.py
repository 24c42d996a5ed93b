"""Mails that came in, as things: for those who run the project, but for what is kept from them.

What they answered is there for whoever sees that.
"""

from __future__ import annotations

from typing import Any

from sqlalchemy import ColumnElement, exists

from nod.services.things.audiences import AudienceOf
from nod.services.things.kinds import ThingKind, thing_kind
from nod.store.asides import aside
from nod.store.tables import MailInRow


def _not_private(mail_id: Any) -> ColumnElement[bool]:
    row = aside("mail_in_not_private", MailInRow)
    return exists().where(row.id == mail_id, ~row.private)


MAIL = thing_kind(
    ThingKind(
        code="mail",
        words="mail",
        plural="mails",
        row=MailInRow,
        audience=AudienceOf(is_open=False, leads=_not_private, stewards=_not_private),
        number=lambda row: "",
        title=lambda row: row.subject or "a mail without a subject",
        address=lambda row: f"/mail?mail={row.id}",
        named_by=(MailInRow.subject, MailInRow.sender_name, MailInRow.sender_email),
        listed=(MailInRow.id, MailInRow.subject),
        newest=MailInRow.arrived_at,
        topic="mail",
        has_talk=False,
    )
)
