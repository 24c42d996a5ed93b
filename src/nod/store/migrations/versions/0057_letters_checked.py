"""Letters that somebody looks at before they go, that came on paper, that are served; notices with a time bar."""

from alembic import op

revision = "0057"
down_revision = "0056"


def upgrade() -> None:
    for name in ("own_ref", "other_ref", "check_state", "check_note", "signatory", "served_how"):
        op.execute(f"ALTER TABLE letter_message ADD COLUMN {name} VARCHAR NOT NULL DEFAULT ''")
    for name in ("dated_on", "received_on", "served_on"):
        op.execute(f"ALTER TABLE letter_message ADD COLUMN {name} DATE")
    op.execute("ALTER TABLE letter_message ADD COLUMN checker_id VARCHAR(16) REFERENCES person(id)")
    op.execute("ALTER TABLE letter_message ADD COLUMN checked_at VARCHAR(27)")
    op.execute("ALTER TABLE letter ADD COLUMN aware_on DATE")
    op.execute("ALTER TABLE letter ADD COLUMN bar_on DATE")
    op.create_index("ix_letter_message_checker_id", "letter_message", ["checker_id"])
