"""Telling those who follow: worked out after the act, from what it recorded, once for each person."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Sequence
from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.notices import FOLLOWED, HEARD, OF_MARKS, OF_SETS
from nod.core.trail.entries import FactKind, Subject
from nod.services.acts.context import Act
from nod.services.acts.seats import Actor
from nod.services.acts.work import Concern, Job, Lane, Payload, work
from nod.services.notices.follows import FOLDER, MARKS, SET, address_of_set
from nod.services.notices.notices import Notice, note_read, tell_person, told_already
from nod.services.things.kinds import kind_of
from nod.services.things.things import member_eyes, seen_by
from nod.store.tables import (
    AuditEntryRow,
    AuditSubjectRow,
    DocumentRow,
    DrawingSetRow,
    FolderRow,
    FollowRow,
    ProjectRow,
    SetSheetRow,
)

_MOST_LINES = 20
_WORDS = {each.value: each.words for each in FactKind}


_Target = tuple[str, str]
_Told = list[tuple[dict[str, Any], _Target]]
"""What entries say, each with the nearest thing of it that somebody follows."""


Also = Callable[[Act, ProjectRow, Sequence[dict[str, Any]], str], None]
"""Tells others than followers of what entries say, which are given as they are kept, with the id of the act."""

_ALSO: list[Also] = []


def also_told(found: Also) -> Also:
    """Registers it; it is asked after those who follow have been told."""
    _ALSO.append(found)
    return found


def _concerns(session: Session, payload: Payload) -> list[Concern]:
    entry = session.get(AuditEntryRow, payload["first"])
    if entry is None:
        return []
    about = json.loads(entry.body)["about"]
    return [Concern(entry.project_id, Subject("project", entry.project_id), about, "/audit")]


@work("tell_followers", Lane.SEND, "telling those who follow", _concerns)
def tell_followers(job: Job, payload: Payload) -> None:
    """Harmless when done twice: a person is told of an act once."""
    # All that takes time is asked before others have to wait; who may know of it is asked once more when they are told.
    with job.context.database.read() as session:
        entries = _entries(session, payload["first"], payload["last"])
        if not entries:
            return
        bodies = {entry.seq: json.loads(entry.body) for entry in entries}
        project_id, at = entries[0].project_id, entries[0].at
        followed = [each for each in entries if each.kind in FOLLOWED]
        found = _followed(session, followed, bodies) if followed else {}
        told = {person_id: _seen(session, project_id, person_id, found[person_id]) for person_id in sorted(found)}
    about = {(each.kind, each.id) for body in bodies.values() for each in _things(body)}
    who = bodies[min(bodies)]["who"]
    with job.context.database.write() as session:
        act = Act(job.context, session, Actor(who["id"], who["name"], "", who["company"]), at)
        # Whoever acts on a thing has looked at it.
        note_read(session, project_id, who["id"], about, at)
        already = told_already(session, payload["act_id"])
        project = session.get_one(ProjectRow, project_id)
        for person_id, what in told.items():
            if what and person_id not in already:
                _tell(act, project, person_id, what, payload["act_id"])
        for also in _ALSO:
            also(act, project, list(bodies.values()), payload["act_id"])


def _entries(session: Session, first: int, last: int) -> list[AuditEntryRow]:
    query = select(AuditEntryRow).where(
        AuditEntryRow.seq.between(first, last), AuditEntryRow.kind.in_(HEARD), AuditEntryRow.private_to == ""
    )
    return list(session.scalars(query.order_by(AuditEntryRow.seq)))


def _followed(session: Session, entries: list[AuditEntryRow], bodies: dict[int, dict[str, Any]]) -> dict[str, _Told]:
    """By person, of what they followed when it happened."""
    targets = _targets(session, entries)
    all_targets = {target for each in targets.values() for target in each}
    chains = _folders_above(session, all_targets) | _sets_with(session, all_targets)
    following = _following(session, {*chains, *all_targets}, entries[0].at)
    found: dict[str, _Told] = {}
    for entry in entries:
        nearest: dict[str, _Target] = {}
        for target in _in_order(targets[entry.seq], chains):
            for person_id in following.get(target, ()):
                nearest.setdefault(person_id, target)
        for person_id, target in nearest.items():
            found.setdefault(person_id, []).append((bodies[entry.seq], target))
    return found


def _following(session: Session, targets: set[_Target], at: datetime) -> dict[_Target, list[str]]:
    """Ids of people, those who have followed it for longest first."""
    query = select(FollowRow).where(FollowRow.target.in_([target for _, target in targets]), FollowRow.since_at <= at)
    following: dict[_Target, list[str]] = {}
    for row in session.scalars(query.order_by(FollowRow.since_at)):
        following.setdefault((row.kind, row.target), []).append(row.person_id)
    return following


def _seen(session: Session, project_id: str, person_id: str, told: _Told) -> _Told:
    """Without what speaks of anything that the person does not see."""
    eyes = member_eyes(session, project_id, person_id)
    if eyes is None:
        return []
    there = seen_by(session, eyes, {each for body, _ in told for each in _things(body)})
    return [(body, target) for body, target in told if there.issuperset(_things(body))]


def _targets(session: Session, entries: list[AuditEntryRow]) -> dict[int, set[_Target]]:
    """By number of an entry, what it is about that can be followed."""
    first, last = entries[0].seq, entries[-1].seq
    query = select(AuditSubjectRow.seq, AuditSubjectRow.kind, AuditSubjectRow.subject_id)
    found: dict[int, set[_Target]] = {}
    for seq, kind, subject_id in session.execute(query.where(AuditSubjectRow.seq.between(first, last))):
        found.setdefault(seq, set()).add((kind, subject_id))
    for entry in entries:
        here = found.setdefault(entry.seq, set())
        if entry.kind in OF_SETS:
            # That a set has got a sheet is no news of the sheet.
            found[entry.seq] = {each for each in here if each[0] == SET}
        if entry.kind in OF_MARKS:
            here.add((MARKS, entry.project_id))
    return found


def _folders_above(session: Session, targets: set[tuple[str, str]]) -> dict[tuple[str, str], set[str]]:
    """By folder, itself a target, the documents in it or below it."""
    ids = [target for kind, target in targets if kind == "document"]
    rows = session.execute(select(DocumentRow.id, DocumentRow.folder_id).where(DocumentRow.id.in_(ids))).all()
    above: dict[str, list[str]] = {}
    found: dict[tuple[str, str], set[str]] = {}
    for document_id, folder_id in rows:
        if folder_id not in above:
            above[folder_id] = _up(session, folder_id)
        for each in above[folder_id]:
            found.setdefault((FOLDER, each), set()).add(document_id)
    return found


def _sets_with(session: Session, targets: set[tuple[str, str]]) -> dict[tuple[str, str], set[str]]:
    """By drawing set, itself a target, the documents in it."""
    ids = [target for kind, target in targets if kind == "document"]
    query = select(SetSheetRow.set_id, SetSheetRow.document_id).where(SetSheetRow.document_id.in_(ids))
    found: dict[tuple[str, str], set[str]] = {}
    for set_id, document_id in session.execute(query):
        found.setdefault((SET, set_id), set()).add(document_id)
    return found


def _up(session: Session, folder_id: str) -> list[str]:
    found, here = [], session.get(FolderRow, folder_id)
    while here is not None:
        found.append(here.id)
        here = session.get(FolderRow, here.parent_id) if here.parent_id else None
    return found


def _in_order(targets: set[tuple[str, str]], chains: dict[tuple[str, str], set[str]]) -> Iterable[tuple[str, str]]:
    """The thing itself, its folders and sets, every mark of the project: the nearest reason is told."""
    documents = {target for kind, target in targets if kind == "document"}
    yield from sorted(target for target in targets if target[0] != MARKS)
    yield from (folder for folder, inside in chains.items() if inside & documents)
    yield from (target for target in targets if target[0] == MARKS)


def _tell(act: Act, project: ProjectRow, person_id: str, told: _Told, told_of: str) -> None:
    bodies = [body for body, _ in told]
    lines = [f"{act.actor.name} {_WORDS[body['kind']]}: {body['about']}" for body in bodies]
    more = len(lines) - 1
    subject = f"{project.number}: {lines[0]}" + (f" and {more} more" if more else "")
    if len(lines) > _MOST_LINES:
        lines = [*lines[:_MOST_LINES], f"and {len(lines) - _MOST_LINES} more"]
    about = list(dict.fromkeys(each for body in bodies for each in _things(body)))
    notice = Notice(
        f"followed:{told_of}:{person_id}",
        subject,
        lines,
        _link(act.session, about, told[0][1]),
        about,
        _name(act.session, told[0][1]),
    )
    tell_person(act, project, "followed", person_id, notice, told_of)


def _things(body: dict[str, Any]) -> list[Subject]:
    """What the entry is about, as far as it is of a registered kind: all of it must be seen."""
    subjects = (body["subject"], *body["others"])
    return [Subject(each["kind"], each["id"]) for each in subjects if kind_of(each["kind"])]


def _link(session: Session, about: list[Subject], why: _Target) -> str:
    """Where the first thing opens; what is part of it, if that is one."""
    kinds = {each: kind_of(each.kind) for each in about}
    parts = [each for each, kind in kinds.items() if kind and kind.part_of]
    # An entry names what it is of first, and then where that lies: a mark, and the revision that it lies on.
    parts = [each for each in parts if each.kind == parts[0].kind]
    for each in parts if len(parts) == 1 else about:
        kind = kind_of(each.kind)
        row = session.scalars(select(kind.row).where(kind.columns.id == each.id)).one_or_none() if kind else None
        if kind and row is not None:
            return kind.address(row)
    return address_of_set(why[1]) if why[0] == SET else "/audit"


def _name(session: Session, why: tuple[str, str]) -> str:
    kind_code, target = why
    if kind_code == MARKS:
        return "every mark in this project"
    if kind_code == FOLDER:
        row = session.get(FolderRow, target)
        return f"the folder {row.name}" if row and row.parent_id else "everything in this project"
    if kind_code == SET:
        return f"the drawing set {session.get_one(DrawingSetRow, target).name}"
    kind = kind_of(kind_code)
    row = session.scalars(select(kind.row).where(kind.columns.id == target)).one_or_none() if kind else None
    return kind.number(row) or kind.title(row) if kind and row is not None else "it"
