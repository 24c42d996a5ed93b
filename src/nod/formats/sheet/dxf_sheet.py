"""CAD drawings in DXF as sheets: a PDF with one page to the layout, its layers as optional content, its scales told.

The words lie over their drawn outlines, unseen, so that a drawing is searched and read like any other sheet.
"""

from __future__ import annotations

import struct
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pikepdf
from ezdxf import bbox, recover
from ezdxf.addons.drawing import config as drawing_config
from ezdxf.addons.drawing.frontend import UniversalFrontend
from ezdxf.addons.drawing.pipeline import RenderPipeline2d
from ezdxf.addons.drawing.properties import LayoutProperties, RenderContext
from ezdxf.addons.drawing.recorder import Recorder
from ezdxf.filemanagement import readfile
from ezdxf.fonts import fonts
from ezdxf.fonts.font_manager import DEFAULT_FONTS
from ezdxf.lldxf.const import DXFError
from ezdxf.math import BoundingBox2d, Matrix44, Vec2, Vec3

from nod.formats.intake.pdf_contents import MOST_REFERENCES, without_path
from nod.formats.sheet.dxf_ink import Ink, Word
from nod.formats.sheet.pdf_look import CannotDraw
from nod.formats.sheet.unseen_words import UnseenFont

_UNIT_MM = {
    1: 25.4, 2: 304.8, 3: 1609344.0, 4: 1.0, 5: 10.0, 6: 1000.0, 7: 1e6, 8: 25.4e-6, 9: 0.0254, 10: 914.4, 11: 1e-7,
    12: 1e-6, 13: 1e-3, 14: 100.0, 15: 1e4, 16: 1e5, 21: 1200 / 3937 * 1000, 22: 100 / 3937 * 1000,
}  # fmt: skip
"""Millimetres to the drawing unit by $INSUNITS (DXF reference, header variables); unlisted ones are not lengths."""
_PAPER_UNIT_MM = (25.4, 1.0, 1.0)
"""By plot_paper_units of a layout: inches, millimetres, pixels."""
_SCALES = (
    0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 25, 50, 100, 200, 250, 500, 1000, 2000, 2500, 5000, 10_000,
    20_000, 25_000, 50_000, 100_000, 250_000, 500_000, 1_000_000,
)  # fmt: skip
"""Those of ISO 5455, with the 1:25, 1:250 and 1:2500 that are common practice in building."""
_LARGEST_MM = (841.0, 594.0)
_ENLARGED_MM = (297.0, 210.0)
"""A small thing is enlarged up to A4; a large one is brought down to A1."""
_MARGIN_MM = 10.0
_PAPER_SPILL_MM = 2.0
_MOST_ENTITIES = 1_000_000
_PT = 72 / 25.4
_LONGEST_PT = 14400.0
_BROKEN = (
    DXFError, OSError, ValueError, KeyError, IndexError, AttributeError, TypeError, ArithmeticError, struct.error,
    RecursionError, AssertionError, StopIteration,
)  # fmt: skip
"""What a reader of damaged files stumbles over."""

_FILE_OBJECTS = "IMAGEDEF PDFDEFINITION DWFDEFINITION DGNDEFINITION"
_UNICODE_BY_NUMBER = rb"\U+"


def add_own_fonts() -> None:
    """A machine may have no fonts at all: the last that is fallen back on is the one that ships with Nod."""
    fonts.font_manager.scan_folder(Path(__file__).parents[1] / "files/fonts")
    fonts.font_manager.add_synonyms({"AtkinsonHyperlegibleNext-Regular.ttf": DEFAULT_FONTS[-1]}, reverse=False)


add_own_fonts()


@dataclass(frozen=True)
class _Leaf:
    """A layout drawn: what to write, the page it comes on, and from drawing units to points of the page."""

    name: str
    recorder: Recorder
    words: Sequence[Word]
    to_page: Matrix44
    size_pt: tuple[float, float]
    scales: Sequence[tuple[tuple[float, float, float, float], float]]


def dxf_to_sheet(source: Path, target: Path) -> tuple[str, ...]:
    """Writes the PDF, and returns the names of the files that the drawing needs beside it.

    Raises CannotDraw with words for a drawing that cannot be read, or has nothing to show.
    """
    try:
        document = _read(source)
        shown = _show_all(document)
        leaves = list(_leaves(document))
        needed = _needed(document)
    except _BROKEN as error:
        raise CannotDraw("The drawing is broken: it cannot be read to its end.") from error
    if not leaves:
        raise CannotDraw("There is nothing in the drawing that can be seen.")
    with pikepdf.new() as pdf:
        ink = Ink(pdf, shown)
        font = UnseenFont(pdf)
        for leaf in leaves:
            _add_page(pdf, ink, font, leaf)
        ink.finish()
        pdf.Root.PageLabels = pikepdf.Dictionary(Nums=pikepdf.Array(_labels(leaves)))
        pdf.save(target)
    return needed


def _needed(document: Any) -> tuple[str, ...]:
    """External references, pictures and underlays."""
    paths = [block.block.dxf.get("xref_path", "") for block in document.blocks if block.block.is_xref]
    paths += [each.dxf.get("filename", "") for each in document.objects.query(_FILE_OBJECTS)]
    return tuple(sorted({name for path in paths if (name := without_path(path))})[:MOST_REFERENCES])


def _read(source: Path) -> Any:
    """A file that keeps the rules is read quickly, a damaged one as far as it goes; so are letters told by number."""
    if _UNICODE_BY_NUMBER not in source.read_bytes():
        try:
            return readfile(source)
        except (DXFError, ValueError, KeyError):
            pass
    return recover.readfile(source)[0]


def _show_all(document: Any) -> dict[str, bool]:
    """Has all layers drawn: which are seen is for the sheet's reader to say. Returns which are on in the drawing."""
    shown = {layer.dxf.name: layer.is_on() and not layer.is_frozen() for layer in document.layers}
    for layer in document.layers:
        layer.on()
        layer.thaw()
    for window in document.query("VIEWPORT"):
        # A path on somebody else's disk.
        window.dxf.discard("plot_style_name")
    return shown


def _labels(leaves: Sequence[_Leaf]) -> Iterator[Any]:
    for place, leaf in enumerate(leaves):
        yield place
        yield pikepdf.Dictionary(P=pikepdf.String(leaf.name))


def _leaves(document: Any) -> Iterator[_Leaf]:
    """The layouts in the order of their tabs, then the model, as far as there is something on them."""
    if len(document.entitydb) > _MOST_ENTITIES:
        raise CannotDraw(
            f"The drawing has {len(document.entitydb):,} things in it; Nod draws up to {_MOST_ENTITIES:,}."
        )
    names = [name for name in document.layouts.names_in_taborder() if name != "Model"]
    for layout in (*(document.paperspace(name) for name in names), document.modelspace()):
        recorder, words = _draw(document, layout)
        box = recorder.player().bbox()
        if not box.has_data:
            continue
        unit = _UNIT_MM.get(document.units)
        if layout.is_modelspace:
            untold = 25.4 if document.header.get("$MEASUREMENT") == 0 else 1.0
            yield _model_leaf(recorder, words, box, unit or untold, told=unit is not None)
        else:
            yield _paper_leaf(layout, recorder, words, box, unit)


class _Pipeline(RenderPipeline2d):
    """Draws text as outlines, and notes what it says and where."""

    def __init__(self, recorder: Recorder) -> None:
        super().__init__(recorder)
        self.words: list[Word] = []

    def draw_text(
        self, text: str, transform: Matrix44, properties: Any, cap_height: float, dxftype: str = "TEXT"
    ) -> None:
        super().draw_text(text, transform, properties, cap_height, dxftype)
        face = properties.font or self.default_font_face
        width = self.text_engine.get_text_line_width(text, face, cap_height) if text.strip() else 0.0
        where = transform
        if self.clipping_portal.is_active:
            middle = Vec2(transform.transform(Vec3(width / 2, cap_height / 2)))
            if self.clipping_portal.clip_point(middle) is None:
                return
            where = self.clipping_portal.transform_matrix(transform.copy())
        if width > 0:
            self.words.append(Word(text.strip(), where, width, cap_height, properties.layer))


def _draw(document: Any, layout: Any) -> tuple[Recorder, list[Word]]:
    context = RenderContext(document)
    recorder = Recorder()
    pipeline = _Pipeline(recorder)
    setting = drawing_config.Configuration(
        background_policy=drawing_config.BackgroundPolicy.WHITE,
        # A picture beside the drawing lies on somebody else's disk: its frame is drawn, and no path is followed.
        image_policy=drawing_config.ImagePolicy.RECT,
        hatching_timeout=5.0,
        max_flattening_distance=0.01,
    )
    frontend = UniversalFrontend(context, pipeline, setting, bbox_cache=bbox.Cache())
    looks = LayoutProperties.from_layout(layout)
    looks.set_colors("#ffffff")
    frontend.draw_layout(layout, layout_properties=looks)
    return recorder, pipeline.words


def _model_leaf(recorder: Recorder, words: Sequence[Word], box: BoundingBox2d, unit_mm: float, told: bool) -> _Leaf:
    """At the largest common scale that a usual sheet has room for."""
    size = (box.size.x * unit_mm, box.size.y * unit_mm)
    scale = next((each for each in _SCALES if _has_room(size, each)), max(size) / _LARGEST_MM[0])
    by = unit_mm / scale * _PT
    to_page, size_pt = _placed(box, by)
    region = (0.0, 0.0, *size_pt)
    return _Leaf("Model", recorder, words, to_page, size_pt, [(region, scale)] if told else [])


def _has_room(size_mm: tuple[float, float], scale: float) -> bool:
    long, short = _ENLARGED_MM if scale < 1 else _LARGEST_MM
    return max(size_mm) / scale <= long and min(size_mm) / scale <= short


def _placed(box: BoundingBox2d, by: float) -> tuple[Matrix44, tuple[float, float]]:
    """The box with a margin around it as a page, `by` points to the unit."""
    margin = _MARGIN_MM * _PT
    by = min(by, (_LONGEST_PT - 2 * margin) / max(box.size.x, box.size.y, 1e-9))
    move = Matrix44.scale(by, by, 1) @ Matrix44.translate(margin - box.extmin.x * by, margin - box.extmin.y * by, 0)
    return move, (box.size.x * by + 2 * margin, box.size.y * by + 2 * margin)


def _paper_leaf(
    layout: Any, recorder: Recorder, words: Sequence[Word], box: BoundingBox2d, unit_mm: float | None
) -> _Leaf:
    """On the paper that the layout was set up for, or cut to what is on it where the two do not agree."""
    paper_mm = _PAPER_UNIT_MM[min(max(layout.dxf.get("plot_paper_units", 1), 0), 2)]
    width, height = layout.dxf.get("paper_width", 0.0), layout.dxf.get("paper_height", 0.0)
    if layout.dxf.get("plot_rotation", 0) % 2:
        width, height = height, width
    left = layout.dxf.get("left_margin", 0.0) + layout.dxf.get("plot_origin_x_offset", 0.0)
    low = layout.dxf.get("bottom_margin", 0.0) + layout.dxf.get("plot_origin_y_offset", 0.0)
    inside = (
        box.extmin.x * paper_mm + left >= -_PAPER_SPILL_MM and box.extmin.y * paper_mm + low >= -_PAPER_SPILL_MM
        and box.extmax.x * paper_mm + left <= width + _PAPER_SPILL_MM
        and box.extmax.y * paper_mm + low <= height + _PAPER_SPILL_MM
    )  # fmt: skip
    if inside and 0 < max(width, height) * _PT <= _LONGEST_PT:
        by = paper_mm * _PT
        to_page = Matrix44.scale(by, by, 1) @ Matrix44.translate(left * _PT, low * _PT, 0)
        size = (width * _PT, height * _PT)
    else:
        to_page, size = _placed(box, paper_mm * _PT)
    scales = list(_viewport_scales(layout, to_page, unit_mm, paper_mm)) if unit_mm else []
    return _Leaf(layout.name, recorder, words, to_page, size, scales)


def _viewport_scales(
    layout: Any, to_page: Matrix44, unit_mm: float, paper_mm: float
) -> Iterator[tuple[tuple[float, float, float, float], float]]:
    """The region of each window into the model, and the scale it shows it at."""
    for window in layout.viewports():
        if window.dxf.id == 1 or window.dxf.height <= 0 or window.dxf.view_height <= 0:
            continue
        half = Vec3(window.dxf.width / 2, window.dxf.height / 2)
        low, high = (to_page.transform(window.dxf.center + side * half) for side in (-1, 1))
        scale = window.dxf.view_height * unit_mm / (window.dxf.height * paper_mm)
        yield (low.x, low.y, high.x, high.y), scale


def _add_page(pdf: pikepdf.Pdf, ink: Ink, font: UnseenFont, leaf: _Leaf) -> None:
    player = leaf.recorder.player()
    player.transform(leaf.to_page)
    ink.begin()
    player.replay(ink)
    for word in leaf.words:
        ink.write(word, leaf.to_page, font)
    page = pikepdf.Dictionary(
        Type=pikepdf.Name.Page, MediaBox=[0, 0, *(round(side, 4) for side in leaf.size_pt)],
        Resources=pikepdf.Dictionary(
            Properties=ink.layers(), ExtGState=ink.veils(), Font=pikepdf.Dictionary(W=font.object)
        ),
        Contents=pdf.make_stream(ink.content()),
    )  # fmt: skip
    if leaf.scales:
        page.VP = pikepdf.Array([_viewport(pdf, region, scale) for region, scale in leaf.scales])
    pdf.pages.append(pikepdf.Page(page))


def _viewport(pdf: pikepdf.Pdf, region: tuple[float, float, float, float], scale: float) -> Any:
    """A viewport with its measure dictionary (ISO 32000-1, 12.9)."""
    ratio = f"1:{scale:g}" if scale >= 1 else f"{1 / scale:g}:1"
    millimetres = pikepdf.Dictionary(U=pikepdf.String("mm"), C=round(scale / _PT, 9))
    length = pikepdf.Dictionary(U=pikepdf.String("mm"), C=1)
    area = pikepdf.Dictionary(U=pikepdf.String("sq mm"), C=1)
    measure = pikepdf.Dictionary(
        Type=pikepdf.Name.Measure, Subtype=pikepdf.Name.RL, R=pikepdf.String(ratio),
        X=pikepdf.Array([millimetres]), D=pikepdf.Array([length]), A=pikepdf.Array([area]),
    )  # fmt: skip
    box = [round(side, 3) for side in region]
    return pikepdf.Dictionary(
        Type=pikepdf.Name.Viewport, BBox=box, Name=pikepdf.String(ratio), Measure=pdf.make_indirect(measure)
    )
