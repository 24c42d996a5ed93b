"""What is in force: sheets released by a review's end, one of which has come again and is under review."""

from __future__ import annotations

from dataclasses import replace

from nod.core.acts.working_days import Counting
from nod.core.reviews.path import NamedKind, StepAct, Then
from nod.demo.sheet_list import SHEETS
from nod.demo.story import Stage, at
from nod.services.reviews import route_editing
from nod.services.reviews.endings import EndGiven
from nod.services.reviews.paths import NamedGiven, StageGiven, StepGiven
from nod.services.setup import answer_times
from nod.services.setup.answer_times import SetTerms, TermGiven

_BY_KIND = {sheet.kind: sheet for sheet in SHEETS}
_HINGE = replace(
    _BY_KIND["hinge"], number="BFT-GME-Z3-XX-D-N-0314", title="South linkspan, landward hinge",
    revisions=(("C01", "S4"), ("C02", "S4")),
)  # fmt: skip
_PILES = replace(
    _BY_KIND["piles"],
    number="BFT-GME-Z3-XX-S-N-0331",
    title="South linkspan, pile schedule",
    revisions=(("C01", "S4"),),
)
_COMPANY = "Gannet Marine Engineering"


@at(-15, 9, 20)
def say_the_contracts_times(stage: Stage) -> None:
    rafael = stage.cast.actor("rafael")
    version = answer_times.read_terms(stage.context, rafael, stage.cast.project_id).version
    term = TermGiven(kind="review", days=14, moves=True, from_hour=16, silence="tell_lead")
    command = SetTerms(version=version, terms=[term])
    answer_times.set_terms(stage.context, rafael, stage.cast.project_id, command)


@at(-10, 9, 15)
def write_release(stage: Stage) -> None:
    """The design lead releases; a copy goes to the site, and the controllers are told."""
    site = stage.cast.folders["Issued to the site"]
    saoirse = NamedGiven(kind=NamedKind.PERSON, id=stage.cast.people["saoirse"])
    controllers = [NamedGiven(kind=NamedKind.ROLE, id="controller")]
    step = StepGiven(name="Release", act=StepAct.DECIDE, whom=[saoirse], days=5, counting=Counting.WORKING)
    command = route_editing.MakeRoute(
        project_id=stage.cast.project_id, name="Release for construction",
        purpose="The design lead releases; what is accepted may be built from and goes to the site.",
        stages=[StageGiven(steps=[step], then={"C": Then.BACK, "D": Then.BACK})],
        ends={
            "A": EndGiven(status="A1", tell=controllers, copy_to=site),
            "B": EndGiven(
                status="B1", tell=controllers, note="Tell the site what to look out for.", copy_to=site,
                with_marks=True,
            ),
        },
    )  # fmt: skip
    stage.made["release"] = route_editing.make_route(stage.context, stage.cast.actor("rafael"), command).id


@at(-9, 10, 30)
def issue_for_construction(stage: Stage) -> None:
    batch = stage.arrive("marit", _COMPANY, [stage.sheet_file(_HINGE, 0), stage.sheet_file(_PILES, 0)])
    stage.register_all("marit", batch)


@at(-9, 11)
def start_release(stage: Stage) -> None:
    stage.made["released"] = stage.start(
        "marit", "South linkspan, for construction", (_HINGE.number, _PILES.number), route=stage.made["release"]
    )


@at(-7, 9, 45)
def release(stage: Stage) -> None:
    stage.hand_in("saoirse", stage.made["released"], "AB", ("", "Pile 7 is 300 mm short on the plan."))


@at(-2, 9, 40)
def issue_again(stage: Stage) -> None:
    """Received for review: the site goes on by C01."""
    stage.register_all("marit", stage.arrive("marit", _COMPANY, [stage.sheet_file(_HINGE, 1)]))


@at(-2, 10)
def start_release_again(stage: Stage) -> None:
    stage.start("marit", "South linkspan, hinge again", (_HINGE.number,), route=stage.made["release"])
