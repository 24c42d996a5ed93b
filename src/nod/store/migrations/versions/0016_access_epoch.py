"""A number that grows with every change of who may see what, whoever makes it."""

import sqlalchemy as sa
from alembic import op

revision = "0016"
down_revision = "0015"

_TOUCHED = {
    "access_grant": "folder_id, to_kind, to_id, alone, level",
    "membership": "roles, state",
    "folder": "parent_id, project_id",
    "person": "company_id, steward, state",
    "sign_in": "person_id, sees_as, sees_in",
}


def upgrade() -> None:
    op.create_table(
        "access_epoch",
        sa.Column("id", sa.Integer(), primary_key=True, autoincrement=False),
        sa.Column("number", sa.Integer(), nullable=False),
    )
    op.execute("INSERT INTO access_epoch VALUES (1, 1)")
    for table, columns in _TOUCHED.items():
        for act in ("INSERT", f"UPDATE OF {columns}", "DELETE"):
            op.execute(
                f"CREATE TRIGGER {table}_{act.split()[0].lower()}_epoch AFTER {act} ON {table} "
                f"BEGIN UPDATE access_epoch SET number = number + 1; END"
            )
