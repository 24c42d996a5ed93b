"""A comment sheet as an A4 PDF, lying: a line a comment, with room to read what was answered."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from reportlab.lib.pagesizes import A4, landscape
from reportlab.lib.units import mm
from reportlab.platypus import LongTable, Spacer, TableStyle

from nod.formats.files.cover_sheet import INK, LINE
from nod.formats.files.paper import text, write_paper

_PAGE = landscape(A4)
_HEADS = ("No", "Document", "Comment", "By", "How grave", "Response", "Close-out")
_WIDTHS_MM = (9, 52, 68, 28, 18, 56, 34)


@dataclass(frozen=True)
class CommentLine:
    """Cells as they are to be printed, in the order of the heads."""

    number: str
    document: str
    comment: str
    by: str
    grave: str
    response: str
    closed: str


def write_comment_sheet(title: str, project: str, tally: str, taken: str, lines: Sequence[CommentLine]) -> bytes:
    """The PDF. The same lines give the same bytes."""
    rows = [[text(head, 8, "Bold") for head in _HEADS]]
    rows += [
        [text(cell, 8.5) for cell in (each.number, each.document, each.comment, each.by, each.grave, each.response,
                                  each.closed)]
        for each in lines
    ]  # fmt: skip
    style = TableStyle([
        ("VALIGN", (0, 0), (-1, -1), "TOP"), ("LINEBELOW", (0, 0), (-1, 0), 0.8, INK),
        ("LINEBELOW", (0, 1), (-1, -1), 0.3, LINE), ("LEFTPADDING", (0, 0), (-1, -1), 2),
        ("RIGHTPADDING", (0, 0), (-1, -1), 4),
    ])  # fmt: skip
    table = LongTable(rows, colWidths=[width * mm for width in _WIDTHS_MM], repeatRows=1, style=style)
    story = [
        text(project, 8.5, second=True), text(f"Comment sheet of {title}", 15, "Bold"), Spacer(1, 2 * mm),
        text(tally, 9), Spacer(1, 4 * mm), table,
    ]  # fmt: skip
    return write_paper(f"Comment sheet of {title}", taken, story, _PAGE, 16)
