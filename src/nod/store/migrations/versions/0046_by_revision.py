"""The reviews and comments of a revision are found without walking along all that was ever reviewed."""

from alembic import op

revision = "0046"
down_revision = "0045"


def upgrade() -> None:
    op.create_index("ix_review_document_revision_id", "review_document", ["revision_id"])
    op.create_index("ix_review_comment_revision_id", "review_comment", ["revision_id"])
