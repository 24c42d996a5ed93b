"""Sessions: their sheets, people, visits and records; projects and roles with reviews have the new tool, too.

Tools that were set for a single person stay as they were set: that was somebody's decision, and is in the trail.
"""

import json

import sqlalchemy as sa
from alembic import op

revision = "0047"
down_revision = "0046"

_ID, _AT = sa.String(16), sa.String(27)


def upgrade() -> None:
    op.create_table(
        "session",
        sa.Column("id", _ID, primary_key=True),
        sa.Column("project_id", sa.String(), sa.ForeignKey("project.id"), nullable=False, index=True),
        sa.Column("number", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("note", sa.String(), nullable=False),
        sa.Column("host_id", sa.String(), sa.ForeignKey("person.id"), nullable=False),
        sa.Column("made_by", sa.String(), sa.ForeignKey("person.id"), nullable=False),
        sa.Column("made_at", _AT, nullable=False),
        sa.Column("opens_at", _AT, nullable=False),
        sa.Column("closes_at", _AT, nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("opened_at", _AT, nullable=True),
        sa.Column("closed_at", _AT, nullable=True),
        sa.Column("parts", sa.Integer(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.UniqueConstraint("project_id", "number"),
    )
    op.create_table(
        "session_sheet",
        sa.Column("session_id", sa.String(), sa.ForeignKey("session.id"), primary_key=True),
        sa.Column("revision_id", sa.String(), sa.ForeignKey("revision.id"), primary_key=True),
        sa.Column("document_id", sa.String(), sa.ForeignKey("document.id"), nullable=False, index=True),
        sa.Column("place", sa.Integer(), nullable=False),
        sa.Column("held", sa.Boolean(), nullable=False),
        sa.Column("left_at", _AT, nullable=True),
        sa.Column("why", sa.String(), nullable=False),
    )
    op.create_index("ix_session_sheet_revision", "session_sheet", ["revision_id"])
    op.create_index(
        "one_session_of_a_document", "session_sheet", ["document_id"], unique=True, sqlite_where=sa.text("held = 1")
    )
    op.create_table(
        "session_party",
        sa.Column("session_id", sa.String(), sa.ForeignKey("session.id"), primary_key=True),
        sa.Column("kind", sa.String(), primary_key=True),
        sa.Column("party_id", sa.String(), primary_key=True),
        sa.Column("may", sa.String(), nullable=False),
        sa.Column("invited_by", sa.String(), sa.ForeignKey("person.id"), nullable=False),
        sa.Column("invited_at", _AT, nullable=False),
    )
    op.create_index("ix_session_party", "session_party", ["party_id"])
    op.create_table(
        "session_visit",
        sa.Column("session_id", sa.String(), sa.ForeignKey("session.id"), primary_key=True),
        sa.Column("who", sa.String(), primary_key=True),
        sa.Column("guest", sa.Boolean(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("company", sa.String(), nullable=False),
        sa.Column("came_at", _AT, nullable=False),
        sa.Column("seen_at", _AT, nullable=False),
    )
    op.create_table(
        "session_record",
        sa.Column("session_id", sa.String(), sa.ForeignKey("session.id"), primary_key=True),
        sa.Column("part", sa.Integer(), primary_key=True),
        sa.Column("opened_at", _AT, nullable=False),
        sa.Column("closed_at", _AT, nullable=False),
        sa.Column("sheets", sa.Integer(), nullable=False),
        sa.Column("done", sa.Integer(), nullable=False),
        sa.Column("sha256", sa.String(), nullable=False),
        sa.Column("size_bytes", sa.Integer(), nullable=False),
        sa.Column("made_at", _AT, nullable=True),
    )
    op.add_column("thread", sa.Column("session_id", sa.String(), nullable=False, server_default=""))
    op.add_column("thread", sa.Column("guest_id", sa.String(), nullable=False, server_default=""))
    op.create_index("ix_thread_session_id", "thread", ["session_id"])
    op.add_column("document", sa.Column("checked_out_session", sa.String(), nullable=False, server_default=""))
    _give_the_tool()


def _give_the_tool() -> None:
    bind = op.get_bind()
    for id, kept in bind.execute(sa.text("SELECT id, rules FROM project")).all():
        rules = json.loads(kept)
        rules["tools"] = _with(rules.get("tools"))
        for role in rules.get("roles", []):
            role["tools"] = _with(role.get("tools"))
        bind.execute(
            sa.text("UPDATE project SET rules = :rules WHERE id = :id"), {"rules": json.dumps(rules), "id": id}
        )
    for id, kept in bind.execute(sa.text("SELECT id, content FROM starter")).all():
        content = json.loads(kept)
        if "tools" in content:
            content["tools"] = _with(content["tools"])
        for role in content.get("roles", []):
            role["tools"] = _with(role.get("tools"))
        bind.execute(
            sa.text("UPDATE starter SET content = :content WHERE id = :id"), {"content": json.dumps(content), "id": id}
        )


def _with(tools: list[str] | None) -> list[str]:
    """It stands before reviews, in the order of the work."""
    found = list(tools or [])
    return ["sessions", *found] if "reviews" in found and "sessions" not in found else found
