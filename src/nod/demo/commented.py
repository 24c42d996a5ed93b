"""The comment sheet of the quay hall plans: graded, responded to by the architect, one closed."""

from __future__ import annotations

from typing import Literal

from nod.demo.story import Stage, at
from nod.services.reviews import comment_sheet, comments
from nod.services.reviews.comments import ActOnComment


def _act(
    stage: Stage, who: str, number: int, act: Literal["respond", "close", "grade"], text: str = "",
    grave: Literal["must", "should", "note"] = "should",
) -> None:  # fmt: skip
    actor = stage.cast.actor(who)
    sheet = comment_sheet.read_comments(stage.context, actor, stage.made["quay"])
    line = next(each for each in sheet.comments if each.number == number)
    command = ActOnComment(version=line.version, act=act, text=text, grave=grave)
    comments.act_on_comment(stage.context, actor, line.id, command)


@at(-9, 11, 50)
def grade(stage: Stage) -> None:
    _act(stage, "leilani", 1, "grade", grave="must")
    _act(stage, "leilani", 2, "grade", grave="note")


@at(-5, 10, 20)
def respond(stage: Stage) -> None:
    _act(stage, "tomasz", 1, "respond", "C4 moves 600 mm to the north, P02 shows it.")
    _act(stage, "tomasz", 3, "respond", "Detail A-0181 is on its way.")


@at(-4, 9, 5)
def close(stage: Stage) -> None:
    _act(stage, "leilani", 1, "close", "Seen on P02.")
