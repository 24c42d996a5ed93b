"""Files that are no PDF and yet are looked at as sheets: drawn once, and seen like any other from then on."""

from __future__ import annotations

from pathlib import Path

from nod.core.intake.findings import DXF
from nod.formats.sheet.picture_sheet import picture_to_sheet


def as_sheet(source: Path, target: Path, media: str) -> tuple[str, ...]:
    """Writes the PDF, and returns the names of the files that belong to it. Raises CannotDraw with words."""
    if media == DXF:
        # Half a second to load, and seldom needed.
        from nod.formats.sheet.dxf_sheet import dxf_to_sheet

        return dxf_to_sheet(source, target)
    picture_to_sheet(source, target)
    return ()
