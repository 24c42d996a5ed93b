"""One submittal as an A4 PDF: details, the clock, the rounds with their files, what was said, and its trail."""

from __future__ import annotations

from collections.abc import Sequence

from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.platypus import Flowable, Spacer, Table, TableStyle

from nod.core.acts.told import FileTold
from nod.core.submittals.record import RoundTold, SubmittalRecord
from nod.formats.files.cover_sheet import LINE, SECOND
from nod.formats.files.paper import text, write_paper

_WIDTH = A4[0] - 36 * mm
_TOP = ("VALIGN", (0, 0), (-1, -1), "TOP")
_FLAT = TableStyle([_TOP])


def write_submittal(told: SubmittalRecord) -> bytes:
    """The PDF. The same submittal gives the same bytes."""
    return write_paper(f"Submittal {told.number}", told.taken, _story(told))


def _story(told: SubmittalRecord) -> list[Flowable]:
    parts: list[Flowable] = [
        text(told.project, 8.5, second=True),
        text(f"{told.number}  {told.title}", 15, "Bold"),
        Spacer(1, 1 * mm),
        text(told.state, 10, "Bold"),
        Spacer(1, 3 * mm),
        _facts(told.facts),
    ]
    if told.clock:
        parts += [*_head("The clock"), _facts(told.clock)]
    parts += _head("Rounds")
    parts += [each for round_ in told.rounds for each in (_round(round_), Spacer(1, 2 * mm))]
    if not told.rounds:
        parts.append(text("It has not been sent in yet."))
    for head, lines in (("What was said", told.talk), ("Trail", told.history)):
        if lines:
            parts += [*_head(head), _lines(lines)]
    return parts


def _head(words: str) -> list[Flowable]:
    return [Spacer(1, 5 * mm), text(words, 11, "Bold"), Spacer(1, 2 * mm)]


def _facts(facts: Sequence[tuple[str, str]]) -> Flowable:
    rows = [[text(label, 8.5, second=True), text(words)] for label, words in facts]
    return Table(rows, colWidths=[34 * mm, _WIDTH - 34 * mm], style=_FLAT)


def _lines(lines: Sequence[tuple[str, str, str]]) -> Flowable:
    """A row may go over the page, so that what is long is not cut off."""
    rows = [[text(at, 8, second=True), text(who, 8, second=True), text(words, 8.5)] for at, who, words in lines]
    style = TableStyle([_TOP, ("LINEBELOW", (0, 0), (-1, -1), 0.3, LINE)])
    return Table(rows, colWidths=[34 * mm, 38 * mm, _WIDTH - 72 * mm], style=style, splitInRow=1)


def _round(round_: RoundTold) -> Flowable:
    rows: list[list[Flowable]] = [[text(round_.head, 10, "Bold")], [text(round_.sent, 8.5, second=True)]]
    rows += _said(round_.note) + _files(round_.files)
    if round_.verdict:
        rows.append([text(round_.verdict, 10, "Bold")])
    if round_.answered:
        rows.append([text(round_.answered, 8.5, second=True)])
    rows += _said(round_.answer_note) + _files(round_.answer_files)
    style = TableStyle([("BOX", (0, 0), (-1, -1), 0.8, SECOND), _TOP])
    return Table(rows, colWidths=[_WIDTH], style=style, splitInRow=1)


def _said(note: str) -> list[list[Flowable]]:
    return [[text(f"\u201c{note}\u201d")]] if note else []


def _files(files: Sequence[FileTold]) -> list[list[Flowable]]:
    return [[text(f"{each.name}   {each.size}   SHA-256 {each.sha256}", 7.5, second=True)] for each in files]
