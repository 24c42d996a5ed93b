"""The code on a cover sheet: for whoever holds one, what of the transmittal still holds."""

import pytest

from nod.core.acts.refusals import NotFound
from nod.services.transmittals import covers, guests
from nod.services.transmittals.voiding import VoidTransmittal, void_transmittal
from tests.services.reviews.test_record import read
from tests.services.transmittals.test_holders import file_c02, released, send  # noqa: F401
from tests.world import NUMBER, OTHER_NUMBER


def _code(world):
    return world.sql("SELECT code FROM transmittal ORDER BY sent_at DESC, number DESC LIMIT 1")[0][0]


def _told(world, code):
    told = covers.read_cover(world.context, code)
    return {each.number: (each.revision, each.holds, each.words) for each in told.documents}


def test_it_tells_of_each_revision_whether_it_is_in_force_today(world, released):  # noqa: F811
    send(world, *released)
    code = _code(world)
    assert _told(world, code.upper()) == {
        NUMBER: ("C01", True, "In force."), OTHER_NUMBER: ("C01", True, "In force."),
    }  # fmt: skip
    c02 = file_c02(world, release=False)
    assert _told(world, code)[NUMBER] == ("C01", True, "In force. The latest, C02, is not released.")
    world.set_status(c02, "A1")
    assert _told(world, code)[NUMBER] == ("C01", False, "Superseded. In force is C02.")


def test_it_tells_that_it_is_void_and_nothing_of_who_got_it(world, released):  # noqa: F811
    sent = send(world, *released)
    told = covers.read_cover(world.context, _code(world))
    assert (told.number, told.void_at) == (sent.number, None)
    assert "Yusuf" not in told.model_dump_json()
    void_transmittal(world.context, world.actor("marit"), sent.id, VoidTransmittal(reason="Wrong set"))
    told = covers.read_cover(world.context, _code(world))
    assert told.void_at == world.clock.now()
    assert "Wrong" not in told.model_dump_json()


def test_it_stands_on_the_cover_and_each_has_its_own(world, released, tmp_path):  # noqa: F811
    sent = send(world, *released)
    text, _, _ = read(_Made(guests.download_part(world.context, world.actor("marit"), sent.id, "cover")), tmp_path)
    assert f"/cover/{_code(world)}" in text
    first = _code(world)
    send(world, *released)
    assert _code(world) != first


class _Made:
    """As what is made at once, for the reader of PDFs."""

    def __init__(self, file):
        self.name = file.name
        with file.content as path:
            self.content = path.read_bytes()


@pytest.mark.parametrize("code", ["", "x", "a" * 11, "%", "' OR 1=1"])
def test_a_code_that_no_cover_has_tells_nothing(world, released, code):  # noqa: F811
    send(world, *released)
    with world.context.database.write() as session:
        session.connection().exec_driver_sql("UPDATE transmittal SET code = ''")
    with pytest.raises(NotFound):
        covers.read_cover(world.context, code)
