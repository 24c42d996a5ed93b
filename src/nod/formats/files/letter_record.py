"""A thread as an A4 PDF: each message a letter of its own, with the names and hashes of its files."""

from __future__ import annotations

from collections.abc import Sequence

from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.platypus import Flowable, Spacer, Table, TableStyle

from nod.core.letters.record import LetterRecord, MessageTold
from nod.formats.files.cover_sheet import LINE
from nod.formats.files.paper import text, write_paper

_WIDTH = A4[0] - 36 * mm
_FLAT = TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP")])
_RULE = TableStyle([("LINEABOVE", (0, 0), (-1, 0), 0.8, LINE)])


def write_thread(told: LetterRecord) -> bytes:
    """The PDF. The same thread gives the same bytes."""
    return write_paper(f"{told.number} {told.subject}".strip(), told.taken, _story(told))


def _story(told: LetterRecord) -> list[Flowable]:
    parts: list[Flowable] = [
        text(told.project, 8.5, second=True), text(f"{told.number}  {told.subject}", 15, "Bold"), Spacer(1, 3 * mm),
        _facts(told.facts),
    ]  # fmt: skip
    for each in told.messages:
        parts += [Spacer(1, 6 * mm), Table([[""]], colWidths=[_WIDTH], rowHeights=[2 * mm], style=_RULE)]
        parts += _message(each)
    return parts


def _message(told: MessageTold) -> list[Flowable]:
    parts: list[Flowable] = [text(told.company, 11, "Bold")] if told.company else []
    parts += [_facts(told.facts), Spacer(1, 3 * mm)]
    if told.is_answer:
        parts += [text("The answer", 10, "Bold"), Spacer(1, 1 * mm)]
    # A paragraph of its own each: what is long goes over the page.
    parts += [text(each, 10) for each in told.text.split("\n")] or [text("")]
    if told.signatory:
        parts += [Spacer(1, 3 * mm), text(f"Signed: {told.signatory}", 10, "Bold")]
    if told.files:
        parts.append(Spacer(1, 3 * mm))
        parts += [text(f"{each.name}   {each.size}   SHA-256 {each.sha256}", 7.5, second=True) for each in told.files]
    return parts


def _facts(facts: Sequence[tuple[str, str]]) -> Flowable:
    rows = [[text(label, 8.5, second=True), text(words)] for label, words in facts]
    return Table(rows, colWidths=[34 * mm, _WIDTH - 34 * mm], style=_FLAT, splitInRow=1)
