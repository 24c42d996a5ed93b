"""Coming by a link."""

from nod.services.links import visits
from nod.services.links.visits import EnterLink


def enter(world, token, name="", password="", signed_in=None, address="10.0.0.1"):
    """The secret of the visit."""
    command = EnterLink(token=token, name=name, password=password)
    who = world.actor(signed_in) if signed_in else None
    return visits.enter_link(world.context, command, address, who).guest
