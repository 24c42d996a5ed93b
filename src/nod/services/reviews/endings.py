"""What is done with documents that leave a review, as the review's route said when it began (handbook §8)."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import RuleBroken
from nod.core.register.columns import FIELD
from nod.core.register.typed_values import check_value
from nod.core.reviews.ends import MOST_FIELDS, End, Sayings, end_in_words
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.access.folders import folder_path
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act
from nod.services.acts.seats import Seat
from nod.services.mail.mails import About, write_mail
from nod.services.marks.copied_marks import copy_marks, copy_scales
from nod.services.notices.notices import Notice, tell_person
from nod.services.register.changes import set_value
from nod.services.register.copies import CopyWanted, put_copies
from nod.services.register.in_force import refresh_in_force, uses_of
from nod.services.register.register_list import columns_of
from nod.services.register.releases import put_status, record_status
from nod.services.reviews.paths import MOST_NAMED, NamedGiven, whom_kept, whom_named, whom_read
from nod.services.reviews.review_rows import LoadedReview
from nod.services.reviews.roster import ProjectRoster
from nod.services.reviews.route_checks import people_of
from nod.services.things.things import who_may_know
from nod.store.dialects.sqlite import one_of
from nod.store.tables import DocumentRow, FolderRow, ProjectRow, RevisionRow

_LONGEST_NOTE = 1000


class EndGiven(Command):
    """What is done with a document by its verdict; a field by its column's key, a folder by its id."""

    status: str = ""
    fields: dict[str, str] = Field(default_factory=dict, max_length=MOST_FIELDS)
    tell: list[NamedGiven] = Field(default_factory=list, max_length=MOST_NAMED)
    note: str = ""
    copy_to: str = ""
    with_marks: bool = False
    draft: bool = False


class EndSaid(Answered):
    """A verdict's end, in words."""

    verdict: str
    words: str


Ends = Mapping[str, End]


def ends_given(given: Mapping[str, EndGiven]) -> dict[str, End]:
    """As they were sent, tidied; those that do nothing are left out."""
    read = {
        code: End(
            each.status,
            dict(each.fields),
            tuple(dict.fromkeys(whom_named(each.tell))),
            each.note.strip()[:_LONGEST_NOTE],
            each.copy_to,
            each.with_marks and bool(each.copy_to),
            each.draft,
        )
        for code, each in given.items()
    }
    return {code: each for code, each in read.items() if not each.nothing}


def ends_kept(ends: Ends) -> dict[str, Any]:
    return {
        code: {
            "status": each.status,
            "fields": dict(each.fields or {}),
            "tell": whom_kept(each.tell),
            "note": each.note,
            "copy_to": each.copy_to,
            "with_marks": each.with_marks,
            "draft": each.draft,
        }
        for code, each in ends.items()
    }


def ends_read(kept: Mapping[str, Any]) -> dict[str, End]:
    """As a route or a review keeps them."""
    return {
        code: End(
            each["status"],
            each["fields"],
            whom_read(each["tell"]),
            each["note"],
            each.get("copy_to", ""),
            each.get("with_marks", False),
            each.get("draft", False),
        )
        for code, each in kept.items()
    }


def check_ends(project: ProjectRow, roster: ProjectRoster, ends: Ends, about: str) -> dict[str, End]:
    """With their values as they are kept. Raises RuleBroken for what the project does not have."""
    verdicts = {each["code"]: each for each in project.rules["verdict_set"]}
    columns = columns_of(project)
    checked = {}
    for code, end in ends.items():
        if code not in verdicts:
            raise RuleBroken("verdict_unknown", "It says what follows a verdict that the project has not.", about)
        _check_status(project, verdicts[code], end.status, about)
        _check_copy(roster.session, project, verdicts[code], end.copy_to, about)
        if any(not words for words in roster.words(end.tell).values()):
            raise RuleBroken("end_unfit", f"Somebody who is told of {code} is not there any more.", about)
        fields = {}
        for key, value in (end.fields or {}).items():
            if not key.startswith(FIELD) or key not in columns:
                raise RuleBroken("end_unfit", f"At {code} a field is set that the project has not.", about)
            fields[key] = check_value(columns[key], value, columns[key].choices or ())
        checked[code] = replace(end, fields=fields)
    return checked


def _check_status(project: ProjectRow, verdict: Mapping[str, Any], status: str, about: str) -> None:
    if not status:
        return
    rules = project.rules
    if status not in rules["statuses"]:
        raise RuleBroken("end_unfit", f"“{status}” is no status of this project.", about)
    if status in rules["reviewed_statuses"] and not verdict["may_be_used"]:
        words = f"{status} is given by a review that lets a document be used; {verdict['code']} does not."
        raise RuleBroken("end_unfit", words, about)


def _check_copy(session: Session, project: ProjectRow, verdict: Mapping[str, Any], folder_id: str, about: str) -> None:
    """So that who sees a folder alone sees accepted revisions and nothing else."""
    if not folder_id:
        return
    folder = session.get(FolderRow, folder_id)
    if folder is None or folder.project_id != project.id:
        raise RuleBroken("end_unfit", f"The folder that {verdict['code']} copies into is not there any more.", about)
    if not verdict["may_be_used"]:
        words = f"Only what may be used is copied into a folder; {verdict['code']} does not let a document be used."
        raise RuleBroken("end_unfit", words, about)


def said_of(session: Session, seat: Seat, ends: Ends) -> list[EndSaid]:
    """In words of today, in the order of the verdicts; folders as the seat sees them."""
    project = seat.project
    roster = ProjectRoster(session, project)
    names = roster.words(named for end in ends.values() for named in end.tell)
    columns = columns_of(project)
    say = Sayings(
        uses_of(project), lambda key: columns[key].head if key in columns else "a field that is gone",
        lambda id: _folder(session, seat, id), lambda named: names[named] or "somebody who has left",
    )  # fmt: skip
    order = [each["code"] for each in project.rules["verdict_set"]]
    found = [EndSaid(verdict=code, words=end_in_words(code, ends[code], say)) for code in order if code in ends]
    return [each for each in found if each.words]


def _folder(session: Session, seat: Seat, folder_id: str) -> str:
    if session.get(FolderRow, folder_id) is None:
        return "a folder that is gone"
    return folder_path(session, seat, folder_id) if seat.at(folder_id) else "a folder that others see"


@dataclass(frozen=True)
class _Ended:
    """A document that has left the review: what was decided of it, and what its route does with it."""

    document: DocumentRow
    revision: RevisionRow
    verdict: str
    end: End
    why: str


def carry_out(act: Act, loaded: LoadedReview, left: Mapping[str, str]) -> None:
    """`left` are the documents that have left the review now, with their verdicts."""
    ends = ends_read(loaded.row.ends)
    ended = _ended(act, loaded, left, ends)
    if not ended:
        return
    project = act.session.get_one(ProjectRow, loaded.row.project_id)
    for each in ended:
        _give_status(act, project, each)
        _set_fields(act, project, each)
    refresh_in_force(act, project, [each.document.id for each in ended])
    _copy(act, project, ended)
    for verdict in dict.fromkeys(each.verdict for each in ended):
        those = [each.document for each in ended if each.verdict == verdict]
        _tell(act, project, loaded, verdict, ends[verdict], those)
    _ask_for_draft(act, project, loaded, ended)


def _ask_for_draft(act: Act, project: ProjectRow, loaded: LoadedReview, ended: Sequence[_Ended]) -> None:
    """What is sent out belongs to a room above: it is told what there is to draft, once for all that left now."""
    wanted = [each for each in ended if each.end.draft and not each.document.withdrawn]
    if not wanted:
        return
    roster = ProjectRoster(act.session, project)
    people = dict.fromkeys(person for each in wanted for person in people_of(roster, each.end.tell))
    payload = {
        "project_id": project.id, "review_id": loaded.row.id, "starter_id": loaded.row.started_by,
        "number": loaded.row.number, "revisions": [each.revision.id for each in wanted], "people": list(people),
        "note": next((each.end.note for each in wanted if each.end.note), ""),
    }  # fmt: skip
    act.ask("draft_transmittal", f"draft:{loaded.row.id}:{loaded.row.version}", payload)


def _ended(act: Act, loaded: LoadedReview, left: Mapping[str, str], ends: Ends) -> list[_Ended]:
    """In the order of `left`; those of a verdict after which nothing is done are left out."""
    wanted = [id for id, verdict in left.items() if verdict in ends]
    found = {each.document_id: each.revision_id for each in loaded.documents if each.document_id in left}
    documents = select(DocumentRow).where(one_of(DocumentRow.id, wanted))
    by_id = {row.id: row for row in act.session.scalars(documents)}
    revisions = select(RevisionRow).where(one_of(RevisionRow.id, [found[id] for id in wanted]))
    of = {row.id: row for row in act.session.scalars(revisions)}
    return [
        _Ended(by_id[id], of[found[id]], left[id], ends[left[id]], f"{loaded.row.number}, verdict {left[id]}")
        for id in wanted
    ]


def _give_status(act: Act, project: ProjectRow, ended: _Ended) -> None:
    """A status that the project has no more, and that of a withdrawn document, stay as they are."""
    document, revision, status = ended.document, ended.revision, ended.end.status
    if not status or status not in project.rules["statuses"] or status == revision.status:
        return
    record_status(act, document, revision, status, ended.why)
    put_status(act, project, document, revision, status)
    document.version += 1


def _copy(act: Act, project: ProjectRow, ended: Sequence[_Ended]) -> None:
    """Nothing of what is withdrawn."""
    wanted = [
        CopyWanted(each.document, each.revision, each.end.copy_to, each.why, each.verdict)
        for each in ended
        if each.end.copy_to and not each.document.withdrawn
    ]
    if not wanted:
        return
    made = put_copies(act, project, wanted)
    copied = {each.revision.id: made[each.document.id] for each in wanted if each.document.id in made}
    with_marks = {each.revision.id for each in ended if each.end.with_marks}
    copy_scales(act, copied)
    copy_marks(act, {id: copy for id, copy in copied.items() if id in with_marks})


def _set_fields(act: Act, project: ProjectRow, ended: _Ended) -> None:
    document = ended.document
    columns = columns_of(project)
    after = {}
    for key, value in (ended.end.fields or {}).items():
        if key in columns:
            set_value(act.session, document, columns[key], value)
            after[columns[key].head.lower()] = value
    if after:
        document.version += 1
        subjects = (Subject("revision", document.revision_id),)
        fact = Fact(
            FactKind.DOCUMENT_CHANGED, Subject("document", document.id), document.number, subjects, {}, after,
            ended.why,
        )  # fmt: skip
        act.record(project.id, fact)


def _tell(
    act: Act, project: ProjectRow, loaded: LoadedReview, verdict: str, end: End, documents: Iterable[DocumentRow]
) -> None:
    if not end.tell:
        return
    roster = ProjectRoster(act.session, project)
    people = people_of(roster, end.tell)
    name = f"{loaded.row.number} {loaded.row.name}"
    listed = list(documents)
    words = next(each["words"] for each in loaded.row.verdict_set if each["code"] == verdict)
    text = [
        f"{name}: {verdict} {words}.", *(["", end.note] if end.note else []), "",
        *(f"  {each.number} {each.revision}  {each.title}" for each in listed),
    ]  # fmt: skip
    about = [Subject("review", loaded.row.id)]
    may = who_may_know(act.session, project.id, people, about)
    key = f"outcome:{loaded.row.id}:{loaded.row.version}:{verdict}"
    subject = f"{project.number}: {verdict} · {name}"
    for person_id in dict.fromkeys(people):
        if roster.is_contact(person_id):
            # Without a sign-in they have no notices: a mail that says it all, and leads nowhere.
            write_mail(act, f"{key}:{person_id}", person_id, subject, text, about=About(project, about[0]))
            continue
        notice = Notice(f"{key}:{person_id}", subject, text, f"/reviews/{loaded.row.id}", about)
        tell_person(act, project, "outcome", person_id, notice, may=may)
