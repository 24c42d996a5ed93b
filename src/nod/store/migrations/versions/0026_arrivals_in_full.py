"""From whom a batch came; revisions in the order of their scheme, as history too; further files of a revision;

lists of the register that the worker makes.
"""

from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0026"
down_revision = "0025"


def upgrade() -> None:
    for table, columns in {
        "batch": (_text("came_person"), _text("came_by"), sa.Column("came_on", sa.String(10)), _flag("came_said"),
                  _number("left_out")),
        "arrival": (_flag("as_history"),),
        "revision": (_number("place"), _flag("as_history"), _text("came_person"), _text("came_by")),
        "recipient": (_flag("copied"),),
        "folder_pack": (sa.Column("view", sa.String(), nullable=False, server_default="{}"),),
        "document": (_text("file_kinds"), _text("came_person"), _text("came_by")),
    }.items():  # fmt: skip
        for column in columns:
            op.add_column(table, column)
    op.create_table(
        "rendition",
        sa.Column("id", sa.String(16), primary_key=True),
        _to("revision_id", "revision.id"), _text("kind"), _to("sha256", "blob.sha256", 64), _text("file_name"),
        sa.Column("size_bytes", sa.Integer(), nullable=False), _to("filed_by", "person.id"),
        sa.Column("filed_at", sa.String(27), nullable=False), _text("came_from"),
        sa.UniqueConstraint("revision_id", "kind"),
    )  # fmt: skip
    op.create_index("ix_rendition_revision_id", "rendition", ["revision_id"])
    op.execute("UPDATE batch SET came_said = 1")
    # So far they were filed one after the other, each the latest when it came.
    op.execute(
        "UPDATE revision SET place = o.place FROM (SELECT id, row_number() OVER (PARTITION BY document_id ORDER BY rowid)"
        " AS place FROM revision) AS o WHERE o.id = revision.id"
    )
    connection: Any = op.get_bind().connection.driver_connection
    connection.create_function("file_kind", 2, _kind, deterministic=True)
    op.execute(
        "UPDATE document SET file_kinds = file_kind(b.media_type, document.file_name) FROM blob AS b"
        " WHERE b.sha256 = document.sha256"
    )
    # What files without pages say is found from now on.
    op.execute(
        "INSERT INTO outbox (kind, key, payload, made_at, not_before, tries, lapses, leased_by, trouble)"
        " SELECT DISTINCT 'index_words', 'index_words:again:' || b.sha256, json_object('sha256', b.sha256), b.stored_at,"
        " b.stored_at, 0, 0, '', '' FROM blob b JOIN revision r ON r.sha256 = b.sha256 WHERE b.page_count = 0"
    )


_BY_CONTENT = {"application/pdf": "PDF", "image/vnd.dxf": "DXF"}


def _kind(media_type: str, file_name: str) -> str:
    _, dot, ending = file_name.rpartition(".")
    known = _BY_CONTENT.get(media_type)
    return known or (ending.upper() if dot and ending.isalnum() and len(ending) <= 5 else "file")


def _text(name: str) -> sa.Column:  # type: ignore[type-arg]
    return sa.Column(name, sa.String(), nullable=False, server_default="")


def _number(name: str) -> sa.Column:  # type: ignore[type-arg]
    return sa.Column(name, sa.Integer(), nullable=False, server_default="0")


def _flag(name: str) -> sa.Column:  # type: ignore[type-arg]
    return sa.Column(name, sa.Boolean(), nullable=False, server_default="0")


def _to(name: str, target: str, length: int = 16) -> sa.Column:  # type: ignore[type-arg]
    return sa.Column(name, sa.String(length), sa.ForeignKey(target), nullable=False)
