"""What is sent in goes into the register by rule, as `<submittal>-<revision>-<nn>` (handbook §9).

It follows by itself, once Nod has looked into the files: whoever sends in waits for nothing, and needs no access to
the folder. Only what is found about the content of a file keeps it out, and that is told.
"""

from __future__ import annotations

from collections.abc import Sequence
from datetime import timedelta
from pathlib import PurePath

from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from nod.core.access.levels import EVERYONE, Grantee, Level, To
from nod.core.acts.refusals import RuleBroken
from nod.core.intake.checks import content_stops, held_reason
from nod.core.intake.findings import Arriving
from nod.core.register.look_alikes import tidy_title
from nod.core.register.revisions import first_code
from nod.core.submittals.numbers import file_number, shown_number
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.answers import Answered
from nod.services.acts.context import Act
from nod.services.acts.given_up import given_up_for
from nod.services.acts.projects import add_folder, give, rules_of
from nod.services.acts.seats import NOBODY, Seat, actor_of
from nod.services.acts.work import Concern, Job, Lane, Payload, work
from nod.services.register import filings, standing
from nod.services.register.filings import Incoming
from nod.services.register.in_force import refresh_in_force
from nod.services.submittals.kind import SUBMITTAL
from nod.services.submittals.submittal_rows import ask_person, named
from nod.services.things.things import tell_thing
from nod.store.dialects.sqlite import one_of
from nod.store.tables import (
    AttachmentRow,
    BlobRow,
    CompanyRow,
    DocumentRow,
    FolderRow,
    ProjectRow,
    RevisionRow,
    SubmittalFileRow,
    SubmittalRoundRow,
    SubmittalRow,
    held_under,
)

FOLDER = "Submittals"
"""The folder that is made where a project names none: leads, controllers and reviewers alone see into it."""
_STATUS = "S0"
_LONGEST_TITLE = 200
_LONGEST_WAIT_S = 60


def _concerns(session: Session, payload: Payload) -> list[Concern]:
    sent = session.get_one(SubmittalRoundRow, payload["round_id"])
    row = session.get_one(SubmittalRow, sent.submittal_id)
    subject = Subject(SUBMITTAL.code, row.id)
    return [Concern(row.project_id, subject, f"the files of {named(row)}", f"/submittals/{row.id}", "", sent.sent_by)]


def ask_to_file(act: Act, sent: SubmittalRoundRow, looked: int = 0) -> None:
    """`looked`: how often somebody has looked whether the files are known by now; ever less often."""
    wait = timedelta(seconds=min(2**looked, _LONGEST_WAIT_S)) if looked else timedelta()
    payload = {"round_id": sent.id, "looked": looked}
    act.ask("file_sent_in", f"file_sent_in:{sent.id}:{looked}", payload, act.at + wait)


@work("file_sent_in", Lane.REST, "registering what was sent in", _concerns)
def file_sent_in(job: Job, payload: Payload) -> None:
    """All files of a round in one transaction. Harmless when done twice: what is registered is left."""
    with job.context.database.write() as session:
        sent = session.get_one(SubmittalRoundRow, payload["round_id"])
        row = session.get_one(SubmittalRow, sent.submittal_id)
        now = job.context.clock.now()
        act = Act(job.context, session, actor_of(session, sent.sent_by, "the worker"), now)
        files = _files(session, sent)
        blobs = _blobs(session, files)
        unread = _never_read(session, blobs)
        if any(each.state != "known" and each.sha256 not in unread for each in blobs.values()):
            ask_to_file(act, sent, payload["looked"] + 1)
            return
        done = set(session.scalars(select(SubmittalFileRow.attachment_id).where(SubmittalFileRow.round_id == sent.id)))
        left = [(place, each) for place, each in enumerate(files, 1) if each.id not in done]
        if left:
            _file_all(act, row, sent, left, blobs)


def _file_all(
    act: Act, row: SubmittalRow, sent: SubmittalRoundRow, files: Sequence[tuple[int, AttachmentRow]],
    blobs: dict[str, BlobRow],
) -> None:  # fmt: skip
    project = act.session.get_one(ProjectRow, row.project_id)
    folder = _folder(act, project)
    filed, kept_out = set(), []
    for place, each in files:
        trouble = _trouble(each, blobs[each.sha256])
        kept = SubmittalFileRow(attachment_id=each.id, round_id=sent.id, trouble=trouble)
        if trouble:
            kept_out.append(f"{each.name}: {trouble}")
        else:
            incoming = _incoming(act, project, row, sent, place, each)
            revision = filings.file_revision(act, project, incoming, folder)
            kept.revision_id = revision.id
            filed.add(revision.document_id)
        act.session.add(kept)
    act.session.flush()
    if filed:
        standing.refresh(act.session, filed)
        refresh_in_force(act, project, filed)
        act.tell(project.id, "register", folder, {folder})
    tell_thing(act, SUBMITTAL, row)
    if kept_out:
        _tell_kept_out(act, row, sent, kept_out)


def _files(session: Session, sent: SubmittalRoundRow) -> list[AttachmentRow]:
    query = select(AttachmentRow).where(AttachmentRow.reply_id == sent.sent_files).order_by(AttachmentRow.seq)
    return list(session.scalars(query))


def _blobs(session: Session, files: Sequence[AttachmentRow]) -> dict[str, BlobRow]:
    query = select(BlobRow).where(one_of(BlobRow.sha256, [each.sha256 for each in files]))
    return {row.sha256: row for row in session.scalars(query)}


def _never_read(session: Session, blobs: dict[str, BlobRow]) -> set[str]:
    """Files that Nod gave up looking into: they are kept out until somebody has them tried again."""
    unknown = [each for each, blob in blobs.items() if blob.state != "known"]
    given_up = given_up_for(session, [f"look_into:{each}" for each in unknown]) if unknown else {}
    return {each for each in unknown if f"look_into:{each}" in given_up}


def _trouble(attached: AttachmentRow, blob: BlobRow) -> str:
    """What is found about its content that keeps it out; empty where nothing is."""
    if blob.state != "known":
        return "Nod gave up reading this file. Ask for it anew."
    arriving = Arriving(
        "", "", "", "", blob.sha256, fault=blob.fault, fault_words=blob.fault_words, media_type=blob.media_type,
        file_name=attached.name, can_look=blob.page_count > 0,
    )  # fmt: skip
    return held_reason(content_stops(arriving))


def _incoming(
    act: Act, project: ProjectRow, row: SubmittalRow, sent: SubmittalRoundRow, place: int, attached: AttachmentRow
) -> Incoming:  # fmt: skip
    company = act.session.get_one(CompanyRow, act.actor.company_id)
    stem = PurePath(attached.name).stem
    said = row.title if stem.casefold() == row.title.casefold() else f"{row.title}: {stem}"
    title = tidy_title(said)[:_LONGEST_TITLE]
    return Incoming(
        number=_free_number(act.session, project, row, sent.revision, place), title=title,
        revision=first_code(rules_of(project).scheme), status=_STATUS, scale="", sha256=attached.sha256,
        file_name=attached.name, came_from=company.name, arrived_at=sent.sent_at, came_person=act.actor.name,
        note=sent.note, others=(Subject(SUBMITTAL.code, row.id),),
    )  # fmt: skip


def _free_number(session: Session, project: ProjectRow, row: SubmittalRow, revision: int, place: int) -> str:
    """By rule; where something else is registered like this, the next that is free."""
    while True:
        number = file_number(row.number, revision, place)
        if session.scalar(select(DocumentRow.id).where(held_under(project.id, number))) is None:
            return number
        place += 1


def _folder(act: Act, project: ProjectRow) -> str:
    """Where the project files what comes with submittals; made where it names none, or one that is gone."""
    by_rule = project.rules.get("attachment_folders", {})
    folders = select(FolderRow).where(FolderRow.project_id == project.id)
    wanted = by_rule.get(SUBMITTAL.code, "")
    if wanted and act.session.scalar(folders.where(FolderRow.id == wanted)) is not None:
        return str(wanted)
    root = act.session.scalars(folders.where(FolderRow.parent_id.is_(None))).one()
    there = act.session.scalars(folders.where(FolderRow.parent_id == root.id, FolderRow.name == FOLDER)).first()
    nod = Act(act.context, act.session, NOBODY, act.at)
    folder_id = there.id if there else _made(nod, project, root.id)
    named_now = {**by_rule, SUBMITTAL.code: folder_id}
    project.rules = {**project.rules, "attachment_folders": named_now}
    project.version += 1
    subject = Subject("project", project.id)
    before, after = {"attachment_folders": dict(by_rule)}, {"attachment_folders": named_now}
    nod.record(project.id, Fact(FactKind.RULES_CHANGED, subject, f"{project.name}: attached files", (), before, after))
    nod.tell(project.id, "setup", project.id)
    return folder_id


def _made(act: Act, project: ProjectRow, root_id: str) -> str:
    """What one company sent in is not for the others: the folder is for those who run the project and who review."""
    folder_id = add_folder(act, project.id, root_id, FOLDER)
    give(act, project.id, folder_id, EVERYONE, Level.NONE)
    if any(role["code"] == "reviewer" for role in project.rules["roles"]):
        give(act, project.id, folder_id, Grantee(To.ROLE, "reviewer"), Level.MARK)
    project.access_version += 1
    act.tell(project.id, "folders", project.id)
    return folder_id


def check_content(session: Session, ids: Sequence[str]) -> None:
    """Before it is sent in: raises RuleBroken for the first file whose content is known to keep it out."""
    query = (
        select(AttachmentRow, BlobRow)
        .join(BlobRow, BlobRow.sha256 == AttachmentRow.sha256)
        .where(one_of(AttachmentRow.id, list(ids)), BlobRow.state == "known")
        .order_by(AttachmentRow.seq)
    )
    for attached, blob in session.execute(query):
        if trouble := _trouble(attached, blob):
            raise RuleBroken("file_kept_out", f"{attached.name}: {trouble}", attached.name)


def _tell_kept_out(act: Act, row: SubmittalRow, sent: SubmittalRoundRow, kept_out: Sequence[str]) -> None:
    """By Nod, so that whoever sent in hears of it, too."""
    nod = Act(act.context, act.session, NOBODY, act.at)
    shown = shown_number(row.number, sent.revision)
    lines = [
        f"These files of {shown} could not be registered:",
        "",
        *kept_out,
        "",
        "Send them again with the next revision, or in Talk.",
    ]
    for person_id in dict.fromkeys((sent.sent_by, row.keeper_id)):
        ask_person(nod, row, person_id, "a file could not be registered", lines)


class RegisteredFile(Answered):
    """A file that was sent in as the register has it, for who sees it there; or, in `trouble`, why it has it not."""

    attachment_id: str
    revision_id: str
    number: str
    trouble: str


def registered_files(session: Session, seat: Seat, rounds: Sequence[str]) -> dict[str, list[RegisteredFile]]:
    """By round, in the order of the files. What the seat does not see in the register is left out."""
    query = (
        select(SubmittalFileRow, DocumentRow.number)
        .join(AttachmentRow, AttachmentRow.id == SubmittalFileRow.attachment_id)
        .outerjoin(RevisionRow, RevisionRow.id == SubmittalFileRow.revision_id)
        .outerjoin(DocumentRow, DocumentRow.id == RevisionRow.document_id)
        .where(
            one_of(SubmittalFileRow.round_id, list(rounds)),
            or_(SubmittalFileRow.revision_id.is_(None), seat.sees(DocumentRow.folder_id)),
        )
        .order_by(AttachmentRow.seq)
    )
    found: dict[str, list[RegisteredFile]] = {}
    for row, number in session.execute(query):
        shown = RegisteredFile(
            attachment_id=row.attachment_id, revision_id=row.revision_id or "", number=number or "",
            trouble=row.trouble,
        )  # fmt: skip
        found.setdefault(row.round_id, []).append(shown)
    return found


def revisions_sent(session: Session, sent: SubmittalRoundRow) -> list[RevisionRow]:
    """What the register has of a round, in its order."""
    query = (
        select(RevisionRow)
        .join(SubmittalFileRow, SubmittalFileRow.revision_id == RevisionRow.id)
        .join(AttachmentRow, AttachmentRow.id == SubmittalFileRow.attachment_id)
        .where(SubmittalFileRow.round_id == sent.id)
        .order_by(AttachmentRow.seq)
    )
    return list(session.scalars(query))


def is_filing(session: Session, sent: SubmittalRoundRow) -> bool:
    """Whether Nod has not settled all its files yet."""
    settled = select(SubmittalFileRow.attachment_id).where(SubmittalFileRow.round_id == sent.id)
    open_ones = select(AttachmentRow.id).where(
        AttachmentRow.reply_id == sent.sent_files, AttachmentRow.id.not_in(settled)
    )  # fmt: skip
    return session.scalar(open_ones.limit(1)) is not None
