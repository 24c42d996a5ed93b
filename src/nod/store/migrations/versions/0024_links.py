"""Links for people without an account are one kind of thing; those of transmittals become such, and go on working."""

import sqlalchemy as sa
from alembic import op

revision = "0024"
down_revision = "0023"


def upgrade() -> None:
    op.create_table(
        "link",
        sa.Column("id", sa.String(16), primary_key=True),
        _to("project_id", "project.id"), _text("thing_kind"), _text("thing_id"), _text("for_kind"),
        _to("person_id", "person.id", nullable=True), sa.Column("allows", sa.JSON(), nullable=False),
        _to("made_by", "person.id"), _at("made_at", nullable=False), _at("ends_at"), _text("password_hash"),
        sa.Column("most_visits", sa.Integer(), nullable=True),
        sa.Column("visits", sa.Integer(), nullable=False, server_default="0"), _at("last_visit_at"),
        sa.Column("token_sha256", sa.String(64), nullable=False, unique=True), _at("withdrawn_at"),
        _to("withdrawn_by", "person.id", nullable=True),
        sa.Column("version", sa.Integer(), nullable=False, server_default="1"),
    )  # fmt: skip
    op.create_index("ix_link_project", "link", ["project_id", "made_at"])
    op.create_index("ix_link_thing", "link", ["thing_id"])
    op.create_table(
        "guest",
        sa.Column("id", sa.String(16), primary_key=True),
        _to("link_id", "link.id"), _text("name"), _to("person_id", "person.id", nullable=True),
        sa.Column("secret_sha256", sa.String(64), nullable=False, unique=True), _at("began_at", nullable=False),
    )  # fmt: skip
    op.create_index("ix_guest_link_id", "guest", ["link_id"])
    # A recipient's link keeps their id, by which its secret is made: what was mailed opens as it did.
    op.execute(
        "INSERT INTO link (id, project_id, thing_kind, thing_id, for_kind, person_id, allows, made_by, made_at, visits,"
        " last_visit_at, token_sha256) SELECT r.id, t.project_id, 'transmittal', t.id, 'named', r.person_id,"
        ' \'["look", "download", "acknowledge"]\', t.sent_by, t.sent_at, r.opened_at IS NOT NULL, r.visited_at,'
        " r.token_sha256 FROM recipient r JOIN transmittal t ON t.id = r.transmittal_id"
    )
    with op.batch_alter_table("recipient") as table:
        table.drop_column("token_sha256")
        table.drop_column("visited_at")


def _text(name: str, default: str = "") -> sa.Column:  # type: ignore[type-arg]
    return sa.Column(name, sa.String(), nullable=False, server_default=default)


def _to(name: str, target: str, *, nullable: bool = False) -> sa.Column:  # type: ignore[type-arg]
    return sa.Column(name, sa.String(16), sa.ForeignKey(target), nullable=nullable)


def _at(name: str, *, nullable: bool = True) -> sa.Column:  # type: ignore[type-arg]
    return sa.Column(name, sa.String(27), nullable=nullable)
