"""Routes and reviews have stages, and everybody asked in a step has a place of their own in it."""

import json

import sqlalchemy as sa
from alembic import op

revision = "0029"
down_revision = "0028"


def upgrade() -> None:
    _routes()
    _steps()
    _places()
    _answers()
    op.add_column("review", sa.Column("then", sa.JSON(), nullable=False, server_default="[]"))
    op.execute(
        "UPDATE review SET \"then\" = (SELECT json_group_array(json('{}')) FROM review_step s WHERE s.review_id = review.id)"
    )
    op.add_column("review_document", sa.Column("state", sa.String(), nullable=False, server_default="going"))
    op.add_column("review_document", sa.Column("so_far", sa.String(), nullable=False, server_default=""))
    op.execute(
        "UPDATE review_document SET state = 'done', so_far = verdict "
        "WHERE review_id IN (SELECT id FROM review WHERE state = 'closed')"
    )


def _whom(people: list[str]) -> list[dict[str, str]]:
    return [{"kind": "person", "id": each} for each in people]


def _routes() -> None:
    """Each step becomes a stage of its own."""
    connection = op.get_bind()
    op.add_column("route", sa.Column("may_start", sa.JSON(), nullable=False, server_default="[]"))
    op.add_column("route", sa.Column("stages", sa.JSON(), nullable=False, server_default="[]"))
    for route_id, kept in connection.execute(sa.text("SELECT id, steps FROM route")).all():
        stages = [
            {
                "steps": [
                    {
                        "name": step["name"], "act": step["act"], "whom": _whom(step["people"]), "quota": "any",
                        "least": 1, "days": step["days"], "counting": step["counting"], "own_allowed": False,
                        "sums_up": False,
                    }
                ],
                "then": {},
            }
            for step in json.loads(kept)
        ]  # fmt: skip
        values = {"stages": json.dumps(stages), "id": route_id}
        connection.execute(sa.text("UPDATE route SET stages = :stages WHERE id = :id"), values)
    op.drop_column("route", "steps")


def _steps() -> None:
    op.add_column("review_step", sa.Column("stage", sa.Integer(), nullable=False, server_default="0"))
    op.add_column("review_step", sa.Column("sums_up", sa.Boolean(), nullable=False, server_default="0"))
    op.add_column("review_step", sa.Column("quota", sa.String(), nullable=False, server_default="any"))
    op.add_column("review_step", sa.Column("least", sa.Integer(), nullable=False, server_default="1"))
    op.add_column("review_step", sa.Column("own_allowed", sa.Boolean(), nullable=False, server_default="0"))
    op.add_column("review_step", sa.Column("whom", sa.JSON(), nullable=False, server_default="[]"))
    op.add_column("review_step", sa.Column("why_ended", sa.String(), nullable=False, server_default=""))
    op.execute("UPDATE review_step SET stage = place")
    connection = op.get_bind()
    named: dict[str, list[str]] = {}
    for step_id, person_id in connection.execute(
        sa.text("SELECT step_id, person_id FROM step_person ORDER BY step_id, place")
    ):
        named.setdefault(step_id, []).append(person_id)
    for step_id, people in named.items():
        values = {"whom": json.dumps(_whom(people)), "id": step_id}
        connection.execute(sa.text("UPDATE review_step SET whom = :whom WHERE id = :id"), values)


def _places() -> None:
    """Who is asked, or was: nobody in a step that has not begun."""
    op.create_table(
        "step_place",
        sa.Column("step_id", sa.String(16), sa.ForeignKey("review_step.id"), primary_key=True),
        sa.Column("place", sa.Integer(), primary_key=True),
        sa.Column("person_id", sa.String(16), sa.ForeignKey("person.id"), nullable=False),
        sa.Column("for_id", sa.String(16), nullable=False, server_default=""),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("at", sa.String(27)),
        sa.Column("note", sa.String(), nullable=False, server_default=""),
    )
    op.create_index("ix_step_place_person_id", "step_place", ["person_id"])
    op.execute(
        "INSERT INTO step_place SELECT p.step_id, p.place, p.person_id, '', "
        "CASE WHEN s.state = 'running' THEN 'asked' WHEN s.state = 'done' AND s.taken_by = p.person_id THEN 'handed_in' "
        "ELSE 'not_needed' END, "
        "CASE WHEN s.state = 'done' AND s.taken_by = p.person_id THEN s.ended_at END, "
        "CASE WHEN s.state = 'done' AND s.taken_by = p.person_id THEN s.note ELSE '' END "
        "FROM step_person p JOIN review_step s ON s.id = p.step_id WHERE s.began_at IS NOT NULL"
    )
    op.drop_table("step_person")
    op.drop_column("review_step", "note")


def _answers() -> None:
    """What was said belongs to a place."""
    op.rename_table("answer", "answer_before")
    op.create_table(
        "answer",
        sa.Column("step_id", sa.String(16), sa.ForeignKey("review_step.id"), primary_key=True),
        sa.Column("place", sa.Integer(), primary_key=True),
        sa.Column("document_id", sa.String(16), sa.ForeignKey("document.id"), primary_key=True),
        sa.Column("verdict", sa.String(), nullable=False),
        sa.Column("comment", sa.String(), nullable=False),
    )
    op.execute(
        "INSERT INTO answer SELECT a.step_id, coalesce(p.place, 0), a.document_id, a.verdict, a.comment "
        "FROM answer_before a LEFT JOIN step_place p ON p.step_id = a.step_id AND p.person_id = a.person_id"
    )
    op.drop_table("answer_before")
