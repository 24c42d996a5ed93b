"""What is seen before sending is what is sent, and nothing of it stays."""

import hashlib
import re

import pytest

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.services.transmittals import previewing, transmittals
from tests.services.transmittals.test_transmittals import _poppler_text, closed  # noqa: F401
from tests.world import NUMBER


@pytest.fixture
def command(world, closed):  # noqa: F811
    review, documents = closed
    return transmittals.SendTransmittal(
        project_id=world.project_id, revisions=[revision for _, revision in documents], purpose="construction",
        people=[world.cast.people["yusuf"]], copied=[world.cast.people["saoirse"]], note="Please build.",
        review_id=review,
    )  # fmt: skip


def state_of(world):
    """All that is in the database, but for when it was written."""
    rows = {}
    for (table,) in world.sql("SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%'"):
        rows[table] = hashlib.sha256(repr(world.sql(f"SELECT * FROM {table}")).encode()).hexdigest()
    return rows


def test_the_mail_is_the_one_that_is_sent(world, command):
    shown = previewing.preview_sending(world.context, world.actor("marit"), command)
    sent = transmittals.send_transmittal(world.context, world.actor("marit"), command)
    assert shown.number == sent.number
    letters = []
    world.send(letters.append)
    by_mail = {each["to_name"]: each for each in letters if each["subject"].startswith(sent.number)}
    plain = {name: each["text"].replace("{link}", "(a link of their own)") for name, each in by_mail.items()}
    assert plain == {"Yusuf Haldane": shown.text, "Saoirse Tanaka": shown.copy_text}
    assert {each["subject"] for each in by_mail.values()} == {shown.subject}
    assert (shown.to, shown.copied) == (
        ["Yusuf Haldane (Sparrowgate Steel)"],
        ["Saoirse Tanaka (Tallow Reed Architects)"],
    )


def test_nothing_of_it_stays(world, command):
    before = state_of(world)
    previewing.preview_sending(world.context, world.actor("marit"), command)
    previewing.preview_cover(world.context, world.actor("marit"), command)
    assert state_of(world) == before
    assert not [each for each in world.send() if each[0].startswith("mail:recipient")]


def test_the_cover_sheet_says_that_it_was_not_sent(world, command, tmp_path):
    content = previewing.preview_cover(world.context, world.actor("marit"), command)
    target = tmp_path / "cover.pdf"
    target.write_bytes(content)
    text = _poppler_text(target)
    for words in ("HBC-T-0001 (not sent)", "not sent yet", NUMBER, "Please build.", "Yusuf Haldane"):
        assert words in re.sub(r"\s+", " ", text)
    assert "Still current?" not in text


def test_what_could_not_be_sent_is_not_shown(world, command):
    for who in ("anouk", "yusuf"):
        with pytest.raises((NotAllowed, NotFound)):
            previewing.preview_sending(world.context, world.actor(who), command)
    with pytest.raises(RuleBroken):
        previewing.preview_sending(world.context, world.actor("marit"), command.model_copy(update={"people": []}))
