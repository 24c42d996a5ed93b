"""Lengths and areas in words: metric, and feet and inches with fractions; and read from what somebody types."""

from __future__ import annotations

import math
import re
from fractions import Fraction
from typing import Literal

from nod.core.acts.refusals import RuleBroken
from nod.core.marks.measures import Measured

Units = Literal["metric", "imperial"]
MM_PER_INCH, MM_PER_FOOT = 25.4, 304.8
"""Exactly, by the international agreement of 1959."""
_FINEST = 64
_COVERAGE = 2
"""What is shown after ± is twice the standard uncertainty, about 95 % (JCGM 100:2008, 6.3.3)."""


def in_words(measured: Measured, units: Units, *, paper: bool = False) -> str:
    """The value with no more digits than are known, and how sure it is: `12.34 m ± 0.02 m`. Paper is always in mm."""
    spread = _COVERAGE * measured.spread
    if measured.power == 0:
        return _angle(measured.value, spread)
    if paper:
        return _with_spread(measured.value, spread, "mm" if measured.power == 1 else "mm²", least=0.1)
    if measured.power == 2:
        size, unit = (1e6, "m²") if units == "metric" else (MM_PER_FOOT**2, "sq ft")
        return _with_spread(measured.value / size, spread / size, unit, least=0.001)
    if units == "metric":
        return _with_spread(measured.value / 1000, spread / 1000, "m", least=0.001)
    step = _step(spread / MM_PER_INCH)
    words = feet_and_inches(measured.value, step)
    return f"{words} ± {feet_and_inches(max(spread, MM_PER_INCH / step), step)}" if spread else words


def _angle(value: float, spread: float) -> str:
    return _with_spread(value, spread, "°", least=0.1) if spread else f"{value:.1f}°"


def _with_spread(value: float, spread: float, unit: str, least: float) -> str:
    decimals = decimals_for(spread, least)
    space = "" if unit == "°" else " "
    words = f"{value:.{decimals}f}{space}{unit}"
    if not spread:
        return words
    shown = max(spread, 0.5 * 10**-decimals)
    return f"{words} ± {_up(shown, decimals):.{decimals}f}{space}{unit}"


def _up(value: float, decimals: int) -> float:
    """An uncertainty is never told smaller than it is."""
    return math.ceil(value * 10.0**decimals - 1e-9) / 10.0**decimals


def decimals_for(spread: float, least: float) -> int:
    """As many as the first digit of the spread has, at most to `least`."""
    finest = round(-math.log10(least))
    if spread <= least:
        return finest
    return min(finest, max(0, -math.floor(math.log10(spread))))


def _step(spread_inches: float) -> int:
    """The coarsest part of an inch, in halves of halves down to 1/64, that still tells as much as is known."""
    step = 1
    while step < _FINEST and 1 / step > max(spread_inches, 1 / _FINEST):
        step *= 2
    return step


def feet_and_inches(value_mm: float, step: int = _FINEST) -> str:
    """Rounded to 1/step inch, halves up, fractions in their lowest terms, full inches carried: `5'-3 1/2"`."""
    count = math.floor(value_mm / MM_PER_INCH * step + 0.5)
    inches, part = divmod(count, step)
    feet, inches = divmod(inches, 12)
    fraction = Fraction(part, step)
    words = f'{inches} {fraction}"' if fraction and inches else f'{fraction}"' if fraction else f'{inches}"'
    if feet and fraction and not inches:
        words = f'0 {fraction}"'
    return f"{feet}'-{words}" if feet else words


_METRIC = re.compile(r"^(\d+(?:[.,]\d+)?)\s*(mm|cm|m|km)?$", re.IGNORECASE)
_IMPERIAL = re.compile(
    r"""^(?:(?P<feet>\d+(?:\.\d+)?)\s*(?:'|ft|feet|foot)\s*-?\s*)?
    (?:(?P<inches>\d+(?:\.\d+)?(?!/))?(?:(?<!\d)|[ -]\s*)?(?:(?<!\d)(?P<top>\d+)/(?P<bottom>\d+))?
    \s*(?:"|''|in|inch|inches)?)?$""",
    re.IGNORECASE | re.VERBOSE,
)
_LONGEST_LENGTH = 60
_UNIT_MM = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "km": 1e6}


def read_length(text: str, units: Units) -> float:
    """Millimetres of `12.5 m`, `12500`, `12'-6 1/2"` or `6 1/2`. A bare number is millimetres, or inches in imperial.

    Raises RuleBroken(`length_unreadable`).
    """
    if len(text) > _LONGEST_LENGTH:
        raise RuleBroken("length_unreadable", f"“{text[:40]} …” is no length. Write it like 12.5 m or 12'-6 1/2\".")
    tidy = " ".join(text.replace("\u2032", "'").replace("\u2033", '"').replace("’", "'").replace("”", '"').split())
    metric = _METRIC.match(tidy)
    if metric and (units == "metric" or metric[2]):
        return float(metric[1].replace(",", ".")) * _UNIT_MM[(metric[2] or "mm").lower()]
    found = _IMPERIAL.match(tidy)
    if not tidy or found is None or not any(found.groups()):
        raise RuleBroken("length_unreadable", f"“{text[:40]}” is no length. Write it like 12.5 m or 12'-6 1/2\".")
    inches = 12 * float(found["feet"] or 0) + float(found["inches"] or 0)
    if found["top"]:
        if not int(found["bottom"]):
            raise RuleBroken("length_unreadable", f"“{text[:40]}” is no length.")
        inches += int(found["top"]) / int(found["bottom"])
    return inches * MM_PER_INCH


_RATIO = re.compile(r"(?<![\d.])(\d+(?:[.,]\d+)?)\s*[:/]\s*(\d+(?:[.,]\d+)?)(?![\d.])")
_LONGEST_RATIO = 200
_GROUPED = re.compile(r"(?<=\d)[ ’'](?=\d{3}(?!\d))")


def read_ratio(text: str) -> float | None:
    """100 of `1:100`, `1 : 1 000` or `1:100 @ A1`; 0.5 of `2:1`; None of `NTS`, `as shown` or two scales."""
    found = {_ratio(*each) for each in _RATIO.findall(_GROUPED.sub("", text[:_LONGEST_RATIO]))}
    return found.pop() if len(found) == 1 else None


def _ratio(paper: str, real: str) -> float | None:
    top, bottom = float(paper.replace(",", ".")), float(real.replace(",", "."))
    return bottom / top if top and bottom else None


def ratio_in_words(ratio: float) -> str:
    """`1:100`; enlargements as `2:1`."""
    if ratio < 1:
        return f"{_plain(1 / ratio)}:1"
    return f"1:{_plain(ratio)}"


def _plain(value: float) -> str:
    return f"{value:.4g}" if value < 1000 else f"{value:.0f}"
