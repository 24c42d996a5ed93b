"""The evidence of a transmittal as an A4 PDF: recipients with their times, files with their hashes, the trail."""

from __future__ import annotations

import io
from functools import partial
from xml.sax.saxutils import escape

from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Flowable, KeepTogether, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from nod.core.transmittals.evidence import Evidence, EvidenceDocument, EvidenceEntry, EvidenceRecipient
from nod.formats.files.cover_sheet import LINE, SECOND, know_fonts, seal_lines, style_of

_WIDTH = A4[0] - 36 * mm
_RULED = TableStyle([("LINEABOVE", (0, 0), (-1, -1), 0.3, LINE), ("VALIGN", (0, 0), (-1, -1), "TOP")])


def write_evidence(evidence: Evidence) -> bytes:
    """The PDF. The same evidence gives the same bytes."""
    know_fonts()
    out = io.BytesIO()
    template = SimpleDocTemplate(
        out, pagesize=A4, leftMargin=18 * mm, rightMargin=18 * mm, topMargin=18 * mm, bottomMargin=20 * mm,
        title=f"Evidence of {evidence.number}", author="Nod", invariant=1,
    )  # fmt: skip
    foot = partial(_foot, evidence)
    template.build(list(_story(evidence)), onFirstPage=foot, onLaterPages=foot)
    return out.getvalue()


def _text(words: str, size: float = 9, weight: str = "Regular", *, second: bool = False) -> Paragraph:
    lines = "<br/>".join(escape(line) for line in words.split("\n"))
    return Paragraph(lines or "&nbsp;", style_of(size, weight, second))


def _story(evidence: Evidence) -> list[Flowable]:
    facts = [[_text(name, 8.5, second=True), _text(value)] for name, value in evidence.facts]
    plain = TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP")])
    return [
        _text(evidence.project, 8.5, second=True),
        _text(f"Evidence of transmittal {evidence.number}", 17, "Bold"),
        Spacer(1, 3 * mm),
        Table(facts, colWidths=[34 * mm, _WIDTH - 34 * mm], style=plain),
        *([Spacer(1, 2 * mm), _text(f"“{evidence.note}”")] if evidence.note else []),
        *_part("Recipients", [_recipient(each) for each in evidence.recipients]),
        *_part("Documents, as sent", [_document(each) for each in evidence.documents]),
        *_part("What the audit trail says of it", [_entry(each) for each in evidence.entries]),
        *seal_lines("Seal of the audit trail, with all of this in it:", evidence.seal),
    ]


def _part(head: str, rows: list[Flowable]) -> list[Flowable]:
    return [Spacer(1, 6 * mm), _text(head, 11, "Bold"), Spacer(1, 2 * mm), *rows]


def _recipient(recipient: EvidenceRecipient) -> Flowable:
    steps = [[_text(what, 8.5, second=True), _text(when, 8.5)] for what, when in recipient.steps]
    tight = TableStyle([(side, (0, 0), (-1, -1), 0) for side in ("LEFTPADDING", "TOPPADDING", "BOTTOMPADDING")])
    times = Table(steps, colWidths=[30 * mm, _WIDTH - 92 * mm], style=tight)
    said = [_text(f"“{recipient.note}”", 8.5)] if recipient.note else []
    row = [[_text(recipient.name, 9, "Bold"), [times, *said]]]
    return KeepTogether([Table(row, colWidths=[58 * mm, _WIDTH - 58 * mm], style=_RULED)])


def _document(document: EvidenceDocument) -> Flowable:
    head = _text(f"{document.number}  {document.revision}", 9, "Bold")
    file = _text(f"{document.file}\nSHA-256 {document.sha256}", 7.5, second=True)
    taken = [_text(f"Downloaded one by one: {document.taken_by}", 8.5)] if document.taken_by else []
    row = [[head, [_text(document.title), file, *taken]]]
    return Table(row, colWidths=[58 * mm, _WIDTH - 58 * mm], style=_RULED)


def _entry(entry: EvidenceEntry) -> Flowable:
    said = [_text(f"{entry.who} {entry.words}", 8.5), _text(entry.leaf, 7.5, second=True)]
    return Table([[_text(entry.at, 8.5), said]], colWidths=[44 * mm, _WIDTH - 44 * mm], style=_RULED)


def _foot(evidence: Evidence, canvas: Canvas, _template: object) -> None:
    canvas.setFont("Nod-Regular", 8)
    canvas.setFillColor(SECOND)
    canvas.drawString(18 * mm, 12 * mm, f"Evidence of {evidence.number}. {evidence.taken}")
    canvas.drawRightString(A4[0] - 18 * mm, 12 * mm, f"Page {canvas.getPageNumber()}")
