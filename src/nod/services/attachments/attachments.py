"""Files added to what is said about a thing: there for whoever sees the thing, filed by the rule of its kind (§4)."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Sequence
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from nod.core.access.levels import under
from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.core.intake.file_names import base_name
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.formats.sheet.pdf_look import WHOLE_PAGE_LEVEL
from nod.services.access.folders import folder_paths
from nod.services.acts.answers import Answered, Who, people_by_id
from nod.services.acts.context import Act, Context, acting
from nod.services.acts.seats import NOBODY, Actor, Seat, take_seat, tree_of
from nod.services.files.file_previews import FilePreview, preview_file
from nod.services.files.files_to_send import FileToSend
from nod.services.files.new_files import NewBlob, keep_blob, store_file
from nod.services.press.press import Press
from nod.services.things.kinds import ThingKind, kind_of
from nod.services.things.things import any_seen, id_of, project_of, see_thing, things_of
from nod.store.ids import new_id
from nod.store.tables import AttachmentRow, BlobRow, FolderRow, ProjectRow

MOST = 20
_LONGEST_NAME = 200
_MOST_LISTED = 500
_UNSAID_KEPT = timedelta(days=30)


class Attachment(Answered):
    """A file that was added. `pages` can be looked at; `trouble` says what is wrong with it or to be minded in it.

    While it is `waiting` it has not been looked into.
    """

    id: str
    name: str
    size_bytes: int
    sha256: str
    pages: int
    waiting: bool
    trouble: str


class AttachmentListed(Attachment):
    """With what it is attached to, where it is filed (empty where one does not see that), and who added it when."""

    on_words: str
    on_kind_words: str
    on_address: str
    folder: str
    added_by: Who | None
    added_at: datetime


class Attachments(Answered):
    """The latest first; `more` than are listed there may be."""

    attachments: list[AttachmentListed]
    more: bool


def add_attachment(
    context: Context, actor: Actor, kind: str, thing_id: str, name: str, chunks: Iterable[bytes]
) -> Attachment:
    """Stores a file for what somebody is about to say. Raises NotAllowed where they may not say anything."""
    with context.database.read() as session:
        _speaking(session, actor, kind, thing_id)
    tidy = base_name(name)[:_LONGEST_NAME]
    blob = store_file(context, tidy, chunks)
    with acting(context, actor) as act:
        found, thing, _ = _speaking(act.session, actor, kind, thing_id)
        return keep_added(act, found, thing, tidy, blob)


def keep_added(act: Act, kind: ThingKind[Any], thing: Any, name: str, blob: NewBlob) -> Attachment:
    """A stored file, for what the actor is about to say. The caller has asked whether they may say anything there."""
    row = _put(act, kind, thing, name, blob, act.actor.person_id)
    _record(act, FactKind.ATTACHMENT_ADDED, row, kind.name(thing), private_to=act.actor.person_id)
    return _show(act.session, [row])[0]


def _put(act: Act, kind: ThingKind[Any], thing: Any, name: str, blob: NewBlob, person_id: str) -> AttachmentRow:
    keep_blob(act, blob)
    project = act.session.get_one(ProjectRow, project_of(thing))
    row = AttachmentRow(
        id=new_id(), project_id=project.id, on_kind=kind.code, on_id=id_of(thing), sha256=blob.sha256,
        name=base_name(name)[:_LONGEST_NAME], folder_id=_folder(act.session, project, kind, thing),
        added_by=person_id or None, added_at=act.at,
    )  # fmt: skip
    act.session.add(row)
    act.session.flush()
    return row


def remove_attachment(context: Context, actor: Actor, attachment_id: str) -> None:
    """One of one's own that was not said yet; the trail keeps that it was there. Raises NotFound for any other."""
    with acting(context, actor) as act:
        found, thing, seat = _thing(act.session, actor, own_unsaid(act, attachment_id))
        if not found.may_talk(seat, thing):
            raise NotAllowed("level_too_low", "You may read this, and not write there.", found.name(thing))
        forget_added(act, found, thing, attachment_id)


def own_unsaid(act: Act, attachment_id: str, by: str = "") -> AttachmentRow:
    """Raises NotFound for what the actor, or the person `by`, did not add, or what was said."""
    row = _row(act.session, attachment_id)
    if row.said_at or row.added_by != (by or act.actor.person_id):
        raise NotFound(attachment_id)
    return row


def forget_added(act: Act, kind: ThingKind[Any], thing: Any, attachment_id: str, by: str = "") -> None:
    """Takes a file back that the actor, or the person `by`, has added to a thing, and not said. Raises NotFound for any
    other.
    """
    row = own_unsaid(act, attachment_id, by)
    if (row.on_kind, row.on_id) != (kind.code, id_of(thing)):
        raise NotFound(attachment_id)
    _record(act, FactKind.ATTACHMENT_REMOVED, row, kind.name(thing), private_to=row.added_by or "")
    act.session.delete(row)


def forget_unsaid(context: Context) -> None:
    """What somebody added long ago and never said: their draft is gone by now. The trail keeps that it was there."""
    long_ago = context.clock.now() - _UNSAID_KEPT
    with context.database.read() as session:
        unsaid = select(AttachmentRow.id).where(AttachmentRow.said_at.is_(None), AttachmentRow.added_at < long_ago)
        ids = list(session.scalars(unsaid.limit(_MOST_LISTED)))
    for each in ids:
        with context.database.write() as session:
            row = session.scalars(select(AttachmentRow).where(AttachmentRow.id == each)).one_or_none()
            if row is not None and row.said_at is None:
                act = Act(context, session, NOBODY, context.clock.now())
                _record(act, FactKind.ATTACHMENT_REMOVED, row, "", private_to=row.added_by or "")
                session.delete(row)


def attach(act: Act, on: Subject, reply_id: str, ids: Sequence[str], by: str = "") -> list[dict[str, str]]:
    """Files that the actor, or the person `by`, has added to the thing come with an answer; returns what the trail says
    of them.
    """
    if len(ids) > MOST:
        raise RuleBroken("too_many_files", f"Up to {MOST} files are attached at once.")
    told = []
    for each in dict.fromkeys(ids):
        row = _row(act.session, each)
        mine = row.added_by == (by or act.actor.person_id) and row.said_at is None
        if not mine or (row.on_kind, row.on_id) != (on.kind, on.id):
            raise NotFound(each)
        row.reply_id, row.said_at = reply_id, act.at
        told.append({"name": row.name, "sha256": row.sha256})
    act.session.flush()
    return told


def hang_on(act: Act, kind: ThingKind[Any], thing: Any, reply_id: str) -> None:
    """What was said with an answer is there for whoever sees this thing, which is the answer itself."""
    for row in act.session.scalars(select(AttachmentRow).where(AttachmentRow.reply_id == reply_id)):
        row.on_kind, row.on_id = kind.code, id_of(thing)


def attach_mailed(
    act: Act, kind: ThingKind[Any], thing: Any, reply_id: str, files: Sequence[tuple[str, NewBlob]], person_id: str
) -> list[dict[str, str]]:
    """Files that came with a mail, filed like any other; returns what the trail says of them."""
    told = []
    for name, blob in files:
        row = _put(act, kind, thing, name, blob, person_id)
        row.said_at, row.reply_id = act.at, reply_id
        told.append({"name": row.name, "sha256": row.sha256})
    act.session.flush()
    return told


def attachments_of(session: Session, replies: Iterable[str]) -> dict[str, list[Attachment]]:
    """By answer, in the order they were added."""
    query = select(AttachmentRow).where(AttachmentRow.reply_id.in_(set(replies) - {""})).order_by(AttachmentRow.seq)
    rows = list(session.scalars(query))
    found: dict[str, list[Attachment]] = {}
    for row, shown in zip(rows, _show(session, rows), strict=True):
        found.setdefault(row.reply_id, []).append(shown)
    return found


def list_attachments(
    context: Context, actor: Actor, project_id: str, words: str, folders: Collection[str] = ()
) -> Attachments:
    """All those of a project that are there for this person, by words of their names, filed in these folders or below.

    Folders that this person does not see hold nothing for them.
    """
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        paths = folder_paths(session, seat)
        named = (AttachmentRow.name.icontains(word, autoescape=True) for word in words.split())
        here = [AttachmentRow.project_id == project_id, AttachmentRow.said_at.is_not(None), *named]
        if folders:
            tree = tree_of(session, project_id)
            inside = {below for each in folders if each in paths for below in (each, *under(tree, each))} & set(paths)
            here.append(AttachmentRow.folder_id.in_(inside))
        query = (
            select(AttachmentRow)
            .where(*here, any_seen(seat, AttachmentRow.on_kind, AttachmentRow.on_id))
            .order_by(AttachmentRow.seq.desc())
        )
        found = session.scalars(query.limit(_MOST_LISTED + 1)).all()
        rows = found[:_MOST_LISTED]
        on = things_of(session, seat, {(row.on_kind, row.on_id) for row in rows})
        people = people_by_id(session, {row.added_by for row in rows if row.added_by})
        listed = [
            AttachmentListed(
                **shown.model_dump(), on_words=thing.words, on_kind_words=thing.kind_words, on_address=thing.address,
                folder=paths.get(row.folder_id, ""), added_by=people.get(row.added_by or ""),
                added_at=row.said_at or row.added_at,
            )
            for row, shown in zip(rows, _show(session, rows), strict=True)
            if (thing := on.get((row.on_kind, row.on_id)))
        ]  # fmt: skip
        return Attachments(attachments=listed, more=len(found) > _MOST_LISTED)


def download_attachment(context: Context, actor: Actor, attachment_id: str) -> FileToSend:
    """The file as it came. Each download is an entry of the trail."""
    with acting(context, actor) as act:
        row, found, thing = see_attachment(act.session, actor, attachment_id)
        return send_attached(act, row, found.name(thing))


def send_attached(act: Act, row: AttachmentRow, about: str) -> FileToSend:
    """An entry of the trail, and the file. The caller has asked whether the actor may have it."""
    media = act.session.get_one(BlobRow, row.sha256).media_type
    _record(act, FactKind.ATTACHMENT_DOWNLOADED, row, about, private_to="" if row.said_at else act.actor.person_id)
    return FileToSend(act.context.blobs.local(row.sha256), row.name, media)


def attached_to(session: Session, attachment_id: str, replies: Collection[str]) -> AttachmentRow:
    """A file that was said with one of these answers. Raises NotFound for any other."""
    row = _row(session, attachment_id)
    if row.said_at is None or row.reply_id not in replies:
        raise NotFound(attachment_id)
    return row


def count_unsaid(act: Act, on: Subject) -> int:
    """How many files the actor has added to a thing and not said yet."""
    query = select(func.count()).select_from(AttachmentRow).where(
        AttachmentRow.on_kind == on.kind, AttachmentRow.on_id == on.id, AttachmentRow.said_at.is_(None),
        AttachmentRow.added_by == act.actor.person_id,
    )  # fmt: skip
    return act.session.scalar(query) or 0


def unsaid_on(session: Session, on: Subject, person_id: str) -> list[Attachment]:
    """The files that somebody has added to a thing and not said yet, in the order they were added."""
    query = select(AttachmentRow).where(
        AttachmentRow.on_kind == on.kind, AttachmentRow.on_id == on.id, AttachmentRow.said_at.is_(None),
        AttachmentRow.added_by == person_id,
    )  # fmt: skip
    return _show(session, list(session.scalars(query.order_by(AttachmentRow.seq))))


def read_attachment_preview(context: Context, press: Press, actor: Actor, attachment_id: str) -> FilePreview:
    """What a file without pages says."""
    with context.database.read() as session:
        row, _, _ = see_attachment(session, actor, attachment_id)
        trouble = session.get_one(BlobRow, row.sha256).fault_words
        sha256, name = row.sha256, row.name
    return preview_file(context, press, sha256, name, trouble)


def read_page_picture(context: Context, actor: Actor, attachment_id: str, place: int, *, large: bool = False) -> Path:
    """A picture of a page, counted from 0; a `large` one where that is kept, as of the first pages.

    Raises NotFound for a page that there is not, or not yet.
    """
    with context.database.read() as session:
        row, _, _ = see_attachment(session, actor, attachment_id)
        path = context.tiles.whole_path(row.sha256, place, WHOLE_PAGE_LEVEL)
        if not large or not path.is_file():
            path = context.tiles.thumbnail_path(row.sha256, place)
        if not 0 <= place < session.get_one(BlobRow, row.sha256).page_count or not path.is_file():
            raise NotFound(attachment_id)
        return path


def see_attachment(session: Session, actor: Actor, attachment_id: str) -> tuple[AttachmentRow, ThingKind[Any], Any]:
    """And what it is attached to. Raises NotFound where that is not there for this person, or it is not said yet."""
    row = _row(session, attachment_id)
    found, thing, _ = _thing(session, actor, row)
    if row.said_at is None and row.added_by != actor.private_id and not found.shows_unsaid(thing):
        raise NotFound(attachment_id)
    return row, found, thing


def _row(session: Session, attachment_id: str) -> AttachmentRow:
    row = session.scalars(select(AttachmentRow).where(AttachmentRow.id == attachment_id)).one_or_none()
    if row is None:
        raise NotFound(attachment_id)
    return row


def _thing(session: Session, actor: Actor, row: AttachmentRow) -> tuple[ThingKind[Any], Any, Seat]:
    found = kind_of(row.on_kind)
    if found is None:
        raise NotFound(row.id)
    try:
        thing, seat = see_thing(session, actor, found, row.on_id)
    except NotFound as hidden:
        raise NotFound(row.id) from hidden
    return found, thing, seat


def _speaking(session: Session, actor: Actor, kind: str, thing_id: str) -> tuple[ThingKind[Any], Any, Seat]:
    """A thing about which the actor may say something."""
    found = kind_of(kind)
    if found is None or not found.takes_files:
        raise NotFound(thing_id)
    thing, seat = see_thing(session, actor, found, thing_id)
    if not found.may_talk(seat, thing):
        raise NotAllowed("level_too_low", "You may read this, and not write there.", found.name(thing))
    return found, thing, seat


def _folder(session: Session, project: ProjectRow, kind: ThingKind[Any], thing: Any) -> str:
    """By the project's rule; without one, beside a document, and of what has no folder in the topmost."""
    folders = select(FolderRow.id).where(FolderRow.project_id == project.id)
    by_rule = project.rules.get("attachment_folders", {}).get(kind.code, "")
    wanted = by_rule or getattr(thing, "folder_id", "")
    if wanted and session.scalar(folders.where(FolderRow.id == wanted)):
        return str(wanted)
    return session.scalars(folders.where(FolderRow.parent_id.is_(None))).one()


def _show(session: Session, rows: Sequence[AttachmentRow]) -> list[Attachment]:
    wanted = {row.sha256 for row in rows}
    blobs = {each.sha256: each for each in session.scalars(select(BlobRow).where(BlobRow.sha256.in_(wanted)))}
    return [_shown(row, blobs[row.sha256]) for row in rows]


def _shown(row: AttachmentRow, blob: BlobRow) -> Attachment:
    minded = f"It has active content: {blob.active_content}." if blob.active_content else ""
    return Attachment(
        id=row.id, name=row.name, size_bytes=blob.size_bytes, sha256=row.sha256, pages=blob.page_count,
        waiting=blob.state != "known", trouble=blob.fault_words or minded,
    )  # fmt: skip


def _record(act: Act, kind: FactKind, row: AttachmentRow, about: str, *, private_to: str = "") -> None:
    others = (Subject("attachment", row.id),)
    after = {"file": row.name, "sha256": row.sha256}
    fact = Fact(kind, Subject(row.on_kind, row.on_id), about, others, after=after, private_to=private_to)
    act.record(row.project_id, fact)
