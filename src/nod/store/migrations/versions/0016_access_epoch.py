"""A number that grows with every change of who may see what and of who is who, whoever makes it."""

import sqlalchemy as sa
from alembic import op

revision = "0016"
down_revision = "0015"

_TOUCHED = {
    "access_grant": "folder_id, to_kind, to_id, alone, level",
    "membership": "roles, state, tools",
    "folder": "parent_id, project_id",
    "person": "name, email, company_id, job, steward, state",
    "company": "name, code, part, merged_into",
    "project": "number, name, time_zone, rules",
    "sign_in": "person_id, csrf_token, ends_at, sees_as, sees_in",
}


def upgrade() -> None:
    op.create_table(
        "access_epoch",
        sa.Column("id", sa.Integer(), primary_key=True, autoincrement=False),
        sa.Column("number", sa.Integer(), nullable=False),
    )
    op.execute("INSERT INTO access_epoch VALUES (1, 1)")
    for table, columns in _TOUCHED.items():
        acts = ("INSERT", f"UPDATE OF {columns}", "DELETE")
        # Nothing is known yet of a sign-in that begins.
        for act in acts[1:] if table == "sign_in" else acts:
            op.execute(
                f"CREATE TRIGGER {table}_{act.split()[0].lower()}_epoch AFTER {act} ON {table} "
                f"BEGIN UPDATE access_epoch SET number = number + 1; END"
            )
