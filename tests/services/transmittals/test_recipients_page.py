"""What a recipient does at their link: look, take files one by one, acknowledge with a note, ask."""

from datetime import date, timedelta

import pytest

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.services.links import guest_talk
from nod.services.transmittals import drafts, guest_sheets, guests, voiding
from nod.services.transmittals.guests import Acknowledge
from nod.services.transmittals.recipients import guest_token
from tests.services.links.visiting import enter
from tests.services.transmittals.test_transmittals import _send, _times, closed  # noqa: F401
from tests.world import NUMBER, bytes_of, name, pdf


def _visit(world, place=0):
    (row,) = world.sql("SELECT id FROM recipient WHERE place = ?", place)
    return enter(world, guest_token(world.context, row[0]))


def _told(world, key):
    return [payload for each, payload in world.send() if key in each]


@pytest.fixture
def sent(world, closed):  # noqa: F811
    found = _send(world, closed)
    world.send()
    return found


def test_each_file_is_looked_at_and_taken_by_itself(world, closed, sent, press):  # noqa: F811
    visit, first = _visit(world), closed[1][0][1]
    shown = guest_sheets.read_file(world.context, visit, first)
    assert (shown.number, shown.revision, len(shown.pages)) == (NUMBER, "P01", 1)
    assert shown.file_name == f"{NUMBER}_P01_S3.pdf"
    assert guest_sheets.read_page(world.context, press, visit, first, (0, shown.first_level)).stat().st_size > 100
    assert _times(world, sent)["Yusuf Haldane"].files_taken == []
    world.clock.advance(timedelta(minutes=5))
    taken = guest_sheets.download_file(world.context, visit, first)
    assert (taken.name, bytes_of(taken)) == (f"{NUMBER}_P01_S3.pdf", pdf(name()))
    guest_sheets.download_file(world.context, visit, first)
    times = _times(world, sent)
    assert times["Yusuf Haldane"].files_taken == [first]
    assert times["Anouk Ferreira"].files_taken == []
    assert guests.read_as_guest(world.context, visit).files_taken == [first]
    kinds = [kind for (kind,) in world.sql("SELECT kind FROM audit_entry ORDER BY seq DESC LIMIT 2")]
    assert kinds == ["transmittal_downloaded"] * 2


def test_what_a_recipient_takes_in_nod_has_its_time_too(world, sent):
    guests.download_part(world.context, world.actor("anouk"), sent.id, "cover")
    assert _times(world, sent)["Anouk Ferreira"].downloaded_at is None
    guests.download_part(world.context, world.actor("anouk"), sent.id, "pack")
    guests.download_part(world.context, world.actor("marit"), sent.id, "pack")
    times = _times(world, sent)
    assert [bool(times[each].downloaded_at) for each in ("Anouk Ferreira", "Yusuf Haldane")] == [True, False]


def test_what_was_not_sent_with_it_is_not_there(world, sent, press):
    other = world.file(name(number="BFT-TRA-Z1-RF-D-A-0102"))[0][1]
    visit = _visit(world)
    for act in (guest_sheets.read_file, guest_sheets.download_file):
        with pytest.raises(NotFound):
            act(world.context, visit, other)
    with pytest.raises(NotFound):
        guest_sheets.read_page(world.context, press, visit, other, (0, 0))


def test_to_look_only_gives_nothing_away(world, closed):  # noqa: F811
    sent = _send(world, closed, view_only=True)
    mails = {payload["to_email"]: payload["text"] for key, payload in world.send() if key.startswith("mail:recipient:")}
    visit, first = _visit(world), closed[1][0][1]
    assert "download" not in guests.read_as_guest(world.context, visit).allows
    assert guest_sheets.read_file(world.context, visit, first).pages
    for act in (
        lambda: guest_sheets.download_file(world.context, visit, first),
        lambda: guests.download_as_guest(world.context, visit, "pack"),
        lambda: guests.download_as_guest(world.context, visit, "cover"),
    ):
        with pytest.raises(NotAllowed):
            act()
    with pytest.raises(NotAllowed) as refused:
        guests.download_part(world.context, world.actor("anouk"), sent.id, "pack")
    assert refused.value.code == "view_only"
    assert "ownload" not in mails["yusuf@sparrowgate.example"]


def test_its_links_close_when_its_last_day_is_over(world, closed):  # noqa: F811
    today = world.clock.now().date()
    sent = _send(world, closed, expires_on=today + timedelta(days=2))
    world.send()
    visit = _visit(world)
    assert guests.read_as_guest(world.context, visit).expires_on == today + timedelta(days=2)
    assert _times(world, sent)["Yusuf Haldane"].link_closed == ""
    world.clock.advance(timedelta(days=3))
    with pytest.raises((NotFound, NotAllowed, RuleBroken)):
        guests.read_as_guest(world.context, visit)
    assert _times(world, sent)["Yusuf Haldane"].link_closed == "link expired"


def test_a_last_day_that_is_over_is_refused(world, closed):  # noqa: F811
    with pytest.raises(RuleBroken) as refused:
        _send(world, closed, expires_on=date(2027, 1, 1))
    assert refused.value.code == "expires_before"


def test_a_note_with_the_acknowledgement_goes_to_the_sender_and_to_no_other_company(world, sent):
    guests.acknowledge(world.context, _visit(world), Acknowledge(note=" Sheet 2 is cut off. "))
    (mail,) = _told(world, "acknowledged")
    assert mail["to_email"] == "marit@hollinbrook.example"
    assert "Sheet 2 is cut off." in mail["text"]
    assert _times(world, sent)["Yusuf Haldane"].acknowledged_note == "Sheet 2 is cut off."
    assert _times(world, sent, "anouk")["Yusuf Haldane"].acknowledged_note == ""
    assert guests.read_as_guest(world.context, _visit(world)).acknowledged_note == "Sheet 2 is cut off."


def test_a_question_goes_to_whoever_sent_it(world, sent):
    talk = guest_talk.say(world.context, _visit(world), guest_talk.GuestSays(text="Which door is it?"))
    assert [each.text for each in talk.said] == ["Which door is it?"]
    (mail,) = _told(world, "asked")
    assert mail["to_email"] == "marit@hollinbrook.example"
    assert "Which door is it?" in mail["text"]


def test_a_void_one_shows_nothing_any_more(world, closed, sent, press):  # noqa: F811
    visit, first = _visit(world), closed[1][0][1]
    voiding.void_transmittal(world.context, world.actor("marit"), sent.id, voiding.VoidTransmittal(reason="Wrong set"))
    for act in (
        lambda: guest_sheets.read_file(world.context, visit, first),
        lambda: guest_sheets.read_page(world.context, press, visit, first, (0, 0)),
        lambda: guest_sheets.download_file(world.context, visit, first),
        lambda: guests.acknowledge(world.context, visit, Acknowledge()),
    ):
        with pytest.raises(RuleBroken) as refused:
            act()
        assert refused.value.code == "void_already"


def test_a_draft_keeps_how_it_is_to_be_given(world, closed):  # noqa: F811
    command = drafts.KeepDraft(project_id=world.project_id, view_only=True, expires_on=date(2027, 4, 1))
    made = drafts.make_draft(world.context, world.actor("marit"), command)
    shown = drafts.read_draft(world.context, world.actor("marit"), made.id)
    assert (shown.content.view_only, shown.content.expires_on) == (True, date(2027, 4, 1))
