"""The door for mail: whose it is, and the bytes and their row in one commit. All else is done afterwards."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.mail.addresses import project_name, read_address
from nod.services.acts.context import Context
from nod.store import journal
from nod.store.ids import new_id
from nod.store.tables import BlobRow, MailInRow, MailOutRow, ProjectRow

READ = "read_mail_in"
"""The work that follows, see `services.mail_in.reading`."""


def is_ours(context: Context, address: str) -> bool:
    """Whether an address is that of a project here."""
    with context.database.read() as session:
        return _project(session, context, address) is not None


def take_in(context: Context, envelope_from: str, recipients: Sequence[str], raw: bytes) -> list[str]:
    """Ids of what was kept, one for each project that is addressed; empty if none is.

    When this returns, the bytes and their rows are on the disk. Raises NoRoom or DiskFull, and keeps nothing then.
    """
    with context.database.read() as session:
        addressed = _addressed(session, context, recipients)
    if not addressed:
        return []
    blob = context.blobs.put([raw])
    now, ids = context.clock.now(), []
    with context.database.write() as session:
        if session.get(BlobRow, blob.sha256) is None:
            stored = {"size_bytes": blob.size_bytes, "media_type": "message/rfc822", "stored_at": now, "state": "made"}
            session.add(BlobRow(sha256=blob.sha256, **stored))
            session.flush()
        for project_id, mail_id in addressed.items():
            row = MailInRow(
                id=new_id(), project_id=project_id, sha256=blob.sha256, size_bytes=blob.size_bytes, arrived_at=now,
                envelope_from=envelope_from[:320], answers_id=mail_id,
            )  # fmt: skip
            session.add(row)
            journal.ask(session, now, READ, f"{READ}:{row.id}", {"mail_in_id": row.id})
            ids.append(row.id)
    return ids


def _addressed(session: Session, context: Context, recipients: Iterable[str]) -> dict[str, str]:
    """By project, the mail that is answered; an address that says so counts before the project's own."""
    found: dict[str, str] = {}
    for address in recipients:
        if project := _project(session, context, address):
            project_id, mail_id = project
            found[project_id] = found.get(project_id) or mail_id
    return found


def _project(session: Session, context: Context, address: str) -> tuple[str, str] | None:
    """A project's id, and the mail that the address answers if that was about this project."""
    own = read_address(context.secret, address, context.settings.resolved_mail_domain)
    if own is None:
        return None
    rows = session.execute(select(ProjectRow.id, ProjectRow.number))
    ids = {project_name(number): project_id for project_id, number in rows}
    project_id = ids.get(own.name)
    if project_id is None:
        return None
    sent = session.get(MailOutRow, own.mail_id) if own.mail_id else None
    return project_id, sent.id if sent and sent.project_id == project_id else ""
