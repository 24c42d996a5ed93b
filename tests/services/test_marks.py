import pytest

from nod.core.refusals import NotAllowed, NotFound, RuleBroken, Stale
from nod.services import live, marks
from tests.world import name


@pytest.fixture
def sheet(world):
    ((_, revision_id),) = world.file(name())
    return revision_id


def _texts(world, sheet, who):
    return [mark.text for mark in world.marks(sheet, who)]


def test_pencil_is_for_its_author_alone_and_ink_for_all(world, sheet):
    drawn = world.draw(sheet, text="mine alone")
    assert _texts(world, sheet, "leilani") == ["mine alone"]
    assert _texts(world, sheet, "anouk") == []
    world.ink(sheet, drawn)
    assert _texts(world, sheet, "anouk") == ["mine alone"]
    with pytest.raises(NotFound):
        world.marks(sheet, "yusuf")


def test_pencil_tells_nobody_else_live_nor_in_the_trail(world, sheet):
    before = live.last_seq(world.context)
    drawn = world.draw(sheet)
    anouk, leilani = world.actor("anouk"), world.actor("leilani")
    assert live.events_after(world.context, anouk, before)[0] == []
    assert [event.topic for event in live.events_after(world.context, leilani, before)[0]] == ["marks"]
    assert live.events_after(world.context, world.actor("yusuf"), 0)[0] == []
    private = world.sql("SELECT private_to FROM audit_entry WHERE kind = 'mark_drawn'")
    assert private == [(leilani.person_id,)]
    world.ink(sheet, drawn)
    assert [event.topic for event in live.events_after(world.context, anouk, before)[0]] == ["marks"]


def test_pins_are_numbered_in_the_order_they_were_drawn(world, sheet):
    first, second = world.draw(sheet), world.draw(sheet)
    cloud = world.draw(sheet, kind="cloud")
    inked = {mark.id: mark.pin_number for mark in world.ink(sheet, second, cloud, first)}
    assert {inked[first.id], inked[second.id]} == {1, 2}
    assert inked[cloud.id] is None
    (third,) = world.ink(sheet, world.draw(sheet, "anouk"), who="anouk")
    assert third.pin_number == 3


def test_an_answered_mark_stays_as_it_is(world, sheet):
    (mark,) = world.ink(sheet, world.draw(sheet))
    changed = marks.change_mark(
        world.context, world.actor("leilani"), mark.id, marks.ChangeMark(version=mark.version, text="Better words")
    )
    answered = marks.write_reply(world.context, world.actor("anouk"), mark.id, marks.WriteReply(text="Seen."))
    assert [reply.author.name for reply in answered.replies] == ["Anouk Ferreira"]
    assert not world.marks(sheet, "leilani")[0].may_change
    for act in (
        lambda: marks.change_mark(
            world.context, world.actor("leilani"), mark.id, marks.ChangeMark(version=changed.version, text="x")
        ),
        lambda: marks.remove_mark(
            world.context, world.actor("leilani"), mark.id, marks.RemoveMark(version=changed.version)
        ),
    ):
        with pytest.raises(RuleBroken) as refused:
            act()
        assert refused.value.code == "mark_answered"


def test_others_do_not_change_my_mark_and_do_not_know_my_pencil(world, sheet):
    drawn = world.draw(sheet)
    change = marks.ChangeMark(version=drawn.version, text="changed by another")
    with pytest.raises(NotFound):
        marks.change_mark(world.context, world.actor("anouk"), drawn.id, change)
    with pytest.raises(NotFound):
        marks.write_reply(world.context, world.actor("anouk"), drawn.id, marks.WriteReply(text="guess"))
    with pytest.raises(NotFound):
        world.ink(sheet, drawn, who="anouk")
    (inked,) = world.ink(sheet, drawn)
    with pytest.raises(NotAllowed):
        marks.change_mark(
            world.context, world.actor("anouk"), drawn.id, marks.ChangeMark(version=inked.version, text="x")
        )


def test_taking_away_can_be_undone(world, sheet):
    drawn = world.draw(sheet)
    marks.remove_mark(world.context, world.actor("leilani"), drawn.id, marks.RemoveMark(version=drawn.version))
    assert world.marks(sheet, "leilani") == []
    with pytest.raises(NotFound):
        marks.bring_back_mark(world.context, world.actor("anouk"), drawn.id)
    with pytest.raises(NotFound):
        world.ink(sheet, drawn)
    marks.bring_back_mark(world.context, world.actor("leilani"), drawn.id)
    assert _texts(world, sheet, "leilani") == [drawn.text]
    with pytest.raises(RuleBroken) as refused:
        marks.bring_back_mark(world.context, world.actor("leilani"), drawn.id)
    assert refused.value.code == "mark_still_there"


def test_a_change_of_what_was_not_seen_is_refused(world, sheet):
    drawn = world.draw(sheet)
    move = marks.ChangeMark(version=drawn.version, points=[(5, 5)])
    marks.change_mark(world.context, world.actor("leilani"), drawn.id, move)
    with pytest.raises(Stale):
        marks.change_mark(world.context, world.actor("leilani"), drawn.id, move)
    with pytest.raises(Stale):
        world.ink(sheet, drawn)


def test_a_thread_and_a_state_are_for_ink(world, sheet):
    drawn = world.draw(sheet)
    with pytest.raises(RuleBroken) as refused:
        marks.write_reply(world.context, world.actor("leilani"), drawn.id, marks.WriteReply(text="to myself"))
    assert refused.value.code == "still_pencil"
    (inked,) = world.ink(sheet, drawn)
    state = marks.SetMarkState(version=inked.version, state="agreed")
    assert marks.set_mark_state(world.context, world.actor("anouk"), drawn.id, state).state == "agreed"
    with pytest.raises(RuleBroken):
        world.ink(sheet, inked)


def test_a_mark_on_a_page_that_is_not_there_is_refused(world, sheet):
    command = marks.DrawMark(page=3, kind="pin", points=[(1, 1)], colour="red", text="")
    with pytest.raises(RuleBroken) as refused:
        marks.draw_mark(world.context, world.actor("leilani"), sheet, command)
    assert refused.value.code == "page_missing"
