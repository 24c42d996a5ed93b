"""What an act's session keeps for itself, and how it writes many rows."""

from contextlib import contextmanager, suppress

import pytest
from sqlalchemy import event, select

from nod.core.access.audiences import Audience
from nod.core.access.levels import Grantee, To
from nod.services.acts.seats import reach_in
from nod.store.bulk import add_rows
from nod.store.database import while_access_stands
from nod.store.dialects.sqlite import put_unless_there
from nod.store.journal import tell
from nod.store.tables import AuditSubjectRow, CompanyRow, GrantRow, LiveEventRow, OutboxRow, PersonRow
from tests import plans
from tests.conftest import NOW


class _Undone(Exception):
    pass


@contextmanager
def undone(world):
    """An act that leaves nothing."""
    with suppress(_Undone), world.context.database.write() as session:
        yield session
        raise _Undone


def _company(code):
    return CompanyRow(name=f"Company {code}", code=code, part="client")


def test_what_follows_from_access_is_found_once_until_that_changes(world):
    found = []

    def find():
        found.append(1)
        return len(found)

    with undone(world) as session:
        assert [while_access_stands(session, "key", find) for _ in range(3)] == [1, 1, 1]
        session.add(_company("AAA"))
        # Not flushed yet, and seen all the same.
        assert while_access_stands(session, "key", find) == 2
        session.scalars(select(PersonRow)).first().steward = True
        assert while_access_stands(session, "key", find) == 3
    with world.context.database.read() as session:
        assert while_access_stands(session, "key", find) == 4


def test_a_grant_made_in_an_act_counts_in_it(world):
    with undone(world) as session:
        before = reach_in(session, world.project_id)
        assert reach_in(session, world.project_id) is before
        to = Grantee(To.PERSON, world.cast.people["yusuf"])
        session.add(
            GrantRow(
                project_id=world.project_id,
                folder_id=world.cast.folders[""],
                to_kind=to.kind,
                to_id=to.id,
                level=1,
                alone=False,
            )
        )
        assert reach_in(session, world.project_id) is not before


def test_an_act_asks_for_a_person_once(world):
    asked = []

    def note(_connection, _cursor, statement, *_more):
        asked.append(statement)

    engine = world.context.database._engine
    event.listen(engine, "before_cursor_execute", note)
    try:
        with world.context.database.write() as session:
            for _ in range(3):
                assert session.get_one(PersonRow, world.cast.people["marit"]).name
    finally:
        event.remove(engine, "before_cursor_execute", note)
    assert sum("FROM person" in each for each in asked) == 1


def test_columns_may_be_given_in_any_order(world):
    with undone(world) as session:
        add_rows(session, AuditSubjectRow, ("subject_id", "seq", "kind"), [("x" * 16, 1, "toy"), ("y" * 16, 1, "toy")])
        query = select(AuditSubjectRow.subject_id).where(AuditSubjectRow.kind == "toy")
        assert sorted(session.scalars(query)) == ["x" * 16, "y" * 16]
        add_rows(session, AuditSubjectRow, ("seq",), [])


def test_a_second_one_with_the_same_key_leaves_the_first(world):
    row = {"kind": "toy", "key": "toy:1", "payload": {"n": 1}, "made_at": NOW, "not_before": NOW, "tries": 0}
    with undone(world) as session:
        assert put_unless_there(session, OutboxRow, "key", **row)
        assert not put_unless_there(session, OutboxRow, "key", **{**row, "payload": {"n": 2}})
        assert session.scalars(select(OutboxRow.payload).where(OutboxRow.key == "toy:1")).one() == {"n": 1}


def test_what_is_told_live_is_there_in_its_order_and_not_without_its_act(world):
    def topics():
        with world.context.database.read() as session:
            return session.scalars(select(LiveEventRow.topic).order_by(LiveEventRow.seq)).all()

    before = topics()
    with world.context.database.write() as session:
        for topic in ("one", "two"):
            tell(session, NOW, world.project_id, topic, "x", Audience(), by="")
    assert topics() == [*before, "one", "two"]
    with pytest.raises(ZeroDivisionError), world.context.database.write() as session:
        tell(session, NOW, world.project_id, "three", "x", Audience(), by="")
        raise ZeroDivisionError
    assert topics() == [*before, "one", "two"]


@pytest.mark.parametrize(
    ("step", "slow"),
    [
        ("SEARCH document USING INDEX ix_document_release (project_id=?)", True),
        ("SEARCH document USING INDEX ix_document_folder (project_id=? AND folder_id=?)", True),
        ("SCAN review_document", True),
        ("SEARCH document USING INDEX sqlite_autoindex_document_1 (id=?)", False),
        ("SCAN json_each VIRTUAL TABLE INDEX 1:", False),
        ("SEARCH folder USING INDEX sqlite_autoindex_folder_2 (project_id=?)", False),
    ],
)
def test_a_way_along_all_there_is_is_seen(step, slow):
    assert plans.is_slow(step) is slow


def test_statements_that_ask_for_many_are_looked_at(world):
    from nod.store.dialects.sqlite import one_of
    from nod.store.tables import DocumentRow

    with world.context.database.read() as session:
        query = select(DocumentRow.title).where(
            DocumentRow.project_id == world.project_id, one_of(DocumentRow.id, ["x"])
        )
        session.execute(query).all()
    assert len(plans.slow_ways) == 1
    plans.slow_ways.clear()
