"""The places where two drawings differ, as pictures: for a file in Intake and for a revision of the register."""

from __future__ import annotations

from typing import Any

from sqlalchemy.orm import Session

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.compare.laid import Box
from nod.formats.sheet.pdf_look import CannotDraw
from nod.services.acts.answers import Answered
from nod.services.acts.context import Context
from nod.services.compare.kept_leaves import KeptLeaf, borrowed
from nod.services.press.press import Press, PressStopped
from nod.store.tables import ComparisonRow, PageRow

_SHOWN_PX = 900
_MARGIN_MM = 12.0
_LEAST_MM = 60.0


class ChangeShown(Answered):
    """A changed place: left, upper, right, lower in millimetres of the page as seen; `shown` is the part to draw."""

    page: int
    box: tuple[float, float, float, float]
    shown: tuple[float, float, float, float]
    clouded: bool


def result_of(session: Session, key: tuple[str, str, bool] | None) -> dict[str, Any]:
    """What is known of a comparison (before, after, strict); empty while it is not."""
    found = session.get(ComparisonRow, key) if key else None
    return found.result if found and found.state == "known" else {}


def changes_of(result: dict[str, Any]) -> list[ChangeShown]:
    return [
        ChangeShown(
            page=place,
            box=tuple(change["box"]),
            shown=_shown(change["box"], page["size_mm"]),
            clouded=change["clouded"],
        )
        for place, page in enumerate(result.get("compared", []))
        for change in page["changes"]
    ]


def _shown(box: list[float], size: list[float]) -> Box:
    """The place with some paper around it, never less than 60 mm, in the shape 3 : 2."""
    width = max(box[2] - box[0] + 2 * _MARGIN_MM, (box[3] - box[1] + 2 * _MARGIN_MM) * 1.5, _LEAST_MM)
    width = min(width, size[0], size[1] * 1.5)
    x, y = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
    left = min(max(0.0, x - width / 2), size[0] - width)
    upper = min(max(0.0, y - width / 3), size[1] - width / 1.5)
    return round(left, 2), round(upper, 2), round(left + width, 2), round(upper + width / 1.5, 2)


def picture_of(
    context: Context, session: Session, press: Press, key: tuple[str, str, bool], place: int, about: str
) -> bytes:
    """The `place`-th change as a picture of both drawings. Raises NotFound where there is none."""
    result = result_of(session, key)
    changes = changes_of(result)
    if not 0 <= place < len(changes):
        raise NotFound(about)
    change = changes[place]
    before, after = (_leaf(session, sha256, change.page) for sha256 in key[:2])
    moved = result["compared"][change.page]["moved"]
    session.close()
    try:
        with borrowed(context, before, after) as leaves:
            return press.overlay(*leaves, change.shown, _SHOWN_PX, (tuple(moved[0]), tuple(moved[1])))
    except CannotDraw as error:
        raise NotFound(about) from error
    except PressStopped as error:
        raise RuleBroken("page_too_slow", "This part of the sheet takes too long to draw.", about) from error


def _leaf(session: Session, sha256: str, place: int) -> KeptLeaf:
    page = session.get_one(PageRow, (sha256, place))
    return KeptLeaf(sha256, place, page.user_unit)
