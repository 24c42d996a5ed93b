"""Reviews of the shapes that the first ones have not: companies beside each other, a stand-in, one recalled."""

from __future__ import annotations

from datetime import timedelta

from sqlalchemy import select

from nod.core.acts.working_days import Counting
from nod.core.reviews.path import NamedKind, Shows, StepAct, Then
from nod.demo.story import Stage, at
from nod.services.reviews import absences, changing, reviews_view, route_editing
from nod.services.reviews.paths import NamedGiven, StageGiven, StepGiven
from nod.store.tables import CompanyRow


def _step(name: str, whom: NamedGiven, days: int, *, sums_up: bool = False) -> StepGiven:
    return StepGiven(name=name, act=StepAct.DECIDE, whom=[whom], days=days, counting=Counting.WORKING, sums_up=sums_up)


@at(-4, 10)
def write_side_by_side(stage: Stage) -> None:
    """Each by its company, so that whoever is of it may take it."""
    with stage.context.database.read() as session:
        ids = {row.code: row.id for row in session.scalars(select(CompanyRow))}
    company = {code: NamedGiven(kind=NamedKind.COMPANY, id=id) for code, id in ids.items()}
    rafael = NamedGiven(kind=NamedKind.PERSON, id=stage.cast.people["rafael"])
    row = StageGiven(
        steps=[
            _step("Fire", company["NFA"], 10),
            _step("Client", company["BHT"], 10),
            _step("Structure", company["PLS"], 10),
            _step("Sum up", rafael, 3, sums_up=True),
        ],
        then={"C": Then.BACK, "D": Then.BACK},
    )
    command = route_editing.MakeRoute(
        project_id=stage.cast.project_id, name="Fire, client and structure, then the lead",
        purpose="Three companies beside each other; the project lead sums up, and one answer goes out.", stages=[row],
        shows=Shows.END,
    )  # fmt: skip
    stage.made["side by side"] = route_editing.make_route(stage.context, stage.cast.actor("rafael"), command).id


@at(-4, 10, 30)
def start_compartments(stage: Stage) -> None:
    stage.made["compartments"] = stage.start(
        "tomasz", "Quay hall compartments", ("BFT-NFA-Z1-00-D-F-0510", "BFT-NFA-Z1-01-D-F-0511"),
        "Walls on line 4 have moved since the strategy.", route=stage.made["side by side"],
    )  # fmt: skip


@at(-3, 14, 10)
def dede_is_away(stage: Stage) -> None:
    """What is with her goes to whoever stands in, and stays with him; she is back today."""
    today = stage.context.clock.now().date()
    command = absences.SetAbsence(
        project_id=stage.cast.project_id, person_id=stage.cast.people["dede"],
        stand_in_id=stage.cast.people["rafael"], first_on=today,
        last_on=stage.today - timedelta(days=1),
    )  # fmt: skip
    absences.set_absence(stage.context, stage.cast.actor("dede"), command)


@at(-2, 11, 20)
def check_structure(stage: Stage) -> None:
    comments = ("Wall on line 4 stands on no beam.", "")
    stage.pick_up("leilani", stage.made["compartments"])
    stage.hand_in("leilani", stage.made["compartments"], "BA", comments, "See line 4.")


@at(-2, 15)
def start_dredging(stage: Stage) -> None:
    stage.made["dredging"] = stage.start("marit", "Dredging profiles", ("BFT-GME-ZZ-XX-D-N-0322",))


@at(-2, 15, 20)
def recall_dredging(stage: Stage) -> None:
    marit = stage.cast.actor("marit")
    version = reviews_view.read_review(stage.context, marit, stage.made["dredging"]).version
    command = changing.RecallReview(version=version, reason="The survey of March comes first.")
    changing.recall_review(stage.context, marit, stage.made["dredging"], command)
