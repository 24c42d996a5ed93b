import pytest

from nod.services.transmittals import transmittals
from tests.world import OTHER_NUMBER, name


@pytest.fixture
def sent(world):
    return world.once(_send)


def _send(world):
    documents = world.file(name(), name(number=OTHER_NUMBER))
    command = transmittals.SendTransmittal(
        project_id=world.project_id,
        revisions=[revision for _, revision in documents],
        people=[world.cast.people[each] for each in ("yusuf", "anouk")],
        purpose="construction",
    )
    found = transmittals.send_transmittal(world.context, world.actor("marit"), command)
    world.send()
    return found
