"""A font without glyphs: words that can be searched and copied, over a picture or outlines that show them."""

from __future__ import annotations

from typing import Any

import pikepdf

_EM = 0.72
"""Height of a capital, of the font's size; common practice."""


class UnseenFont:
    """One to a file. Every character is an em wide; its code is its UTF-16 unit."""

    def __init__(self, pdf: pikepdf.Pdf) -> None:
        below = pikepdf.Dictionary(
            Type=pikepdf.Name.Font, Subtype=pikepdf.Name.CIDFontType2, BaseFont=pikepdf.Name("/Unseen"), DW=1000,
            CIDSystemInfo=pikepdf.Dictionary(
                Registry=pikepdf.String("Adobe"), Ordering=pikepdf.String("Identity"), Supplement=0
            ),
            FontDescriptor=pdf.make_indirect(
                pikepdf.Dictionary(
                    Type=pikepdf.Name.FontDescriptor, FontName=pikepdf.Name("/Unseen"), Flags=4,
                    FontBBox=[0, -250, 1000, 750], ItalicAngle=0, Ascent=750, Descent=-250, CapHeight=720, StemV=80,
                )
            ),
        )  # fmt: skip
        self.object: Any = pdf.make_indirect(
            pikepdf.Dictionary(
                Type=pikepdf.Name.Font, Subtype=pikepdf.Name.Type0, BaseFont=pikepdf.Name("/Unseen"),
                Encoding=pikepdf.Name("/Identity-H"), DescendantFonts=pikepdf.Array([pdf.make_indirect(below)]),
                ToUnicode=pdf.make_stream(_TO_UNICODE),
            )
        )  # fmt: skip

    def line(
        self, text: str, width: float, cap_height: float, matrix: tuple[float, float, float, float, float, float]
    ) -> str:
        """Operators that put `text` at `matrix`, `width` wide; lengths in its units. The font's name is /W."""
        code = text.encode("utf-16-be", "replace")
        size = cap_height / _EM
        stretch = width / (len(code) / 2 * size) * 100
        where = " ".join(f"{number:.5f}" for number in matrix)
        return f"BT 3 Tr /W {size:.4f} Tf {stretch:.3f} Tz {where} Tm <{code.hex()}> Tj ET\n"


def _to_unicode() -> bytes:
    """Each code stands for itself (ISO 32000-1, 9.10.3). A range may not go beyond its first byte."""
    rows = [f"<{high:02X}00> <{high:02X}FF> <{high:02X}00>" for high in range(256)]
    blocks = "\n".join(
        f"{len(some)} beginbfrange\n" + "\n".join(some) + "\nendbfrange"
        for some in (rows[first : first + 100] for first in range(0, 256, 100))
    )
    return (
        "/CIDInit /ProcSet findresource begin 12 dict begin begincmap\n"
        "/CIDSystemInfo << /Registry (Adobe) /Ordering (UCS) /Supplement 0 >> def\n"
        "/CMapName /Unseen def /CMapType 2 def\n1 begincodespacerange <0000> <FFFF> endcodespacerange\n"
        f"{blocks}\nendcmap CMapName currentdict /CMap defineresource pop end end"
    ).encode()


_TO_UNICODE = _to_unicode()
