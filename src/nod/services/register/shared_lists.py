"""A folder, drawing set or kept view as whoever came by a link sees it: what its giver may send out, as it is now."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.acts.refusals import NotFound
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.answers import Answered, Who, people_by_id
from nod.services.acts.context import Context
from nod.services.acts.seats import Actor, Seat, actor_of, take_seat
from nod.services.acts.tries import key_of, take_one
from nod.services.files.files_to_send import FileToSend
from nod.services.links.links import see_to_give
from nod.services.links.visits import Guest, guest_of
from nod.services.press.press import Press
from nod.services.register.documents import sendable_name
from nod.services.register.guest_files import GuestFile, guest_file
from nod.services.register.register_list import AskedView, read_view
from nod.services.register.shared_kinds import DRAWING_SET, FOLDER, VIEW, asked_in
from nod.services.sheet.page_pictures import draw_tile, draw_whole
from nod.store import register_query
from nod.store.dialects.sqlite import one_of, unindexed
from nod.store.tables import BlobRow, DocumentRow, RevisionRow, SetSheetRow

MOST_SHARED = 5000
_MOST_DOWNLOADS = 600
_SHOWN_BEFORE = 5


class SharedRevision(Answered):
    """A revision that can be looked at. `in_force`: it may be worked from; the latest may be in review still."""

    id: str
    code: str
    status: str
    in_force: bool
    latest: bool
    size_bytes: int


class SharedLine(Answered):
    """A document with its latest revision, and the one in force where that is another."""

    number: str
    title: str
    revisions: list[SharedRevision]


class SharedList(Answered):
    """`total` counts the documents; `capped` where there are more than are shown by links."""

    project: str
    kind_words: str
    name: str
    given_by: Who
    guest: str
    allows: list[str]
    lines: list[SharedLine]
    total: int
    capped: bool


class SharePreview(Answered):
    """What whoever gets the link would see: how many documents, and the first of them."""

    total: int
    first: list[str]


def read_shared(context: Context, secret: str, start: int, limit: int) -> SharedList:
    with context.database.read() as session:
        guest = guest_of(context, session, secret)
        ids = _documents(session, _giver(session, guest), guest.kind.code, guest.row)
        given_by = people_by_id(session, {guest.link.made_by})[guest.link.made_by]
        return SharedList(
            project=f"{guest.project.number} {guest.project.name}", kind_words=guest.kind.words,
            name=guest.kind.name(guest.row), given_by=given_by, guest=guest.name, allows=guest.link.allows,
            lines=_lines(session, ids[start : start + limit]), total=min(len(ids), MOST_SHARED),
            capped=len(ids) > MOST_SHARED,
        )  # fmt: skip


def preview(context: Context, actor: Actor, kind: str, target: str) -> SharePreview:
    """Raises NotFound for what is no list or is not there, NotAllowed for those who may not give it."""
    with context.database.read() as session:
        row, seat = see_to_give(session, actor, kind, target)
        ids = _documents(session, seat, kind, row)
        lines = _lines(session, ids[:_SHOWN_BEFORE])
        return SharePreview(
            total=min(len(ids), MOST_SHARED), first=[f"{each.number} {each.revisions[0].code}" for each in lines]
        )


def _giver(session: Session, guest: Guest) -> Seat:
    """In whose right all of it is shown, as far as that goes now."""
    return take_seat(session, actor_of(session, guest.link.made_by), guest.project.id)


def _documents(session: Session, seat: Seat, kind: str, row: Any) -> list[str]:
    """Their ids in order, at most one more than are shown. Raises NotFound for what is no list.

    What its giver may see but not send out is not among them.
    """
    if kind == DRAWING_SET.code:
        query = select(SetSheetRow.document_id).where(SetSheetRow.set_id == row.id).order_by(SetSheetRow.place)
        ids: Sequence[str] = list(session.scalars(query))
    elif kind == FOLDER.code:
        ids = _in_view(session, seat, "", json.dumps([["folder", "is", row.id]]))
    elif kind == VIEW.code:
        ids = _in_view(session, seat, *asked_in(row.content))
    else:
        raise NotFound
    may_go = select(DocumentRow.id).where(
        unindexed(DocumentRow.project_id) == seat.project.id, one_of(DocumentRow.id, list(ids)), ~DocumentRow.withdrawn,
        seat.sees(DocumentRow.folder_id, Level.FILE),
    )  # fmt: skip
    going = set(session.scalars(may_go))
    return [each for each in ids if each in going]


def _in_view(session: Session, seat: Seat, words: str, filters: str) -> list[str]:
    """Of what its giver may send out alone: what is counted is what is shown."""
    view = read_view(session, seat, AskedView(seat.project.id, words, filters))
    if view.folders is not None:
        view = replace(view, folders=frozenset(each for each in view.folders if seat.at(each) >= Level.FILE))
    return register_query.ids(session, view, MOST_SHARED + 1)


def _lines(session: Session, ids: Sequence[str]) -> list[SharedLine]:
    documents = {
        each.id: each for each in session.scalars(select(DocumentRow).where(one_of(DocumentRow.id, list(ids))))
    }
    wanted = {id for each in documents.values() for id in (each.revision_id, each.in_force_id) if id}
    query = select(RevisionRow).where(one_of(RevisionRow.id, list(wanted)))
    revisions = {each.id: each for each in session.scalars(query)}
    return [_line(documents[id], revisions) for id in ids if id in documents]


def _line(document: DocumentRow, revisions: dict[str, RevisionRow]) -> SharedLine:
    ids = dict.fromkeys(id for id in (document.revision_id, document.in_force_id) if id in revisions)
    return SharedLine(
        number=document.number, title=document.title,
        revisions=[
            SharedRevision(
                id=id, code=revisions[id].code, status=revisions[id].status, in_force=id == document.in_force_id,
                latest=id == document.revision_id, size_bytes=revisions[id].size_bytes,
            )
            for id in ids
        ],
    )  # fmt: skip


def _shown(context: Context, session: Session, secret: str, revision_id: str) -> tuple[Guest, DocumentRow, RevisionRow]:
    """Asked anew for each file. Raises NotFound for what the link does not show."""
    guest = guest_of(context, session, secret)
    ids = _documents(session, _giver(session, guest), guest.kind.code, guest.row)[:MOST_SHARED]
    query = select(DocumentRow).where(
        one_of(DocumentRow.id, ids),
        or_(DocumentRow.revision_id == revision_id, DocumentRow.in_force_id == revision_id),
    )
    document = session.scalars(query).first()
    if document is None:
        raise NotFound(revision_id)
    return guest, document, session.get_one(RevisionRow, revision_id)


def _name(document: DocumentRow, revision: RevisionRow) -> str:
    return sendable_name(document.number, revision.code, revision.status, revision.file_name)


def read_file(context: Context, secret: str, revision_id: str) -> GuestFile:
    with context.database.read() as session:
        _, document, revision = _shown(context, session, secret, revision_id)
        return guest_file(session, revision, document.number, _name(document, revision))


def _content(context: Context, secret: str, revision_id: str) -> str:
    with context.database.read() as session:
        return _shown(context, session, secret, revision_id)[2].sha256


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
    """The file as it came. Raises NotAllowed where the link does not allow it."""
    with context.database.write() as session:
        guest, document, revision = _shown(context, session, secret, revision_id)
        guest.need("download")
        take_one(session, key_of("guest download", guest.link.id), _MOST_DOWNLOADS, guest.act.at)
        subjects = (Subject("revision", revision.id), Subject("link", guest.link.id))
        about = f"{document.number} {revision.code}"
        fact = Fact(FactKind.REVISION_DOWNLOADED, Subject("document", document.id), about, subjects)
        guest.act.record(document.project_id, fact)
        media = session.get_one(BlobRow, revision.sha256).media_type
        return FileToSend(context.blobs.local(revision.sha256), _name(document, revision), media)
