"""What is in force stands beside what is latest: a status says what it may be used for.

Filing a revision superseded the one before at once. Whatever had a status that may be worked from, and was not filed as
history, counts as released when it was filed; the last of these is in force again.
"""

import json
import re

import sqlalchemy as sa
from alembic import op

revision = "0032"
down_revision = "0031"

_BUILT = re.compile(r"[AB][0-9]{1,2}|CR")
_RANKS = {"received": 0, "referred": 1, "built": 2}


def upgrade() -> None:
    op.add_column("document", sa.Column("in_force_id", sa.String(), nullable=False, server_default=""))
    op.add_column("document", sa.Column("in_force", sa.String(), nullable=False, server_default=""))
    op.add_column("document", sa.Column("release", sa.String(), nullable=False, server_default="none"))
    op.add_column("revision", sa.Column("released_at", sa.String(27)))
    op.drop_index("one_current_revision", "revision")
    for column in ("in_force", "release"):
        op.create_index(f"ix_document_{column}", "document", ["project_id", column, "seq", "folder_id"])
    op.add_column("folder_pack", sa.Column("revisions", sa.String(), nullable=False, server_default="latest"))
    op.execute("UPDATE folder_pack SET revisions = 'all' WHERE every_revision")
    op.drop_column("folder_pack", "every_revision")
    connection = op.get_bind()
    for project_id, rules in connection.execute(sa.text("SELECT id, rules FROM project")).all():
        said = json.loads(rules)
        uses = said.setdefault("status_uses", {code: _use(code) for code in said["statuses"]})
        connection.execute(
            sa.text("UPDATE project SET rules = :rules WHERE id = :id"), {"rules": json.dumps(said), "id": project_id}
        )
        _release(connection, project_id, uses)


def _use(status: str) -> str:
    """ISO 19650-2 UK NA: A and B codes are authorised, CR is as constructed, S1 and S2 are shared for use."""
    if _BUILT.fullmatch(status):
        return "built"
    return "referred" if status in ("S1", "S2") else "received"


def _release(connection: sa.Connection, project_id: str, uses: dict[str, str]) -> None:
    rows = connection.execute(
        sa.text(
            "SELECT r.id, r.document_id, r.code, r.status, r.place, r.as_history, d.revision_id, d.withdrawn"
            " FROM revision r JOIN document d ON d.id = r.document_id WHERE d.project_id = :id"
            " ORDER BY r.document_id, r.place"
        ),
        {"id": project_id},
    ).all()
    best: dict[str, tuple[int, str, str, bool]] = {}
    released = []
    for row in rows:
        rank = _RANKS[uses.get(row.status, "received")]
        if not rank or row.as_history:
            continue
        released.append({"id": row.id})
        if not row.withdrawn and rank >= best.get(row.document_id, (0, "", "", False))[0]:
            best[row.document_id] = (rank, row.id, row.code, row.id == row.revision_id)
    if released:
        connection.execute(sa.text("UPDATE revision SET released_at = filed_at WHERE id = :id"), released)
    if best:
        now = [
            {"document": document, "id": id, "code": code, "release": "same" if latest else "newer"}
            for document, (_, id, code, latest) in best.items()
        ]
        connection.execute(
            sa.text("UPDATE document SET in_force_id = :id, in_force = :code, release = :release WHERE id = :document"),
            now,
        )
        connection.execute(sa.text("UPDATE revision SET superseded_at = NULL WHERE id = :id"), now)
