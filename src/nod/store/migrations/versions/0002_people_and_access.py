"""Folders and grants, invitations, starters, notices; every document gets a folder, every member a state."""

import json

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"

_RANDOM_ID = "lower(hex(randomblob(8)))"
_ROLES = [
    {"code": "author", "name": "Author", "tools": ["reviews", "transmittals"]},
    {"code": "reviewer", "name": "Reviewer", "tools": ["reviews", "transmittals"]},
    {"code": "reader", "name": "Reader", "tools": ["reviews", "transmittals"]},
]
_LEVELS = {"author": 3, "reviewer": 2, "reader": 1}
_SORTED = ("title", "discipline", "revision", "status", "verdict", "with_whom", "due_on", "filed_at")


def upgrade() -> None:
    _make_tables()
    _widen_tables()
    _give_folders()
    _give_rules()
    _index()


def _make_tables() -> None:
    op.create_table(
        "folder",
        sa.Column("id", sa.String(16), primary_key=True),
        sa.Column("project_id", sa.String(16), sa.ForeignKey("project.id"), nullable=False),
        sa.Column("parent_id", sa.String(16), sa.ForeignKey("folder.id"), nullable=True),
        sa.Column("name", sa.String(collation="NOCASE"), nullable=False),
        sa.UniqueConstraint("project_id", "parent_id", "name"),
    )
    op.create_index("one_root_folder", "folder", ["project_id"], unique=True, sqlite_where=sa.text("parent_id IS NULL"))
    op.create_table(
        "access_grant",
        sa.Column("folder_id", sa.String(16), sa.ForeignKey("folder.id"), primary_key=True),
        sa.Column("to_kind", sa.String(), primary_key=True),
        sa.Column("to_id", sa.String(), primary_key=True),
        sa.Column("alone", sa.Boolean(), primary_key=True),
        sa.Column("project_id", sa.String(16), sa.ForeignKey("project.id"), nullable=False),
        sa.Column("level", sa.Integer(), nullable=False),
    )
    op.create_index("ix_access_grant_project_id", "access_grant", ["project_id"])
    op.create_table(
        "key_link",
        sa.Column("id", sa.String(16), primary_key=True),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("person_id", sa.String(16), sa.ForeignKey("person.id"), nullable=False),
        sa.Column("project_id", sa.String(), nullable=False),
        sa.Column("made_at", sa.String(27), nullable=False),
        sa.Column("ends_at", sa.String(27), nullable=False),
        sa.Column("used_at", sa.String(27), nullable=True),
    )
    op.create_index("ix_key_link_person_id", "key_link", ["person_id"])
    op.create_table(
        "starter",
        sa.Column("id", sa.String(16), primary_key=True),
        sa.Column("name", sa.String(), nullable=False, unique=True),
        sa.Column("purpose", sa.String(), nullable=False),
        sa.Column("content", sa.JSON(), nullable=False),
        sa.Column("made_by", sa.String(16), sa.ForeignKey("person.id"), nullable=False),
        sa.Column("made_at", sa.String(27), nullable=False),
    )
    op.create_table(
        "summary_line",
        sa.Column("key", sa.String(), primary_key=True),
        sa.Column("person_id", sa.String(16), sa.ForeignKey("person.id"), nullable=False),
        sa.Column("project_id", sa.String(), nullable=False),
        sa.Column("at", sa.String(27), nullable=False),
        sa.Column("words", sa.String(), nullable=False),
        sa.Column("link", sa.String(), nullable=False),
        sa.Column("document_ids", sa.JSON(), nullable=False),
        sa.Column("sent_at", sa.String(27), nullable=True),
    )
    op.create_index("ix_summary_line_open", "summary_line", ["sent_at", "person_id"])
    op.create_table(
        "live_event_folder",
        sa.Column("seq", sa.Integer(), sa.ForeignKey("live_event.seq", ondelete="CASCADE"), primary_key=True),
        sa.Column("folder_id", sa.String(), primary_key=True),
    )


def _widen_tables() -> None:
    """SQLite adds a column to a table that others point to only if it may be empty or has a fixed default."""
    text, flag, number = "VARCHAR NOT NULL DEFAULT ''", "BOOLEAN NOT NULL DEFAULT 0", "INTEGER NOT NULL DEFAULT"
    columns = {
        "company": {"merged_into": "VARCHAR(16) REFERENCES company(id)"},
        "person": {
            "steward": flag,
            "time_zone": text,
            "second_factor": text,
            "second_factor_on": flag,
            "last_code": f"{number} 0",
            "notices": "JSON NOT NULL DEFAULT '{}'",
            "summary_hour": f"{number} 7",
            "summary_sent_on": "DATE",
        },
        "project": {"profile": "JSON NOT NULL DEFAULT '{}'", "access_version": f"{number} 1"},
        "membership": {
            "state": "VARCHAR NOT NULL DEFAULT 'active'",
            "tools": "JSON",
            "invited_at": "VARCHAR(27)",
            "version": f"{number} 1",
        },
        "sign_in": {
            "id": "VARCHAR(16) NOT NULL DEFAULT ''",
            "came_from": text,
            "seen_at": "VARCHAR(27)",
            "sees_as": text,
            "sees_in": text,
        },
        "live_event": {"key": "VARCHAR(16) NOT NULL DEFAULT ''"},
        "document": {"folder_id": "VARCHAR(16) REFERENCES folder(id)"},
        "batch": {"folder_id": "VARCHAR(16) REFERENCES folder(id)"},
    }
    for table, added in columns.items():
        for name, kind in added.items():
            op.execute(f"ALTER TABLE {table} ADD COLUMN {name} {kind}")
    op.execute("UPDATE membership SET state = 'contact' WHERE level = 0")
    op.execute("ALTER TABLE membership DROP COLUMN level")
    op.execute(f"UPDATE sign_in SET id = {_RANDOM_ID}")
    op.execute("DELETE FROM live_event")


def _give_folders() -> None:
    op.execute(
        "INSERT INTO folder (id, project_id, parent_id, name)"
        f" SELECT {_RANDOM_ID}, project.id, NULL, project.name FROM project"
    )
    for table in ("document", "batch"):
        op.execute(
            f"UPDATE {table} SET folder_id = (SELECT id FROM folder WHERE folder.project_id = {table}.project_id)"
        )
        for act in ("INSERT", "UPDATE"):
            op.execute(
                f"CREATE TRIGGER {table}_has_folder_{act.lower()} BEFORE {act} ON {table} WHEN new.folder_id IS NULL"
                f" BEGIN SELECT RAISE(ABORT, 'every {table} is in a folder'); END"
            )
    for role, level in _LEVELS.items():
        op.execute(
            "INSERT INTO access_grant (folder_id, to_kind, to_id, alone, project_id, level)"
            f" SELECT id, 'role', '{role}', 0, project_id, {level} FROM folder"
        )


def _give_rules() -> None:
    connection = op.get_bind()
    for id, rules in connection.exec_driver_sql("SELECT id, rules FROM project").fetchall():
        widened = {
            **json.loads(rules),
            "roles": _ROLES,
            "tools": ["reviews", "transmittals"],
            "fields": [],
            "notices": {},
        }
        connection.exec_driver_sql("UPDATE project SET rules = ? WHERE id = ?", (json.dumps(widened), id))


def _index() -> None:
    op.create_index("ix_sign_in_id", "sign_in", ["id"], unique=True)
    op.create_index("ix_live_event_key", "live_event", ["key"], unique=True)
    op.create_index("ix_audit_entry_leaf_sha256", "audit_entry", ["leaf_sha256"])
    op.create_index("ix_batch_folder_id", "batch", ["folder_id"])
    op.create_index("ix_document_folder", "document", ["project_id", "folder_id"])
    op.create_index("ix_document_number", "document", ["project_id", "number", "seq", "folder_id"])
    for column in _SORTED:
        op.drop_index(f"ix_document_{column}", "document")
        op.create_index(f"ix_document_{column}", "document", ["project_id", column, "seq", "folder_id"])
