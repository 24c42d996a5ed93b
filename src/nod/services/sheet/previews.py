"""Files without pages: what they say, in plain parts."""

from __future__ import annotations

from nod.core.acts.refusals import RuleBroken
from nod.formats.preview import NoPreview
from nod.services.access.visibility import see_revision
from nod.services.acts.answers import Answered
from nod.services.acts.context import Context
from nod.services.acts.seats import Actor
from nod.services.press.press import Press, PressStopped
from nod.store.tables import BlobRow


class PartShown(Answered):
    """A piece of a file: its text, or the rows of a table, or with `facts` names and what they say."""

    title: str
    lines: list[str]
    rows: list[list[str]]
    facts: bool
    more: bool


class FilePreview(Answered):
    """What a file is and says; `trouble` says why nothing can be shown of it."""

    what: str
    file_name: str
    size_bytes: int
    sha256: str
    trouble: str
    parts: list[PartShown]


def read_file_preview(context: Context, press: Press, actor: Actor, revision_id: str) -> FilePreview:
    """Raises NotFound for one who may not see it."""
    with context.database.read() as session:
        revision = see_revision(session, actor, revision_id)[0]
        blob = session.get_one(BlobRow, revision.sha256)
        sha256, name, size = revision.sha256, revision.file_name, blob.size_bytes
        trouble = blob.fault_words
    what, parts = "File", []
    try:
        found = press.preview(context.blobs.path(sha256), name)
        what, trouble = found.what, ""
        parts = [
            PartShown(title=each.title, lines=list(each.lines), rows=[list(row) for row in each.rows],
                      facts=each.facts, more=each.more)
            for each in found.parts
        ]  # fmt: skip
    except NoPreview as error:
        trouble = trouble or str(error)
    except PressStopped as error:
        raise RuleBroken("file_slow", "Reading this file takes too long.", revision_id) from error
    return FilePreview(what=what, file_name=name, size_bytes=size, sha256=sha256, trouble=trouble, parts=parts)
