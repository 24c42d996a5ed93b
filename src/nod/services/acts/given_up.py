"""Work that Nod could not do, however often it tried: shown where a person would look, tried again on their word."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import NotAllowed, NotFound
from nod.core.trail.entries import Fact, Subject
from nod.services.acts.answers import Answered
from nod.services.acts.context import Context, acting
from nod.services.acts.seats import Actor, take_seat
from nod.services.intake.intake_check import see_batch
from nod.store.tables import (
    ArrivalRow,
    FolderPackRow,
    FolderRow,
    MembershipRow,
    OutboxRow,
    PersonRow,
    RecipientRow,
    TransmittalRow,
)

_MOST_SHOWN = 200
_OF_ONE_THING = ("pack", "pack_folder", "mail")
WORDS = {
    "look_into": "reading the file",
    "split": "taking the set apart",
    "compare": "comparing the drawings",
    "unpack": "unpacking the archive",
    "read_scan": "reading the scan",
    "index_words": "making the text findable",
    "pack": "packing the transmittal",
    "pack_folder": "making the ZIP",
    "mail": "sending the mail",
}


class GivenUp(Answered):
    """`doing` says in words what did not succeed, `about` with which thing; `link` leads there."""

    id: int
    doing: str
    about: str
    link: str
    tries: int
    gave_up_at: datetime


@dataclass(frozen=True)
class _Concern:
    """A thing that the work was for. `batch_id` or `person_id` says who besides the controllers may have it done."""

    project_id: str
    subject: Subject
    about: str
    link: str
    batch_id: str = ""
    person_id: str = ""


def list_given_up(context: Context, actor: Actor, project_id: str) -> list[GivenUp]:
    """Of the project, the latest first. Raises NotAllowed but for leads and controllers."""
    with context.database.read() as session:
        seat = take_seat(session, actor, project_id)
        seat.need_to_run()
        query = select(OutboxRow).where(OutboxRow.gave_up_at.is_not(None)).order_by(OutboxRow.gave_up_at.desc())
        found = []
        for row in session.scalars(query):
            here = next((each for each in _concerns(session, row) if each.project_id == project_id), None)
            if here:
                found.append(_show(row, here))
            if len(found) == _MOST_SHOWN:
                break
        return found


def given_up_for(session: Session, keys: Iterable[str]) -> dict[str, GivenUp]:
    """By the key of the work, what of it was given up; the caller has asked who may see the thing.

    The same file may have arrived elsewhere, too: of work on a file nothing is told but that it was given up.
    """
    wanted = set(keys)
    # What was given up is little, and what is asked for may be thousands of files.
    query = select(OutboxRow).where(OutboxRow.done_at.is_(None), OutboxRow.gave_up_at.is_not(None))
    rows = [row for row in session.scalars(query) if row.key in wanted]
    return {
        row.key: _show(row, next(iter(_concerns(session, row)), None) if row.kind in _OF_ONE_THING else None)
        for row in rows
    }


def _show(row: OutboxRow, concern: _Concern | None) -> GivenUp:
    if row.gave_up_at is None:
        raise ValueError(row.key)
    return GivenUp(
        id=row.seq, doing=WORDS.get(row.kind, row.kind), about=concern.about if concern else "",
        link=concern.link if concern else "", tries=row.tries, gave_up_at=row.gave_up_at,
    )  # fmt: skip


def try_again(context: Context, actor: Actor, task_id: int) -> None:
    """It is taken up at once. Raises NotFound for what is not given up, or not this person's to ask for."""
    with acting(context, actor) as act:
        row = act.session.get(OutboxRow, task_id)
        if row is None or row.gave_up_at is None:
            raise NotFound(str(task_id))
        concern = next((each for each in _concerns(act.session, row) if _may(act.session, actor, each)), None)
        if concern is None:
            raise NotFound(str(task_id))
        row.tries = row.lapses = 0
        row.gave_up_at, row.leased_until, row.not_before = None, None, act.at
        fact = Fact("work_tried_again", concern.subject, concern.about, after={"work": row.kind})
        act.record(concern.project_id, fact)


def _may(session: Session, actor: Actor, concern: _Concern) -> bool:
    """Leads and controllers of the project, whoever may file into the batch, whoever it was made or sent by."""
    try:
        if take_seat(session, actor, concern.project_id).runs:
            return True
        if concern.batch_id:
            see_batch(session, actor, concern.batch_id)
            return True
    except (NotFound, NotAllowed):
        return False
    return concern.person_id == actor.person_id


def _concerns(session: Session, row: OutboxRow) -> list[_Concern]:
    found = _BY_KIND.get(row.kind)
    return found(session, row) if found else []


def _of_arrival(session: Session, row: OutboxRow) -> list[_Concern]:
    return _arrivals(session, ArrivalRow.id == row.payload["arrival_id"])


def _of_file(session: Session, row: OutboxRow) -> list[_Concern]:
    return _arrivals(session, ArrivalRow.sha256 == row.payload.get("sha256", row.payload.get("after")))


def _arrivals(session: Session, condition: object) -> list[_Concern]:
    rows = session.scalars(select(ArrivalRow).where(condition).limit(_MOST_SHOWN))  # type: ignore[arg-type]
    return [
        _Concern(
            each.project_id, Subject("arrival", each.id), each.file_name, f"/intake/{each.batch_id}", each.batch_id
        )
        for each in rows
    ]


def _of_transmittal(session: Session, row: OutboxRow) -> list[_Concern]:
    return _transmittal(session, row.payload["transmittal_id"], "")


def _transmittal(session: Session, transmittal_id: str, to: str) -> list[_Concern]:
    sent = session.get(TransmittalRow, transmittal_id)
    if sent is None:
        return []
    about = f"{sent.number} to {to}" if to else sent.number
    subject = Subject("transmittal", sent.id)
    return [_Concern(sent.project_id, subject, about, f"/transmittals/{sent.id}", person_id=sent.sent_by)]


def _of_pack(session: Session, row: OutboxRow) -> list[_Concern]:
    pack = session.get(FolderPackRow, row.payload["pack_id"])
    if pack is None:
        return []
    name = session.get_one(FolderRow, pack.folder_id).name
    return [_Concern(pack.project_id, Subject("folder", pack.folder_id), name, "/register", person_id=pack.person_id)]


def _of_mail(session: Session, row: OutboxRow) -> list[_Concern]:
    """A transmittal's mail is the transmittal's; any other concerns the projects that its reader is in."""
    email = row.payload["to_email"]
    recipient = session.get(RecipientRow, row.payload["recipient_id"]) if row.payload["recipient_id"] else None
    if recipient:
        return _transmittal(session, recipient.transmittal_id, email)
    query = select(MembershipRow.project_id, PersonRow.id).join(PersonRow, PersonRow.id == MembershipRow.person_id)
    rows = session.execute(query.where(PersonRow.email == email, MembershipRow.state != "removed"))
    return [
        _Concern(project_id, Subject("person", person_id), f"mail to {email}", "/setup/people")
        for project_id, person_id in rows
    ]


_BY_KIND: dict[str, Callable[[Session, OutboxRow], list[_Concern]]] = {
    "look_into": _of_file, "read_scan": _of_file, "index_words": _of_file, "compare": _of_file,
    "split": _of_arrival, "unpack": _of_arrival, "pack": _of_transmittal, "pack_folder": _of_pack, "mail": _of_mail,
}  # fmt: skip
