"""The ends and crossings of a page's lines, out of its vectors. Only in processes of their own (see pdf_look)."""

from __future__ import annotations

from collections import OrderedDict
from itertools import pairwise
from pathlib import Path

import numpy as np

from nod.core.sheet.corners import Box, Segments, corners_in
from nod.formats.sheet.pdf_compare import page_paths
from nod.formats.sheet.pdf_look import Looker

_KEPT_PAGES = 4


class Corners:
    """Keeps the lines of the pages asked for last, as walking a dense page takes longer than all the rest."""

    def __init__(self, looker: Looker) -> None:
        self._looker = looker
        self._pages: OrderedDict[tuple[Path, int], Segments] = OrderedDict()

    def find(self, path: Path, place: int, box: Box, most: int) -> tuple[list[tuple[float, float]], bool]:
        """In points of user space. Raises CannotDraw."""
        points, more = corners_in(self._segments(path, place), box, most)
        return [(round(x, 3), round(y, 3)) for x, y in points.tolist()], more

    def _segments(self, path: Path, place: int) -> Segments:
        key = (path, place)
        if key not in self._pages:
            page = self._looker.page(path, place)
            rows = [(*a, *b) for points in page_paths(page) for a, b in pairwise(points) if a != b]
            self._pages[key] = np.array(rows, np.float64).reshape(-1, 4)
            if len(self._pages) > _KEPT_PAGES:
                self._pages.popitem(last=False)
        self._pages.move_to_end(key)
        return self._pages[key]
