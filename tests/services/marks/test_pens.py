"""Pens in rolls, and the inks that a project gives to companies and disciplines."""

import csv
import io
import json

import pytest

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken, Stale
from nod.services.marks import mark_files, pens
from nod.services.setup import setup, setup_view, starters
from tests.world import name


@pytest.fixture
def sheet(world):
    return world.file(name())[0][1]


def _keep(world, roll, who="leilani", version=0, shared=False):
    command = pens.KeepPens.model_validate(
        {"project_id": world.project_id, "shared": shared, "version": version, "pens": roll}
    )
    return pens.keep_pens(world.context, world.actor(who), command).version


def test_pens_are_kept_in_a_roll_of_ones_own_and_one_of_the_project(world):
    first = pens.list_pens(world.context, world.actor("leilani"), world.project_id)
    assert [pen.name for pen in first.own[:2]] == ["Cloud", "Pin"]
    stop = {"name": "Fire stop", "kind": "cloud", "look": {"colour": "orange"}, "label": "fire", "text": ""}
    version = _keep(world, [stop])
    with pytest.raises(Stale):
        _keep(world, [], version=version - 1)
    with pytest.raises(NotAllowed):
        _keep(world, [stop], shared=True)
    _keep(world, [stop, stop], who="marit", shared=True)
    rolls = pens.list_pens(world.context, world.actor("leilani"), world.project_id)
    assert ([pen.label for pen in rolls.own], len(rolls.project), rolls.may_share) == (["fire"], 2, False)
    others = pens.list_pens(world.context, world.actor("anouk"), world.project_id)
    assert (others.own, others.own_version) == (first.own, 0)
    with pytest.raises(NotFound):
        pens.list_pens(world.context, world.actor("yusuf"), world.project_id)


@pytest.mark.parametrize(
    "wrong", [{"name": " "}, {"look": {"colour": "mauve"}}, {"label": "x" * 81}, {"text": "x" * 4001}], ids=str
)
def test_a_pen_that_cannot_draw_is_not_kept(world, wrong):
    with pytest.raises(RuleBroken):
        _keep(world, [{"name": "Pen", "kind": "line", **wrong}])
    with pytest.raises(RuleBroken):
        _keep(world, [{"name": "Pen", "kind": "line"}] * 61)


def _convention(world, by, inks):
    version = setup_view.read_setup(world.context, world.actor("rafael"), world.project_id).version
    command = setup.SetMarkInks(version=version, by=by, inks=inks)
    setup.set_mark_inks(world.context, world.actor("rafael"), world.project_id, command)


def _inks(world, who):
    """What each pen draws in."""
    own = pens.list_pens(world.context, world.actor(who), world.project_id).own
    return [pen.ink or pen.look.colour for pen in own]


def test_by_convention_every_company_has_its_ink(world):
    """Whoever is of another company has the pens as they are; marks that are there keep their ink."""
    before = _inks(world, "anouk")
    _convention(world, "company", {"PLS": "blue", "BHT": ""})
    assert set(_inks(world, "leilani")) == {"blue"}
    assert _inks(world, "anouk") == before
    _convention(world, "", {"PLS": "blue"})
    assert _inks(world, "leilani") == before
    shown = setup_view.read_setup(world.context, world.actor("rafael"), world.project_id)
    assert shown.mark_inks == setup_view.MarkInks(by="", inks={})


def test_a_roll_kept_under_a_convention_has_its_own_inks_again_without_one(world):
    _convention(world, "company", {"PLS": "blue"})
    shown = pens.list_pens(world.context, world.actor("leilani"), world.project_id).own
    _keep(world, [pen.model_dump() for pen in shown])
    assert set(_inks(world, "leilani")) == {"blue"}
    _convention(world, "", {})
    assert _inks(world, "leilani") == [pen.look.colour for pen in shown]
    assert "blue" in _inks(world, "leilani")
    assert "red" in _inks(world, "leilani")


def test_a_starter_takes_the_inks_of_disciplines_along_and_not_those_of_companies(world):
    for by, inks, kept in (("company", {"PLS": "blue"}, {}), ("discipline", {"S": "blue"}, {"S": "blue"})):
        _convention(world, by, inks)
        keep = starters.KeepStarter(project_id=world.project_id, name=f"By {by}", purpose="")
        starters.keep_starter(world.context, world.actor("rafael"), keep)
        content = world.sql("SELECT content FROM starter WHERE name = ?", f"By {by}")[0][0]
        assert json.loads(content)["rules"]["mark_inks"]["inks"] == kept


def test_by_convention_every_discipline_has_its_ink(world, sheet):
    """A pen has a discipline, what it draws has the same, and the list and the table tell it."""
    fire = {"name": "Frame", "kind": "cloud", "discipline": "S"}
    _keep(world, [fire, {"name": "Plain", "kind": "line", "look": {"colour": "green"}}])
    _convention(world, "discipline", {"S": "violet", "A": "orange"})
    assert _inks(world, "leilani") == ["violet", "green"]
    rolls = pens.list_pens(world.context, world.actor("leilani"), world.project_id)
    assert (rolls.by, [pen.look.colour for pen in rolls.own]) == ("discipline", ["red", "green"])
    new = {"kind": "line", "points": [(1, 1), (9, 9)], "discipline": "S"}
    (drawn,) = world.ink(sheet, world.draw_all(sheet, new)[0])
    assert drawn.discipline == "S"
    changed = world.change_mark(drawn, discipline="A")
    assert (changed.discipline, changed.look.colour) == ("A", "orange")
    # An ink that is given with it goes before; a discipline without one leaves the ink.
    look = {"colour": "pink"}
    changed = world.change_mark(changed, discipline="S", look=look)
    assert (changed.discipline, changed.look.colour) == ("S", "pink")
    changed = world.change_mark(changed, discipline="")
    assert (changed.discipline, changed.look.colour) == ("", "pink")
    changed = world.change_mark(changed, discipline="A")
    (row,) = csv.DictReader(io.StringIO(_export(world, sheet, "csv").content.decode("utf-8-sig")))
    assert row["Discipline"] == "A"


@pytest.mark.parametrize(
    ("by", "inks", "code"),
    [
        ("company", {"XXX": "red"}, "code_unknown"), ("discipline", {"PLS": "red"}, "code_unknown"),
        ("discipline", {"A": "mauve"}, "ink_unknown"),
    ],
)  # fmt: skip
def test_a_convention_names_what_is_there(world, by, inks, code):
    with pytest.raises(RuleBroken) as refused:
        _convention(world, by, inks)
    assert refused.value.code == code


def test_a_discipline_that_the_project_does_not_have_is_refused(world, sheet):
    with pytest.raises(RuleBroken, match="discipline ZZ"):
        world.draw_all(sheet, {"kind": "line", "points": [(1, 1), (9, 9)], "discipline": "ZZ"})
    with pytest.raises(RuleBroken, match="discipline ZZ"):
        _keep(world, [{"name": "Pen", "kind": "line", "discipline": "ZZ"}])
    with pytest.raises(RuleBroken, match="discipline ZZ"):
        world.change_mark(world.draw(sheet), discipline="ZZ")


def test_only_leads_set_the_convention(world):
    for who in ("marit", "leilani"):
        with pytest.raises(NotAllowed):
            setup.set_mark_inks(
                world.context, world.actor(who), world.project_id, setup.SetMarkInks(version=1, by="", inks={})
            )


def _export(world, sheet, form):
    return mark_files.export_marks(world.context, world.press, world.actor("anouk"), sheet, form)
