"""Sheets printed, each with a code that tells for ever whether its revision is still in force (handbook §6)."""

from __future__ import annotations

import tempfile
from datetime import datetime
from pathlib import Path
from zoneinfo import ZoneInfo

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.register.in_force import standing_of
from nod.core.sheet.papers import PrintStrip, lie
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.formats.files.unfit import CannotAnnotate
from nod.services.access.visibility import see_revision
from nod.services.acts.answers import Answered
from nod.services.acts.context import Act, Context, acting
from nod.services.acts.seats import Actor
from nod.services.files.tables_out import MEDIA, Exported
from nod.services.marks.mark_files import filed_marks, ink_on, taken_away
from nod.services.press.press import Press, PressStopped
from nod.services.register.documents import sendable_name
from nod.services.register.in_force import around_of
from nod.store.ids import new_code
from nod.store.tables import (
    BlobRow,
    DocumentRow,
    PrintCodeRow,
    ReviewDocumentRow,
    ReviewRow,
    RevisionRow,
)


class StillInForce(Answered):
    """What a print's code tells at this moment: how its revision stands, see `Standing`, and which is in force.

    `kind` is `passed` for the print of a copy in a folder where another revision is in force, which is not said.
    """

    kind: str
    revision: str
    in_force: str
    at: datetime


def print_sheet(
    context: Context, press: Press, actor: Actor, revision_id: str, paper: str, *, with_marks: bool
) -> Exported:
    """A PDF for the printer. Recorded, as every download, before it is made."""
    lie((1.0, 1.0), paper)
    with acting(context, actor) as act:
        revision, document, seat = see_revision(act.session, actor, revision_id)
        blob = act.session.get_one(BlobRow, revision.sha256)
        if blob.fault or not blob.page_count:
            raise RuleBroken("file_locked", "This file has no pages that can be printed.", document.number)
        zone = ZoneInfo(seat.project.time_zone)
        printed = f"Printed {act.at.astimezone(zone):%d %b %Y, %H:%M} by {act.actor.name}"
        strip = strip_of(act, document, revision, zone, printed)
        rows = list(act.session.scalars(ink_on(revision_id))) if with_marks else []
        filed = filed_marks(act.session, actor, rows)
        about = f"{document.number} {revision.code}"
        after = {"paper": paper, "marks": len(rows)}
        subjects = (Subject("revision", revision_id),)
        act.record(
            document.project_id,
            Fact(FactKind.SHEET_PRINTED, Subject("document", document.id), about, subjects, after=after),
        )
        sha256, gone = revision.sha256, taken_away(act.session, revision_id)
        name = sendable_name(document.number, revision.code, revision.status, "x.pdf").removesuffix(".pdf")
    with tempfile.TemporaryDirectory(dir=context.settings.data_dir) as aside:
        target = Path(aside) / "print.pdf"
        try:
            marks = filed if with_marks else None
            with context.blobs.local_sheet(sha256) as source:
                press.print_sheet(source, target, Path(aside) / "marked.pdf", marks, gone, paper, strip)
        except CannotAnnotate as error:
            raise RuleBroken("file_locked", str(error)) from error
        except PressStopped as error:
            raise RuleBroken("file_slow", "Making this print takes too long.") from error
        return Exported(target.read_bytes(), f"{name}_print.pdf", MEDIA["pdf"])


def strip_of(act: Act, document: DocumentRow, revision: RevisionRow, zone: ZoneInfo, printed: str) -> PrintStrip:
    """What a sheet on paper says of itself; `printed` is how it came there."""
    verdict, review = _verdict_of(act.session, revision)
    said = next((each for each in review.verdict_set if each["code"] == verdict), None) if review else None
    ended = review.ended_at if review else None
    return PrintStrip(
        title=f"{document.number}  {revision.code}  {revision.status}",
        address=f"{act.context.settings.resolved_public_url}/c/{_code(act, revision)}",
        printed=printed, verdict=verdict,
        verdict_words=said["words"] if said else "", meaning=said["meaning"] if said else "go",
        verdict_on=f"{review.number}, {ended.astimezone(zone):%d %b %Y}" if review and ended else "",
    )  # fmt: skip


def _verdict_of(session: Session, revision: RevisionRow) -> tuple[str, ReviewRow | None]:
    """The latest, with the review that gave it; of a copy, the one that it came with."""
    query = (
        select(ReviewDocumentRow.verdict, ReviewRow)
        .join(ReviewRow, ReviewRow.id == ReviewDocumentRow.review_id)
        .where(ReviewDocumentRow.verdict != "")
        .order_by(ReviewRow.ended_at.desc())
    )
    if revision.copied_from:
        came_with = (ReviewDocumentRow.verdict == revision.copy_verdict, ReviewRow.ended_at <= revision.copied_at)
        query = query.where(ReviewDocumentRow.revision_id == revision.copied_from, *came_with)
    else:
        query = query.where(ReviewDocumentRow.revision_id == revision.id)
    found = session.execute(query).first()
    return (found[0], found[1]) if found else (revision.copy_verdict, None)


def _code(act: Act, revision: RevisionRow) -> str:
    """One for each revision, so that all its prints tell the same."""
    row = act.session.scalars(select(PrintCodeRow).where(PrintCodeRow.revision_id == revision.id)).one_or_none()
    if row is None:
        row = PrintCodeRow(code=new_code(), revision_id=revision.id, made_at=act.at)
        act.session.add(row)
    return row.code


def is_still_in_force(context: Context, code: str) -> StillInForce:
    """For anybody who holds a print. Raises NotFound for a code that was never printed."""
    with context.database.read() as session:
        revision, document = _printed(session, code)
        passed = document.release == "passed" and not document.withdrawn
        kind = "passed" if passed else standing_of(revision.code, around_of(document)).kind
        in_force = document.in_force
        return StillInForce(kind=kind, revision=revision.code, in_force=in_force, at=context.clock.now())


def _printed(session: Session, code: str) -> tuple[RevisionRow, DocumentRow]:
    row = session.get(PrintCodeRow, code.lower())
    if row is None:
        raise NotFound
    query = select(RevisionRow, DocumentRow).join(DocumentRow, DocumentRow.id == RevisionRow.document_id)
    revision, document = session.execute(query.where(RevisionRow.id == row.revision_id)).one()
    return revision, document
