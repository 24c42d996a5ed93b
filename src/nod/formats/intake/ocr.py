"""Words of scans by OCR, where tesseract is installed. A program of its own, so a bad picture harms nobody else."""

from __future__ import annotations

import os
import shutil
import subprocess
from dataclasses import dataclass

import numpy as np

from nod.core.sheet.placed_words import Boxes

SURE_ENOUGH = 40.0
"""Of tesseract's 0 to 100. It trusts words of a language more than numbers of documents, which it reads at 50 to 85
(measured on our own sheets); these are held against the convention afterwards."""

_TESSERACT = "tesseract"
_SPARSE_TEXT = "11"
_WORD = "5"
_LONGEST_WORD = 100


class CannotRead(Exception):
    """tesseract failed or took too long."""


@dataclass(frozen=True)
class ReadWords:
    """`boxes` is (n, 4) in pixels of the picture: left, upper, right, lower."""

    texts: tuple[str, ...]
    boxes: Boxes


def installed() -> bool:
    return shutil.which(_TESSERACT) is not None


def _gently() -> list[str]:
    """It may take all of a processor, but only where nobody else wants it."""
    nice = shutil.which("nice")
    return [nice, "-n", "10"] if nice else []


def read_picture(pgm: bytes, dpi: float, languages: str, timeout_seconds: float) -> ReadWords:
    """The words of a grey picture (PGM) of `dpi`. Raises CannotRead."""
    command = [_TESSERACT, "stdin", "stdout", "--dpi", f"{dpi:.0f}", "--psm", _SPARSE_TEXT, "-l", languages, "tsv"]
    try:
        done = subprocess.run(
            [*_gently(), *command],
            input=pgm,
            capture_output=True,
            timeout=timeout_seconds,
            check=True,
            env={**os.environ, "OMP_THREAD_LIMIT": "1"},
        )
    except (subprocess.SubprocessError, OSError) as error:
        raise CannotRead(str(error)) from error
    return _words(done.stdout.decode("utf-8", "replace"))


def _words(tsv: str) -> ReadWords:
    texts: list[str] = []
    boxes: list[tuple[float, float, float, float]] = []
    for line in tsv.splitlines()[1:]:
        cells = line.split("\t")
        if len(cells) != 12 or cells[0] != _WORD or float(cells[10]) < SURE_ENOUGH:
            continue
        word = cells[11].strip()[:_LONGEST_WORD]
        # What has no letter and no figure is a stroke of the drawing.
        if any(each.isalnum() for each in word):
            left, upper, width, height = (float(each) for each in cells[6:10])
            texts.append(word)
            boxes.append((left, upper, left + width, upper + height))
    return ReadWords(tuple(texts), np.array(boxes, np.float32).reshape(-1, 4))
