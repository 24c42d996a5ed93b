"""The log of reviews with its filters, and what is late by company."""

import csv
import io
from datetime import datetime, timedelta

import openpyxl
import pytest

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.services.files import tables_out
from nod.services.reviews import lateness, log, log_taken
from nod.services.reviews.log import AskedLog
from tests.services.reviews.test_route_editing import make, start_on, step
from tests.world import NUMBER, OTHER_NUMBER, made_once, name


@made_once
def several(world):
    """One with Anouk, late; one with Rafael, in time; one closed."""
    first, second, third = world.file(name(), name(OTHER_NUMBER), name("BFT-TRA-Z1-01-D-A-0102"))
    quick = make(world, step(world, "anouk", named="Look", days=1), named="Quick")
    slow = make(world, step(world, "rafael", act="decide", named="Decide", days=20), named="Slow")
    late = start_on(world, quick, first)
    over = start_on(world, slow, third)
    world.hand_in(over, "rafael", "A")
    world.clock.advance(timedelta(days=3))
    return late, start_on(world, slow, second, who="tomasz"), over


def _log(world, who="marit", **asked):
    found = log.list_log(world.context, world.actor(who), AskedLog(world.project_id, **asked))
    return [each.number for each in found.lines], found.total


@pytest.mark.parametrize(
    ("asked", "numbers"),
    [
        ({}, ["RV-0001", "RV-0003", "RV-0002"]),
        ({"late": True}, ["RV-0001"]),
        ({"state": "running"}, ["RV-0001", "RV-0003"]),
        ({"state": "closed"}, ["RV-0002"]),
        ({"route": "Slow"}, ["RV-0003", "RV-0002"]),
        ({"document": "0201"}, ["RV-0003"]),
        ({"document": NUMBER}, ["RV-0001"]),
        ({"words": "rv-0002"}, ["RV-0002"]),
        ({"words": "nothing like it"}, []),
        ({"document": "%"}, []),
        ({"route": "Slow", "state": "running"}, ["RV-0003"]),
    ],
)
def test_each_filter(world, several, asked, numbers):
    assert _log(world, **asked) == (numbers, len(numbers))


@pytest.mark.parametrize(
    ("who", "whose", "numbers"),
    [
        ("anouk", "with_me", ["RV-0001"]),
        ("rafael", "with_me", ["RV-0003"]),
        ("rafael", "my_company", ["RV-0003"]),
        ("tomasz", "started", ["RV-0003"]),
        ("marit", "started", ["RV-0001", "RV-0002"]),
        ("marit", "with_me", []),
    ],
)
def test_whose_it_is(world, several, who, whose, numbers):
    assert _log(world, who, whose=whose)[0] == numbers


def test_it_comes_a_page_at_a_time(world, several):
    assert _log(world, limit=2) == (["RV-0001", "RV-0003"], 3)
    assert _log(world, limit=2, start=2) == (["RV-0002"], 3)
    assert log.list_log(world.context, world.actor("marit"), AskedLog(world.project_id)).routes == ["Quick", "Slow"]
    with pytest.raises(NotFound):
        _log(world, "yusuf")


def test_what_is_late_by_company(world, several):
    found = lateness.read_lateness(world.context, world.actor("rafael"), world.project_id)
    (late,) = found.steps
    assert (late.number, late.step, late.days_late, late.who[0].name) == ("RV-0001", "Look", 2, "Anouk Ferreira")
    by_code = {each.code: each for each in found.companies}
    gme, hbc = by_code[late.who[0].company], by_code["HBC"]
    assert (gme.late, gme.worst, gme.answers, gme.median) == (1, 2, [], None)
    assert (hbc.open, hbc.late, hbc.answers, hbc.median, hbc.low) == (1, 0, [0], None, 0)
    assert found.companies[0] is gme
    assert found.longest == 2
    with pytest.raises(NotAllowed):
        lateness.read_lateness(world.context, world.actor("anouk"), world.project_id)


def _taken(world, form, who="marit", **asked):
    return log_taken.take_log(world.context, world.actor(who), AskedLog(world.project_id, **asked), form)


def test_is_taken_as_it_is_shown_and_the_taking_is_in_the_trail(world, several):
    made = _taken(world, "xlsx")
    heads, *rows = openpyxl.load_workbook(io.BytesIO(made.content)).active.iter_rows(values_only=True)
    lines = [dict(zip(heads, row, strict=True)) for row in rows]
    assert [each["Number"] for each in lines] == ["RV-0001", "RV-0003", "RV-0002"]
    first, _, closed = lines
    assert (first["Step"], first["With"], first["Days late"], first["Route"]) == ("Look", "Anouk Ferreira", 2, "Quick")
    assert (type(first["Due"]), type(first["Started"])) == (datetime, datetime)
    assert (closed["State"], closed["Step"], closed["With"]) == ("closed", None, None)
    assert made.name.endswith(".xlsx")
    assert world.kinds()[-1] == "review_log_taken"
    narrowed = list(csv.DictReader(io.StringIO(_taken(world, "csv", state="closed").content.decode("utf-8-sig"))))
    assert [each["Number"] for each in narrowed] == ["RV-0002"]


def test_too_long_a_log_is_not_taken_and_nobody_takes_what_they_do_not_see(world, several, monkeypatch):
    with pytest.raises(NotFound):
        _taken(world, "csv", who="yusuf")
    monkeypatch.setattr(tables_out, "MOST_LOGGED", 2)
    with pytest.raises(RuleBroken) as refused:
        _taken(world, "xlsx")
    assert refused.value.code == "list_large"
