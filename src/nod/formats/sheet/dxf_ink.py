"""What is drawn of a CAD drawing, as the content of PDF pages: lines, outlines and fills on their layers."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

import pikepdf
from ezdxf.addons.drawing.backend import Backend, BkPath2d, BkPoints2d, ImageData
from ezdxf.addons.drawing.properties import BackendProperties
from ezdxf.math import Matrix44, Vec2, Vec3
from ezdxf.path import Command

from nod.formats.sheet.unseen_words import UnseenFont

_PT = 72 / 25.4
_OPAQUE = 255
_DOT_PT = 0.7


@dataclass(frozen=True)
class Word:
    """A line of text: `where` leads from its own baseline at the origin to the drawing."""

    text: str
    where: Matrix44
    width: float
    cap_height: float
    layer: str


class Ink(Backend):
    """Draws pages one after the other; layers and opacities are named across all of them. Coordinates in points."""

    def __init__(self, pdf: pikepdf.Pdf, shown: Mapping[str, bool]) -> None:
        super().__init__()
        self._pdf = pdf
        self._shown = {name.casefold(): (name, on) for name, on in shown.items()}
        self._groups: dict[str, tuple[str, Any, bool]] = {}
        self._veils: dict[int, Any] = {}
        self._out: list[str] = []
        self._layer: str | None = None
        self._state: tuple[str, float] = ("", -1.0)

    def begin(self) -> None:
        """A new page."""
        self._out, self._layer, self._state = ["1 J 1 j\n"], None, ("", -1.0)

    def content(self) -> bytes:
        if self._layer is not None:
            self._out.append("EMC\n")
            self._layer = None
        return "".join(self._out).encode()

    def layers(self) -> Any:
        return pikepdf.Dictionary({f"/{key}": group for key, group, _ in self._groups.values()})

    def veils(self) -> Any:
        return pikepdf.Dictionary({f"/V{alpha}": veil for alpha, veil in self._veils.items()})

    def finish(self) -> None:
        """The file's list of layers, those off that are off in the drawing (ISO 32000-1, 8.11)."""
        groups = sorted(self._groups.values(), key=lambda each: str(each[1].Name).casefold())
        if not groups:
            return
        everything = pikepdf.Array([group for _, group, _ in groups])
        off = pikepdf.Array([group for _, group, on in groups if not on])
        setting = pikepdf.Dictionary(Order=everything, OFF=off, Name=pikepdf.String("Layers"))
        self._pdf.Root.OCProperties = pikepdf.Dictionary(OCGs=everything, D=setting)

    def _on(self, layer: str) -> None:
        if layer == self._layer:
            return
        if self._layer is not None:
            self._out.append("EMC\n")
        self._layer = layer
        key = self._group(layer)
        self._out.append(f"/OC /{key} BDC\n")

    def _group(self, layer: str) -> str:
        name, on = self._shown.get(layer.casefold(), (layer, True))
        if name not in self._groups:
            group = self._pdf.make_indirect(
                pikepdf.Dictionary(Type=pikepdf.Name.OCG, Name=pikepdf.String(name.replace("\0", "")))
            )
            self._groups[name] = (f"L{len(self._groups)}", group, on)
        return self._groups[name][0]

    def _with(self, properties: BackendProperties) -> None:
        self._on(properties.layer)
        if (properties.color, properties.lineweight) == self._state:
            return
        self._state = (properties.color, properties.lineweight)
        red, green, blue = (int(properties.color[at : at + 2], 16) / 255 for at in (1, 3, 5))
        alpha = int(properties.color[7:9] or "ff", 16)
        if alpha not in self._veils:
            self._veils[alpha] = pikepdf.Dictionary(ca=alpha / _OPAQUE, CA=alpha / _OPAQUE)
        colour = f"{red:.3f} {green:.3f} {blue:.3f}"
        width = max(properties.lineweight, 0.0) * _PT
        self._out.append(f"/V{alpha} gs {colour} RG {colour} rg {width:.3f} w\n")

    def write(self, word: Word, to_page: Matrix44, font: UnseenFont) -> None:
        origin, along, up = (word.where.transform(Vec3(*at)) for at in ((0, 0), (1, 0), (0, 1)))
        start, right, above = (to_page.transform(Vec3(at.x, at.y)) for at in (origin, along, up))
        right, above = right - start, above - start
        matrix = (right.x, right.y, above.x, above.y, start.x, start.y)
        if word.text and abs(right.x * above.y - right.y * above.x) > 1e-9:
            self._on(word.layer)
            self._out.append(font.line(word.text, word.width, word.cap_height, matrix))

    def draw_point(self, pos: Vec2, properties: BackendProperties) -> None:
        self._with(properties)
        side = max(_DOT_PT, properties.lineweight * _PT)
        self._out.append(f"{pos.x - side / 2:.3f} {pos.y - side / 2:.3f} {side:.3f} {side:.3f} re f\n")

    def draw_line(self, start: Vec2, end: Vec2, properties: BackendProperties) -> None:
        self._with(properties)
        self._out.append(f"{start.x:.3f} {start.y:.3f} m {end.x:.3f} {end.y:.3f} l S\n")

    def draw_solid_lines(self, lines: Iterable[tuple[Vec2, Vec2]], properties: BackendProperties) -> None:
        self._with(properties)
        drawn = [f"{a.x:.3f} {a.y:.3f} m {b.x:.3f} {b.y:.3f} l" for a, b in lines]
        if drawn:
            self._out.append(" ".join(drawn) + " S\n")

    def draw_path(self, path: BkPath2d, properties: BackendProperties) -> None:
        if len(path):
            self._with(properties)
            self._out.append(_outline(path) + "S\n")

    def draw_filled_paths(self, paths: Iterable[BkPath2d], properties: BackendProperties) -> None:
        drawn = "".join(_outline(path) + "h " for path in paths if len(path))
        if drawn:
            self._with(properties)
            self._out.append(drawn + "f*\n")

    def draw_filled_polygon(self, points: BkPoints2d, properties: BackendProperties) -> None:
        corners = points.vertices()
        if len(corners) < 3:
            return
        self._with(properties)
        drawn = " ".join(f"{at.x:.3f} {at.y:.3f} {'l' if place else 'm'}" for place, at in enumerate(corners))
        self._out.append(drawn + " h f*\n")

    def draw_image(self, image_data: ImageData, properties: BackendProperties) -> None:
        """Pictures are not in the drawing's own file."""

    def set_background(self, color: str) -> None:
        """The paper is white."""

    def clear(self) -> None:
        """Pages are not wiped."""

    def finalize(self) -> None:
        """A page is ended by asking for its content."""


def _outline(path: BkPath2d) -> str:
    out = [f"{path.start.x:.3f} {path.start.y:.3f} m "]
    at = path.start
    for command in path.commands():
        end = command.end
        if command.type == Command.MOVE_TO:
            out.append(f"{end.x:.3f} {end.y:.3f} m ")
        elif command.type == Command.LINE_TO:
            out.append(f"{end.x:.3f} {end.y:.3f} l ")
        else:
            first, second = _controls(at, command)
            out.append(f"{first.x:.3f} {first.y:.3f} {second.x:.3f} {second.y:.3f} {end.x:.3f} {end.y:.3f} c ")
        at = end
    return "".join(out)


def _controls(at: Vec2, command: Any) -> tuple[Vec2, Vec2]:
    """Of a cubic curve; a quadratic one is the cubic whose controls lie two thirds of the way to its own."""
    if command.type == Command.CURVE4_TO:
        return command.ctrl1, command.ctrl2
    control = command.ctrl
    return at + (control - at) * (2 / 3), command.end + (control - command.end) * (2 / 3)
