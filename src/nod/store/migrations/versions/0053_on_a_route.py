"""A submittal goes on a route, whose outcome answers it; what was sent in is registered."""

import sqlalchemy as sa
from alembic import op

revision = "0053"
down_revision = "0052"


def upgrade() -> None:
    op.execute("ALTER TABLE review ADD COLUMN answers_kind VARCHAR NOT NULL DEFAULT ''")
    op.execute("ALTER TABLE review ADD COLUMN answers_id VARCHAR NOT NULL DEFAULT ''")
    op.execute("ALTER TABLE submittal ADD COLUMN review_id VARCHAR(16) REFERENCES review(id)")
    op.create_index("ix_submittal_review_id", "submittal", ["review_id"])
    op.execute("ALTER TABLE submittal_round ADD COLUMN review_id VARCHAR(16) REFERENCES review(id)")
    op.create_table(
        "submittal_file",
        sa.Column("attachment_id", sa.String(16), sa.ForeignKey("attachment.id"), primary_key=True),
        sa.Column("round_id", sa.String(16), sa.ForeignKey("submittal_round.id"), nullable=False),
        sa.Column("revision_id", sa.String(16), sa.ForeignKey("revision.id")),
        sa.Column("trouble", sa.String(), nullable=False),
    )
    op.create_index("ix_submittal_file_round_id", "submittal_file", ["round_id"])
    # What was sent in and is not answered yet is registered now.
    op.execute(
        "INSERT INTO outbox (kind, key, payload, made_at, not_before, tries, lapses, leased_by, trouble)"
        " SELECT 'file_sent_in', 'file_sent_in' || char(58) || r.id || char(58) || '0',"
        " json_object('round_id', r.id, 'looked', 0), r.sent_at, r.sent_at, 0, 0, '', ''"
        " FROM submittal_round r WHERE r.answered_at IS NULL"
    )
