"""The type of a file from its first bytes, never from its name."""

from __future__ import annotations

import filetype

from nod.core.intake.findings import DXF

_BOM = b"\xef\xbb\xbf"
_BINARY_DXF = b" Binary DXF\r\n\x1a\0"
_HEAD_BYTES = 4096
_PDF_WITHIN = 1024


def media_type(head: bytes) -> str:
    """One walk over at most the first 4096 bytes, whatever they are.

    Readers take a PDF whose header comes within the first 1024 bytes (ISO 32000-1, annex H), but not out of an archive
    whose first member happens to be one.
    """
    head = head[:_HEAD_BYTES]
    if head.startswith(b"%PDF-"):
        return "application/pdf"
    if head[7:22] == _BINARY_DXF or _is_dxf(head):
        return DXF
    found = filetype.guess_mime(head)
    if found:
        return str(found)
    return "application/pdf" if b"%PDF-" in head[:_PDF_WITHIN] else "application/octet-stream"


def _is_dxf(head: bytes) -> bool:
    """A group code and its value, line by line; comments (999) may come first, then the first section begins."""
    lines = iter(head.removeprefix(_BOM).split(b"\n"))
    for line in lines:
        code = line.strip()
        if code == b"0":
            return next((value for value in map(bytes.strip, lines) if value), b"") == b"SECTION"
        if code == b"999":
            next(lines, b"")
        elif code:
            return False
    return False
