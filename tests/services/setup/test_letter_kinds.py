"""The kinds of letters in Set-up: what is set holds from the next letter on."""

from datetime import date, timedelta

import pytest

from nod.core.acts.refusals import NotAllowed, RuleBroken
from nod.services.letters import choices
from nod.services.setup import letters
from nod.services.setup.setup_view import LetterKindSet
from tests.services.letters.acts import draft, half, send, write


def set_kinds(world, *kinds, who="rafael"):
    version = world.sql("SELECT version FROM project WHERE id = ?", world.project_id)[0][0]
    given = [LetterKindSet(**{"words": each["code"].lower(), **each}) for each in kinds]
    command = letters.SetLetterKinds(version=version, kinds=given)
    return letters.set_letter_kinds(world.context, world.actor(who), world.project_id, command)


LETTER, NOTICE = {"code": "L"}, {"code": "N", "bar": 8, "bar_in": "weeks"}


def test_what_is_set_holds_from_the_next_one_on(world):
    set_kinds(world, LETTER, NOTICE, {"code": "I", "looked_at": True})
    begun = half(world, kind="N", aware_on=date(2027, 3, 9))
    assert draft(world, begun).bar_on == date(2027, 5, 4)
    with pytest.raises(RuleBroken) as refused:
        send(world, half(world, kind="I"))
    assert refused.value.code == "check_missing"
    shown = choices.read_choices(world.context, world.actor("marit"), world.project_id).kinds
    assert [(each.code, each.bar, each.looked_at) for each in shown] == [
        ("L", "", False), ("N", "8 weeks", False), ("I", "", True),
    ]  # fmt: skip


def test_working_days_follow_the_projects_calendar(world):
    set_kinds(world, LETTER, {"code": "N", "bar": 5, "bar_in": "working days"})
    begun = half(world, kind="N", aware_on=date(2027, 3, 9))
    assert draft(world, begun).bar_on == date(2027, 3, 16)


@pytest.mark.parametrize(
    ("kinds", "code"),
    [
        ([LETTER, LETTER], "code_twice"),
        ([{"code": "l"}], "code_invalid"),
        ([{"code": "L", "words": " "}], "words_missing"),
        ([{"code": "L", "out_of_use": True}], "no_kind"),
        ([NOTICE], "letter_kind_used"),
    ],
)
def test_what_cannot_be_is_said(world, kinds, code):
    write(world)
    with pytest.raises(RuleBroken) as refused:
        set_kinds(world, *kinds)
    assert refused.value.code == code


def test_leads_set_it(world):
    with pytest.raises(NotAllowed):
        set_kinds(world, LETTER, who="marit")
    sent = write(world, due_on=date(2027, 3, 9) + timedelta(days=3), asked_id=world.cast.people["ottilie"])
    set_kinds(world, LETTER)
    assert world.sql("SELECT due_on FROM letter WHERE id = ?", sent)[0][0] == "2027-03-12"
