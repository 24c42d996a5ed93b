"""Where things are on a page. Marks live in PDF user space of the unrotated page, in points, origin lower left."""

from __future__ import annotations

from dataclasses import dataclass

Point = tuple[float, float]


@dataclass(frozen=True)
class Affine:
    """x' = a·x + c·y + e, y' = b·x + d·y + f (the six numbers of an ISO 32000 matrix)."""

    a: float
    b: float
    c: float
    d: float
    e: float
    f: float

    def apply(self, point: Point) -> Point:
        x, y = point
        return (self.a * x + self.c * y + self.e, self.b * x + self.d * y + self.f)

    def then(self, later: Affine) -> Affine:
        """First this, then `later`."""
        (a, b), (c, d) = (
            (later.a * x + later.c * y, later.b * x + later.d * y) for x, y in ((self.a, self.b), (self.c, self.d))
        )
        e, f = later.apply((self.e, self.f))
        return Affine(a, b, c, d, e, f)

    def inverse(self) -> Affine:
        """Raises ZeroDivisionError for a matrix that flattens the plane."""
        det = self.a * self.d - self.b * self.c
        a, b, c, d = self.d / det, -self.b / det, -self.c / det, self.a / det
        return Affine(a, b, c, d, -(a * self.e + c * self.f), -(b * self.e + d * self.f))

    def numbers(self) -> tuple[float, float, float, float, float, float]:
        return (self.a, self.b, self.c, self.d, self.e, self.f)


@dataclass(frozen=True)
class PageBox:
    """The visible part of a page: crop box in points and the page's rotation (0, 90, 180, 270 clockwise)."""

    left: float
    bottom: float
    right: float
    top: float
    rotation: int = 0

    @property
    def width(self) -> float:
        return self.right - self.left

    @property
    def height(self) -> float:
        return self.top - self.bottom

    def view_size(self) -> Point:
        """Width and height as seen, in points, after rotation."""
        return (self.height, self.width) if self.rotation % 180 else (self.width, self.height)

    def to_view(self) -> Affine:
        """From user space to the page as seen: points, origin upper left, y downwards."""
        if self.rotation == 90:
            return Affine(0, 1, 1, 0, -self.bottom, -self.left)
        if self.rotation == 180:
            return Affine(-1, 0, 0, 1, self.right, -self.bottom)
        if self.rotation == 270:
            return Affine(0, -1, -1, 0, self.top, self.right)
        return Affine(1, 0, 0, -1, -self.left, self.top)
