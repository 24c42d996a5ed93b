"""Comment sheets: what reviewers say, numbered, with the author's response and the close-out."""

import sqlalchemy as sa
from alembic import op

revision = "0035"
down_revision = "0034"


def _text(name: str) -> sa.Column[str]:
    return sa.Column(name, sa.String(), nullable=False, server_default="")


def upgrade() -> None:
    op.add_column("begun_answer", sa.Column("grave", sa.String(), nullable=False, server_default="should"))
    op.create_table(
        "review_comment",
        sa.Column("id", sa.String(16), primary_key=True),
        sa.Column("review_id", sa.String(16), sa.ForeignKey("review.id"), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("document_id", sa.String(16), sa.ForeignKey("document.id"), nullable=False),
        sa.Column("revision_id", sa.String(16), sa.ForeignKey("revision.id"), nullable=False),
        _text("mark_id"),
        sa.Column("page", sa.Integer()),
        _text("place"),
        sa.Column("by_id", sa.String(16), sa.ForeignKey("person.id"), nullable=False),
        sa.Column("raised_at", sa.String(27), nullable=False),
        _text("text"),
        sa.Column("grave", sa.String(), nullable=False, server_default="should"),
        _text("response"),
        _text("response_from"),
        sa.Column("responded_by", sa.String(16), sa.ForeignKey("person.id")),
        sa.Column("responded_at", sa.String(27)),
        sa.Column("state", sa.String(), nullable=False, server_default="open"),
        _text("close_note"),
        sa.Column("closed_by", sa.String(16), sa.ForeignKey("person.id")),
        sa.Column("closed_at", sa.String(27)),
        _text("from_id"),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.UniqueConstraint("review_id", "number"),
    )
    op.create_index("ix_review_comment_document", "review_comment", ["document_id", "state", "grave"])
