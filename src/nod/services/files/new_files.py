"""Files on their way in, by whatever door: stored once, known by their SHA-256, and looked into afterwards."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from sqlalchemy.orm import Session

from nod.core.acts.refusals import RuleBroken
from nod.formats.files.media_types import media_type
from nod.services.acts.context import Act, Context
from nod.store.blobs import BlobTooLarge, NoRoom, StoredBlob
from nod.store.tables import BlobRow


@dataclass(frozen=True)
class NewBlob:
    """A stored file with its type, which is found out before the act that takes it in."""

    sha256: str
    size_bytes: int
    media_type: str


def no_room() -> RuleBroken:
    words = "There is no room left on the disk, so the file was not taken in. Nothing else is lost."
    return RuleBroken("no_room", words)


def new_blob(blob: StoredBlob) -> NewBlob:
    return NewBlob(blob.sha256, blob.size_bytes, media_type(blob.head))


def store_file(context: Context, name: str, chunks: Iterable[bytes]) -> NewBlob:
    """Raises RuleBroken for a file that is too large or finds no room; `name` is said then."""
    try:
        return new_blob(context.blobs.put(chunks, context.settings.largest_file_bytes))
    except BlobTooLarge as error:
        largest = context.settings.largest_file_bytes // 1024**2
        raise RuleBroken("file_too_large", f"The file is larger than {largest} MB.", name) from error
    except NoRoom as error:
        raise no_room() from error


def keep_blob(act: Act, blob: NewBlob) -> None:
    """Know the blob and have it looked into; a blob that is known already is not looked into again."""
    known = act.session.get(BlobRow, blob.sha256)
    if known is not None and known.state == "known":
        return
    if known is None:
        act.session.add(
            BlobRow(sha256=blob.sha256, size_bytes=blob.size_bytes, media_type=blob.media_type, stored_at=act.at)
        )
        act.session.flush()
    act.ask("look_into", f"look_into:{blob.sha256}", {"sha256": blob.sha256})


def keep_made(context: Context, session: Session, blob: StoredBlob, media: str) -> None:
    """Takes down that these bytes are there, once."""
    if session.get(BlobRow, blob.sha256) is None:
        session.add(
            BlobRow(
                sha256=blob.sha256, size_bytes=blob.size_bytes, media_type=media, stored_at=context.clock.now(),
                state="made",
            )
        )  # fmt: skip
