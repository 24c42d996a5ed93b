"""Sheets laid over each other, over HTTP."""

from __future__ import annotations

import math
from typing import Literal

from flask import Response
from pydantic import Field, field_validator

from nod.core.compare.laid import Rows
from nod.core.sheet.geometry import Point
from nod.services.acts.answers import FromOutside
from nod.services.compare import laid_over
from nod.services.compare.laid_over import AskedLaying, LaidOver
from nod.web.answers import PICTURES, answers, feature, file_answers, picture_answer
from nod.web.guard import actor, context, permission, press

api = feature("laying_over")
_MOST_PLACES = 10
_FARTHEST = 1e5


class PairPath(FromOutside):
    before_revision_id: str
    after_revision_id: str


class LayingQuery(FromOutside):
    """`places`: for each pair of places x, y in the first and x, y in the second, millimetres, all with commas."""

    before_page: int = Field(default=0, ge=0)
    after_page: int = Field(default=0, ge=0)
    places: str = ""
    with_block: bool = False

    @field_validator("places")
    @classmethod
    def _readable(cls, text: str) -> str:
        values = _numbers(text)
        if len(values) % 4 or len(values) > 4 * _MOST_PLACES:
            raise ValueError("places are pairs of places, four numbers each")
        return text

    def pairs(self) -> tuple[tuple[Point, Point], ...]:
        values = _numbers(self.places)
        return tuple(
            ((values[at], values[at + 1]), (values[at + 2], values[at + 3])) for at in range(0, len(values), 4)
        )


class LaidTilePath(PairPath):
    """`moved`: the matrix in millimetres as `LaidOver` has it, with commas."""

    before_page: int
    after_page: int
    moved: str
    shown: Literal["both", "first", "second"]
    level: int
    column: int
    row: int

    @field_validator("moved")
    @classmethod
    def _six(cls, text: str) -> str:
        values = _numbers(text)
        if len(values) != 6 or abs(values[0] * values[3] - values[1] * values[2]) < 1e-9:
            raise ValueError("a matrix has six numbers")
        return text

    def rows(self) -> Rows:
        a, b, c, d, e, f = _numbers(self.moved)
        return (a, c, e), (b, d, f)


def _numbers(text: str) -> list[float]:
    values = [float(part) for part in text.split(",")] if text else []
    if any(not math.isfinite(value) or abs(value) > _FARTHEST for value in values):
        raise ValueError("numbers of a sheet's size")
    return values


@api.get("/api/compare/<before_revision_id>/<after_revision_id>", responses=answers(LaidOver))
@permission("read")
def lay_over(path: PairPath, query: LayingQuery) -> LaidOver:
    """Two sheets laid over each other: how, and where they differ."""
    asked = AskedLaying(
        path.before_revision_id, path.after_revision_id, query.before_page, query.after_page, query.pairs(),
        without_block=not query.with_block,
    )  # fmt: skip
    return laid_over.lay_over(context(), press(), actor(), asked)


@api.get(
    "/api/compare/<before_revision_id>/<after_revision_id>/<int:before_page>/<int:after_page>/<moved>/<shown>"
    "/<int:level>/<int:column>/<int:row>",
    responses=file_answers(*PICTURES),
)
@permission("read")
def draw_laid_tile(path: LaidTilePath) -> Response:
    """A tile of both, or of the first laid on the second's paper, or of the second."""
    asked = AskedLaying(path.before_revision_id, path.after_revision_id, path.before_page, path.after_page)
    tile = (path.level, path.column, path.row)
    picture = laid_over.draw_laid_tile(context(), press(), actor(), asked, path.rows(), path.shown, tile)
    return picture_answer(picture, 31536000, final=True)
