"""The one link by which an outside contact has a part in a thing that names them: made with the first mail to them."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.trail.entries import Subject
from nod.services.acts.context import Act
from nod.services.links.rooms import room_of
from nod.services.mail.mails import SecretLink
from nod.services.people.sign_in import token_hash
from nod.store.ids import new_id
from nod.store.tables import LinkRow


def part_link(kind: str, link_id: str) -> SecretLink:
    return SecretLink("/l/", f"part in a {kind}:{link_id}")


def links_of(session: Session, thing: Subject, person_id: str) -> Sequence[LinkRow]:
    """A contact's links to a thing that have not been withdrawn."""
    query = select(LinkRow).where(
        LinkRow.thing_kind == thing.kind, LinkRow.thing_id == thing.id, LinkRow.person_id == person_id,
        LinkRow.withdrawn_at.is_(None),
    )  # fmt: skip
    return session.scalars(query).all()


def link_for(
    act: Act, project_id: str, thing: Subject, given_by: str, person_id: str, to: str
) -> SecretLink:  # fmt: skip
    """Allows `to` besides what it allows already; a new one after it was withdrawn. Raises LookupError for no room."""
    room = room_of(thing.kind)
    if room is None:
        raise LookupError(thing.kind)
    found = next(iter(links_of(act.session, thing, person_id)), None)
    if found is not None:
        found.allows = [each for each in room.offers if each == to or each in found.allows]
        return part_link(thing.kind, found.id)
    id = new_id()
    link = part_link(thing.kind, id)
    act.session.add(
        LinkRow(
            id=id, project_id=project_id, thing_kind=thing.kind, thing_id=thing.id, for_kind="named",
            person_id=person_id, allows=[each for each in room.offers if each in ("look", to)], made_by=given_by,
            made_at=act.at, token_sha256=token_hash(link.token(act.context)),
        )
    )  # fmt: skip
    act.session.flush()
    return link
