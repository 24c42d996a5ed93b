"""Pages of a PDF as papers, and the names under which Nod keeps words of its own beside an annotation."""

from __future__ import annotations

import pikepdf

from nod.core.marks.mark_files import Paper
from nod.core.sheet.geometry import PageBox

PRIVATE, PRIVATE_LINK = "/NodMark", "/NodLink"
"""Where Nod keeps what the standard has no place for, so that its own files come back as they were."""


def paper_of(page: pikepdf.Page) -> Paper:
    left, low, right, high = (float(value) for value in page.cropbox)
    box = PageBox(min(left, right), min(low, high), max(left, right), max(low, high), int(page.rotation) % 360)
    return Paper(box, float(page.obj.get("/UserUnit", 1)))
