"""A workshop without an account is asked for its comments, by a link in a mail."""

from __future__ import annotations

from nod.core.acts.working_days import Counting
from nod.core.reviews.path import NamedKind, StepAct, Then
from nod.demo.story import Stage, at
from nod.services.reviews import route_editing
from nod.services.reviews.paths import NamedGiven, StageGiven, StepGiven

_DETAILS = ("BFT-PLS-Z1-ZZ-D-S-0223", "BFT-PLS-Z1-00-D-S-0222")


@at(0, 8, 24)
def write_shop_check(stage: Stage) -> None:
    yusuf, saoirse = (NamedGiven(kind=NamedKind.PERSON, id=stage.cast.people[each]) for each in ("yusuf", "saoirse"))
    check = StepGiven(name="Shop check", act=StepAct.COMMENT, whom=[yusuf], days=3, counting=Counting.WORKING)
    decide = StepGiven(name="Decide", act=StepAct.DECIDE, whom=[saoirse], days=3, counting=Counting.WORKING)
    command = route_editing.MakeRoute(
        project_id=stage.cast.project_id, name="Shop check and decide",
        purpose="The workshop comments by a link, without an account; the design lead decides.",
        stages=[StageGiven(steps=[check]), StageGiven(steps=[decide], then={"C": Then.BACK, "D": Then.BACK})],
    )  # fmt: skip
    stage.made["shop check"] = route_editing.make_route(stage.context, stage.cast.actor("rafael"), command).id


@at(0, 8, 26)
def ask_the_workshop(stage: Stage) -> None:
    stage.start("marit", "Steel details, before cutting", _DETAILS, route=stage.made["shop check"])
