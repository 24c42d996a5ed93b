"""One person cannot take all places of the live channel."""

import pytest

from nod.core.acts.refusals import TooMany
from nod.web import live
from nod.web.live import Listeners, create_live_app


def test_so_many_windows_for_a_person_and_an_address_and_no_more():
    """196 connections by one reader left none for others."""
    listeners = Listeners()
    mine = [listeners.take("me", f"10.0.0.{place}") for place in range(live.MOST_PER_PERSON)]
    with pytest.raises(TooMany) as refused:
        listeners.take("me", "10.0.1.1")
    assert "too many windows" in refused.value.words
    others = [listeners.take(f"person {place}", "10.9.9.9") for place in range(live.MOST_PER_ADDRESS)]
    with pytest.raises(TooMany):
        listeners.take("one more", "10.9.9.9")
    assert listeners.take("one more", "10.9.9.8")
    for give_back in (*mine, *others, mine[0], mine[0]):
        give_back()
    assert len([listeners.take("me", "10.9.9.9") for _ in range(live.MOST_PER_PERSON)]) == live.MOST_PER_PERSON


def test_the_place_is_given_back_when_the_window_is_closed(world, visit):
    visitor = visit("marit@hollinbrook.example")
    cookie = visitor.client.get_cookie("nod").value
    client = create_live_app(world.context).test_client()
    client.set_cookie("nod", cookie)
    for _ in range(3 * live.MOST_PER_PERSON):
        answer = client.get("/live")
        assert answer.status_code == 200
        answer.close()
    held = [client.get("/live") for _ in range(live.MOST_PER_PERSON)]
    refused = client.get("/live")
    assert (refused.status_code, refused.json["code"]) == (429, "too_many_windows")
    for each in held:
        each.close()
    last = client.get("/live")
    assert last.status_code == 200
    last.close()
