"""Sheets, their tiles, and the marks on them, over HTTP."""

from __future__ import annotations

import io
from typing import Literal

from flask import Response, send_file
from pydantic import RootModel

from nod.services.acts.answers import FromOutside
from nod.services.files.tables_out import Exported
from nod.services.marks import (
    carried_marks,
    linked_things,
    mark_files,
    mark_files_in,
    mark_links,
    mark_threads,
    marks,
    marks_in,
    marks_view,
    measures,
    pens,
    scales,
)
from nod.services.marks.carried_marks import CarryList, CarryMarks
from nod.services.marks.linked_things import LinkedMarks, LinkTargets
from nod.services.marks.mark_files_in import MarkFiles
from nod.services.marks.mark_links import LinkMark
from nod.services.marks.mark_threads import InkMarks, MarkPlace, OpenMarks, SetMarkState, SheetPeople, WriteReply
from nod.services.marks.marks import BringBackMarks, ChangeMarks, DrawMarks, RemoveMarks
from nod.services.marks.marks_in import TakenIn
from nod.services.marks.marks_view import Mark
from nod.services.marks.measures import MeasureTotals
from nod.services.marks.pens import KeepPens, PenRolls, PensKept
from nod.services.marks.readers import ReaderOffers
from nod.services.marks.scales import SetScale, SheetScales
from nod.services.sheet import sheet_words, sheets
from nod.services.sheet.sheet_words import FoundOnSheet, References
from nod.services.sheet.sheets import Sheet, SheetOpening
from nod.web.answers import ANY_FILE, TABLES, answers, feature, file_answers, send
from nod.web.bodies import body_pieces, raw_body
from nod.web.guard import actor, context, permission, press, signed_in

api = feature("sheets")


class RevisionPath(FromOutside):
    revision_id: str


class ScalePath(FromOutside):
    revision_id: str
    scale_id: str


class WordsQuery(FromOutside):
    words: str


class MarksForm(FromOutside):
    form: Literal["pdf", "summary", "xfdf", "xlsx", "csv"]
    with_some: Literal["true", "false"] = "false"


class MeasuresForm(FromOutside):
    form: Literal["xlsx", "csv"]


class FileName(FromOutside):
    name: str = ""


class PensQuery(FromOutside):
    project_id: str


class MarkPath(FromOutside):
    mark_id: str


class MarkFilePath(FromOutside):
    revision_id: str
    file_id: str


class LinkPath(FromOutside):
    mark_id: str
    link_id: str


class LinkedPath(FromOutside):
    kind: str
    target: str


class LinkedQuery(FromOutside):
    project_id: str


class Marks(RootModel[list[Mark]]):
    pass


@api.get("/api/sheets/<revision_id>", responses=answers(Sheet))
@permission("read")
def read_sheet(path: RevisionPath) -> Sheet:
    """A revision as the sheet view opens it."""
    return sheets.read_sheet(context(), actor(), path.revision_id)


@api.get("/api/sheets/<revision_id>/opening", responses=answers(SheetOpening))
@permission("read")
def open_sheet(path: RevisionPath) -> SheetOpening:
    """What the page of a sheet asks for first, in one answer."""
    return sheets.open_sheet(context(), signed_in(), path.revision_id)


@api.get("/api/sheets/<revision_id>/words", responses=answers(FoundOnSheet))
@permission("read")
def find_words(path: RevisionPath, query: WordsQuery) -> FoundOnSheet:
    """Where the sheet says something."""
    return sheet_words.find_words(context(), actor(), path.revision_id, query.words)


@api.get("/api/sheets/<revision_id>/references", responses=answers(References))
@permission("read")
def list_references(path: RevisionPath) -> References:
    """Numbers of other documents on the sheet."""
    return sheet_words.list_references(context(), actor(), path.revision_id)


@api.get("/api/sheets/<revision_id>/marks", responses=answers(Marks))
@permission("read")
def list_marks(path: RevisionPath) -> list[Mark]:
    """All ink on a revision, and one's own pencil."""
    return marks_view.list_marks(context(), actor(), path.revision_id)


@api.post("/api/sheets/<revision_id>/marks", responses=answers(Marks))
@permission("mark")
def draw_marks(path: RevisionPath, body: DrawMarks) -> list[Mark]:
    """Draw marks in pencil."""
    return marks.draw_marks(context(), actor(), path.revision_id, body)


@api.post("/api/sheets/<revision_id>/marks/change", responses=answers(Marks))
@permission("mark")
def change_marks(path: RevisionPath, body: ChangeMarks) -> list[Mark]:
    """Move, reshape or reword one's own marks."""
    return marks.change_marks(context(), actor(), path.revision_id, body)


@api.post("/api/sheets/<revision_id>/marks/remove", responses=answers())
@permission("mark")
def remove_marks(path: RevisionPath, body: RemoveMarks) -> None:
    """Take one's own marks off the sheet."""
    marks.remove_marks(context(), actor(), path.revision_id, body)


@api.post("/api/sheets/<revision_id>/marks/bring-back", responses=answers(Marks))
@permission("mark")
def bring_back_marks(path: RevisionPath, body: BringBackMarks) -> list[Mark]:
    """Undo the removal of one's own marks."""
    return marks.bring_back_marks(context(), actor(), path.revision_id, body)


@api.post("/api/sheets/<revision_id>/marks/export", responses=file_answers(*ANY_FILE))
@permission("read")
def export_marks(path: RevisionPath, form: MarksForm) -> Response:
    """Ink as a file: the PDF with annotations, or a table. A POST, because each download is recorded."""
    return _sent(
        mark_files.export_marks(
            context(), press(), actor(), path.revision_id, form.form, with_some=form.with_some == "true"
        )
    )


@api.put("/api/sheets/<revision_id>/marks/file", responses=answers(TakenIn))
@permission("mark")
@raw_body(lambda _: marks_in.LARGEST_BYTES)
def take_in_marks(path: RevisionPath, query: FileName) -> TakenIn:
    """Take marks in from a PDF or XFDF, which is the body."""
    return marks_in.take_in_marks(context(), press(), actor(), path.revision_id, query.name, body_pieces())


@api.get("/api/sheets/<revision_id>/mark-files", responses=answers(MarkFiles))
@permission("read")
def list_mark_files(path: RevisionPath) -> MarkFiles:
    """The files that marks were taken in from."""
    return mark_files_in.list_mark_files(context(), actor(), path.revision_id)


@api.post("/api/sheets/<revision_id>/mark-files/<file_id>/download", responses=file_answers(*ANY_FILE))
@permission("read")
def download_mark_file(path: MarkFilePath) -> Response:
    """One of them, as it came. A POST, because each download is recorded."""
    return send(mark_files_in.download_mark_file(context(), actor(), path.revision_id, path.file_id))


def _sent(made: Exported) -> Response:
    content = io.BytesIO(made.content)
    return send_file(content, mimetype=made.media_type, as_attachment=True, download_name=made.name)


@api.get("/api/sheets/<revision_id>/carry", responses=answers(CarryList))
@permission("read")
def list_carriable(path: RevisionPath) -> CarryList:
    """Open marks of the revision before, and whether the drawing under them has changed."""
    return carried_marks.list_carriable(context(), press(), actor(), path.revision_id)


@api.post("/api/sheets/<revision_id>/carry", responses=answers(Marks))
@permission("mark")
def carry_marks(path: RevisionPath, body: CarryMarks) -> list[Mark]:
    """Carry marks forward to this revision."""
    return carried_marks.carry_marks(context(), press(), actor(), path.revision_id, body)


@api.get("/api/sheets/<revision_id>/scales", responses=answers(SheetScales))
@permission("read")
def list_scales(path: RevisionPath) -> SheetScales:
    """The scales that hold on a sheet: those set by people, and the file's own."""
    return scales.list_scales(context(), actor(), path.revision_id)


@api.post("/api/sheets/<revision_id>/scales", responses=answers())
@permission("mark")
def set_scale(path: RevisionPath, body: SetScale) -> None:
    """Calibrate a page, or a region of it."""
    scales.set_scale(context(), actor(), path.revision_id, body)


@api.delete("/api/sheets/<revision_id>/scales/<scale_id>", responses=answers())
@permission("mark")
def remove_scale(path: ScalePath) -> None:
    """Take a calibration away."""
    scales.remove_scale(context(), actor(), path.revision_id, path.scale_id)


@api.get("/api/sheets/<revision_id>/measures", responses=answers(MeasureTotals))
@permission("read")
def list_measures(path: RevisionPath) -> MeasureTotals:
    """Totals of what has been measured, by label."""
    return measures.list_measures(context(), actor(), path.revision_id)


@api.post("/api/sheets/<revision_id>/measures/export", responses=file_answers(*TABLES))
@permission("read")
def export_measures(path: RevisionPath, form: MeasuresForm) -> Response:
    """All measures in ink as a table, with totals by label. A POST, because each download is recorded."""
    return _sent(measures.export_measures(context(), actor(), path.revision_id, form.form))


@api.get("/api/sheets/<revision_id>/people", responses=answers(SheetPeople))
@permission("read")
def list_sheet_people(path: RevisionPath) -> SheetPeople:
    """Who sees the sheet, for whom a mark can be."""
    return mark_threads.list_sheet_people(context(), actor(), path.revision_id)


@api.post("/api/sheets/<revision_id>/ink", responses=answers(Marks))
@permission("mark")
def ink_marks(path: RevisionPath, body: InkMarks) -> list[Mark]:
    """Ink one's own pencil marks."""
    return mark_threads.ink_marks(context(), actor(), path.revision_id, body)


@api.post("/api/sheets/<revision_id>/marks/open", responses=answers(Marks))
@permission("mark")
def open_marks(path: RevisionPath, body: OpenMarks) -> list[Mark]:
    """Open ink that some read to more."""
    return mark_threads.open_marks(context(), actor(), path.revision_id, body)


@api.get("/api/sheets/<revision_id>/readers", responses=answers(ReaderOffers))
@permission("read")
def list_ink_readers(path: RevisionPath) -> ReaderOffers:
    """For whom one may ink on a sheet."""
    return mark_threads.list_readers(context(), actor(), path.revision_id)


@api.post("/api/marks/<mark_id>/replies", responses=answers(Mark))
@permission("mark")
def write_reply(path: MarkPath, body: WriteReply) -> Mark:
    """Answer in a mark's thread."""
    return mark_threads.write_reply(context(), actor(), path.mark_id, body)


@api.get("/api/marks/<mark_id>/place", responses=answers(MarkPlace))
@permission("read")
def find_mark_place(path: MarkPath) -> MarkPlace:
    """Where the mark with which a thread began stands newest."""
    return mark_threads.find_place(context(), actor(), path.mark_id)


@api.post("/api/marks/<mark_id>/state", responses=answers(Mark))
@permission("mark")
def set_mark_state(path: MarkPath, body: SetMarkState) -> Mark:
    """Say what became of a mark."""
    return mark_threads.set_mark_state(context(), actor(), path.mark_id, body)


@api.get("/api/sheets/<revision_id>/link-targets", responses=answers(LinkTargets))
@permission("read")
def find_link_targets(path: RevisionPath, query: WordsQuery) -> LinkTargets:
    """What marks of a sheet can be linked to, by words."""
    return linked_things.find_targets(context(), actor(), path.revision_id, query.words)


@api.post("/api/marks/<mark_id>/links", responses=answers(Mark))
@permission("mark")
def link_mark(path: MarkPath, body: LinkMark) -> Mark:
    """Link a mark to a document, a review, a transmittal or a web address."""
    return mark_links.link_mark(context(), actor(), path.mark_id, body)


@api.delete("/api/marks/<mark_id>/links/<link_id>", responses=answers(Mark))
@permission("mark")
def unlink_mark(path: LinkPath) -> Mark:
    """Take a link of a mark away."""
    return mark_links.unlink_mark(context(), actor(), path.mark_id, path.link_id)


@api.get("/api/linked/<kind>/<target>", responses=answers(LinkedMarks))
@permission("read")
def list_linked_marks(path: LinkedPath, query: LinkedQuery) -> LinkedMarks:
    """Marks that lead to a thing."""
    return linked_things.list_linked_marks(context(), actor(), query.project_id, path.kind, path.target)


@api.get("/api/pens", responses=answers(PenRolls))
@permission("member")
def list_pens(query: PensQuery) -> PenRolls:
    """One's own roll of pens in a project, and the project's."""
    return pens.list_pens(context(), actor(), query.project_id)


@api.put("/api/pens", responses=answers(PensKept))
@permission("member")
def keep_pens(body: KeepPens) -> PensKept:
    """Keep a roll of pens as it is now."""
    return pens.keep_pens(context(), actor(), body)
