"""What is said becomes a thread, and a mark the place of it on a revision; running orders become columns.

Ids stay as they are: a thread has that of the mark with which it began, and so whatever was written about it still
leads there. Where a mark was reworded after it was carried forward, the thread has the words that were written last;
the trail has the others.
"""

import json

import sqlalchemy as sa
from alembic import op

revision = "0020"
down_revision = "0019"


def upgrade() -> None:
    _threads()
    _replies()
    _links()
    _marks()
    _words()
    _said_on()


def _made(name: str, *columns: sa.Column) -> None:  # type: ignore[type-arg]
    op.create_table(
        name,
        sa.Column("seq", sa.Integer(), primary_key=True, autoincrement=True),
        sa.Column("id", sa.String(16), nullable=False, unique=True),
        *columns,
        sqlite_autoincrement=True,
    )


def _text(name: str, default: str = "") -> sa.Column:  # type: ignore[type-arg]
    return sa.Column(name, sa.String(), nullable=False, server_default=default)


def _to(name: str, target: str, *, nullable: bool = False) -> sa.Column:  # type: ignore[type-arg]
    return sa.Column(name, sa.String(16), sa.ForeignKey(target), nullable=nullable)


def _at(name: str, *, nullable: bool = True) -> sa.Column:  # type: ignore[type-arg]
    return sa.Column(name, sa.String(27), nullable=nullable)


def _authors() -> tuple[sa.Column, ...]:  # type: ignore[type-arg]
    name = ("author_name", "author_company")
    return (_to("author_id", "person.id", nullable=True), *(_text(each) for each in name), _text("way", "person"))


def _threads() -> None:
    _made(
        "thread", _to("project_id", "project.id"), _text("kind"), _text("on_kind"), _text("on_id"), _text("said_on"),
        _text("text"), *_authors(), _text("file_id"), _at("said_at", nullable=False), _at("shared_at"),
        _text("meant_for"), _text("state", "open"), _text("state_by"), _at("state_at"), _text("state_on"),
        sa.Column("version", sa.Integer(), nullable=False, server_default="0"),
    )  # fmt: skip
    op.create_index("ix_thread_file_id", "thread", ["file_id"])
    op.create_index("ix_thread_on", "thread", ["on_id", "on_kind", "kind"])
    op.create_index(
        "one_talk_of_a_thing", "thread", ["on_id", "on_kind"], unique=True, sqlite_where=sa.text("kind = 'talk'")
    )
    # It goes with its table; without it each mark would walk through all.
    op.execute("CREATE INDEX ix_mark_of_thread ON mark (thread_id)")
    # Of the places of a thread, the one whose words were written last; one that was never reworded has those of the
    # first. Whom it is for, likewise.
    last = (
        "SELECT {} FROM mark l WHERE l.id = m.id OR l.thread_id = m.id"
        " ORDER BY coalesce(l.changed_at, '') DESC, l.rowid DESC LIMIT 1"
    )
    op.execute(
        "INSERT INTO thread (id, project_id, kind, on_kind, on_id, said_on, text, author_id, author_name, way, file_id,"
        " said_at, shared_at, meant_for, state, state_by, state_at)"
        " SELECT m.id, d.project_id, 'mark', 'document', m.document_id, m.revision_id,"
        f" ({last.format('l.text')}), m.author_id, m.other_author,"
        " CASE m.other_author WHEN '' THEN 'person' ELSE 'file' END, m.file_id, m.drawn_at, m.inked_at,"
        f" ({last.format('l.meant_for')}), m.state, m.state_by, m.state_at"
        " FROM mark m JOIN document d ON d.id = m.document_id WHERE m.thread_id IN ('', m.id) ORDER BY m.rowid"
    )


def _replies() -> None:
    op.execute("DROP TRIGGER mark_words_reply")
    op.execute("ALTER TABLE reply RENAME TO former_reply")
    op.execute("DROP INDEX ix_reply_mark_id")
    _made(
        "reply", _to("thread_id", "thread.id"), *_authors(), _text("file_id"), _text("text"), _at("at", nullable=False),
        _text("said_on"),
    )  # fmt: skip
    op.create_index("ix_reply_thread_id", "reply", ["thread_id"])
    op.execute(
        "INSERT INTO reply (id, thread_id, author_id, author_name, way, file_id, text, at)"
        " SELECT id, mark_id, author_id, other_author, CASE other_author WHEN '' THEN 'person' ELSE 'file' END,"
        " file_id, text, at FROM former_reply ORDER BY rowid"
    )
    op.execute("DROP TABLE former_reply")


def _links() -> None:
    op.execute("ALTER TABLE mark_link RENAME TO former_link")
    _made(
        "thread_link", _to("thread_id", "thread.id"), _to("project_id", "project.id"), _text("kind"), _text("target"),
        _to("made_by", "person.id"), _at("made_at", nullable=False), _at("removed_at"),
    )  # fmt: skip
    op.create_index("ix_thread_link_thread_id", "thread_link", ["thread_id"])
    op.create_index("ix_thread_link_target", "thread_link", ["kind", "target"])
    op.execute(
        "INSERT INTO thread_link (id, thread_id, project_id, kind, target, made_by, made_at, removed_at)"
        " SELECT id, mark_id, project_id, kind, target, made_by, made_at, removed_at FROM former_link ORDER BY rowid"
    )
    op.execute("DROP TABLE former_link")


def _marks() -> None:
    for trigger in ("mark_words_in", "mark_words_change"):
        op.execute(f"DROP TRIGGER {trigger}")
    op.execute("ALTER TABLE mark RENAME TO former_mark")
    for column in ("document_id", "revision_id", "carried_from", "file_id"):
        op.execute(f"DROP INDEX ix_mark_{column}")
    number, flag = sa.Integer(), sa.Boolean()
    _made(
        "mark", _to("thread_id", "thread.id"), _to("document_id", "document.id"), _to("revision_id", "revision.id"),
        sa.Column("page", number, nullable=False), _text("kind"), sa.Column("points", sa.JSON(), nullable=False),
        sa.Column("rings", sa.JSON(), nullable=False, server_default="[]"),
        sa.Column("aim_pt", sa.Float(), nullable=False, server_default="0"),
        sa.Column("look", sa.JSON(), nullable=False, server_default="{}"),
        sa.Column("rank", number, nullable=False, server_default="0"),
        sa.Column("locked", flag, nullable=False, server_default="0"), _text("label"), _text("discipline"),
        sa.Column("pin_number", number), _text("carried_from"), sa.Column("touched", flag), _at("changed_at"),
        _at("removed_at"), sa.Column("version", number, nullable=False, server_default="1"),
    )  # fmt: skip
    same = (
        "document_id, revision_id, page, kind, points, rings, aim_pt, look, rank, locked, label, discipline,"
        " pin_number, carried_from, touched, changed_at, removed_at, version"
    )
    op.execute(
        f"INSERT INTO mark (id, thread_id, {same})"
        f" SELECT id, CASE thread_id WHEN '' THEN id ELSE thread_id END, {same} FROM former_mark ORDER BY rowid"
    )
    op.execute("DROP TABLE former_mark")
    for column in ("thread_id", "document_id", "revision_id", "carried_from"):
        op.create_index(f"ix_mark_{column}", "mark", [column])


def _words() -> None:
    """Of threads instead of marks: the index has the thread's own number."""
    op.execute("DROP TABLE mark_words")
    op.execute("DROP TABLE mark_text")
    op.execute("CREATE VIRTUAL TABLE thread_words USING fts5(words, prefix='2 3')")
    op.execute(
        "CREATE TRIGGER thread_words_in AFTER INSERT ON thread BEGIN"
        " INSERT INTO thread_words (rowid, words) VALUES (new.seq, new.text); END"
    )
    said = "coalesce((SELECT group_concat(r.text, ' ') FROM reply r WHERE r.thread_id = {}.id), '')"
    op.execute(
        "CREATE TRIGGER thread_words_change AFTER UPDATE OF text ON thread BEGIN"
        f" UPDATE thread_words SET words = new.text || ' ' || {said.format('new')} WHERE rowid = new.seq; END"
    )
    op.execute(
        "CREATE TRIGGER thread_words_reply AFTER INSERT ON reply BEGIN UPDATE thread_words SET words = words || ' ' || "
        "new.text WHERE rowid = (SELECT seq FROM thread WHERE id = new.thread_id); END"
    )
    op.execute(
        f"INSERT INTO thread_words (rowid, words) SELECT t.seq, t.text || ' ' || {said.format('t')} FROM thread t"
    )


def _said_on() -> None:
    """On which revision something was answered or decided, the trail says; otherwise that where the thread began."""
    connection = op.get_bind()
    pairs = connection.execute(sa.text("SELECT id, thread_id FROM mark")).all()
    threads: dict[str, str] = {mark: thread for mark, thread in pairs}
    told = connection.execute(
        sa.text("SELECT body FROM audit_entry WHERE kind IN ('mark_answered', 'mark_state_set') ORDER BY seq")
    )
    connection.execute(sa.text("UPDATE reply SET said_on = (SELECT said_on FROM thread WHERE id = thread_id)"))
    connection.execute(sa.text("UPDATE thread SET state_on = said_on WHERE state_at IS NOT NULL"))
    for (raw,) in told.all():
        body = json.loads(raw)
        named = {each["kind"]: each["id"] for each in body["others"]}
        thread, revision_id = threads.get(named.get("mark", "")), named.get("revision")
        if not thread or not revision_id:
            continue
        values = {"thread": thread, "revision": revision_id, "text": body["after"].get("text", ""), "at": body["at"]}
        if body["kind"] == "mark_answered":
            where = "thread_id = :thread AND text = :text AND (at = :at OR way = 'file')"
            connection.execute(sa.text(f"UPDATE reply SET said_on = :revision WHERE {where}"), values)
        else:
            connection.execute(sa.text("UPDATE thread SET state_on = :revision WHERE id = :thread"), values)
