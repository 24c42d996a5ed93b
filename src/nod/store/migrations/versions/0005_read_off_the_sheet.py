"""What was read by OCR, and the further fields that a title block gave."""

from alembic import op

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    op.execute("ALTER TABLE blob ADD COLUMN ocr VARCHAR NOT NULL DEFAULT ''")
    op.execute("ALTER TABLE arrival ADD COLUMN fields JSON NOT NULL DEFAULT '{}'")
