"""An event, and a line of a summary, say for whom they are in the same way for every kind of thing."""

import json

import sqlalchemy as sa
from alembic import op

revision = "0017"
down_revision = "0016"


def upgrade() -> None:
    # Events are kept for a while only; whoever asks for what came after one that is gone fetches everything anew.
    op.execute("DROP TABLE live_event_folder")
    op.execute("DELETE FROM live_event")
    op.execute("ALTER TABLE live_event DROP COLUMN only_person_id")
    op.add_column("live_event", sa.Column("audience", sa.JSON(), nullable=False, server_default="{}"))
    op.add_column("summary_line", sa.Column("about", sa.JSON(), nullable=False, server_default="[]"))
    lines = op.get_bind().execute(sa.text("SELECT key, document_ids FROM summary_line")).all()
    for key, documents in lines:
        about = json.dumps([["document", each] for each in json.loads(documents)])
        update = sa.text("UPDATE summary_line SET about = :about WHERE key = :key")
        op.get_bind().execute(update, {"about": about, "key": key})
    op.execute("ALTER TABLE summary_line DROP COLUMN document_ids")
