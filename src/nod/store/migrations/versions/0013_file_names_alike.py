"""Names of files are looked up whatever their capitals and accents: for every letter, not only a to z."""

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


def _alike(name: str) -> str:
    return unicodedata.normalize("NFC", unicodedata.normalize("NFD", name).casefold())
