"""What the files of revisions say that have no pages to look at."""

from __future__ import annotations

from nod.services.access.visibility import see_revision
from nod.services.acts.context import Context
from nod.services.acts.seats import Actor
from nod.services.files.file_previews import FilePreview, preview_file
from nod.services.press.press import Press
from nod.store.tables import BlobRow


def read_file_preview(context: Context, press: Press, actor: Actor, revision_id: str) -> FilePreview:
    """Raises NotFound for one who may not see it."""
    with context.database.read() as session:
        revision = see_revision(session, actor, revision_id)[0]
        trouble = session.get_one(BlobRow, revision.sha256).fault_words
        sha256, name = revision.sha256, revision.file_name
    return preview_file(context, press, sha256, name, trouble)
