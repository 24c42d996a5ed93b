"""Marks that are carried forward to a new revision."""

from alembic import op

revision = "0008"
down_revision = "0007"


def upgrade() -> None:
    op.execute("ALTER TABLE mark ADD COLUMN thread_id VARCHAR NOT NULL DEFAULT ''")
    op.execute("ALTER TABLE mark ADD COLUMN carried_from VARCHAR NOT NULL DEFAULT ''")
    op.execute("ALTER TABLE mark ADD COLUMN touched BOOLEAN")
    op.execute("CREATE INDEX ix_mark_carried_from ON mark (carried_from)")
