"""What is with whom has a table of its own, filled from what is open today."""

import sqlalchemy as sa
from alembic import op

revision = "0018"
down_revision = "0017"

_COLUMNS = (
    "id, project_id, kind, thing_kind, thing_id, part, what, each, waiter_id, since_at, due_on, counting, is_coming"
)
_NEW_ID = "lower(hex(randomblob(8)))"


def upgrade() -> None:
    _make_tables()
    # The steps of reviews that run: with whoever picked them up, otherwise with those who may; what waits, with these.
    _fill(
        f"SELECT {_NEW_ID}, r.project_id, 'step', 'review', r.id, s.id, s.name, 0, r.started_by, "
        "coalesce(s.taken_at, s.began_at), s.due_on, s.counting, s.state = 'waiting' "
        "FROM review_step s JOIN review r ON r.id = s.review_id "
        "WHERE r.state = 'running' AND s.state IN ('running', 'waiting')"
    )
    op.execute(
        "INSERT INTO open_work_holder SELECT w.id, 'person', p.person_id, p.place FROM open_work w "
        "JOIN review_step s ON s.id = w.part JOIN step_person p ON p.step_id = s.id "
        "WHERE s.taken_by IS NULL OR s.state = 'waiting' OR s.taken_by = p.person_id"
    )
    op.execute(
        "INSERT INTO open_work_document SELECT w.id, d.document_id FROM open_work w "
        "JOIN review_document d ON d.review_id = w.thing_id WHERE NOT w.is_coming"
    )
    # Reviews that have closed and were not sent out.
    _fill(
        f"SELECT {_NEW_ID}, r.project_id, 'send_out', 'review', r.id, '', '', 0, '', r.ended_at, NULL, 'working', 0 "
        "FROM review r WHERE r.state = 'closed' "
        "AND NOT EXISTS (SELECT 1 FROM transmittal t WHERE t.review_id = r.id)"
    )
    op.execute(
        "INSERT INTO open_work_holder SELECT w.id, 'person', r.started_by, 0 FROM open_work w "
        "JOIN review r ON r.id = w.thing_id WHERE w.kind = 'send_out'"
    )
    # Transmittals that somebody has still to acknowledge.
    _fill(
        f"SELECT {_NEW_ID}, t.project_id, 'acknowledge', 'transmittal', t.id, '', '', 1, t.sent_by, t.sent_at, "
        "t.answer_wanted_on, 'working', 0 FROM transmittal t "
        "WHERE EXISTS (SELECT 1 FROM recipient p WHERE p.transmittal_id = t.id AND p.acknowledged_at IS NULL)"
    )
    op.execute(
        "INSERT INTO open_work_holder SELECT w.id, 'person', p.person_id, p.place FROM open_work w "
        "JOIN recipient p ON p.transmittal_id = w.thing_id "
        "WHERE w.kind = 'acknowledge' AND p.acknowledged_at IS NULL"
    )
    # Documents that are checked out.
    _fill(
        f"SELECT {_NEW_ID}, d.project_id, 'check_in', 'document', d.id, '', '', 0, '', d.checked_out_at, NULL, "
        "'working', 0 FROM document d WHERE d.checked_out_by <> ''"
    )
    op.execute(
        "INSERT INTO open_work_holder SELECT w.id, 'person', d.checked_out_by, 0 FROM open_work w "
        "JOIN document d ON d.id = w.thing_id WHERE w.kind = 'check_in'"
    )
    op.execute("INSERT INTO open_work_document SELECT w.id, w.thing_id FROM open_work w WHERE w.kind = 'check_in'")


def _fill(select: str) -> None:
    op.execute(f"INSERT INTO open_work ({_COLUMNS}) {select}")


def _make_tables() -> None:
    op.create_table(
        "open_work",
        sa.Column("id", sa.String(16), primary_key=True),
        sa.Column("project_id", sa.String(), sa.ForeignKey("project.id"), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("thing_kind", sa.String(), nullable=False),
        sa.Column("thing_id", sa.String(), nullable=False),
        sa.Column("part", sa.String(), nullable=False),
        sa.Column("what", sa.String(), nullable=False),
        sa.Column("each", sa.Boolean(), nullable=False),
        sa.Column("waiter_id", sa.String(), nullable=False),
        sa.Column("since_at", sa.String(27), nullable=True),
        sa.Column("due_on", sa.Date(), nullable=True),
        sa.Column("counting", sa.String(), nullable=False),
        sa.Column("is_coming", sa.Boolean(), nullable=False),
    )
    op.create_index("ix_open_work_thing", "open_work", ["thing_id"])
    op.create_index("ix_open_work_due", "open_work", ["project_id", "is_coming", "due_on"])
    op.create_index("ix_open_work_waiter", "open_work", ["waiter_id"])
    for name, *columns in (
        ("open_work_holder", sa.Column("kind", sa.String(), primary_key=True), _id("holder_id"), _place()),
        ("open_work_document", _id("document_id")),
    ):
        work = sa.Column("work_id", sa.String(), sa.ForeignKey("open_work.id", ondelete="CASCADE"), primary_key=True)
        op.create_table(name, work, *columns)
    op.create_index("ix_open_work_holder_holder_id", "open_work_holder", ["holder_id"])
    op.create_index("ix_open_work_document_document_id", "open_work_document", ["document_id"])


def _id(name: str) -> sa.Column[str]:
    return sa.Column(name, sa.String(), primary_key=True)


def _place() -> sa.Column[int]:
    return sa.Column("place", sa.Integer(), nullable=False)
