"""The trailer of a PDF that is written out again (ISO 32000-1, 7.5.5)."""

from __future__ import annotations

import pikepdf


def mend_trailer(pdf: pikepdf.Pdf) -> None:
    """Before a file is saved that somebody else wrote: qpdf counts `/Size` anew, but only where there was one.

    Without it the copy would be damaged, as the file was.
    """
    if "/Size" not in pdf.trailer:
        pdf.trailer["/Size"] = len(pdf.objects) + 1
