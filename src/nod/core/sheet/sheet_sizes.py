"""Names of sheet sizes: ISO 216 and the ANSI and ARCH series (handbook §4)."""

from __future__ import annotations

TOLERANCE_MM = 3.0
POINTS_PER_INCH = 72.0
MM_PER_INCH = 25.4

# (short side, long side) in mm. ISO 216; ANSI/ASME Y14.1 A-E in inches; ARCH series: common practice.
_SIZES: tuple[tuple[str, float, float], ...] = (
    ("A0", 841, 1189),
    ("A1", 594, 841),
    ("A2", 420, 594),
    ("A3", 297, 420),
    ("A4", 210, 297),
    ("ANSI A", 215.9, 279.4),
    ("ANSI B", 279.4, 431.8),
    ("ANSI C", 431.8, 558.8),
    ("ANSI D", 558.8, 863.6),
    ("ANSI E", 863.6, 1117.6),
    ("ARCH A", 228.6, 304.8),
    ("ARCH B", 304.8, 457.2),
    ("ARCH C", 457.2, 609.6),
    ("ARCH D", 609.6, 914.4),
    ("ARCH E", 914.4, 1219.2),
)


def points_to_mm(points: float, user_unit: float = 1.0) -> float:
    """PDF points to millimetres; `user_unit` is the page's UserUnit (ISO 32000)."""
    return points * user_unit * MM_PER_INCH / POINTS_PER_INCH


def size_name(width_mm: float, height_mm: float) -> str:
    """`A1` and the like in either orientation within 3 mm, otherwise the size in mm, like `620 × 900 mm`."""
    short, long = sorted((width_mm, height_mm))
    for name, short_mm, long_mm in _SIZES:
        if abs(short - short_mm) <= TOLERANCE_MM and abs(long - long_mm) <= TOLERANCE_MM:
            return name
    return f"{width_mm:.0f} × {height_mm:.0f} mm"
