"""What goes with a transmittal beside the documents: natives, stamped copies, copies with marks; how it goes, and for what in words."""

import sqlalchemy as sa
from alembic import op

revision = "0045"
down_revision = "0044"


def upgrade() -> None:
    op.create_table(
        "sent_file",
        sa.Column("transmittal_id", sa.String(), sa.ForeignKey("transmittal.id"), primary_key=True),
        sa.Column("place", sa.Integer(), primary_key=True),
        sa.Column("revision_id", sa.String(), sa.ForeignKey("revision.id"), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("file", sa.String(), nullable=False),
        sa.Column("sha256", sa.String(64), nullable=False),
        sa.Column("size_bytes", sa.Integer(), nullable=False),
        sa.Column("fault", sa.String(), nullable=False),
    )
    for name in ("natives", "stamped", "attached", "by_itself"):
        op.add_column("transmittal", sa.Column(name, sa.Boolean(), nullable=False, server_default=sa.false()))
    for name in ("marks", "purpose_words"):
        op.add_column("transmittal", sa.Column(name, sa.String(), nullable=False, server_default=""))
    # The purposes that there were until projects have lists of their own.
    for code in ("information", "comment", "approval", "construction", "record"):
        op.execute(f"UPDATE transmittal SET purpose_words = 'For {code}' WHERE purpose = '{code}'")
