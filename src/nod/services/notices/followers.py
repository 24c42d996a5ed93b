"""Telling those who follow: worked out after the act, from what it recorded, once for each person."""

from __future__ import annotations

import json
from collections.abc import Iterable
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access.audiences import Audience, is_seen
from nod.core.notices import FOLLOWED, OF_MARKS, OF_SETS
from nod.core.trail.entries import FactKind, Subject
from nod.services.acts.context import Act
from nod.services.acts.seats import Actor
from nod.services.acts.work import Concern, Job, Lane, Payload, work
from nod.services.notices.follows import FOLDER, MARKS, SET, address_of_set
from nod.services.notices.notices import Notice, note_read, tell_person, told_already
from nod.services.things.kinds import kind_of
from nod.services.things.things import audience_of_thing, member_eyes
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
_Reasons = dict[str, list[tuple[AuditEntryRow, _Target]]]
"""By person, the entries that they may be told of, each with the nearest thing of it that they follow."""


def _concerns(session: Session, payload: Payload) -> list[Concern]:
    entry = session.get(AuditEntryRow, payload["first"])
    if entry is None:
        return []
    about = json.loads(entry.body)["about"]
    return [Concern(entry.project_id, Subject("project", entry.project_id), about, "/audit")]


@work("tell_followers", Lane.SEND, "telling those who follow", _concerns)
def tell_followers(job: Job, payload: Payload) -> None:
    """Harmless when done twice: a person is told of an act once."""
    with job.context.database.write() as session:
        entries = _entries(session, payload["first"], payload["last"])
        if not entries:
            return
        found = _followed(session, entries)
        project = session.get_one(ProjectRow, entries[0].project_id)
        who = json.loads(entries[0].body)["who"]
        actor = Actor(who["id"], who["name"], "", who["company"])
        act = Act(job.context, session, actor, entries[0].at)
        # Whoever acts on a thing has looked at it.
        note_read(session, project.id, actor.person_id, {each for entry in entries for each in _about(entry)}, act.at)
        audiences: dict[Subject, Audience | None] = {}
        for person_id in sorted(found.keys() - told_already(session, payload["act_id"])):
            if told := _seen(session, project.id, person_id, found[person_id], audiences):
                _tell(act, project, person_id, told, payload["act_id"])


def _entries(session: Session, first: int, last: int) -> list[AuditEntryRow]:
    query = select(AuditEntryRow).where(
        AuditEntryRow.seq.between(first, last), AuditEntryRow.kind.in_(FOLLOWED), AuditEntryRow.private_to == ""
    )
    return list(session.scalars(query.order_by(AuditEntryRow.seq)))


def _followed(session: Session, entries: list[AuditEntryRow]) -> _Reasons:
    """Whoever followed anything that the entries are about when it happened."""
    targets = {entry.seq: {*_subjects(session, entry), *_of_marks(entry)} for entry in entries}
    all_targets = {target for each in targets.values() for target in each}
    chains = _folders_above(session, all_targets) | _sets_with(session, all_targets)
    wanted = {*chains, *all_targets}
    query = select(FollowRow).where(
        FollowRow.target.in_([target for _, target in wanted]), FollowRow.since_at <= entries[0].at
    )
    following: dict[_Target, list[str]] = {}
    for row in session.scalars(query.order_by(FollowRow.since_at)):
        following.setdefault((row.kind, row.target), []).append(row.person_id)
    found: _Reasons = {}
    for entry in entries:
        nearest: dict[str, _Target] = {}
        for target in _in_order(targets[entry.seq], chains):
            for person_id in following.get(target, ()):
                nearest.setdefault(person_id, target)
        for person_id, target in nearest.items():
            found.setdefault(person_id, []).append((entry, target))
    return found


def _seen(
    session: Session,
    project_id: str,
    person_id: str,
    reasons: list[tuple[AuditEntryRow, _Target]],
    audiences: dict[Subject, Audience | None],
) -> list[tuple[AuditEntryRow, _Target]]:
    """Without entries that speak of anything the person does not see; `audiences` keeps what has been worked out."""
    eyes = member_eyes(session, project_id, person_id)
    if eyes is None:
        return []

    def sees(subject: Subject) -> bool:
        if subject not in audiences:
            audiences[subject] = audience_of_thing(session, subject)
        audience = audiences[subject]
        return audience is not None and is_seen(audience, eyes)

    return [(entry, target) for entry, target in reasons if all(sees(each) for each in _things(json.loads(entry.body)))]


def _subjects(session: Session, entry: AuditEntryRow) -> set[tuple[str, str]]:
    query = select(AuditSubjectRow.kind, AuditSubjectRow.subject_id).where(AuditSubjectRow.seq == entry.seq)
    found = {(kind, subject_id) for kind, subject_id in session.execute(query)}
    # That a set has got a sheet is no news of the sheet.
    return {each for each in found if each[0] == SET} if entry.kind in OF_SETS else found


def _of_marks(entry: AuditEntryRow) -> set[tuple[str, str]]:
    return {(MARKS, entry.project_id)} if entry.kind in OF_MARKS else set()


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


def _tell(
    act: Act, project: ProjectRow, person_id: str, told: list[tuple[AuditEntryRow, _Target]], told_of: str
) -> None:
    bodies = [json.loads(entry.body) for entry, _ in told]
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


def _about(entry: AuditEntryRow) -> set[tuple[str, str]]:
    return {(each.kind, each.id) for each in _things(json.loads(entry.body))}


def _things(body: dict[str, Any]) -> list[Subject]:
    """What the entry is about, as far as it is of a registered kind: all of it must be seen."""
    subjects = (body["subject"], *body["others"])
    return [Subject(each["kind"], each["id"]) for each in subjects if kind_of(each["kind"])]


def _link(session: Session, about: list[Subject], why: _Target) -> str:
    """Where the first thing opens; what is part of it, if that is one."""
    kinds = {each: kind_of(each.kind) for each in about}
    parts = [each for each, kind in kinds.items() if kind and kind.part_of]
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
