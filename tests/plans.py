"""How SQLite finds the rows that an act asks for by many ids at once: by their keys, and not along all there are.

A statement that is quick in a small world takes seconds in a project of 100,000 documents, while all others wait. Each
is looked at once a process, as it is run (https://www.sqlite.org/eqp.html).
"""

from sqlalchemy import event
from sqlalchemy.engine import Engine

_MANY = "IN (SELECT anon_"
_GROWING = (
    "document", "revision", "review", "review_document", "review_comment", "answer", "mark", "thread", "reply",
    "transmittal", "transmittal_document", "recipient", "holding", "arrival", "page", "blob", "open_work",
    "open_work_document", "notice", "audit_entry", "audit_subject",
)  # fmt: skip
_seen = set()
slow_ways: list[str] = []


def is_slow(step):
    """Whether a step of a plan walks along a table that grows, or along all that a project has in it."""
    if step.split(" USING ")[0] not in {f"{verb} {table}" for table in _GROWING for verb in ("SCAN", "SEARCH")}:
        return False
    return step.startswith("SCAN") or "(project_id=?)" in step or "(project_id=? AND folder_id=?)" in step


@event.listens_for(Engine, "after_cursor_execute")
def _look(connection, _cursor, statement, parameters, _context, many):
    if _MANY not in statement or statement in _seen or many:
        return
    _seen.add(statement)
    raw = connection.connection.dbapi_connection.cursor()
    plan = [step for *_, step in raw.execute(f"EXPLAIN QUERY PLAN {statement}", parameters)]
    slow_ways.extend(f"{step}: {' '.join(statement.split())}" for step in plan if is_slow(step))
