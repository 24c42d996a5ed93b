"""Views are kept of other lists than the register, too; a name is once in each."""

import sqlalchemy as sa
from alembic import op

revision = "0041"
down_revision = "0040"


def upgrade() -> None:
    op.create_table(
        "saved_view_new",
        sa.Column("id", sa.String(16), primary_key=True),
        sa.Column("project_id", sa.String(), sa.ForeignKey("project.id"), nullable=False),
        sa.Column("person_id", sa.String(), sa.ForeignKey("person.id"), nullable=False),
        sa.Column("of", sa.String(), nullable=False),
        sa.Column("name", sa.String(collation="NOCASE"), nullable=False),
        sa.Column("shared", sa.Boolean(), nullable=False),
        sa.Column("content", sa.JSON(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.UniqueConstraint("project_id", "person_id", "of", "name"),
    )
    op.execute(
        "INSERT INTO saved_view_new SELECT id, project_id, person_id, 'register', name, shared, content, version"
        " FROM saved_view"
    )
    op.drop_table("saved_view")
    op.rename_table("saved_view_new", "saved_view")
