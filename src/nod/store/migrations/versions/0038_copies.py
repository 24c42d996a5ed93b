"""A revision can be copied into a folder: a line of its own there, with the number of the document it came from.

The table of documents is made anew, as a number is one document's and no longer one line's. SQLite cannot take a
constraint away otherwise (https://www.sqlite.org/lang_altertable.html, "Making Other Kinds Of Table Schema Changes").
"""

import sqlalchemy as sa
from alembic import op

revision = "0038"
down_revision = "0037"

_UNIQUE = "UNIQUE (project_id, number)"


def upgrade() -> None:
    connection = op.get_bind()
    of_table = sa.text("SELECT sql FROM sqlite_master WHERE tbl_name = 'document' AND type = :type AND sql IS NOT NULL")
    made = connection.execute(of_table, {"type": "table"}).scalar_one()
    around = [sql for type in ("index", "trigger") for sql in connection.execute(of_table, {"type": type}).scalars()]
    columns = ", ".join(row[1] for row in connection.execute(sa.text("PRAGMA table_info(document)")))
    op.execute(_without_unique(made).replace("CREATE TABLE document", "CREATE TABLE document_anew", 1))
    op.execute(f"INSERT INTO document_anew ({columns}) SELECT {columns} FROM document")
    op.execute("DROP TABLE document")
    op.execute("ALTER TABLE document_anew RENAME TO document")
    for sql in around:
        connection.exec_driver_sql(sql)
    op.add_column("document", sa.Column("copy_of", sa.String(16), nullable=False, server_default=""))
    op.add_column("document", sa.Column("home_folder_id", sa.String(16), nullable=False, server_default=""))
    op.add_column("revision", sa.Column("copied_from", sa.String(16), nullable=False, server_default=""))
    op.add_column("revision", sa.Column("copied_at", sa.String(27), nullable=True))
    op.add_column("revision", sa.Column("copy_why", sa.String(), nullable=False, server_default=""))
    op.add_column("revision", sa.Column("copy_verdict", sa.String(), nullable=False, server_default=""))
    op.create_index(
        "one_document_of_a_number",
        "document",
        ["project_id", "number"],
        unique=True,
        sqlite_where=sa.text("copy_of = ''"),
    )
    op.create_index(
        "one_copy_in_a_folder", "document", ["copy_of", "folder_id"], unique=True, sqlite_where=sa.text("copy_of != ''")
    )
    op.create_index(
        "ix_document_copied", "document", ["project_id", "home_folder_id", "folder_id"],
        sqlite_where=sa.text("copy_of != ''"),
    )  # fmt: skip


def _without_unique(sql: str) -> str:
    if _UNIQUE not in sql:
        raise RuntimeError("the table of documents is not as it was made")
    before, after = sql.split(_UNIQUE)
    return before.rstrip().removesuffix(",") + after
