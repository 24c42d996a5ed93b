"""Files without pages: what they say, in plain parts."""

from __future__ import annotations

from nod.core.acts.refusals import RuleBroken
from nod.formats.files.preview import NoPreview
from nod.services.acts.answers import Answered
from nod.services.acts.context import Context
from nod.services.press.press import Press, PressStopped


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


def preview_file(context: Context, press: Press, sha256: str, name: str, trouble: str) -> FilePreview:
    """`trouble` is what is known of it, told where there is nothing to show. Raises RuleBroken if it takes too long."""
    what, parts = "File", []
    try:
        with context.blobs.local(sha256) as path:
            size = path.stat().st_size
            found = press.preview(path, name)
        what, trouble = found.what, ""
        parts = [
            PartShown(title=each.title, lines=list(each.lines), rows=[list(row) for row in each.rows],
                      facts=each.facts, more=each.more)
            for each in found.parts
        ]  # fmt: skip
    except NoPreview as error:
        trouble = trouble or str(error)
    except PressStopped as error:
        raise RuleBroken("file_slow", "Reading this file takes too long.", name) from error
    return FilePreview(what=what, file_name=name, size_bytes=size, sha256=sha256, trouble=trouble, parts=parts)
