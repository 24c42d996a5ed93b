"""Title blocks and their readers, comparisons, uploads in pieces; what was read of each page."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    _make_tables()
    _widen_tables()
    # What is known already was looked into without its words: it is looked into again.
    op.execute("UPDATE blob SET state = 'waiting' WHERE fault = '' AND page_count > 0")
    op.execute(
        "INSERT OR IGNORE INTO outbox (kind, key, payload, made_at, not_before, tries, leased_by, trouble)"
        " SELECT 'look_into', 'look_again:' || sha256, json_object('sha256', sha256), stored_at, stored_at, 0, '', ''"
        " FROM blob WHERE state = 'waiting'"
    )


def _make_tables() -> None:
    blob = sa.ForeignKey("blob.sha256")
    op.create_table(
        "page_words",
        sa.Column("sha256", sa.String(64), blob, primary_key=True),
        sa.Column("place", sa.Integer(), primary_key=True),
        sa.Column("words", sa.LargeBinary(), nullable=False),
    )
    op.create_table(
        "block_reader",
        sa.Column("id", sa.String(16), primary_key=True),
        sa.Column("project_id", sa.String(16), sa.ForeignKey("project.id"), nullable=False),
        sa.Column("company", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("width_mm", sa.Float(), nullable=False),
        sa.Column("height_mm", sa.Float(), nullable=False),
        sa.Column("zones", sa.JSON(), nullable=False),
        sa.Column("learned", sa.JSON(), nullable=False),
        sa.Column("removed", sa.Boolean(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
    )
    op.create_index("ix_block_reader_project_id", "block_reader", ["project_id"])
    op.create_table(
        "comparison",
        sa.Column("before_sha256", sa.String(64), sa.ForeignKey("blob.sha256"), primary_key=True),
        sa.Column("after_sha256", sa.String(64), sa.ForeignKey("blob.sha256"), primary_key=True),
        sa.Column("strict", sa.Boolean(), primary_key=True),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("asked_at", sa.String(27), nullable=False),
        sa.Column("result", sa.JSON(), nullable=False),
    )
    op.create_table(
        "upload",
        sa.Column("id", sa.String(16), primary_key=True),
        sa.Column("batch_id", sa.String(16), sa.ForeignKey("batch.id"), nullable=False),
        sa.Column("person_id", sa.String(16), sa.ForeignKey("person.id"), nullable=False),
        sa.Column("file_name", sa.String(), nullable=False),
        sa.Column("folder_path", sa.String(), nullable=False),
        sa.Column("size_bytes", sa.Integer(), nullable=False),
        sa.Column("begun_at", sa.String(27), nullable=False),
    )
    op.create_index("ix_upload_batch_id", "upload", ["batch_id"])


def _widen_tables() -> None:
    text, flag, number, facts = (
        "VARCHAR NOT NULL DEFAULT ''",
        "BOOLEAN NOT NULL DEFAULT 0",
        "INTEGER NOT NULL DEFAULT 0",
        "JSON NOT NULL DEFAULT '{}'",
    )
    columns = {
        "blob": {"pages_read": number, "contents": facts},
        "page": {"word_count": number, "is_scan": flag, "trouble": text, "contents": facts},
        "arrival": {
            "folder_path": text,
            "scale": text,
            "by_name": facts,
            "by_block": facts,
            "chosen": facts,
            "reader_id": text,
            "split_from": text,
            "split_place": number,
            "sheets_inside": number,
            "kept_whole": flag,
        },
        "batch": {"keep_tree": flag},
        "document": {"kind": "VARCHAR NOT NULL DEFAULT 'sheet'", "scale": text},
        "revision": {"scale": text},
    }
    for table, added in columns.items():
        for name, kind in added.items():
            op.execute(f"ALTER TABLE {table} ADD COLUMN {name} {kind}")
    op.create_index("ix_arrival_sha256", "arrival", ["sha256"])
    op.create_index("ix_arrival_number", "arrival", ["project_id", "number", "state"])
