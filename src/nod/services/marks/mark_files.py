"""Marks taken away: written into the PDF as annotations, or as a table (handbook §6, open formats)."""

from __future__ import annotations

import re
import tempfile
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any, Literal
from zoneinfo import ZoneInfo

from sqlalchemy import ColumnElement, Select, select
from sqlalchemy.orm import Session

from nod.core.acts.counted import counted
from nod.core.acts.refusals import RuleBroken
from nod.core.marks.mark_files import FiledMark, FiledMeasure, FiledReply, Paper, SummaryHead, subject_of
from nod.core.marks.marks import MarkState
from nod.core.marks.readers import EVERYBODY
from nod.core.sheet.sheet_sizes import MM_PER_INCH, POINTS_PER_INCH
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.formats.files.spreadsheet import Value, write_csv, write_xlsx
from nod.formats.files.unfit import CannotAnnotate
from nod.formats.sheet.pdf_look import CannotDraw
from nod.services.access.visibility import see_revision
from nod.services.acts.answers import named, people_by_id
from nod.services.acts.context import Context, acting
from nod.services.acts.seats import Actor, Seat
from nod.services.files.tables_out import MEDIA, Exported
from nod.services.marks.linked_things import filed_links
from nod.services.marks.mark_rows import is_read_by, marks_with_threads, shape_of
from nod.services.marks.marks_view import measures_of
from nod.services.marks.readers import is_open_ink
from nod.services.marks.scales import pages_of
from nod.services.press.press import Press, PressStopped
from nod.services.register.documents import sendable_name
from nod.services.sheet.title_blocks import box_of
from nod.services.threads.said import author_ids, author_of, named_author, reply_rows
from nod.store.dialects.sqlite import one_of
from nod.store.tables import BlobRow, MarkRow, PageRow, ProjectRow, RevisionRow, ThreadRow

Among = Callable[[Seat], ColumnElement[bool]]
Form = Literal["pdf", "summary", "xfdf", "xlsx", "csv"]
"""The sheet with its marks, a clip of each place with what was said there, or the marks alone."""
MARK_HEADS = (
    "Mark", "Number", "Page", "Text", "Measured", "Label", "Discipline", "State", "Author", "Company", "Drawn", "Inked",
    "For", "Answers", "Linked to", "Left mm", "Upper mm",
)  # fmt: skip
MARK_WIDTHS = (90, 60, 50, 320, 140, 120, 80, 140, 70, 120, 120, 140, 320, 240, 70, 70)


def export_marks(
    context: Context, press: Press, actor: Actor, revision_id: str, form: Form, *, with_some: bool = False
) -> Exported:
    """The ink on a revision that everybody reads; `with_some`: with what the actor reads and not everybody.

    Never pencil. Recorded before it is made; the file is written outside of that act.
    """
    with acting(context, actor) as act:
        revision, document, seat = see_revision(act.session, actor, revision_id)
        if form in ("pdf", "summary") and act.session.get_one(BlobRow, revision.sha256).fault:
            raise RuleBroken("file_locked", "The file is locked or damaged, so no marks can be written into it.")
        rows = list(act.session.scalars(ink_on(revision_id, is_read_by(seat) if with_some else None)))
        some = sum(row.thread.readers != EVERYBODY for row in rows)
        about = f"{document.number} {revision.code}"
        fact = Fact(
            FactKind.MARKS_EXPORTED, Subject("document", document.id), about, (Subject("revision", revision_id),),
            after={"marks": len(rows), "as": form} | ({"not for everybody": some} if some else {}),
        )  # fmt: skip
        act.record(document.project_id, fact)
        stem = re.sub(r"\.pdf$", "", sendable_name(document.number, revision.code, revision.status, "x.pdf"))
        leaving = _leaving(act.session, (actor, seat.project), about, revision, rows, act.at, form)
        sha256 = revision.sha256
    content = _made(context, press, sha256, form, leaving)
    name, media_type = _FILES[form]
    return Exported(content, f"{stem}_{name}", media_type)


def copy_with_marks(context: Context, press: Press, actor: Actor, revision_id: str, form: Form) -> bytes:
    """The ink that everybody reads, for somebody it is sent to; nothing is recorded here.

    Raises NotFound for one who may not see it, RuleBroken where it cannot be written.
    """
    with context.database.read() as session:
        revision, document, seat = see_revision(session, actor, revision_id)
        rows = list(session.scalars(ink_on(revision_id)))
        about = f"{document.number} {revision.code}"
        leaving = _leaving(session, (actor, seat.project), about, revision, rows, context.clock.now(), form)
    return _made(context, press, revision.sha256, form, leaving)


@dataclass(frozen=True)
class MarkedCopies:
    """A sheet with marks of it: as PDF, empty where `fault` says why it cannot be written, and as XFDF; and a table."""

    pdf: bytes
    fault: str
    xfdf: bytes
    table: list[list[Value]]


def marked_copies(
    context: Context, press: Press, project: ProjectRow, revision_id: str, about: str, among: ColumnElement[bool]
) -> MarkedCopies:
    """The ink on a revision that a condition on threads leaves, for whomever; without links, which lead elsewhere."""
    with context.database.read() as session:
        revision = session.get_one(RevisionRow, revision_id)
        rows = list(session.scalars(ink_on(revision_id, among)))
        leaving = _leaving(session, (None, project), about, revision, rows, context.clock.now(), "xlsx")
    pdf, fault = b"", ""
    try:
        pdf = _made(context, press, revision.sha256, "pdf", leaving)
    except RuleBroken as error:
        fault = error.words
    xfdf = _made(context, press, revision.sha256, "xfdf", leaving)
    return MarkedCopies(pdf, fault, xfdf, leaving.table)


def have_ink(session: Session, revision_ids: Sequence[str]) -> set[str]:
    """Those of these revisions that have ink which everybody reads."""
    query = select(MarkRow.revision_id).join(ThreadRow, ThreadRow.id == MarkRow.thread_id).distinct()
    ink = (MarkRow.removed_at.is_(None), ThreadRow.shared_at.is_not(None), is_open_ink())
    return set(session.scalars(query.where(one_of(MarkRow.revision_id, revision_ids), *ink)))


def _made(context: Context, press: Press, sha256: str, form: Form, leaving: _Leaving) -> bytes:
    with (
        tempfile.TemporaryDirectory(dir=context.settings.data_dir) as aside,
        context.blobs.local_sheet(sha256) as source,
    ):
        return _written(press, source, Path(aside), form, leaving)


def clips_of(
    context: Context, press: Press, actor: Actor, revision_id: str, most: int, among: Among | None = None
) -> dict[str, bytes]:
    """By mark, a picture of it in its place, PNG: of the ink on a revision that everybody reads, or `among` which a
    seat finds it, the first so many.

    None of a file that is locked, broken or too slow: what was said of it can be read without. Raises NotFound for one
    who may not see it.
    """
    with context.database.read() as session:
        revision, _, seat = see_revision(session, actor, revision_id)
        rows = list(session.scalars(ink_on(revision_id, among(seat) if among else None).limit(most)))
        if not rows:
            return {}
        marks = filed_marks(session, actor, rows)
        papers = [Paper(box_of(page), page.user_unit) for page in pages_of(session, revision)]
        gone = taken_away(session, revision_id)
    with (
        tempfile.TemporaryDirectory(dir=context.settings.data_dir) as made,
        context.blobs.local_sheet(revision.sha256) as source,
    ):
        into = Path(made)
        try:
            press.clips(source, into, into / "marked.pdf", marks, papers, gone)
        except (CannotAnnotate, CannotDraw, PressStopped):
            return {}
        pictures = ((row.id, into / f"{place}.png") for place, row in enumerate(rows))
        return {id: path.read_bytes() for id, path in pictures if path.exists()}


_FILES: dict[Form, tuple[str, str]] = {
    "pdf": ("marks.pdf", MEDIA["pdf"]), "summary": ("marks_summary.pdf", MEDIA["pdf"]),
    "xfdf": ("marks.xfdf", "application/vnd.adobe.xfdf"), "xlsx": ("marks.xlsx", MEDIA["xlsx"]),
    "csv": ("marks.csv", MEDIA["csv"]),
}  # fmt: skip


def ink_on(revision_id: str, among: ColumnElement[bool] | None = None) -> Select[Any]:
    """Ink that everybody reads who sees the sheet; or what a condition on threads leaves, never pencil."""
    here = (MarkRow.revision_id == revision_id, MarkRow.removed_at.is_(None), ThreadRow.shared_at.is_not(None))
    ink = (*here, is_open_ink() if among is None else among)
    return marks_with_threads().where(*ink).order_by(MarkRow.page, MarkRow.rank, MarkRow.seq)


def taken_away(session: Session, revision_id: str) -> frozenset[str]:
    """Annotations of the file that were taken in as marks and then taken away here, by their names there."""
    query = select(ThreadRow.file_id).join(MarkRow, MarkRow.thread_id == ThreadRow.id)
    gone = (MarkRow.revision_id == revision_id, MarkRow.removed_at.is_not(None), ThreadRow.file_id != "")
    return frozenset(session.scalars(query.where(*gone)))


@dataclass(frozen=True)
class _Leaving:
    """What leaves, besides the form it leaves in."""

    marks: list[FiledMark]
    papers: list[Paper]
    gone: frozenset[str]
    head: SummaryHead
    table: list[list[Value]]


def _leaving(
    session: Session, by: tuple[Actor | None, ProjectRow], about: str, revision: RevisionRow, rows: list[MarkRow],
    at: datetime, form: Form,
) -> _Leaving:  # fmt: skip
    actor, project = by
    zone = ZoneInfo(project.time_zone)
    filed = filed_marks(session, actor, rows)
    made = f"{counted(len(rows), 'mark')} in ink, {at.astimezone(zone):%d %b %Y, %H:%M}"
    disciplines = project.rules["disciplines"]
    taken = f"{made}, taken away by {actor.name}" if actor else made
    return _Leaving(
        filed, [Paper(box_of(page), page.user_unit) for page in pages_of(session, revision)],
        taken_away(session, revision.id),
        SummaryHead(f"Marks on {about}", taken, str(zone), disciplines),
        list(_table(session, rows, filed, revision.sha256, zone)) if form in ("xlsx", "csv") else [],
    )  # fmt: skip


def _written(press: Press, source: Path, aside: Path, form: Form, leaving: _Leaving) -> bytes:
    if form == "csv":
        return write_csv(MARK_HEADS, leaving.table).encode()
    if form == "xfdf":
        # Half a second to load, and seldom asked for.
        from nod.formats.marks.xfdf import write_xfdf

        return write_xfdf(leaving.marks, leaving.papers, f"{leaving.head.title}.pdf")
    target = aside / f"marks.{form}"
    if form == "xlsx":
        write_xlsx(target, MARK_HEADS, MARK_WIDTHS, leaving.table)
        return target.read_bytes()
    try:
        if form == "summary":
            marked = aside / "marked.pdf"
            press.summary(source, target, marked, leaving.marks, leaving.papers, leaving.head, leaving.gone)
        else:
            press.annotate(source, target, leaving.marks, leaving.gone)
    except (CannotAnnotate, CannotDraw) as error:
        raise RuleBroken("file_locked", str(error)) from error
    except PressStopped as error:
        raise RuleBroken(
            "file_slow", "Writing the marks into this file takes too long. Take them as a table."
        ) from error
    return target.read_bytes()


def filed_marks(session: Session, actor: Actor | None, rows: list[MarkRow]) -> list[FiledMark]:
    """Rows as files hold them, with threads and states; links to what is there for this person, for nobody none."""
    threads = {row.thread_id: row.thread for row in rows}
    replies = reply_rows(session, threads)
    in_them = author_ids(threads.values()) | {thread.state_by for thread in threads.values()} | author_ids(replies)
    people = people_by_id(session, in_them)
    links = filed_links(session, actor, threads) if actor else {}
    measure = filed_measures(session, rows)
    answers: dict[str, list[FiledReply]] = {}
    for reply in replies:
        filed = FiledReply(reply.id, named_author(reply, people), reply.text, reply.at)
        answers.setdefault(reply.thread_id, []).append(filed)
    return [
        FiledMark(
            # What came from a file goes back under its name there, in the place of what it was made from.
            id=thread.file_id or row.id, page=row.page, kind=shape.kind, points=shape.points, look=shape.look,
            text=thread.text, label=row.label, discipline=row.discipline, author=named_author(thread, people),
            drawn_at=thread.said_at, changed_at=changed_at(row), pin_number=row.pin_number,
            state=MarkState(thread.state), state_by=named(people[thread.state_by]) if thread.state_by else "",
            state_at=thread.state_at, replies=tuple(answers.get(row.thread_id, ())), rings=shape.rings,
            measured=measure(row), links=tuple(links.get(row.thread_id, ())),
        )
        for row, thread, shape in ((row, row.thread, shape_of(row)) for row in rows)
    ]  # fmt: skip


def changed_at(row: MarkRow) -> datetime:
    """When the mark became as it is."""
    return row.changed_at or row.thread.shared_at or row.thread.said_at


def filed_measures(session: Session, rows: list[MarkRow]) -> Callable[[MarkRow], FiledMeasure | None]:
    measure = measures_of(session, rows)

    def filed(row: MarkRow) -> FiledMeasure | None:
        shown = measure(row)
        return FiledMeasure(shown.words, shown.mm_per_pt, shown.imperial) if shown else None

    return filed


def _table(
    session: Session, rows: list[MarkRow], filed: list[FiledMark], sha256: str, zone: ZoneInfo
) -> Iterator[list[Value]]:
    """A line a mark, with its place in millimetres from the upper left corner of the paper as seen."""
    pages = {page.place: page for page in session.scalars(select(PageRow).where(PageRow.sha256 == sha256))}
    people = people_by_id(session, {row.thread.meant_for for row in rows} | author_ids(row.thread for row in rows))
    for row, mark in zip(rows, filed, strict=True):
        author, meant = author_of(row.thread, people), people.get(row.thread.meant_for)
        answers = "\n".join(f"{reply.author}: {reply.text}" for reply in mark.replies)
        left, upper = _place_mm(mark, pages[mark.page]) if mark.page in pages else (None, None)
        yield [
            subject_of(mark), mark.pin_number, mark.page + 1, mark.text,
            mark.measured.words if mark.measured else "", mark.label, mark.discipline, mark.state.value, author.name,
            author.company, _local(mark.drawn_at, zone), _local(mark.changed_at, zone), meant.name if meant else "",
            answers, "\n".join(link.words for link in mark.links), left, upper,
        ]  # fmt: skip


def _local(at: datetime, zone: ZoneInfo) -> str:
    return f"{at.astimezone(zone):%Y-%m-%d %H:%M}"


def _place_mm(mark: FiledMark, page: PageRow) -> tuple[float, float]:
    seen = [box_of(page).to_view().apply(point) for point in mark.points]
    to_mm = page.user_unit * MM_PER_INCH / POINTS_PER_INCH
    return round(min(x for x, _ in seen) * to_mm, 1), round(min(y for _, y in seen) * to_mm, 1)
