"""How a sheet lies on the paper it is printed on, in millimetres."""

from __future__ import annotations

from dataclasses import dataclass

from nod.core.acts.refusals import RuleBroken

STRIP_MM = 17.0
"""Fits into the filing margin of 20 mm that ISO 5457 leaves at the left of a drawing."""
_MARGIN_MM = 4.0
PAPERS: dict[str, tuple[float, float]] = {
    "A4": (210.0, 297.0), "A3": (297.0, 420.0), "A2": (420.0, 594.0), "A1": (594.0, 841.0), "A0": (841.0, 1189.0),
}  # fmt: skip
"""ISO 216, shorter side first."""


@dataclass(frozen=True)
class Lying:
    """`box_mm` (left, low, right, high) is where the sheet lies. `upright`: the strip runs up the left edge."""

    paper_mm: tuple[float, float]
    box_mm: tuple[float, float, float, float]
    upright: bool
    words: str


def lie(sheet_mm: tuple[float, float], paper: str) -> Lying:
    """In its `own` size to scale; otherwise as large as fits above the strip, on the paper turned like the sheet."""
    width, height = sheet_mm
    if paper == "own":
        return Lying(sheet_mm, (0.0, 0.0, width, height), True, "To scale if printed at 100 %")
    if paper not in PAPERS:
        raise RuleBroken("paper_unknown", f"There is no paper called {paper[:10]}.")
    short, long = PAPERS[paper]
    across, up = (long, short) if width >= height else (short, long)
    room = across - 2 * _MARGIN_MM, up - STRIP_MM - _MARGIN_MM
    scale = min(room[0] / width, room[1] / height)
    left = (across - scale * width) / 2
    low = STRIP_MM + (room[1] - scale * height) / 2
    box = (left, low, left + scale * width, low + scale * height)
    return Lying((across, up), box, False, f"Fitted to {paper}, {100 * scale:.0f} % of its size: not to scale")


@dataclass(frozen=True)
class PrintStrip:
    """What the strip says. `address` is behind the code; the verdict's words and date are empty without one."""

    title: str
    address: str
    printed: str
    verdict: str = ""
    verdict_words: str = ""
    verdict_on: str = ""
    meaning: str = "go"
