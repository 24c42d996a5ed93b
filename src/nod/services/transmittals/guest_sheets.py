"""The files of a transmittal one by one, for its recipient: looked at as sheets, and taken away (handbook §10)."""

from __future__ import annotations

from pathlib import Path
from typing import NamedTuple

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import NotFound
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.context import Context
from nod.services.acts.tries import key_of, take_one
from nod.services.files.files_to_send import FileToSend
from nod.services.press.press import Press
from nod.services.register.guest_files import GuestFile, guest_file
from nod.services.sheet.page_pictures import draw_tile, draw_whole
from nod.services.transmittals.bags import sent_names
from nod.services.transmittals.guests import Opened, check_not_void, opened_by
from nod.services.transmittals.kind import receipt
from nod.services.transmittals.recipients import tell_transmittal
from nod.store.tables import (
    BlobRow,
    DocumentRow,
    RecipientFileRow,
    RevisionRow,
    SentFileRow,
    TransmittalDocumentRow,
)

_MOST_DOWNLOADS = 600


def _sent(
    context: Context, session: Session, secret: str, revision_id: str
) -> tuple[Opened, RevisionRow, TransmittalDocumentRow]:
    """Raises NotFound for what was not sent with it, RuleBroken when it is void."""
    opened = opened_by(context, session, secret)
    sent = session.get(TransmittalDocumentRow, (opened.row.id, revision_id))
    if sent is None:
        raise NotFound(revision_id)
    check_not_void(opened.row)
    return opened, session.get_one(RevisionRow, revision_id), sent


def read_file(context: Context, secret: str, revision_id: str) -> GuestFile:
    with context.database.read() as session:
        _, revision, sent = _sent(context, session, secret, revision_id)
        return guest_file(session, revision, sent.number, _name(session, revision, sent))


def _name(session: Session, revision: RevisionRow, sent: TransmittalDocumentRow) -> str:
    if sent.file:
        return sent.file
    document = session.scalars(select(DocumentRow).where(DocumentRow.id == sent.document_id)).one()
    return sent_names("", [(document, revision)])[0]


def _content(context: Context, secret: str, revision_id: str) -> str:
    with context.database.read() as session:
        return _sent(context, session, secret, revision_id)[1].sha256


def read_tile(
    context: Context, press: Press, secret: str, revision_id: str, tile: tuple[int, int, int, int]
) -> Path:  # fmt: skip
    """`tile` is page, level, column and row. Raises NotFound outside the page."""
    sha256 = _content(context, secret, revision_id)
    return draw_tile(context, press, sha256, context.blobs.local_sheet(sha256), tile, revision_id)


def read_page(context: Context, press: Press, secret: str, revision_id: str, leaf: tuple[int, int]) -> Path:
    """The whole page; `leaf` is page and level."""
    sha256 = _content(context, secret, revision_id)
    return draw_whole(context, press, sha256, context.blobs.local_sheet(sha256), leaf, revision_id)


def download_file(context: Context, secret: str, revision_id: str) -> FileToSend:
    """One file as it came, under its name in the ZIP. An entry of the trail; the first has its time at the receipt."""
    with context.database.write() as session:
        opened, revision, sent = _sent(context, session, secret, revision_id)
        return _take(context, session, opened, revision, _Taken(revision.sha256, _name(session, revision, sent)))


def download_along(context: Context, secret: str, place: int) -> FileToSend:
    """What goes with a document. Raises NotFound for what is not there, or not made yet."""
    with context.database.write() as session:
        row = opened_by(context, session, secret).row
        along = session.get(SentFileRow, (row.id, place))
        if along is None or not along.sha256:
            raise NotFound(str(place))
        opened, revision, _ = _sent(context, session, secret, along.revision_id)
        return _take(context, session, opened, revision, _Taken(along.sha256, along.file.rpartition("/")[2]))


class _Taken(NamedTuple):
    sha256: str
    name: str


def _take(context: Context, session: Session, opened: Opened, revision: RevisionRow, taken: _Taken) -> FileToSend:
    opened.guest.need("download")
    recipient, act = opened.recipient, opened.guest.act
    take_one(session, key_of("guest download", opened.guest.link.id), _MOST_DOWNLOADS, act.at)
    if session.get(RecipientFileRow, (recipient.id, revision.id)) is None:
        session.add(RecipientFileRow(recipient_id=recipient.id, revision_id=revision.id, downloaded_at=act.at))
    others = (receipt(recipient), Subject("revision", revision.id))
    subject = Subject("transmittal", opened.row.id)
    fact = Fact(FactKind.TRANSMITTAL_DOWNLOADED, subject, opened.row.number, others, after={"file": taken.name})
    act.record(opened.row.project_id, fact)
    tell_transmittal(session, act.at, opened.row, by=act.actor.person_id)
    media = session.get_one(BlobRow, taken.sha256).media_type
    return FileToSend(context.blobs.local(taken.sha256), taken.name, media)
