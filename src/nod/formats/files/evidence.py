"""The evidence of a transmittal as an A4 PDF: recipients with their times, files with their hashes, the trail."""

from __future__ import annotations

from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.platypus import Flowable, KeepTogether, Spacer, Table, TableStyle

from nod.core.transmittals.evidence import Evidence, EvidenceDocument, EvidenceEntry, EvidenceRecipient
from nod.formats.files.cover_sheet import LINE, seal_lines
from nod.formats.files.paper import text, write_paper

_WIDTH = A4[0] - 36 * mm
_RULED = TableStyle([("LINEABOVE", (0, 0), (-1, -1), 0.3, LINE), ("VALIGN", (0, 0), (-1, -1), "TOP")])


def write_evidence(evidence: Evidence) -> bytes:
    """The PDF. The same evidence gives the same bytes."""
    return write_paper(f"Evidence of {evidence.number}", evidence.taken, _story(evidence))


def _story(evidence: Evidence) -> list[Flowable]:
    facts = [[text(name, 8.5, second=True), text(value)] for name, value in evidence.facts]
    plain = TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP")])
    return [
        text(evidence.project, 8.5, second=True),
        text(f"Evidence of transmittal {evidence.number}", 17, "Bold"),
        Spacer(1, 3 * mm),
        Table(facts, colWidths=[34 * mm, _WIDTH - 34 * mm], style=plain),
        *([Spacer(1, 2 * mm), text(f"“{evidence.note}”")] if evidence.note else []),
        *_part("Recipients", [_recipient(each) for each in evidence.recipients]),
        *_part("Documents, as sent", [_document(each) for each in evidence.documents]),
        *_part("What the audit trail says of it", [_entry(each) for each in evidence.entries]),
        *seal_lines("Seal of the audit trail, with all of this in it:", evidence.seal),
    ]


def _part(head: str, rows: list[Flowable]) -> list[Flowable]:
    return [Spacer(1, 6 * mm), text(head, 11, "Bold"), Spacer(1, 2 * mm), *rows]


def _recipient(recipient: EvidenceRecipient) -> Flowable:
    steps = [[text(what, 8.5, second=True), text(when, 8.5)] for what, when in recipient.steps]
    tight = TableStyle([(side, (0, 0), (-1, -1), 0) for side in ("LEFTPADDING", "TOPPADDING", "BOTTOMPADDING")])
    times = Table(steps, colWidths=[30 * mm, _WIDTH - 92 * mm], style=tight)
    said = [text(f"“{recipient.note}”", 8.5)] if recipient.note else []
    row = [[text(recipient.name, 9, "Bold"), [times, *said]]]
    return KeepTogether([Table(row, colWidths=[58 * mm, _WIDTH - 58 * mm], style=_RULED)])


def _document(document: EvidenceDocument) -> Flowable:
    head = text(f"{document.number}  {document.revision}", 9, "Bold")
    file = text(f"{document.file}\nSHA-256 {document.sha256}", 7.5, second=True)
    taken = [text(f"Downloaded one by one: {document.taken_by}", 8.5)] if document.taken_by else []
    row = [[head, [text(document.title), file, *taken]]]
    return Table(row, colWidths=[58 * mm, _WIDTH - 58 * mm], style=_RULED)


def _entry(entry: EvidenceEntry) -> Flowable:
    said = [text(f"{entry.who} {entry.words}", 8.5), text(entry.leaf, 7.5, second=True)]
    return Table([[text(entry.at, 8.5), said]], colWidths=[44 * mm, _WIDTH - 44 * mm], style=_RULED)
