"""A document as it shows itself to whoever comes by a link: its revision of now, its pages, its file."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path

from sqlalchemy.orm import Session

from nod.core.acts.refusals import NotFound
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.formats.sheet.pdf_look import WHOLE_PAGE_LEVEL
from nod.services.acts.answers import Answered, Who, people_by_id
from nod.services.acts.context import Context
from nod.services.acts.seats import Actor, actor_of
from nod.services.acts.tries import key_of, take_one
from nod.services.files.files_to_send import FileToSend
from nod.services.links.rooms import LinkRoom, link_room, may_file_there
from nod.services.links.visits import Guest, guest_of
from nod.services.press.press import Press
from nod.services.register.documents import sendable_name
from nod.services.sheet.page_pictures import read_whole
from nod.store.tables import BlobRow, RevisionRow

_MOST_DOWNLOADS = 30

DOCUMENTS = link_room(LinkRoom("document", ("look", "download", "comment"), may_file_there))


class GuestDocument(Answered):
    """The document with its revision of now; `pages` can be looked at."""

    project: str
    number: str
    title: str
    revision: str
    status: str
    filed_at: datetime
    file_name: str
    size_bytes: int
    pages: int
    withdrawn: bool
    given_by: Who
    guest: str
    allows: list[str]


def _revision(session: Session, guest: Guest) -> RevisionRow:
    if guest.kind.code != "document":
        raise NotFound
    return session.get_one(RevisionRow, guest.row.revision_id)


def read_document(context: Context, secret: str) -> GuestDocument:
    with context.database.read() as session:
        guest = guest_of(context, session, secret)
        revision, document = _revision(session, guest), guest.row
        blob = session.get_one(BlobRow, revision.sha256)
        return GuestDocument(
            project=f"{guest.project.number} {guest.project.name}", number=document.number, title=document.title,
            revision=revision.code, status=revision.status, filed_at=revision.filed_at,
            file_name=sendable_name(document.number, revision.code, revision.status, revision.file_name),
            size_bytes=blob.size_bytes, pages=blob.page_count, withdrawn=document.withdrawn_at is not None,
            given_by=people_by_id(session, {guest.link.made_by})[guest.link.made_by], guest=guest.name,
            allows=guest.link.allows,
        )  # fmt: skip


def read_page(context: Context, press: Press, secret: str, page: int) -> Path:
    """A picture of a page, counted from 0, drawn as the giver may see it."""
    with context.database.read() as session:
        guest = guest_of(context, session, secret)
        revision_id = _revision(session, guest).id
        giver: Actor = actor_of(session, guest.link.made_by)
    return read_whole(context, press, giver, revision_id, (page, WHOLE_PAGE_LEVEL))


def download_document(context: Context, secret: str) -> FileToSend:
    """The file as it came. Raises NotAllowed where the link does not allow it."""
    with context.database.write() as session:
        guest = guest_of(context, session, secret)
        revision = _revision(session, guest)
        guest.need("download")
        take_one(session, key_of("guest download", guest.link.id), _MOST_DOWNLOADS, guest.act.at)
        document = guest.row
        subjects = (Subject("revision", revision.id), Subject("link", guest.link.id))
        about = f"{document.number} {revision.code}"
        guest.act.record(
            document.project_id, Fact(FactKind.REVISION_DOWNLOADED, Subject("document", document.id), about, subjects)
        )
        name = sendable_name(document.number, revision.code, revision.status, revision.file_name)
        media = session.get_one(BlobRow, revision.sha256).media_type
        return FileToSend(context.blobs.local(revision.sha256), name, media)
