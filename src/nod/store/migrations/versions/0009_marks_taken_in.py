"""Marks and answers that were taken in from files of other programs."""

from alembic import op

revision = "0009"
down_revision = "0008"


def upgrade() -> None:
    for table in ("mark", "reply"):
        for column in ("other_author", "file_id"):
            op.execute(f"ALTER TABLE {table} ADD COLUMN {column} VARCHAR NOT NULL DEFAULT ''")
    op.execute("ALTER TABLE mark ADD COLUMN changed_at VARCHAR(27)")
    op.execute("CREATE INDEX ix_mark_file_id ON mark (file_id)")
