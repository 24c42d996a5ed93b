"""Who is in a session, with what sheets and whether it is open, is who may see what: the epoch grows with it."""

from alembic import op

revision = "0048"
down_revision = "0047"

_TOUCHED = {
    "session": "host_id, state, name",
    "session_party": "may, party_id, kind",
    "session_sheet": "left_at",
}


def upgrade() -> None:
    for table, columns in _TOUCHED.items():
        for act in ("INSERT", f"UPDATE OF {columns}", "DELETE"):
            op.execute(
                f"CREATE TRIGGER {table}_{act.split()[0].lower()}_epoch AFTER {act} ON {table} "
                f"BEGIN UPDATE access_epoch SET number = number + 1; END"
            )
