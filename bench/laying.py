"""Two A1 sheets compared against the bare calls of pdfium and opencv over the same pages in the same process."""

import cv2
import numpy as np
import pypdfium2 as pdfium

from bench.measure import tell, timed_pair
from nod.core.compare.laid import FOUND
from nod.demo.sheets.drawing import draw_sheet
from nod.demo.sheets.frame import Issue, SheetSpec
from nod.formats.sheet.leaf import Leaf
from nod.formats.sheet.pdf_compare import compare_pages, laid_tile
from nod.formats.sheet.pdf_look import Looker

_SCALE = 150 / 72


def _bare(paths):
    """Drawn, subtracted, grown, put together: what any comparison of pictures has to do."""
    pictures = [np.asarray(pdfium.PdfDocument(path)[0].render(scale=_SCALE).to_pil().convert("L")) for path in paths]
    height, width = (min(sides) for sides in zip(*(each.shape for each in pictures), strict=True))
    differs = cv2.absdiff(*(each[:height, :width] for each in pictures))
    _, mask = cv2.threshold(differs, 60, 255, cv2.THRESH_BINARY)
    cv2.connectedComponentsWithStats(cv2.dilate(mask, np.ones((13, 13), np.uint8)))


def bench_laying(aside):
    issues = (Issue("P01", "S3", "1 Feb 2027", "First issue"), Issue("P02", "S3", "1 Mar 2027", "Partitions revised"))
    paths = []
    for count in (1, 2):
        paths.append(aside / f"laid-{count}.pdf")
        spec = SheetSpec("BFT-TRA-Z1-00-D-A-0100", "Plan", "Tallow Reed Architects", "A1", "1:100", issues[:count], "S")
        draw_sheet(paths[-1], spec, "plan 00")
    leaves = [Leaf(path, 0) for path in paths]

    def ours():
        compare_pages(Looker(), *leaves, (), False, FOUND)

    tell("two A1 compared at 150 dpi", *timed_pair(ours, lambda: _bare(paths), 5))
    looker, still = Looker(), ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0))
    both = lambda: laid_tile(looker, *leaves, still, "both", 12, 3, 2)  # noqa: E731
    apart = lambda: [laid_tile(looker, *leaves, still, side, 12, 3, 2) for side in ("first", "second")]  # noqa: E731
    both()
    tell("a tile of both against one of each", *timed_pair(both, apart, 9))
