"""The first tables, the word index and the triggers that keep the trail."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None


def upgrade() -> None:
    op.create_table(
        "audit_entry",
        sa.Column("seq", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("body", sa.LargeBinary(), nullable=False),
        sa.Column("leaf_sha256", sa.LargeBinary(length=32), nullable=False),
        sa.Column("at", sa.String(27), nullable=False),
        sa.Column("project_id", sa.String(), nullable=False),
        sa.Column("person_id", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("private_to", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("seq"),
    )
    op.create_index(op.f("ix_audit_entry_at"), "audit_entry", ["at"], unique=False)
    op.create_index(op.f("ix_audit_entry_kind"), "audit_entry", ["kind"], unique=False)
    op.create_index(op.f("ix_audit_entry_person_id"), "audit_entry", ["person_id"], unique=False)
    op.create_index(op.f("ix_audit_entry_project_id"), "audit_entry", ["project_id"], unique=False)
    op.create_table(
        "blob",
        sa.Column("sha256", sa.String(length=64), nullable=False),
        sa.Column("size_bytes", sa.Integer(), nullable=False),
        sa.Column("media_type", sa.String(), nullable=False),
        sa.Column("stored_at", sa.String(27), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("fault", sa.String(), nullable=False),
        sa.Column("fault_words", sa.String(), nullable=False),
        sa.Column("page_count", sa.Integer(), nullable=False),
        sa.Column("has_text", sa.Boolean(), nullable=False),
        sa.Column("active_content", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("sha256"),
    )
    op.create_table(
        "company",
        sa.Column("id", sa.String(length=16), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("code", sa.String(length=6), nullable=False),
        sa.Column("part", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("code"),
    )
    op.create_table(
        "failed_sign_in",
        sa.Column("seq", sa.Integer(), autoincrement=True, nullable=False),
        sa.Column("key", sa.String(length=64), nullable=False),
        sa.Column("at", sa.String(27), nullable=False),
        sa.PrimaryKeyConstraint("seq"),
    )
    op.create_index(op.f("ix_failed_sign_in_key"), "failed_sign_in", ["key"], unique=False)
    op.create_table(
        "live_event",
        sa.Column("seq", sa.Integer(), autoincrement=True, nullable=False),
        sa.Column("at", sa.String(27), nullable=False),
        sa.Column("project_id", sa.String(), nullable=False),
        sa.Column("only_person_id", sa.String(), nullable=False),
        sa.Column("topic", sa.String(), nullable=False),
        sa.Column("subject_id", sa.String(length=64), nullable=False),
        sa.Column("by_person_id", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("seq"),
    )
    op.create_index("ix_live_event_at", "live_event", ["at"], unique=False)
    op.create_table(
        "outbox",
        sa.Column("seq", sa.Integer(), autoincrement=True, nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("payload", sa.JSON(), nullable=False),
        sa.Column("made_at", sa.String(27), nullable=False),
        sa.Column("not_before", sa.String(27), nullable=False),
        sa.Column("tries", sa.Integer(), nullable=False),
        sa.Column("leased_by", sa.String(), nullable=False),
        sa.Column("leased_until", sa.String(27), nullable=True),
        sa.Column("done_at", sa.String(27), nullable=True),
        sa.Column("gave_up_at", sa.String(27), nullable=True),
        sa.Column("trouble", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("seq"),
        sa.UniqueConstraint("key"),
    )
    op.create_index("ix_outbox_open", "outbox", ["done_at", "gave_up_at", "not_before"], unique=False)
    op.create_table(
        "project",
        sa.Column("id", sa.String(length=16), nullable=False),
        sa.Column("number", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("time_zone", sa.String(), nullable=False),
        sa.Column("rules", sa.JSON(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("number"),
    )
    op.create_table(
        "trail_head",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("size", sa.Integer(), nullable=False),
        sa.Column("heads", sa.LargeBinary(), nullable=False),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_table(
        "audit_subject",
        sa.Column("seq", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("subject_id", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["seq"],
            ["audit_entry.seq"],
        ),
        sa.PrimaryKeyConstraint("seq", "kind", "subject_id"),
    )
    op.create_index("ix_audit_subject", "audit_subject", ["subject_id", "seq"], unique=False)
    op.create_table(
        "document",
        sa.Column("seq", sa.Integer(), autoincrement=True, nullable=False),
        sa.Column("id", sa.String(length=16), nullable=False),
        sa.Column("project_id", sa.String(length=16), nullable=False),
        sa.Column("number", sa.String(), nullable=False),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("discipline", sa.String(), nullable=False),
        sa.Column("originator", sa.String(), nullable=False),
        sa.Column("form", sa.String(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("revision_id", sa.String(), nullable=False),
        sa.Column("revision", sa.String(), nullable=False),
        sa.Column("status", sa.String(), nullable=False),
        sa.Column("sheet_size", sa.String(), nullable=False),
        sa.Column("verdict", sa.String(), nullable=False),
        sa.Column("with_whom", sa.String(), nullable=False),
        sa.Column("since_at", sa.String(27), nullable=True),
        sa.Column("due_on", sa.Date(), nullable=True),
        sa.Column("filed_at", sa.String(27), nullable=False),
        sa.ForeignKeyConstraint(
            ["project_id"],
            ["project.id"],
        ),
        sa.PrimaryKeyConstraint("seq"),
        sa.UniqueConstraint("id"),
        sa.UniqueConstraint("project_id", "number"),
    )
    op.create_index("ix_document_discipline", "document", ["project_id", "discipline", "seq"], unique=False)
    op.create_index("ix_document_due_on", "document", ["project_id", "due_on", "seq"], unique=False)
    op.create_index("ix_document_filed_at", "document", ["project_id", "filed_at", "seq"], unique=False)
    op.create_index("ix_document_revision", "document", ["project_id", "revision", "seq"], unique=False)
    op.create_index("ix_document_status", "document", ["project_id", "status", "seq"], unique=False)
    op.create_index("ix_document_title", "document", ["project_id", "title", "seq"], unique=False)
    op.create_index("ix_document_verdict", "document", ["project_id", "verdict", "seq"], unique=False)
    op.create_index("ix_document_with_whom", "document", ["project_id", "with_whom", "seq"], unique=False)
    op.create_table(
        "holiday",
        sa.Column("project_id", sa.String(length=16), nullable=False),
        sa.Column("on", sa.Date(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["project_id"],
            ["project.id"],
        ),
        sa.PrimaryKeyConstraint("project_id", "on"),
    )
    op.create_table(
        "page",
        sa.Column("sha256", sa.String(length=64), nullable=False),
        sa.Column("place", sa.Integer(), nullable=False),
        sa.Column("left", sa.Double(), nullable=False),
        sa.Column("bottom", sa.Double(), nullable=False),
        sa.Column("right", sa.Double(), nullable=False),
        sa.Column("top", sa.Double(), nullable=False),
        sa.Column("rotation", sa.Integer(), nullable=False),
        sa.Column("user_unit", sa.Double(), nullable=False),
        sa.Column("size_name", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["sha256"],
            ["blob.sha256"],
        ),
        sa.PrimaryKeyConstraint("sha256", "place"),
    )
    op.create_table(
        "person",
        sa.Column("id", sa.String(length=16), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("email", sa.String(), nullable=False),
        sa.Column("company_id", sa.String(length=16), nullable=False),
        sa.Column("job", sa.String(), nullable=False),
        sa.Column("password_hash", sa.String(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["company_id"],
            ["company.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("email"),
    )
    op.create_index(op.f("ix_person_company_id"), "person", ["company_id"], unique=False)
    op.create_table(
        "route",
        sa.Column("id", sa.String(length=16), nullable=False),
        sa.Column("project_id", sa.String(length=16), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("purpose", sa.String(), nullable=False),
        sa.Column("steps", sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(
            ["project_id"],
            ["project.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index(op.f("ix_route_project_id"), "route", ["project_id"], unique=False)
    op.create_table(
        "series",
        sa.Column("project_id", sa.String(length=16), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("last", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(
            ["project_id"],
            ["project.id"],
        ),
        sa.PrimaryKeyConstraint("project_id", "name"),
    )
    op.create_table(
        "batch",
        sa.Column("id", sa.String(length=16), nullable=False),
        sa.Column("project_id", sa.String(length=16), nullable=False),
        sa.Column("source", sa.String(), nullable=False),
        sa.Column("came_from", sa.String(), nullable=False),
        sa.Column("arrived_by", sa.String(length=16), nullable=False),
        sa.Column("arrived_at", sa.String(27), nullable=False),
        sa.ForeignKeyConstraint(
            ["arrived_by"],
            ["person.id"],
        ),
        sa.ForeignKeyConstraint(
            ["project_id"],
            ["project.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index(op.f("ix_batch_project_id"), "batch", ["project_id"], unique=False)
    op.create_table(
        "membership",
        sa.Column("project_id", sa.String(length=16), nullable=False),
        sa.Column("person_id", sa.String(length=16), nullable=False),
        sa.Column("roles", sa.JSON(), nullable=False),
        sa.Column("level", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(
            ["person_id"],
            ["person.id"],
        ),
        sa.ForeignKeyConstraint(
            ["project_id"],
            ["project.id"],
        ),
        sa.PrimaryKeyConstraint("project_id", "person_id"),
    )
    op.create_index(op.f("ix_membership_person_id"), "membership", ["person_id"], unique=False)
    op.create_table(
        "review",
        sa.Column("id", sa.String(length=16), nullable=False),
        sa.Column("project_id", sa.String(length=16), nullable=False),
        sa.Column("number", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("message", sa.String(), nullable=False),
        sa.Column("route_name", sa.String(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("verdict_set", sa.JSON(), nullable=False),
        sa.Column("started_by", sa.String(length=16), nullable=False),
        sa.Column("started_at", sa.String(27), nullable=False),
        sa.Column("ended_at", sa.String(27), nullable=True),
        sa.Column("why_cancelled", sa.String(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(
            ["project_id"],
            ["project.id"],
        ),
        sa.ForeignKeyConstraint(
            ["started_by"],
            ["person.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("project_id", "number"),
    )
    op.create_index(op.f("ix_review_project_id"), "review", ["project_id"], unique=False)
    op.create_table(
        "revision",
        sa.Column("id", sa.String(length=16), nullable=False),
        sa.Column("document_id", sa.String(length=16), nullable=False),
        sa.Column("code", sa.String(), nullable=False),
        sa.Column("status", sa.String(), nullable=False),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("sha256", sa.String(length=64), nullable=False),
        sa.Column("file_name", sa.String(), nullable=False),
        sa.Column("size_bytes", sa.Integer(), nullable=False),
        sa.Column("filed_by", sa.String(length=16), nullable=False),
        sa.Column("filed_at", sa.String(27), nullable=False),
        sa.Column("came_from", sa.String(), nullable=False),
        sa.Column("arrived_at", sa.String(27), nullable=False),
        sa.Column("superseded_at", sa.String(27), nullable=True),
        sa.ForeignKeyConstraint(
            ["document_id"],
            ["document.id"],
        ),
        sa.ForeignKeyConstraint(
            ["filed_by"],
            ["person.id"],
        ),
        sa.ForeignKeyConstraint(
            ["sha256"],
            ["blob.sha256"],
        ),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("document_id", "code"),
    )
    op.create_index(op.f("ix_revision_document_id"), "revision", ["document_id"], unique=False)
    op.create_index(op.f("ix_revision_sha256"), "revision", ["sha256"], unique=False)
    op.create_index(
        "one_current_revision", "revision", ["document_id"], unique=True, sqlite_where=sa.text("superseded_at IS NULL")
    )
    op.create_table(
        "sign_in",
        sa.Column("token_sha256", sa.String(length=64), nullable=False),
        sa.Column("person_id", sa.String(length=16), nullable=False),
        sa.Column("csrf_token", sa.String(), nullable=False),
        sa.Column("began_at", sa.String(27), nullable=False),
        sa.Column("ends_at", sa.String(27), nullable=False),
        sa.ForeignKeyConstraint(
            ["person_id"],
            ["person.id"],
        ),
        sa.PrimaryKeyConstraint("token_sha256"),
    )
    op.create_index(op.f("ix_sign_in_person_id"), "sign_in", ["person_id"], unique=False)
    op.create_table(
        "arrival",
        sa.Column("id", sa.String(length=16), nullable=False),
        sa.Column("batch_id", sa.String(length=16), nullable=False),
        sa.Column("project_id", sa.String(length=16), nullable=False),
        sa.Column("place", sa.Integer(), nullable=False),
        sa.Column("file_name", sa.String(), nullable=False),
        sa.Column("sha256", sa.String(length=64), nullable=False),
        sa.Column("number", sa.String(), nullable=False),
        sa.Column("revision", sa.String(), nullable=False),
        sa.Column("status", sa.String(), nullable=False),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("reason", sa.String(), nullable=False),
        sa.Column("held_at", sa.String(27), nullable=True),
        sa.Column("revision_id", sa.String(), nullable=True),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(
            ["batch_id"],
            ["batch.id"],
        ),
        sa.ForeignKeyConstraint(
            ["project_id"],
            ["project.id"],
        ),
        sa.ForeignKeyConstraint(
            ["sha256"],
            ["blob.sha256"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index(op.f("ix_arrival_batch_id"), "arrival", ["batch_id"], unique=False)
    op.create_index("ix_arrival_open", "arrival", ["project_id", "state"], unique=False)
    op.create_table(
        "mark",
        sa.Column("id", sa.String(length=16), nullable=False),
        sa.Column("document_id", sa.String(length=16), nullable=False),
        sa.Column("revision_id", sa.String(length=16), nullable=False),
        sa.Column("page", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("points", sa.JSON(), nullable=False),
        sa.Column("colour", sa.String(), nullable=False),
        sa.Column("text", sa.String(), nullable=False),
        sa.Column("pin_number", sa.Integer(), nullable=True),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("author_id", sa.String(length=16), nullable=False),
        sa.Column("drawn_at", sa.String(27), nullable=False),
        sa.Column("inked_at", sa.String(27), nullable=True),
        sa.Column("removed_at", sa.String(27), nullable=True),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(
            ["author_id"],
            ["person.id"],
        ),
        sa.ForeignKeyConstraint(
            ["document_id"],
            ["document.id"],
        ),
        sa.ForeignKeyConstraint(
            ["revision_id"],
            ["revision.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index(op.f("ix_mark_document_id"), "mark", ["document_id"], unique=False)
    op.create_index(op.f("ix_mark_revision_id"), "mark", ["revision_id"], unique=False)
    op.create_table(
        "review_document",
        sa.Column("review_id", sa.String(length=16), nullable=False),
        sa.Column("document_id", sa.String(length=16), nullable=False),
        sa.Column("revision_id", sa.String(length=16), nullable=False),
        sa.Column("place", sa.Integer(), nullable=False),
        sa.Column("verdict", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["document_id"],
            ["document.id"],
        ),
        sa.ForeignKeyConstraint(
            ["review_id"],
            ["review.id"],
        ),
        sa.ForeignKeyConstraint(
            ["revision_id"],
            ["revision.id"],
        ),
        sa.PrimaryKeyConstraint("review_id", "document_id"),
    )
    op.create_index(op.f("ix_review_document_document_id"), "review_document", ["document_id"], unique=False)
    op.create_table(
        "review_step",
        sa.Column("id", sa.String(length=16), nullable=False),
        sa.Column("review_id", sa.String(length=16), nullable=False),
        sa.Column("place", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("act", sa.String(), nullable=False),
        sa.Column("days", sa.Integer(), nullable=False),
        sa.Column("counting", sa.String(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("began_at", sa.String(27), nullable=True),
        sa.Column("due_on", sa.Date(), nullable=True),
        sa.Column("taken_by", sa.String(length=16), nullable=True),
        sa.Column("taken_at", sa.String(27), nullable=True),
        sa.Column("ended_at", sa.String(27), nullable=True),
        sa.Column("note", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["review_id"],
            ["review.id"],
        ),
        sa.ForeignKeyConstraint(
            ["taken_by"],
            ["person.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index(op.f("ix_review_step_review_id"), "review_step", ["review_id"], unique=False)
    op.create_index("ix_review_step_state", "review_step", ["state", "due_on"], unique=False)
    op.create_table(
        "transmittal",
        sa.Column("id", sa.String(length=16), nullable=False),
        sa.Column("project_id", sa.String(length=16), nullable=False),
        sa.Column("company_id", sa.String(length=16), nullable=False),
        sa.Column("number", sa.String(), nullable=False),
        sa.Column("purpose", sa.String(), nullable=False),
        sa.Column("note", sa.String(), nullable=False),
        sa.Column("answer_wanted_on", sa.Date(), nullable=True),
        sa.Column("review_id", sa.String(length=16), nullable=True),
        sa.Column("sent_by", sa.String(length=16), nullable=False),
        sa.Column("sent_at", sa.String(27), nullable=False),
        sa.Column("cover_sha256", sa.String(), nullable=False),
        sa.Column("pack_sha256", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["company_id"],
            ["company.id"],
        ),
        sa.ForeignKeyConstraint(
            ["project_id"],
            ["project.id"],
        ),
        sa.ForeignKeyConstraint(
            ["review_id"],
            ["review.id"],
        ),
        sa.ForeignKeyConstraint(
            ["sent_by"],
            ["person.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("project_id", "number"),
    )
    op.create_index(op.f("ix_transmittal_project_id"), "transmittal", ["project_id"], unique=False)
    op.create_table(
        "answer",
        sa.Column("step_id", sa.String(length=16), nullable=False),
        sa.Column("document_id", sa.String(length=16), nullable=False),
        sa.Column("person_id", sa.String(length=16), nullable=False),
        sa.Column("verdict", sa.String(), nullable=False),
        sa.Column("comment", sa.String(), nullable=False),
        sa.Column("at", sa.String(27), nullable=False),
        sa.ForeignKeyConstraint(
            ["document_id"],
            ["document.id"],
        ),
        sa.ForeignKeyConstraint(
            ["person_id"],
            ["person.id"],
        ),
        sa.ForeignKeyConstraint(
            ["step_id"],
            ["review_step.id"],
        ),
        sa.PrimaryKeyConstraint("step_id", "document_id"),
    )
    op.create_table(
        "recipient",
        sa.Column("id", sa.String(length=16), nullable=False),
        sa.Column("transmittal_id", sa.String(length=16), nullable=False),
        sa.Column("person_id", sa.String(length=16), nullable=False),
        sa.Column("place", sa.Integer(), nullable=False),
        sa.Column("token_sha256", sa.String(length=64), nullable=False),
        sa.Column("mailed_at", sa.String(27), nullable=True),
        sa.Column("opened_at", sa.String(27), nullable=True),
        sa.Column("downloaded_at", sa.String(27), nullable=True),
        sa.Column("acknowledged_at", sa.String(27), nullable=True),
        sa.ForeignKeyConstraint(
            ["person_id"],
            ["person.id"],
        ),
        sa.ForeignKeyConstraint(
            ["transmittal_id"],
            ["transmittal.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("token_sha256"),
        sa.UniqueConstraint("transmittal_id", "person_id"),
    )
    op.create_index(op.f("ix_recipient_person_id"), "recipient", ["person_id"], unique=False)
    op.create_index(op.f("ix_recipient_transmittal_id"), "recipient", ["transmittal_id"], unique=False)
    op.create_table(
        "reply",
        sa.Column("id", sa.String(length=16), nullable=False),
        sa.Column("mark_id", sa.String(length=16), nullable=False),
        sa.Column("author_id", sa.String(length=16), nullable=False),
        sa.Column("text", sa.String(), nullable=False),
        sa.Column("at", sa.String(27), nullable=False),
        sa.ForeignKeyConstraint(
            ["author_id"],
            ["person.id"],
        ),
        sa.ForeignKeyConstraint(
            ["mark_id"],
            ["mark.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index(op.f("ix_reply_mark_id"), "reply", ["mark_id"], unique=False)
    op.create_table(
        "step_person",
        sa.Column("step_id", sa.String(length=16), nullable=False),
        sa.Column("person_id", sa.String(length=16), nullable=False),
        sa.Column("place", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(
            ["person_id"],
            ["person.id"],
        ),
        sa.ForeignKeyConstraint(
            ["step_id"],
            ["review_step.id"],
        ),
        sa.PrimaryKeyConstraint("step_id", "person_id"),
    )
    op.create_index(op.f("ix_step_person_person_id"), "step_person", ["person_id"], unique=False)
    op.create_table(
        "transmittal_document",
        sa.Column("transmittal_id", sa.String(length=16), nullable=False),
        sa.Column("revision_id", sa.String(length=16), nullable=False),
        sa.Column("document_id", sa.String(length=16), nullable=False),
        sa.Column("place", sa.Integer(), nullable=False),
        sa.Column("verdict", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["document_id"],
            ["document.id"],
        ),
        sa.ForeignKeyConstraint(
            ["revision_id"],
            ["revision.id"],
        ),
        sa.ForeignKeyConstraint(
            ["transmittal_id"],
            ["transmittal.id"],
        ),
        sa.PrimaryKeyConstraint("transmittal_id", "revision_id"),
    )
    op.create_index(op.f("ix_transmittal_document_document_id"), "transmittal_document", ["document_id"], unique=False)

    op.execute(
        "CREATE VIRTUAL TABLE document_words USING fts5(number, title, content='document', content_rowid='seq',"
        " prefix='1 2 3')"
    )
    op.execute(
        "CREATE TRIGGER document_words_in AFTER INSERT ON document BEGIN"
        " INSERT INTO document_words(rowid, number, title) VALUES (new.seq, new.number, new.title); END"
    )
    op.execute(
        "CREATE TRIGGER document_words_change AFTER UPDATE OF number, title ON document BEGIN"
        " INSERT INTO document_words(document_words, rowid, number, title)"
        " VALUES ('delete', old.seq, old.number, old.title);"
        " INSERT INTO document_words(rowid, number, title) VALUES (new.seq, new.number, new.title); END"
    )
    for table in ("audit_entry", "audit_subject"):
        for act in ("UPDATE", "DELETE"):
            op.execute(
                f"CREATE TRIGGER {table}_keeps_{act.lower()} BEFORE {act} ON {table}"
                f" BEGIN SELECT RAISE(ABORT, 'the audit trail is append-only'); END"
            )
    op.execute("INSERT INTO trail_head (id, size, heads) VALUES (1, 0, x'')")
