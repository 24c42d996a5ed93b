"""Mail that left is remembered, so that answers and refusals find what they belong to; mail comes in."""

import sqlalchemy as sa
from alembic import op

revision = "0023"
down_revision = "0022"


def upgrade() -> None:
    op.create_table(
        "mail_out",
        sa.Column("id", sa.String(16), primary_key=True),
        sa.Column("key", sa.String(), nullable=False, unique=True),
        _to("project_id", "project.id"), _to("person_id", "person.id"), _text("email"), _text("subject"),
        sa.Column("message_id", sa.String(), nullable=False, unique=True),
        _text("thing_kind"), _text("thing_id"), _text("written_by"), _at("written_at", nullable=False),
        _text("trouble"), _at("trouble_at"),
    )  # fmt: skip
    op.create_index("ix_mail_out_project_id", "mail_out", ["project_id"])
    op.create_table(
        "mail_in",
        sa.Column("seq", sa.Integer(), primary_key=True, autoincrement=True),
        sa.Column("id", sa.String(16), nullable=False, unique=True),
        _to("project_id", "project.id"),
        sa.Column("sha256", sa.String(64), sa.ForeignKey("blob.sha256"), nullable=False),
        sa.Column("size_bytes", sa.Integer(), nullable=False),
        _at("arrived_at", nullable=False), _text("envelope_from"), _text("answers_id"), _text("state", "new"),
        _text("why"), _text("message_id"), _text("sender_name"), _text("sender_email"),
        _to("sender_id", "person.id", nullable=True), _text("subject"), _at("sent_at"),
        sa.Column("files", sa.JSON(), nullable=False, server_default="[]"), _text("thing_kind"), _text("thing_id"),
        sa.Column("private", sa.Boolean(), nullable=False, server_default="0"),
        _to("decided_by", "person.id", nullable=True), _at("decided_at"),
        sa.Column("version", sa.Integer(), nullable=False, server_default="1"),
        sqlite_autoincrement=True,
    )  # fmt: skip
    op.create_index("ix_mail_in_message_id", "mail_in", ["message_id"])
    op.create_index("ix_mail_in_state", "mail_in", ["project_id", "state", "seq"])
    for column in (_text("acknowledged_how"), _at("bounced_at"), _text("bounced_why"),
                   sa.Column("sendings", sa.Integer(), nullable=False, server_default="1")):  # fmt: skip
        op.add_column("recipient", column)
    op.add_column("reply", sa.Column("folds", sa.JSON(), nullable=False, server_default="[]"))
    op.add_column("reply", _text("mail_id"))


def _text(name: str, default: str = "") -> sa.Column:  # type: ignore[type-arg]
    return sa.Column(name, sa.String(), nullable=False, server_default=default)


def _to(name: str, target: str, *, nullable: bool = False) -> sa.Column:  # type: ignore[type-arg]
    return sa.Column(name, sa.String(16), sa.ForeignKey(target), nullable=nullable)


def _at(name: str, *, nullable: bool = True) -> sa.Column:  # type: ignore[type-arg]
    return sa.Column(name, sa.String(27), nullable=nullable)
