"""What stands in the way is said for each document before it is sent; the contract's day; how fast companies are."""

from datetime import date, timedelta

import pytest

from nod.core.acts.refusals import RuleBroken
from nod.services.register import check_outs
from nod.services.register.check_outs import CheckOut
from nod.services.reviews import before_start, reminding
from nod.services.reviews.before_start import CheckStart
from nod.services.setup import answer_times
from nod.services.setup.answer_times import SetTerms, TermGiven
from tests.services.reviews.test_route_editing import make, start_on, step
from tests.world import NUMBER, OTHER_NUMBER, name, pdf


def _check(world, route, *filed, who="marit"):
    command = CheckStart(project_id=world.project_id, route_id=route, documents=dict(filed))
    return before_start.check_start(world.context, world.actor(who), command)


def _set_terms(world, *terms):
    version = answer_times.read_terms(world.context, world.actor("rafael"), world.project_id).version
    command = SetTerms(version=version, terms=list(terms))
    answer_times.set_terms(world.context, world.actor("rafael"), world.project_id, command)


@pytest.fixture
def decides(world):
    return make(world, step(world, "rafael", act="decide", named="Decide", days=5))


def test_each_document_has_what_stands_in_its_way(world, decides):
    first, second = world.file(name(), name(OTHER_NUMBER))
    assert _check(world, decides, first, second).obstacles == []
    start_on(world, decides, first)
    old = (second[0], second[1])
    world.file(name(OTHER_NUMBER, revision="P02"), content=pdf("two"))
    found = _check(world, decides, first, old).obstacles
    assert [(each.number, each.words, each.stops) for each in found] == [
        (OTHER_NUMBER, "P02 has arrived since you chose it.", True),
        (NUMBER, "It is in RV-0001 already.", True),
    ]
    assert all(each.remedy for each in found)


def test_a_check_out_is_said_and_blocks_nothing(world, decides):
    filed = world.file(name())[0]
    version = world.sql("SELECT version FROM document")[0][0]
    check_outs.check_out(world.context, world.actor("paolo"), filed[0], CheckOut(version=version, note=""))
    (found,) = _check(world, decides, filed).obstacles
    assert (found.words, found.stops) == ("Paolo Marchetti has it checked out.", False)
    start_on(world, decides, filed)


def test_what_its_only_decider_filed_is_said_and_refused(world, decides):
    filed = world.file(name(), who="rafael")[0]
    (found,) = _check(world, decides, filed).obstacles
    assert found.words == "All who decide in the step Decide filed or made it."
    with pytest.raises(RuleBroken):
        start_on(world, decides, filed)


def test_whoever_may_not_mark_is_named(world):
    """Somebody of the path has lost the level at the topmost folder since it was made."""
    route = make(world, step(world, "leilani", named="Look"))
    filed = world.file(name())[0]
    world.write("UPDATE access_grant SET level = 1 WHERE level > 1 AND level < 4")
    found = _check(world, route, filed).obstacles
    leilani = world.sql("SELECT name FROM person WHERE id = ?", world.cast.people["leilani"])[0][0]
    assert f"{leilani}, of the step Look, may not mark it." in [each.words for each in found]
    assert "Nobody whom the step Look asks may mark it." in [each.words for each in found]
    with pytest.raises(RuleBroken):
        start_on(world, route, filed)


def test_the_contract_says_too_late_at_the_start(world):
    """Three steps of ten working days against 14 calendar days from receipt."""
    route = make(world, *(step(world, "rafael", named=f"Step {place}", days=10) for place in range(3)))
    filed = world.file(name())[0]
    assert _check(world, route, filed).contract is None
    _set_terms(world, TermGiven(kind="review", days=14))
    found = _check(world, route, filed)
    today = date(2027, 3, 9)
    assert (found.contract.answer_by, found.contract.received_on) == (today + timedelta(days=14), today)
    assert found.warning.startswith(f"Too late by the contract: {NUMBER} came on 9 March 2027")
    review = start_on(world, route, filed)
    shown = world.review(review).contract
    assert (shown.answer_by, shown.days_late) == (date(2027, 3, 23), 0)
    assert shown.warning
    # What runs keeps its day.
    _set_terms(world, TermGiven(kind="review", days=60))
    assert world.review(review).contract.answer_by == date(2027, 3, 23)


def test_silence_is_told_once_and_sets_no_verdict(world):
    route = make(world, step(world, "rafael", act="decide", named="Decide", days=60))
    _set_terms(world, TermGiven(kind="review", days=1, silence="no_objection"))
    review = start_on(world, route, *world.file(name()))
    world.clock.advance(timedelta(days=1))
    reminding.send_reminders(world.context)
    assert "silence_told" not in world.kinds()
    world.clock.advance(timedelta(days=1))
    reminding.send_reminders(world.context)
    reminding.send_reminders(world.context)
    assert world.kinds().count("silence_told") == 1
    shown = world.review(review)
    assert (shown.state, shown.documents[0].verdict, shown.contract.days_late) == ("running", "", 1)
    texts = [payload["text"] for _, payload in world.send() if "text" in payload]
    assert any("silence means no objection" in each and "No verdict was set" in each for each in texts)


def test_a_table_that_cannot_be_is_refused(world):
    for bad in (TermGiven(kind="dance", days=3), TermGiven(kind="review", days=0), TermGiven(kind="rfi", days=400)):
        with pytest.raises(RuleBroken):
            _set_terms(world, bad)
    with pytest.raises(RuleBroken):
        _set_terms(world, TermGiven(kind="review", days=3), TermGiven(kind="review", days=4))


def test_the_forecast_takes_companies_as_fast_as_they_were(world):
    """Three answers a working day after each began: a step of ten days is expected a day after it begins."""
    quick = make(world, step(world, "rafael", act="decide", named="Decide", days=10), named="Ten days")
    later = make(
        world, step(world, "paolo", named="First", days=2), step(world, "rafael", named="Then", days=10), named="Later"
    )
    sheets = world.file(*(name(f"BFT-TRA-Z1-01-D-A-01{place:02}") for place in range(1, 5)))
    for sheet in sheets[:3]:
        review = start_on(world, quick, sheet)
        world.clock.advance(timedelta(days=1))
        world.hand_in(review, "rafael", "A")
    found = _check(world, later, sheets[3])
    assert found.ends_on == date(2027, 3, 30)
    assert found.forecast_on == date(2027, 3, 17)
