"""The register in full: more columns, typed values, drawing sets, views, packs, what is planned, full-text search."""

import json
import re
import secrets
from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"

_CONFUSED = str.maketrans("OI", "01")


def upgrade() -> None:
    _widen_tables()
    _make_tables()
    _make_search()
    _fill_documents()
    _name_fields()
    op.execute(
        "INSERT OR IGNORE INTO outbox (kind, key, payload, made_at, not_before, tries, leased_by, trouble)"
        " SELECT 'index_words', 'index_words:' || sha256, json_object('sha256', sha256), stored_at, stored_at, 0, '', ''"
        " FROM blob WHERE sha256 IN (SELECT sha256 FROM revision)"
    )


def _widen_tables() -> None:
    text, flag, number = "VARCHAR NOT NULL DEFAULT ''", "BOOLEAN NOT NULL DEFAULT 0", "INTEGER NOT NULL DEFAULT 0"
    columns = {
        "document": {
            "zone": text, "level": text, "purpose": text, "file_name": text, "size_bytes": number, "sha256": text,
            "filed_by": text, "came_from": text, "arrived_at": "VARCHAR(27)", "checked_out_by": text,
            "checked_out_at": "VARCHAR(27)", "checked_out_note": text, "withdrawn": flag,
            "withdrawn_at": "VARCHAR(27)", "withdrawn_why": text, "shapes": text, "field_words": text,
        },
        "revision": {"purpose": text, "note": text, "from_id": text},
        "arrival": {"purpose": text, "note": text},
    }  # fmt: skip
    for table, added in columns.items():
        for name, kind in added.items():
            op.execute(f"ALTER TABLE {table} ADD COLUMN {name} {kind}")
    op.drop_index("ix_document_folder", "document")
    op.create_index("ix_document_folder", "document", ["project_id", "folder_id", "withdrawn"])
    op.create_index("ix_document_sha256", "document", ["sha256"])
    op.execute("CREATE INDEX ix_document_out ON document (project_id, checked_out_by) WHERE checked_out_by != ''")
    op.execute("CREATE INDEX ix_document_withdrawn ON document (project_id, folder_id) WHERE withdrawn")


def _column(
    name: str, kind: sa.types.TypeEngine[Any] | None = None, to: str = "", *, key: bool = False, empty: bool = False
) -> sa.Column[Any]:
    parts = [sa.ForeignKey(to)] if to else []
    return sa.Column(name, kind or sa.String(), *parts, primary_key=key, nullable=empty)


def _make_tables() -> None:
    id, at = sa.String(16), sa.String(27)
    op.create_table(
        "document_value",
        _column("seq", sa.Integer(), "document.seq", key=True),
        _column("field", key=True),
        _column("value"),
        _column("number", sa.Float(), empty=True),
    )
    op.create_index("ix_document_value", "document_value", ["field", "value", "seq"])
    op.create_table(
        "former_number",
        _column("project_id", id, "project.id", key=True),
        _column("number", key=True),
        _column("document_id", id, "document.id"),
        _column("until_at", at),
        _column("why"),
    )
    op.create_index("ix_former_number_document_id", "former_number", ["document_id"])
    op.create_table(
        "drawing_set",
        _column("id", id, key=True),
        _column("project_id", id, "project.id"),
        sa.Column("name", sa.String(collation="NOCASE"), nullable=False),
        _column("on", sa.Date(), empty=True),
        _column("removed", sa.Boolean()),
        _column("version", sa.Integer()),
    )
    op.execute("CREATE UNIQUE INDEX one_set_name ON drawing_set (project_id, name) WHERE NOT removed")
    op.create_table(
        "drawing_set_sheet",
        _column("set_id", id, "drawing_set.id", key=True),
        _column("document_id", id, "document.id", key=True),
        _column("place", sa.Integer()),
    )
    op.create_index("ix_drawing_set_sheet_document_id", "drawing_set_sheet", ["document_id"])
    op.create_table(
        "saved_view",
        _column("id", id, key=True),
        _column("project_id", id, "project.id"),
        _column("person_id", id, "person.id"),
        sa.Column("name", sa.String(collation="NOCASE"), nullable=False),
        _column("shared", sa.Boolean()),
        _column("content", sa.JSON()),
        _column("version", sa.Integer()),
        sa.UniqueConstraint("project_id", "person_id", "name"),
    )
    op.create_table(
        "folder_pack",
        _column("id", id, key=True),
        _column("project_id", id, "project.id"),
        _column("folder_id", id, "folder.id"),
        _column("person_id", id, "person.id"),
        _column("every_revision", sa.Boolean()),
        _column("names_as_came", sa.Boolean()),
        _column("asked_at", at),
        _column("state"),
        _column("files", sa.Integer()),
        _column("done", sa.Integer()),
        _column("size_bytes", sa.Integer()),
        _column("sha256"),
        _column("fault"),
    )
    op.create_index("ix_folder_pack_person_id", "folder_pack", ["person_id"])
    op.create_table(
        "planned_document",
        _column("project_id", id, "project.id", key=True),
        _column("number", key=True),
        _column("title"),
        _column("company"),
        _column("discipline"),
        _column("planned_on", sa.Date()),
        _column("version", sa.Integer()),
    )


def _make_search() -> None:
    op.execute("DROP TRIGGER document_words_in")
    op.execute("DROP TRIGGER document_words_change")
    op.execute("DROP TABLE document_words")
    op.create_table(
        "page_text",
        _column("seq", sa.Integer(), key=True),
        _column("sha256", sa.String(64), "blob.sha256"),
        _column("place", sa.Integer()),
        sa.UniqueConstraint("sha256", "place"),
        sqlite_autoincrement=True,
    )
    op.create_table(
        "mark_text", _column("seq", sa.Integer(), key=True), _column("mark_id", sa.String(16)),
        sa.UniqueConstraint("mark_id"), sqlite_autoincrement=True,
    )  # fmt: skip
    # The words of a page are kept packed with their places; the index holds no second copy of them.
    op.execute("CREATE VIRTUAL TABLE sheet_words USING fts5(words, content='', prefix='2 3')")
    op.execute("CREATE VIRTUAL TABLE mark_words USING fts5(words, prefix='2 3')")
    op.execute(
        "CREATE TRIGGER mark_words_in AFTER INSERT ON mark BEGIN"
        " INSERT INTO mark_text (mark_id) VALUES (new.id);"
        " INSERT INTO mark_words (rowid, words) SELECT seq, new.text FROM mark_text WHERE mark_id = new.id; END"
    )
    op.execute(
        "CREATE TRIGGER mark_words_change AFTER UPDATE OF text ON mark BEGIN"
        " UPDATE mark_words SET words = new.text WHERE rowid = (SELECT seq FROM mark_text WHERE mark_id = new.id); END"
    )
    op.execute(
        "CREATE TRIGGER mark_words_reply AFTER INSERT ON reply BEGIN UPDATE mark_words SET words = words || ' ' || new.text"
        " WHERE rowid = (SELECT seq FROM mark_text WHERE mark_id = new.mark_id); END"
    )
    op.execute("INSERT INTO mark_text (mark_id) SELECT id FROM mark ORDER BY rowid")
    op.execute(
        "INSERT INTO mark_words (rowid, words) SELECT seq, mark.text || coalesce(' ' || (SELECT group_concat(text, ' ')"
        " FROM reply WHERE mark_id = mark.id), '') FROM mark_text JOIN mark ON mark.id = mark_text.mark_id"
    )


def _fill_documents() -> None:
    """The columns that mirror the current revision and the number's parts; then the words, and triggers for both."""
    connection = op.get_bind()
    op.execute(
        "UPDATE document SET (file_name, size_bytes, sha256, filed_by, came_from, arrived_at) = (SELECT file_name,"
        " size_bytes, sha256, filed_by, came_from, arrived_at FROM revision WHERE revision.id = document.revision_id)"
        " WHERE revision_id IN (SELECT id FROM revision)"
    )
    projects = connection.exec_driver_sql("SELECT id, rules FROM project").fetchall()
    for project, rules in projects:
        convention = json.loads(rules)["convention"]
        names = [each["name"] for each in convention["fields"]]
        rows = connection.exec_driver_sql(
            "SELECT seq, number FROM document WHERE project_id = ?", (project,)
        ).fetchall()
        for seq, number in rows:
            values = dict(zip(names, number.split(convention["separator"]), strict=False))
            given = (values.get("functional", ""), values.get("spatial", ""), _shapes(number), seq)
            connection.exec_driver_sql("UPDATE document SET zone = ?, level = ?, shapes = ? WHERE seq = ?", given)
    columns = "number, title, shapes, field_words"
    old, new = (", ".join(f"{row}.{each}" for each in columns.split(", ")) for row in ("old", "new"))
    op.execute(
        f"CREATE VIRTUAL TABLE document_words USING fts5({columns}, content='document', content_rowid='seq',"
        " prefix='1 2 3')"
    )
    op.execute("INSERT INTO document_words(document_words) VALUES ('rebuild')")
    op.execute(
        "CREATE TRIGGER document_words_in AFTER INSERT ON document BEGIN"
        f" INSERT INTO document_words(rowid, {columns}) VALUES (new.seq, {new}); END"
    )
    op.execute(
        f"CREATE TRIGGER document_words_change AFTER UPDATE OF {columns} ON document BEGIN"
        f" INSERT INTO document_words(document_words, rowid, {columns}) VALUES ('delete', old.seq, {old});"
        f" INSERT INTO document_words(rowid, {columns}) VALUES (new.seq, {new}); END"
    )


def _shapes(number: str) -> str:
    parts = [part.upper().translate(_CONFUSED) for part in re.split(r"[\W_]+", number) if part]
    return " ".join("".join(parts[start:]) for start in range(len(parts)))


def _name_fields() -> None:
    """Typed fields get an id, so that renaming one keeps its values, and may belong to a folder."""
    connection = op.get_bind()
    for project, rules in connection.exec_driver_sql("SELECT id, rules FROM project").fetchall():
        loaded = json.loads(rules)
        loaded["fields"] = [
            {"id": f"f{secrets.token_hex(5)}", "folder_id": "", **each} for each in loaded.get("fields", [])
        ]
        loaded.setdefault("reviewed_statuses", [])
        given = (json.dumps(loaded), project)
        connection.exec_driver_sql("UPDATE project SET rules = ? WHERE id = ?", given)
    for starter, content in connection.exec_driver_sql("SELECT id, content FROM starter").fetchall():
        loaded = json.loads(content)
        if "rules" in loaded:
            fields = loaded["rules"].get("fields", [])
            loaded["rules"]["fields"] = [{"id": f"f{secrets.token_hex(5)}", "folder_id": "", **each} for each in fields]
            loaded["rules"].setdefault("reviewed_statuses", [])
            connection.exec_driver_sql("UPDATE starter SET content = ? WHERE id = ?", (json.dumps(loaded), starter))
