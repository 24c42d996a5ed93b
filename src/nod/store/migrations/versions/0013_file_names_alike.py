"""Names of files are looked up whatever their capitals and accents: for every letter, not only a to z.

A mark has one state wherever it was carried: the one that was set last.
"""

import unicodedata
from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"


def upgrade() -> None:
    op.add_column("revision", sa.Column("file_alike", sa.String(), nullable=False, server_default=""))
    connection: Any = op.get_bind().connection.driver_connection
    connection.create_function("alike", 1, _alike, deterministic=True)
    op.execute("UPDATE revision SET file_alike = alike(file_name)")
    op.drop_index("ix_revision_file_name", "revision")
    op.create_index("ix_revision_file_alike", "revision", ["file_alike"])
    op.execute(_ONE_STATE)


_ONE_STATE = """
    WITH state_of AS (
        SELECT CASE thread_id WHEN '' THEN id ELSE thread_id END AS thread, state, state_by, max(state_at) AS state_at
        FROM mark WHERE state_at IS NOT NULL GROUP BY thread
    )
    UPDATE mark SET state = last.state, state_by = last.state_by, state_at = last.state_at, version = version + 1
    FROM state_of AS last
    WHERE last.thread = CASE mark.thread_id WHEN '' THEN mark.id ELSE mark.thread_id END
    AND (mark.state_at IS NULL OR mark.state_at != last.state_at)
"""
"""SQLite takes the other values of a row from where the maximum is."""


def _alike(name: str) -> str:
    return unicodedata.normalize("NFC", unicodedata.normalize("NFD", name).casefold())
