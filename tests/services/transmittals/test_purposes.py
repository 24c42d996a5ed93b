"""The purposes of issue of a project: set by its lead, offered with their day, kept as they were with what was sent."""

from datetime import date

import pytest

from nod.core.acts.refusals import NotAllowed, RuleBroken
from nod.services.setup import setup_view
from nod.services.setup.purposes import SetPurposes, set_purposes
from nod.services.setup.setup_view import PurposeSet
from nod.services.transmittals import checking, log, transmittals_view
from nod.services.transmittals.checking import CheckSending
from nod.services.transmittals.log import AskedLog
from tests.services.transmittals.test_transmittals import _send, closed  # noqa: F401
from tests.world import name


def kept(world):
    return setup_view.read_setup(world.context, world.actor("rafael"), world.project_id)


def put(world, *purposes, who="rafael"):
    command = SetPurposes(version=kept(world).version, purposes=list(purposes))
    return set_purposes(world.context, world.actor(who), world.project_id, command)


TENDER = PurposeSet(words="For tender", answer_days=10, statuses=["S4"])
KNOW = PurposeSet(code="information", words="To know")


def offered(world):
    found = transmittals_view.list_addressees(world.context, world.actor("marit"), world.project_id)
    return {each.words: each for each in found.purposes}


def test_a_lead_sets_them_and_who_sends_is_offered_them(world):
    assert [each.words for each in kept(world).purposes][:2] == ["For information", "For comment"]
    put(world, KNOW, TENDER)
    assert list(offered(world)) == ["To know", "For tender"]
    # Ten working days after Tuesday 9 March; Friday 26 is a holiday of the project only if it says so.
    assert offered(world)["For tender"].answer_on == date(2027, 3, 23)
    assert offered(world)["To know"].answer_on is None
    with pytest.raises(NotAllowed):
        put(world, KNOW, who="marit")


def test_what_was_sent_keeps_its_words_and_is_found_by_them(world, closed):  # noqa: F811
    sent = _send(world, closed)
    put(world, KNOW, TENDER)
    shown = transmittals_view.read_transmittal(world.context, world.actor("marit"), sent.id)
    assert shown.line.purpose == "For construction"
    found = log.list_log(world.context, world.actor("marit"), AskedLog(world.project_id))
    assert {each.words for each in found.purposes} == {"For construction", "To know", "For tender"}
    with pytest.raises(RuleBroken) as refused:
        _send(world, closed)
    assert refused.value.code == "purpose_unknown"
    put(world, PurposeSet(code="information", words="For your files"))
    _send(world, closed, purpose="information")
    lines = log.list_log(world.context, world.actor("marit"), AskedLog(world.project_id)).lines
    assert [each.purpose for each in lines] == ["For your files", "For construction"]


def test_a_code_that_is_made_up_gets_one_of_its_own(world):
    put(world, KNOW, PurposeSet(code="<script>", words="Odd"))
    codes = [each.code for each in kept(world).purposes]
    assert codes[0] == "information"
    assert codes[1] not in ("<script>", "")


def test_a_line_is_told_that_its_status_is_not_for_it(world):
    ((_, revision),) = world.file(name())
    put(world, KNOW, TENDER)
    (code,) = (each.code for each in kept(world).purposes if each.words == "For tender")
    command = CheckSending(project_id=world.project_id, revisions=[revision], purpose=code)
    (line,) = checking.check_sending(world.context, world.actor("marit"), command).lines
    assert "Status S3 is not for tender." in line.stops
