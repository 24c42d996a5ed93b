"""What is drawn on the ground floor of the quay hall, by whom, and what is answered."""

from __future__ import annotations

from nod.demo.story import Stage, at
from nod.services.marks import mark_threads, marks, marks_view, scales
from nod.store.tables import DocumentRow

_LOOKS: dict[str, dict[str, object]] = {
    "pin": {"colour": "blue"}, "highlight": {"colour": "yellow", "opacity": 0.35}, "count": {"colour": "green"},
    "area": {"colour": "violet", "weight_mm": 0.35}, "distance": {"colour": "violet", "weight_mm": 0.35},
    "callout": {"colour": "violet", "type_mm": 5.0},
}  # fmt: skip


def _ground_floor(stage: Stage) -> DocumentRow:
    return stage.documents("BFT-TRA-Z1-00-D-A-0100")[0]


def _draw(stage: Stage, who: str, kind: str, points: tuple[tuple[float, float], ...], text: str) -> marks_view.Mark:
    look = _LOOKS.get(kind, {})
    new = {"page": 0, "kind": kind, "points": list(points), "look": look, "text": text}
    command = marks.DrawMarks.model_validate({"marks": [new]})
    return marks.draw_marks(stage.context, stage.cast.actor(who), _ground_floor(stage).revision_id, command)[0]


def _ink(stage: Stage, who: str, drawn: list[marks_view.Mark], *, company: str = "") -> None:
    """For everybody who sees the sheet, or for a company alone."""
    readers = "company" if company else "everybody"
    command = mark_threads.InkMarks(marks={mark.id: mark.version for mark in drawn}, readers=readers, group=company)
    mark_threads.ink_marks(stage.context, stage.cast.actor(who), _ground_floor(stage).revision_id, command)


@at(-3, 14, 10)
def mark_ground_floor(stage: Stage) -> None:
    corners = ((690, 790), (840, 790), (840, 930), (690, 930))
    cloud = _draw(stage, "leilani", "cloud", corners, "Column C4 stands in the door to the lounge.")
    pin = _draw(stage, "leilani", "pin", ((1277, 870),), "Which fire rating does this partition have?")
    _ink(stage, "leilani", [cloud, pin])
    stage.made["pin"] = pin.id


@at(-2, 9, 45)
def answer_on_ground_floor(stage: Stage) -> None:
    text = "60 minutes, after the fire strategy. It will be on the next issue."
    answer = mark_threads.WriteReply(text=text)
    mark_threads.write_reply(stage.context, stage.cast.actor("tomasz"), stage.made["pin"], answer)
    pin = _draw(stage, "anouk", "pin", ((653, 740),), "Turnstile width as agreed with the harbour?")
    box = ((1640, 1400), (1860, 1470), (1518, 1006))
    callout = _draw(stage, "anouk", "callout", box, "Door swings into the way out; see the fire strategy.")
    bright = _draw(stage, "anouk", "highlight", ((257, 1052), (512, 1323)), "Could the stair and the lift swap places?")
    counted = ((937, 643), (1107, 643), (937, 813), (1107, 813))
    columns = _draw(stage, "anouk", "count", counted, "Columns in the way of trolleys")
    _ink(stage, "anouk", [pin, callout, bright, columns])
    among_us = _draw(
        stage, "anouk", "pin", ((1420, 640),), "Would we pay for a second door here? Not for the design team yet."
    )
    _ink(stage, "anouk", [among_us], company=stage.cast.actor("anouk").company_id)


@at(-1, 11, 20)
def measure_ground_floor(stage: Stage) -> None:
    command = scales.SetScale(page=0, ratio="1:100")
    scales.set_scale(stage.context, stage.cast.actor("leilani"), _ground_floor(stage).revision_id, command)
    room = ((939, 1054), (1076, 1054), (1076, 1322), (939, 1322))
    area = _draw(stage, "leilani", "area", room, "Screed to falls")
    way = _draw(stage, "leilani", "distance", ((1107, 986), (1107, 1049)), "Clear width of the passage")
    _ink(stage, "leilani", [area, way])


@at(-1, 17)
def pencil_on_ground_floor(stage: Stage) -> None:
    corners = ((1000, 470), (1220, 470), (1220, 640), (1000, 640))
    _draw(stage, "leilani", "cloud", corners, "Check the slab edge against the framing.")
