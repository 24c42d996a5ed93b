"""Only `store` knows which database it is: nobody else writes its dialect, its full-text search or plain SQL."""

import ast
from pathlib import Path

import pytest

SOURCE = Path(__file__).resolve().parents[2] / "src/nod"
_MODULES = ("sqlalchemy.dialects", "sqlite3", "nod.store.migrations")
_NAMES = {"text", "literal_column", "column", "table", "TextClause", "DDL"}
_FUNCTIONS = {"json_each", "json_extract", "group_concat", "instr", "julianday", "strftime", "rowid"}


def strangers(source):
    """What of a database's own a module takes, by line."""
    found = []
    for node in ast.walk(ast.parse(source)):
        if isinstance(node, ast.ImportFrom):
            of = node.module or ""
            if of.startswith(_MODULES) or (of == "sqlalchemy" and {each.name for each in node.names} & _NAMES):
                found.append((node.lineno, of))
        elif isinstance(node, ast.Import):
            found += [(node.lineno, each.name) for each in node.names if each.name.startswith(_MODULES)]
        elif isinstance(node, ast.Attribute) and ast.unparse(node.value) == "func":
            if node.attr in _FUNCTIONS:
                found.append((node.lineno, node.attr))
        elif isinstance(node, ast.Call) and ast.unparse(node.func) in ("func.max", "func.min") and len(node.args) > 1:
            found.append((node.lineno, ast.unparse(node.func)))
    return found


def test_nothing_outside_the_store_knows_which_database_it_is():
    outside = [path for path in SOURCE.rglob("*.py") if "store" not in path.relative_to(SOURCE).parts]
    assert len(outside) > 200
    assert {str(path): found for path in outside if (found := strangers(path.read_text()))} == {}


@pytest.mark.parametrize(
    "line",
    [
        "from sqlalchemy.dialects.sqlite import insert",
        "import sqlite3",
        "from sqlalchemy import select, text",
        "query = func.max(a, b)",
        "query = func.json_each(x)",
    ],
)
def test_it_would_be_seen(line):
    assert strangers(line)


@pytest.mark.parametrize("line", ["from sqlalchemy import select", "query = func.max(a)", "query = func.count()"])
def test_what_every_database_knows_is_not_minded(line):
    assert not strangers(line)
