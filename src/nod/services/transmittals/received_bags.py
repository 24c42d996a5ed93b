"""A bag that arrived in Intake: what it says of its sender and its files, whether it is whole, what is proven."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date
from typing import Any

from sqlalchemy import select

from nod.core.trail.entries import Fact, FactKind, Subject
from nod.core.trail.seals import NotSound, check_proof, read_key, read_proof
from nod.core.transmittals.along import is_made
from nod.core.transmittals.received import MOST_LISTED, Listed, cells_of, read_list
from nod.formats.files.bag_read import BagRead, read_bag, read_payload
from nod.formats.files.zip_unpack import BadArchive
from nod.services.acts.arrived_files import of_arrival
from nod.services.acts.context import Act
from nod.services.acts.projects import rules_of
from nod.services.acts.seats import actor_of
from nod.services.acts.work import Job, Lane, work
from nod.services.intake import from_whom
from nod.services.transmittals.received import put_lines
from nod.store.ids import new_id
from nod.store.tables import ArrivalRow, BatchRow, ProjectRow, ReceivedRow

_LONGEST = 300


@work("bag", Lane.LOOK, "reading the bag of a transmittal", of_arrival)
def take_bag_in(job: Job, payload: dict[str, Any]) -> None:
    """Harmless when done twice. Of an archive that is none of a transmittal, nothing is taken down."""
    context, arrival_id = job.context, payload["arrival_id"]
    with context.database.read() as session:
        row = session.get(ArrivalRow, arrival_id)
        if row is None:
            return
        sha256, rules = row.sha256, rules_of(session.get_one(ProjectRow, row.project_id))
    try:
        with context.blobs.local(sha256) as path:
            bag = read_bag(path, job.go_on)
            number = bag.said("External-Identifier")[:_LONGEST] if bag else ""
            listed = read_payload(path, f"{number}_list.csv") if bag and number else b""
    except BadArchive:
        return
    if bag is None or not number:
        return
    table = cells_of(listed.decode("utf-8-sig", "replace").splitlines())
    lines = read_list(table, rules.convention, rules.scheme).lines or _by_file(bag)
    _keep(job, arrival_id, sha256, bag, lines[:MOST_LISTED])


def _by_file(bag: BagRead) -> list[Listed]:
    """Of a bag without such a list, its files are what was sent."""
    return [Listed("", "", file=name[:_LONGEST], sha256=sha256) for name, sha256 in bag.payload.items()]


def _keep(job: Job, arrival_id: str, sha256: str, bag: BagRead, lines: list[Listed]) -> None:
    with job.context.database.write() as session:
        arrival = session.get_one(ArrivalRow, arrival_id)
        batch = session.get_one(BatchRow, arrival.batch_id)
        there = select(ReceivedRow.id).where(ReceivedRow.batch_id == batch.id, ReceivedRow.bag_sha256 == sha256)
        if session.scalar(there):
            return
        act = Act(job.context, session, actor_of(session, batch.arrived_by, "a bag"), job.context.clock.now())
        key, proof, trouble = _proven(bag)
        row = ReceivedRow(
            id=new_id(), project_id=batch.project_id, batch_id=batch.id, version=0,
            number=bag.said("External-Identifier")[:_LONGEST], dated=_day(bag.said("Bagging-Date")),
            purpose=bag.said("Transmittal-Purpose")[:_LONGEST], note=bag.said("Transmittal-Note")[:5000],
            email=bag.said("Contact-Email")[:_LONGEST], bag_sha256=sha256, key=key, proof=proof,
            faults=[*bag.faults, *trouble], entered_by=batch.arrived_by, entered_at=act.at,
        )  # fmt: skip
        session.add(row)
        put_lines(session, row, lines)
        came = _came_from(act, batch, bag)
        after = {
            "number": row.number, "bag": sha256, "documents": len(lines), "whole": not bag.faults, "proof": proof,
            **came,
            **({"faults": row.faults} if row.faults else {}),
        }  # fmt: skip
        about = f"{row.number} of {batch.came_from}"
        act.record(batch.project_id, Fact(FactKind.RECEIVED_ENTERED, Subject("batch", batch.id), about, after=after))
        act.tell(batch.project_id, "intake", batch.id, {batch.folder_id})


def _came_from(act: Act, batch: BatchRow, bag: BagRead) -> dict[str, str]:
    """Who sent it is said by the bag, unless somebody has said it already."""
    if batch.came_said or not bag.said("Source-Organization"):
        return {}
    came = from_whom.CameFrom(company=bag.said("Source-Organization"), person=bag.said("Contact-Name"))
    from_whom.say(act, batch, came)
    return {"from": batch.came_from, "person": batch.came_person}


def _proven(bag: BagRead) -> tuple[str, str, list[str]]:
    """The key, what became of the proof, and why it does not hold."""
    if "proof/sending.json" not in bag.tags or "proof/key.txt" not in bag.tags:
        return "", "none", []
    try:
        key = read_key(bag.tags["proof/key.txt"].decode().strip())
        checked = check_proof(read_proof(bag.tags["proof/sending.json"].decode()), [key])
        _check_entry(checked.entry or {}, bag)
    except (NotSound, UnicodeDecodeError) as error:
        return "", "broken", [f"The proof does not hold: {error}"]
    return key.words, "proven", []


def _check_entry(entry: Any, bag: BagRead) -> None:
    """Raises NotSound unless the entry says the sending of just these files under this number."""
    if entry.get("kind") != FactKind.TRANSMITTAL_SENT.value or entry.get("about") != bag.said("External-Identifier"):
        raise NotSound("it is of another entry than the sending of this transmittal.")
    after = entry.get("after")
    files = after.get("files") if isinstance(after, dict) else None
    sent = {str(each)[:64] for each in files} if isinstance(files, list) else set()
    if missing := _names_of(bag, set(bag.payload.values()) - sent):
        raise NotSound(f"the sending does not name {missing}.")
    if sent - set(bag.payload.values()):
        raise NotSound("the sending names files that are not in the bag.")


def _names_of(bag: BagRead, hashes: Iterable[str]) -> str:
    """Files that the sending should name; cover sheet, list and copies are made after it."""
    number = bag.said("External-Identifier")
    names = [name for name, sha256 in bag.payload.items() if sha256 in set(hashes) and not is_made(name, number)]
    return ", ".join(names[:5])


def _day(text: str) -> date | None:
    try:
        return date.fromisoformat(text)
    except ValueError:
        return None
