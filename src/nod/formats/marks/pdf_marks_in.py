"""Marks out of a PDF that anybody may have written."""

from __future__ import annotations

from pathlib import Path

import pikepdf

from nod.core.marks.annotation_shapes import Annotation
from nod.core.marks.mark_files import Paper
from nod.formats.files.unfit import CannotAnnotate
from nod.formats.marks.pdf_annotations import all_annotations
from nod.formats.marks.pdf_papers import paper_of


def read_annotations(source: Path) -> tuple[list[Annotation], list[Paper]]:
    """All annotations of a file in their order, each with an id, and its pages' papers. Raises CannotAnnotate."""
    try:
        with pikepdf.open(source) as pdf:
            papers = [paper_of(page) for page in pdf.pages]
            return [each for _, each in all_annotations(pdf)], papers
    except (pikepdf.PdfError, pikepdf.PasswordError, ValueError, TypeError) as error:
        raise CannotAnnotate("The file is locked or damaged, so no marks can be read from it.") from error
