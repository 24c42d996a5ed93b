"""Letters: threads, what is written in them, who is in them, who has seen what; and the tool for them."""

import json

import sqlalchemy as sa
from alembic import op

revision = "0056"
down_revision = "0055"

_AT = sa.String(27)


def _id(name: str, to: str, *, nullable: bool = False, key: bool = False) -> sa.Column[str]:
    return sa.Column(name, sa.String(), sa.ForeignKey(f"{to}.id"), nullable=nullable, primary_key=key)


def _text(name: str) -> sa.Column[str]:
    return sa.Column(name, sa.String(), nullable=False)


def upgrade() -> None:
    op.create_table(
        "letter",
        sa.Column("id", sa.String(16), primary_key=True),
        _id("project_id", "project"),
        *map(_text, ("number", "kind", "subject")),
        sa.Column("private", sa.Boolean(), nullable=False),
        _text("state"),
        _id("began_by", "person"),
        _id("company_id", "company"),
        sa.Column("made_at", _AT, nullable=False),
        sa.Column("sent_at", _AT),
        sa.Column("last_at", _AT, nullable=False),
        sa.Column("since_at", _AT),
        _id("asked_id", "person", nullable=True),
        sa.Column("due_on", sa.Date()),
        *map(_text, ("answer_id", "proposed", "cost_effect", "time_effect")),
        sa.Column("version", sa.Integer(), nullable=False),
    )
    op.create_index("ix_letter_began_by", "letter", ["began_by"])
    op.create_index("ix_letter_last", "letter", ["project_id", "last_at"])
    numbered = sa.text("number != ''")
    op.create_index("ix_letter_number", "letter", ["project_id", "number"], unique=True, sqlite_where=numbered)
    op.create_index("ix_letter_due", "letter", ["project_id", "due_on"])
    op.create_index("ix_letter_state", "letter", ["project_id", "state"])
    op.create_table(
        "letter_message",
        sa.Column("seq", sa.Integer(), primary_key=True, autoincrement=True),
        sa.Column("id", sa.String(16), nullable=False, unique=True),
        _id("project_id", "project"),
        _id("letter_id", "letter"),
        sa.Column("place", sa.Integer(), nullable=False),
        _id("author_id", "person", nullable=True),
        *map(_text, ("author_name", "author_email", "author_company", "way")),
        _id("forwarded_by", "person", nullable=True),
        *map(_text, ("subject", "text", "page")),
        sa.Column("folds", sa.JSON(), nullable=False),
        _text("mail_id"),
        sa.Column("to", sa.JSON(), nullable=False),
        sa.Column("written_at", _AT, nullable=False),
        sa.Column("sent_at", _AT),
        sa.Column("begun", sa.JSON(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sqlite_autoincrement=True,
    )
    op.create_index("ix_letter_message_author_id", "letter_message", ["author_id"])
    op.create_index("ix_letter_message_letter", "letter_message", ["letter_id", "place"])
    op.create_index(
        "one_place_in_a_letter",
        "letter_message",
        ["letter_id", "place"],
        unique=True,
        sqlite_where=sa.text("place > 0"),
    )
    op.create_table(
        "letter_party",
        _id("letter_id", "letter", key=True),
        sa.Column("kind", sa.String(), primary_key=True),
        sa.Column("party_id", sa.String(), primary_key=True),
        sa.Column("first_place", sa.Integer(), primary_key=True),
        _text("how"),
        sa.Column("rank", sa.Integer(), nullable=False),
        sa.Column("last_place", sa.Integer()),
        _id("added_by", "person", nullable=True),
        sa.Column("added_at", _AT, nullable=False),
    )
    op.create_index("ix_letter_party", "letter_party", ["party_id", "kind"])
    op.create_table(
        "letter_seen",
        _id("letter_id", "letter", key=True),
        _id("person_id", "person", key=True),
        sa.Column("place", sa.Integer(), nullable=False),
    )
    op.create_table(
        "letter_reference",
        _id("message_id", "letter_message", key=True),
        sa.Column("kind", sa.String(), primary_key=True),
        sa.Column("target", sa.String(), primary_key=True),
    )
    op.create_index("ix_letter_reference", "letter_reference", ["target", "kind"])
    op.execute("CREATE VIRTUAL TABLE letter_words USING fts5(words, prefix='2 3')")
    _give_the_tool()


def _give_the_tool() -> None:
    bind = op.get_bind()
    for table, column in (("project", "rules"), ("starter", "content")):
        for id, text in bind.execute(sa.text(f"SELECT id, {column} FROM {table}")).all():
            kept = json.loads(text)
            for part in (kept, *kept.get("roles", [])):
                if "tools" in part:
                    part["tools"] = _with(part["tools"])
            given = {"kept": json.dumps(kept), "id": id}
            bind.execute(sa.text(f"UPDATE {table} SET {column} = :kept WHERE id = :id"), given)


def _with(tools: list[str] | None) -> list[str]:
    """It stands last, in the order of the work, for who has transmittals."""
    found = list(tools or [])
    return found if "transmittals" not in found or "letters" in found else [*found, "letters"]
