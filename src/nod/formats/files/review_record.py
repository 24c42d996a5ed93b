"""The record of a review as an A4 PDF: the slip with every stamp, then each document with what was said of it."""

from __future__ import annotations

import io

from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.platypus import Flowable, Image, KeepTogether, Spacer, Table, TableStyle

from nod.core.reviews.record import Hand, Record, RecordDocument, RecordMark, RecordStep
from nod.formats.files.cover_sheet import INK, LINE, SECOND
from nod.formats.files.paper import text, write_paper

_WIDTH = A4[0] - 36 * mm


def write_record(record: Record) -> bytes:
    """The PDF. The same record gives the same bytes."""
    return write_paper(f"Record of {record.number}", record.taken, _story(record))


def _story(record: Record) -> list[Flowable]:
    facts = [[text(name, 8.5, second=True), text(value)] for name, value in record.facts]
    return [
        text(record.project, 8.5, second=True),
        text(f"{record.number} {record.name}", 17, "Bold"),
        Spacer(1, 3 * mm),
        Table(facts, colWidths=[34 * mm, _WIDTH - 34 * mm], style=TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP")])),
        *([Spacer(1, 2 * mm), text(f"“{record.message}”")] if record.message else []),
        Spacer(1, 5 * mm),
        text("Routing slip", 11, "Bold"),
        Spacer(1, 2 * mm),
        *(_step(step) for step in record.steps),
        Spacer(1, 6 * mm),
        text(f"{len(record.documents)} document{'' if len(record.documents) == 1 else 's'}", 11, "Bold"),
        *(each for document in record.documents for each in _document(document)),
        Spacer(1, 5 * mm),
        text("   ".join(f"{code} {words}" for code, words in record.verdicts), 8, second=True),
    ]


def _step(step: RecordStep) -> Flowable:
    """A row of the slip, framed; a long one goes over to the next page between two hands."""
    head = [text(step.place, 12, "Bold"), [text(step.name, 10, "Bold"), text(step.facts, 8.5, second=True)], ""]
    rows = [head, *(_hand(hand) for hand in step.hands)]
    style = TableStyle([
        ("BOX", (0, 0), (-1, -1), 0.8, SECOND), ("VALIGN", (0, 0), (-1, -1), "TOP"), ("SPAN", (1, 0), (2, 0)),
        ("LINEABOVE", (1, 1), (-1, -1), 0.3, LINE),
    ])  # fmt: skip
    return Table(rows, colWidths=[12 * mm, _WIDTH - 62 * mm, 50 * mm], style=style)


def _hand(hand: Hand) -> list[object]:
    said: list[Flowable] = [text(hand.name)]
    if hand.note:
        said.append(text(f"“{hand.note}”", 8.5, second=True))
    stamp = [text(hand.state, 8.5, second=True)]
    if hand.at:
        stamp = [text(f"{hand.verdicts}  {hand.state}".strip(), 9, "Bold"), text(hand.at, 8.5, second=True)]
    return ["", said, stamp]


def _document(document: RecordDocument) -> list[Flowable]:
    verdict = text(document.verdict or "no verdict", 12 if document.verdict else 8.5, "Bold")
    head = [[text(f"{document.number}  {document.revision}", 9.5, "Bold"), text(document.title)],
            [verdict, text(document.words, 8, second=True)]]  # fmt: skip
    style = TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP"), ("LINEABOVE", (0, 0), (-1, 0), 0.8, INK)])
    lines: list[list[object]] = [
        [text(each.who, 8.5), text(each.verdict, 8.5, "Bold"), text(each.comment, 8.5)] for each in document.said
    ]
    lines += [_mark(mark) for mark in document.marks]
    table = Table([head], colWidths=[_WIDTH - 40 * mm, 40 * mm], style=style)
    if not lines:
        return [Spacer(1, 3 * mm), table]
    below = Table(
        lines, colWidths=[_CLIP_MM[0] * mm + 6, 12 * mm, _WIDTH - (_CLIP_MM[0] + 12) * mm - 6],
        style=TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP"), ("LINEABOVE", (0, 0), (-1, -1), 0.3, LINE)]),
    )  # fmt: skip
    # The head stays with what was said of it, unless that is longer than a page.
    together = len(lines) + 4 * sum(bool(mark.clip) for mark in document.marks) < _FEW
    return [Spacer(1, 3 * mm), KeepTogether([table, below]) if together else table, *([] if together else [below])]


def _mark(mark: RecordMark) -> list[object]:
    who: list[Flowable] = [text(f"{mark.label}, {mark.who}", 8.5, second=True)]
    if mark.clip:
        picture = Image(io.BytesIO(mark.clip), _CLIP_MM[0] * mm, _CLIP_MM[1] * mm)
        who.append(Table([[picture]], colWidths=[_CLIP_MM[0] * mm], style=_FRAMED, hAlign="LEFT"))
    return [who, text(""), text(f"{mark.words}  ({mark.state})", 8.5)]


_FEW = 12
_FRAMED = TableStyle([
    ("BOX", (0, 0), (-1, -1), 0.3, LINE),
    *((side, (0, 0), (-1, -1), 0) for side in ("LEFTPADDING", "RIGHTPADDING", "TOPPADDING", "BOTTOMPADDING")),
])  # fmt: skip
_CLIP_MM = (63.0, 45.0)
"""In the shape that clips are made in."""
