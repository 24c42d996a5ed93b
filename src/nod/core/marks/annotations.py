"""Annotations as other programs write them, as values, and the marks that Nod makes of them (ISO 32000-1, 12.5.6)."""

from __future__ import annotations

import hashlib
import math
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import Any

from nod.core.acts.plain_text import clean_text
from nod.core.marks.annotation_shapes import STAMPS, TOLERANCE_PT, Annotation, inner_of, look_of, middle_of, shape_of
from nod.core.marks.mark_files import FiledLink, FiledMark, FiledReply, Paper, Rect
from nod.core.marks.mark_paths import extent
from nod.core.marks.marks import IN_FILES, LONGEST_LABEL, POINTS, MarkKind
from nod.core.marks.stored_marks import read_shape
from nod.core.sheet.geometry import Point
from nod.core.threads.threads import LONGEST_TEXT

_NO_MARKUP = frozenset({"Link", "Popup", "Widget", "PrinterMark", "TrapNet", "Watermark", "Screen"})
"""Not markup annotations by table 169 of the standard."""
_STATES = {file: state for state, file in IN_FILES.items()}


@dataclass(frozen=True)
class MarksIn:
    """`told`: what could not be shown as it is, by its subtype, with how many there are."""

    marks: tuple[FiledMark, ...]
    told: Mapping[str, int] = field(default_factory=dict)
    cut: int = 0
    """How many texts were longer than Nod keeps, and were cut."""


def to_marks(annotations: Sequence[Annotation], papers: Sequence[Paper], now: datetime) -> MarksIn:
    """Marks in the file's order, with their threads and states. Times that a file does not tell are `now`.

    `annotations` with ids, see `apart`.
    """
    told: Counter[str] = Counter()
    marks: dict[str, FiledMark] = {}
    for each in annotations:
        if each.subtype in _NO_MARKUP or each.reply_to or not 0 <= each.page < len(papers):
            continue
        mark = _own_mark(each, now) or _others_mark(each, papers[each.page], now, told)
        if mark is not None and mark.id not in marks:
            marks[mark.id] = mark
    parents = {each.id: each.reply_to for each in annotations if each.reply_to}
    for each in annotations:
        if each.reply_to:
            _add_to_thread(marks, each, thread_of(each.reply_to, parents), now)
    cut = sum(1 for each in annotations if len(each.text.strip()) > LONGEST_TEXT or _own_text_is_long(each))
    return MarksIn(tuple(marks.values()), dict(told), cut)


def _own_text_is_long(each: Annotation) -> bool:
    text = each.own.get("text") if each.own else ""
    return isinstance(text, str) and len(text.strip()) > LONGEST_TEXT


def apart(annotations: Sequence[Annotation]) -> list[Annotation]:
    """Each with an id that is the same each time the file is read, and that no other one of the file has.

    A name need only be unique on its page (ISO 32000-1, table 164, NM): the same one on another page, or for another
    thing on the same page, is another annotation. What answers a name answers it on its own page, and is told apart
    within its thread alone.
    """
    found: list[Annotation] = []
    first_page: dict[str, int] = {}
    taken: dict[str, Annotation] = {}
    renamed: dict[tuple[int, str], str] = {}
    for each in map(_cleaned, annotations):
        name = each.id or _unnamed(each)
        if each.reply_to:
            found.append(replace(each, id=name))
            continue
        unique = name if first_page.setdefault(name, each.page) == each.page else f"{name}@{each.page + 1}"
        other = taken.get(unique)
        if other is not None and replace(other, id=each.id) != each:
            unique = f"{unique}~{_unnamed(each)[-8:]}"
        renamed.setdefault((each.page, name), unique)
        named = replace(each, id=unique)
        taken.setdefault(unique, named)
        found.append(named)
    return [
        replace(each, reply_to=renamed.get((each.page, each.reply_to), each.reply_to)) if each.reply_to else each
        for each in found
    ]


def _cleaned(each: Annotation) -> Annotation:
    """Its words as Nod keeps words."""
    return replace(
        each, id=clean_text(each.id), text=clean_text(each.text), author=clean_text(each.author),
        icon=clean_text(each.icon), reply_to=clean_text(each.reply_to), state=clean_text(each.state),
    )  # fmt: skip


def _unnamed(annotation: Annotation) -> str:
    rect = [round(value, 2) for value in annotation.rect]
    said = repr((annotation.subtype, annotation.page, rect, annotation.text, annotation.author, annotation.points))
    return f"unnamed-{hashlib.sha256(said.encode()).hexdigest()[:24]}"


def thread_of(name: str, parents: Mapping[str, str]) -> str:
    """The name at the root of a thread; `parents` maps what answers to what it answers, and may go in a circle."""
    for _ in range(100):
        if name not in parents:
            return name
        name = parents[name]
    return name


def _add_to_thread(marks: dict[str, FiledMark], each: Annotation, root: str, now: datetime) -> None:
    mark = marks.get(root)
    if mark is None:
        return
    at = each.changed_at or each.made_at or now
    if each.state_model == "Review" or (each.state and not each.state_model):
        state = _STATES.get(each.state)
        if state and (mark.state_at is None or at >= mark.state_at):
            marks[root] = replace(mark, state=state, state_by=each.author, state_at=at)
    elif each.leads_to:
        link = FiledLink(each.id, *each.leads_to, each.author, at)
        marks[root] = replace(mark, links=(*mark.links, link))
    elif each.text.strip() and not each.state_model:
        reply = FiledReply(each.id, each.author, each.text.strip()[:LONGEST_TEXT], at)
        marks[root] = replace(mark, replies=(*mark.replies, reply))


def _own_mark(each: Annotation, now: datetime) -> FiledMark | None:
    """A mark that Nod wrote, exactly; None where another program has moved it since, or wrote it."""
    own = each.own
    if not own:
        return None
    shape = read_shape(own["kind"], own["points"], own.get("rings", []), own["look"])
    if not shape.sound:
        return None
    pin = own.get("pin")
    mark = FiledMark(
        each.id, each.page, shape.kind, shape.points, shape.look, *_written(own, each),
        each.author, each.made_at or now, each.changed_at or each.made_at or now,
        pin if isinstance(pin, int) and not isinstance(pin, bool) and 0 < pin < MOST_PINS else None, rings=shape.rings,
        discipline=_word(own, "discipline", ""),
    )  # fmt: skip
    return mark if _lies_there(mark, each) else None


MOST_PINS = 1_000_000


def _written(own: Mapping[str, Any], each: Annotation) -> tuple[str, str]:
    """Text and label, as long as they may be."""
    text = _word(own, "text", each.text).strip()
    return text[:LONGEST_TEXT], " ".join(_word(own, "label", "").split())[:LONGEST_LABEL]


def _word(own: Mapping[str, Any], key: str, otherwise: str) -> str:
    found = own.get(key, otherwise)
    return clean_text(found) if isinstance(found, str) else otherwise


def _lies_there(mark: FiledMark, each: Annotation) -> bool:
    """Whether the standard's geometry still says the same as ours."""
    seen = [point for stroke in each.strokes for point in stroke] or list(each.points)
    if mark.kind in (MarkKind.PIN, MarkKind.SYMBOL, MarkKind.COUNT, MarkKind.STAMP):
        return math.dist(middle_of(mark.points), middle_of([each.rect[:2], each.rect[2:]])) <= TOLERANCE_PT
    if not seen:
        seen = list(inner_of(each))
    return _close(extent(seen), extent(mark.points[:2] if mark.kind in _BOXED else _outer(mark)))


_BOXED = (MarkKind.TEXT, MarkKind.CALLOUT, MarkKind.STAMP, MarkKind.RECTANGLE, MarkKind.ELLIPSE)


def _outer(mark: FiledMark) -> Sequence[Point]:
    return mark.points[: mark.rings[0]] if mark.rings and mark.kind is MarkKind.AREA else mark.points


def _close(one: Rect, other: Rect) -> bool:
    return all(abs(a - b) <= TOLERANCE_PT for a, b in zip(one, other, strict=True))


def _others_mark(each: Annotation, paper: Paper, now: datetime, told: Counter[str]) -> FiledMark | None:
    kind, points, rings, label = shape_of(each, paper)
    if label and each.subtype:
        told[each.subtype] += 1
    fewest, most = POINTS[kind]
    if not fewest <= len(points) <= most:
        told[each.subtype] += 1
        kind, points, rings = MarkKind.PIN, (middle_of([each.rect[:2], each.rect[2:]]),), ()
    own = each.own or {}
    text = each.text.strip()
    if kind is MarkKind.STAMP and not each.has_picture:
        text = text or each.icon
    elif kind is MarkKind.STAMP and each.icon in STAMPS:
        # The picture says it on the sheet, and the label in lists.
        label = each.icon
    return FiledMark(
        each.id, each.page, kind, points, look_of(each, kind, paper), text[:LONGEST_TEXT],
        _word(own, "label", label)[:LONGEST_LABEL], each.author, each.made_at or each.changed_at or now,
        each.changed_at or each.made_at or now, rings=rings,
    )  # fmt: skip


def own_words(mark: FiledMark) -> dict[str, Any]:
    """What Nod writes beside the standard's words, so that its marks come back as they were."""
    look = mark.look
    kept: dict[str, Any] = {
        "kind": mark.kind.value, "points": [list(point) for point in mark.points], "text": mark.text,
        "label": mark.label, "rings": list(mark.rings),
        "look": {
            "colour": look.colour, "weight_mm": look.weight_mm, "fill": look.fill, "opacity": look.opacity,
            "dashed": look.dashed, "type_mm": look.type_mm, "symbol": look.symbol,
        },
    }  # fmt: skip
    if mark.discipline:
        kept["discipline"] = mark.discipline
    if mark.pin_number is not None:
        kept["pin"] = mark.pin_number
    return kept


def readable(own: Any) -> Mapping[str, Any] | None:
    """What stands beside an annotation if it can be Nod's: files come from anywhere, see `stored_marks`."""
    return own if isinstance(own, dict) and {"kind", "points", "look"} <= own.keys() else None


def link_words(link: FiledLink) -> dict[str, str]:
    """What Nod writes beside such an answer."""
    return {"kind": link.kind, "target": link.target, "words": link.words}


def readable_link(own: Any) -> tuple[str, str, str] | None:
    """As `readable`, of a link: kind, target and words."""
    if not isinstance(own, dict):
        return None
    kind, target, words = (own.get(key) for key in ("kind", "target", "words"))
    if not (isinstance(kind, str) and isinstance(target, str) and isinstance(words, str)):
        return None
    if max(len(kind), len(target), len(words)) > LONGEST_TEXT:
        return None
    return clean_text(kind), clean_text(target), clean_text(words)
