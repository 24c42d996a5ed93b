"""A submittal keeps where a specification asks for it."""

from alembic import op

revision = "0052"
down_revision = "0051"


def upgrade() -> None:
    op.execute("ALTER TABLE submittal ADD COLUMN spec_document_id VARCHAR(16) REFERENCES document(id)")
    op.execute("ALTER TABLE submittal ADD COLUMN spec_revision_id VARCHAR(16) REFERENCES revision(id)")
    op.execute("ALTER TABLE submittal ADD COLUMN spec_page INTEGER")
    op.create_index("ix_submittal_spec_document_id", "submittal", ["spec_document_id"])
