"""Submittals, their rounds and who is copied in; projects and roles with reviews have the new tool, too.

Tools that were set for a single person stay as they were set: that was somebody's decision, and is in the trail.
"""

import json

import sqlalchemy as sa
from alembic import op

revision = "0049"
down_revision = "0048"

_ID, _AT = sa.String(16), sa.String(27)


def _person(name: str, *, nullable: bool = False) -> sa.Column[str]:
    return sa.Column(name, sa.String(), sa.ForeignKey("person.id"), nullable=nullable)


def upgrade() -> None:
    op.create_table(
        "submittal",
        sa.Column("id", _ID, primary_key=True),
        sa.Column("project_id", sa.String(), sa.ForeignKey("project.id"), nullable=False),
        sa.Column("number", sa.String(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("for_information", sa.Boolean(), nullable=False),
        *(
            sa.Column(each, sa.String(), nullable=False)
            for each in ("section", "paragraph", "description", "reference", "category", "location")
        ),
        sa.Column("company_id", sa.String(), sa.ForeignKey("company.id"), nullable=False, index=True),
        _person("person_id", nullable=True),
        _person("approver_id", nullable=True),
        _person("keeper_id"),
        _person("made_by"),
        sa.Column("made_at", _AT, nullable=False),
        *(sa.Column(each, sa.Date(), nullable=True) for each in ("required_on", "planned_on", "delivered_on")),
        sa.Column("lead", sa.Integer(), nullable=True),
        sa.Column("lead_in", sa.String(), nullable=False),
        *(sa.Column(each, sa.Integer(), nullable=False) for each in ("review_days", "rounds", "preparation")),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("since_at", _AT, nullable=False),
        sa.Column("verdict", sa.String(), nullable=False),
        sa.Column("why_void", sa.String(), nullable=False),
        sa.Column("expected", sa.Integer(), nullable=False),
        *(sa.Column(each, sa.Date(), nullable=True) for each in ("latest_on", "forecast_on", "answer_on")),
        sa.Column("float_days", sa.Integer(), nullable=True),
        sa.Column("worked_from", sa.String(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.UniqueConstraint("project_id", "number"),
    )
    op.create_index("ix_submittal_float", "submittal", ["project_id", "float_days", "number"])
    op.create_index("ix_submittal_worked", "submittal", ["project_id", "worked_from"])
    op.create_index("ix_submittal_state", "submittal", ["project_id", "state"])
    op.create_table(
        "submittal_round",
        sa.Column("id", _ID, primary_key=True),
        sa.Column("submittal_id", sa.String(), sa.ForeignKey("submittal.id"), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("sent_at", _AT, nullable=False),
        sa.Column("sent_on", sa.Date(), nullable=False),
        _person("sent_by"),
        sa.Column("note", sa.String(), nullable=False),
        sa.Column("sent_files", sa.String(), nullable=False),
        sa.Column("given_at", _AT, nullable=True),
        sa.Column("due_on", sa.Date(), nullable=True),
        _person("approver_id", nullable=True),
        sa.Column("approver_company_id", sa.String(), sa.ForeignKey("company.id"), nullable=True),
        sa.Column("verdict", sa.String(), nullable=False),
        sa.Column("answer_note", sa.String(), nullable=False),
        sa.Column("answer_files", sa.String(), nullable=False),
        sa.Column("answered_at", _AT, nullable=True),
        sa.Column("answered_on", sa.Date(), nullable=True),
        _person("answered_by", nullable=True),
        sa.Column("answered_for", sa.Boolean(), nullable=False),
        sa.UniqueConstraint("submittal_id", "revision"),
    )
    op.create_index("ix_submittal_round_answered", "submittal_round", ["approver_company_id", "answered_at"])
    op.create_table(
        "submittal_copied",
        sa.Column("submittal_id", sa.String(), sa.ForeignKey("submittal.id"), primary_key=True),
        sa.Column("kind", sa.String(), primary_key=True),
        sa.Column("party_id", sa.String(), primary_key=True),
        _person("copied_by"),
        sa.Column("copied_at", _AT, nullable=False),
    )
    op.create_index("ix_submittal_copied", "submittal_copied", ["party_id"])
    _give_the_tool()


def _give_the_tool() -> None:
    bind = op.get_bind()
    for table, column in (("project", "rules"), ("starter", "content")):
        for id, text in bind.execute(sa.text(f"SELECT id, {column} FROM {table}")).all():
            kept = json.loads(text)
            for part in (kept, *kept.get("roles", [])):
                if "tools" in part:
                    part["tools"] = _with(part["tools"])
            given = {"kept": json.dumps(kept), "id": id}
            bind.execute(sa.text(f"UPDATE {table} SET {column} = :kept WHERE id = :id"), given)


def _with(tools: list[str] | None) -> list[str]:
    """It stands after reviews, in the order of the work."""
    found = list(tools or [])
    if "reviews" not in found or "submittals" in found:
        return found
    place = found.index("reviews") + 1
    return [*found[:place], "submittals", *found[place:]]
