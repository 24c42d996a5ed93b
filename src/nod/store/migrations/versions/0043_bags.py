"""What a transmittal said when it was sent, its proof, how far it is packed; what recipients may do, and did."""

import sqlalchemy as sa
from alembic import op

revision = "0043"
down_revision = "0042"


def upgrade() -> None:
    op.add_column("transmittal", sa.Column("proof_sha256", sa.String(), nullable=False, server_default=""))
    op.add_column("transmittal", sa.Column("files_packed", sa.Integer(), nullable=False, server_default="0"))
    op.add_column("transmittal", sa.Column("view_only", sa.Boolean(), nullable=False, server_default=sa.false()))
    op.add_column("transmittal", sa.Column("expires_on", sa.Date()))
    op.add_column("transmittal", sa.Column("code", sa.String(), nullable=False, server_default=""))
    op.create_index("ix_transmittal_code", "transmittal", ["code"])
    op.add_column("transmittal_document", sa.Column("number", sa.String(), nullable=False, server_default=""))
    op.add_column("transmittal_document", sa.Column("file", sa.String(), nullable=False, server_default=""))
    op.execute(
        "UPDATE transmittal_document SET number ="
        " (SELECT number FROM document WHERE document.id = transmittal_document.document_id)"
    )
    op.add_column("recipient", sa.Column("acknowledged_note", sa.String(), nullable=False, server_default=""))
    op.create_table(
        "recipient_file",
        sa.Column("recipient_id", sa.String(), sa.ForeignKey("recipient.id"), primary_key=True),
        sa.Column("revision_id", sa.String(), sa.ForeignKey("revision.id"), primary_key=True),
        sa.Column("downloaded_at", sa.DateTime(), nullable=False),
    )
