"""Drafts of transmittals, voided ones, hand-overs on paper, and who holds what of each document."""

import sqlalchemy as sa
from alembic import op

revision = "0042"
down_revision = "0041"

_HELD = """
INSERT INTO holding
SELECT document_id, company_id, revision_id, min(at), min(opened_at), min(acknowledged_at), max(wanted), older_at
FROM (
  SELECT td.document_id, r.company_id, td.revision_id, v.place, t.sent_at AS at, r.opened_at, r.acknowledged_at,
    NOT r.copied AS wanted, NULL AS older_at,
    max(v.place) OVER (PARTITION BY td.document_id, r.company_id) AS highest
  FROM transmittal_document td
  JOIN transmittal t ON t.id = td.transmittal_id
  JOIN recipient r ON r.transmittal_id = t.id
  JOIN revision v ON v.id = td.revision_id
)
WHERE place = highest
GROUP BY document_id, company_id
"""
_OLDER = """
UPDATE holding SET older_at = (
  SELECT max(t.sent_at) FROM transmittal_document td
  JOIN transmittal t ON t.id = td.transmittal_id
  JOIN recipient r ON r.transmittal_id = t.id
  JOIN revision v ON v.id = td.revision_id
  WHERE td.document_id = holding.document_id AND r.company_id = holding.company_id
    AND v.place < (SELECT place FROM revision WHERE id = holding.revision_id) AND t.sent_at > holding.sent_at
)
"""


def upgrade() -> None:
    op.add_column("recipient", sa.Column("company_id", sa.String(), nullable=False, server_default=""))
    op.execute(
        "UPDATE recipient SET company_id = (SELECT company_id FROM person WHERE person.id = recipient.person_id)"
    )
    op.add_column("recipient", sa.Column("chased_on", sa.Date()))
    op.add_column("transmittal", sa.Column("voided_at", sa.DateTime()))
    op.add_column("transmittal", sa.Column("voided_by", sa.String()))
    op.add_column("transmittal", sa.Column("void_why", sa.String(), nullable=False, server_default=""))
    op.add_column("transmittal", sa.Column("replaces", sa.String(), nullable=False, server_default=""))
    op.create_index("ix_transmittal_replaces", "transmittal", ["replaces"])
    op.create_table(
        "transmittal_draft",
        sa.Column("id", sa.String(16), primary_key=True),
        sa.Column("project_id", sa.String(), sa.ForeignKey("project.id"), nullable=False),
        sa.Column("company_id", sa.String(), sa.ForeignKey("company.id"), nullable=False),
        sa.Column("content", sa.JSON(), nullable=False),
        sa.Column("why", sa.String(), nullable=False),
        sa.Column("made_by", sa.String(), sa.ForeignKey("person.id"), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("changed_by", sa.String(), sa.ForeignKey("person.id"), nullable=False),
        sa.Column("changed_at", sa.DateTime(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
    )
    op.create_index("ix_transmittal_draft_project_id", "transmittal_draft", ["project_id"])
    op.create_table(
        "hand_over",
        sa.Column("id", sa.String(16), primary_key=True),
        sa.Column("project_id", sa.String(), sa.ForeignKey("project.id"), nullable=False),
        sa.Column("document_id", sa.String(), sa.ForeignKey("document.id"), nullable=False),
        sa.Column("revision_id", sa.String(), sa.ForeignKey("revision.id"), nullable=False),
        sa.Column("company_id", sa.String(), sa.ForeignKey("company.id"), nullable=False),
        sa.Column("to_whom", sa.String(), nullable=False),
        sa.Column("count", sa.Integer(), nullable=False),
        sa.Column("on", sa.Date(), nullable=False),
        sa.Column("note", sa.String(), nullable=False),
        sa.Column("entered_by", sa.String(), sa.ForeignKey("person.id"), nullable=False),
        sa.Column("entered_at", sa.DateTime(), nullable=False),
        sa.Column("removed_at", sa.DateTime()),
    )
    op.create_index("ix_hand_over_document_id", "hand_over", ["document_id"])
    op.create_table(
        "holding",
        sa.Column("document_id", sa.String(), sa.ForeignKey("document.id"), nullable=False),
        sa.Column("company_id", sa.String(), sa.ForeignKey("company.id"), nullable=False),
        sa.Column("revision_id", sa.String(), nullable=False),
        sa.Column("sent_at", sa.DateTime(), nullable=False),
        sa.Column("opened_at", sa.DateTime()),
        sa.Column("acknowledged_at", sa.DateTime()),
        sa.Column("wanted", sa.Boolean(), nullable=False),
        sa.Column("older_at", sa.DateTime()),
        sa.PrimaryKeyConstraint("document_id", "company_id"),
    )
    op.create_index("ix_holding_company", "holding", ["company_id", "document_id"])
    op.create_index("ix_holding_revision", "holding", ["document_id", "revision_id", "company_id"])
    op.execute(_HELD)
    op.execute(_OLDER)
