"""The two sides of who sees a thing: the rule for one person, and the condition for whole tables."""

import importlib
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from sqlalchemy import create_engine, delete, select
from sqlalchemy.orm import Session, aliased

import nod.services
from nod.core.access.audiences import Audience, Eyes, is_seen
from nod.services.things.audiences import AudienceOf, audience_of, seen
from nod.services.things.kinds import thing_kinds
from tests.services.things.toys import AUDIENCE, ToyPartRow, ToyRow, ToyTables, add_toy

for path in Path(nod.services.__file__).parent.glob("*/kind.py"):
    importlib.import_module(f"nod.services.{path.parent.name}.kind")

FOLDERS = st.frozensets(st.sampled_from("abc"), max_size=3)
PEOPLE = st.frozensets(st.sampled_from(["ana", "bo", ""]), max_size=2)
AUDIENCES = st.builds(
    Audience,
    folders=FOLDERS,
    people=PEOPLE,
    companies=st.frozensets(st.sampled_from(["HBC", "TRA"]), max_size=2),
    is_open=st.booleans(),
    leads=st.booleans(),
    stewards=st.booleans(),
)
EYES = st.builds(
    Eyes,
    person_id=st.sampled_from(["ana", "bo", "cy"]),
    company_id=st.sampled_from(["HBC", "PLS"]),
    folders=st.none() | FOLDERS,
    leads=st.booleans(),
    steward=st.booleans(),
    borrowed=st.booleans(),
)


@pytest.fixture(scope="module")
def session():
    engine = create_engine("sqlite://")
    ToyTables.metadata.create_all(engine)
    with Session(engine) as session:
        yield session


@settings(max_examples=300)
@given(audiences=st.lists(AUDIENCES, min_size=1, max_size=6), eyes=EYES)
def test_the_query_brings_what_the_rule_shows(session, audiences, eyes):
    session.execute(delete(ToyPartRow))
    session.execute(delete(ToyRow))
    for place, audience in enumerate(audiences):
        add_toy(session, "p", str(place), "x", audience)
    found = set(session.scalars(select(ToyRow.id).where(seen(AUDIENCE, ToyRow.id, eyes))))
    assert found == {str(place) for place, audience in enumerate(audiences) if is_seen(audience, eyes)}
    hidden = set(session.scalars(select(ToyRow.id).where(~seen(AUDIENCE, ToyRow.id, eyes))))
    assert hidden == {str(place) for place in range(len(audiences))} - found
    for place, audience in enumerate(audiences):
        assert audience_of(session, AUDIENCE, str(place)) == audience


@given(audience=AUDIENCES, eyes=EYES)
def test_flags_that_are_the_same_for_all_are_worked_out_before_the_query(session, audience, eyes):
    session.execute(delete(ToyPartRow))
    session.execute(delete(ToyRow))
    add_toy(session, "p", "0", "x", audience)
    of = AudienceOf(
        AUDIENCE.folders, AUDIENCE.people, AUDIENCE.companies, audience.is_open, audience.leads, audience.stewards
    )
    found = list(session.scalars(select(ToyRow.id).where(seen(of, ToyRow.id, eyes))))
    assert found == (["0"] if is_seen(audience, eyes) else [])


EYES_OF_ALL_SORTS = [
    Eyes("ana", "HBC", frozenset("a")),
    Eyes("ana", "HBC", None, leads=True),
    Eyes("ana", "HBC", None, steward=True),
    Eyes("ana", "HBC", frozenset("a"), leads=True, borrowed=True),
]


@pytest.mark.parametrize("kind", [pytest.param(each, id=each.code) for each in thing_kinds()])
@pytest.mark.parametrize("eyes", EYES_OF_ALL_SORTS)
def test_what_is_asked_of_a_row_is_asked_of_that_row(kind, eyes):
    """However deep a query lies in another, it names the row at hand and does not look through the table again."""
    outer = aliased(kind.row, name="row_at_hand")
    asked = str(select(outer.id).where(seen(kind.audience, outer.id, eyes)))
    assert asked.count(" AS row_at_hand") == 1, asked


def test_a_query_for_those_who_run_the_project_asks_nothing_where_leads_see_all():
    everything = Eyes("ana", "HBC", None, leads=True)
    assert str(seen(AudienceOf(AUDIENCE.folders, AUDIENCE.people), ToyRow.id, everything)) == "true"
