"""Letters in great numbers: counted by state and found by company without looking at each."""

from alembic import op

revision = "0058"
down_revision = "0057"


def upgrade() -> None:
    op.drop_index("ix_letter_state", "letter")
    op.create_index("ix_letter_state", "letter", ["project_id", "state", "private", "due_on", "id"])
    op.create_index("ix_letter_company", "letter", ["project_id", "company_id", "state", "private", "id"])
    op.execute("CREATE INDEX ix_letter_message_draft ON letter_message (author_id) WHERE sent_at IS NULL")
    op.create_index("ix_letter_private", "letter", ["private", "id"])
