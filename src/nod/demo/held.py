"""Who holds what: sheets and a programme that were sent and have gone on since, one sent by mistake, one on paper."""

from __future__ import annotations

from datetime import timedelta
from pathlib import Path
from typing import Literal

from sqlalchemy import select

from nod.demo.story import Stage, at
from nod.services.setup import distribution
from nod.services.setup.distribution import DistributionLine, SetDistribution, ShareSet
from nod.services.transmittals import catching_up, drafts, guests, transmittals, voiding
from nod.services.transmittals.catching_up import HandOver
from nod.services.transmittals.drafts import KeepDraft
from nod.services.transmittals.voiding import VoidTransmittal
from nod.store.tables import CompanyRow, DocumentRow, RevisionRow, held_under

_HINGE, _PILES = "BFT-GME-Z3-XX-D-N-0314", "BFT-GME-Z3-XX-S-N-0331"
_PROGRAMME = "BFT-HBC-ZZ-ZZ-S-A-0608"


def _revision(stage: Stage, number: str, code: str) -> str:
    with stage.context.database.read() as session:
        query = select(RevisionRow.id).join(DocumentRow, DocumentRow.id == RevisionRow.document_id)
        here = held_under(stage.cast.project_id, number)
        return session.scalars(query.where(here, RevisionRow.code == code)).one()


def _send(stage: Stage, to: tuple[str, ...], *sheets: tuple[str, str], copied: tuple[str, ...] = (), note: str) -> str:
    command = transmittals.SendTransmittal(
        project_id=stage.cast.project_id, revisions=[_revision(stage, *each) for each in sheets],
        people=[stage.cast.people[each] for each in to], copied=[stage.cast.people[each] for each in copied],
        purpose="construction", note=note, stamped=True, marks="summary",
    )  # fmt: skip
    return transmittals.send_transmittal(stage.context, stage.cast.actor("marit"), command).id


@at(-2, 16)
def send_to_build(stage: Stage) -> None:
    stage.made["to build"] = _send(
        stage, ("yusuf", "anouk"), (_HINGE, "C01"), (_PILES, "C01"), (_PROGRAMME, "P01"), copied=("ottilie",),
        note="South linkspan, for construction, with the programme.",
    )  # fmt: skip


@at(-2, 16, 30)
def send_by_mistake(stage: Stage) -> None:
    stage.made["mistaken"] = _send(stage, ("yusuf",), (_HINGE, "C02"), note="The hinge, for construction.")


@at(-2, 16, 45)
def void_the_mistake(stage: Stage) -> None:
    command = VoidTransmittal(reason="C02 of the hinge is still under review. Go on working from C01.")
    voiding.void_transmittal(stage.context, stage.cast.actor("marit"), stage.made["mistaken"], command)


@at(-2, 17, 10)
def say_who_gets_what(stage: Stage) -> None:
    with stage.context.database.read() as session:
        companies = {row.code: row.id for row in session.scalars(select(CompanyRow))}

    def shares(**by_code: Literal["act", "know"]) -> list[ShareSet]:
        return [ShareSet(kind="company", id=companies[code], share=share) for code, share in by_code.items()]

    rafael, project = stage.cast.actor("rafael"), stage.cast.project_id
    lines = [
        DistributionLine(
            discipline="N", form="D", when="released", purpose="construction", shares=shares(SGS="act", BHT="know")
        ),
        DistributionLine(
            discipline="A", form="D", when="accepted", purpose="comment",
            shares=shares(PLS="act", OHS="act", NFA="know"),
        ),
        DistributionLine(discipline="F", form="D", when="accepted", shares=shares(TRA="act", BHT="know")),
    ]  # fmt: skip
    version = distribution.read_distribution(stage.context, rafael, project).version
    distribution.set_distribution(stage.context, rafael, project, SetDistribution(version=version, lines=lines))


@at(-1, 8, 40)
def acknowledge_to_build(stage: Stage) -> None:
    guests.acknowledge_as_member(stage.context, stage.cast.actor("anouk"), stage.made["to build"])


@at(-1, 10, 30)
def hand_over_at_the_gate(stage: Stage) -> None:
    with stage.context.database.read() as session:
        services = session.scalars(select(CompanyRow.id).where(CompanyRow.code == "OHS")).one()
    command = HandOver(
        revision_id=_revision(stage, _PILES, "C01"), company_id=services, to_whom="Ines Falk, at the gate", count=2,
        on=stage.context.clock.now().date(),
    )  # fmt: skip
    catching_up.hand_over(stage.context, stage.cast.actor("marit"), command)


@at(-1, 14, 20)
def issue_the_programme_again(stage: Stage) -> None:
    batch = stage.arrive("marit", "Hollinbrook Contracting", [_programme(stage)])
    stage.register_all("marit", batch)


def _programme(stage: Stage) -> Path:
    starts = ("Piling, north linkspan", 5), ("Foundations, quay hall", 7), ("Steel frame", 13), ("Curtain wall", 21)
    lines = ["Activity;Start", *(f"{name};{stage.today + timedelta(weeks=weeks):%d %b %Y}" for name, weeks in starts)]
    target = stage.aside / f"{_PROGRAMME}_P02_S2_Programme, next six months.csv"
    target.write_text("\n".join(lines))
    return target


@at(-1, 16, 10)
def begin_a_draft(stage: Stage) -> None:
    command = KeepDraft(
        project_id=stage.cast.project_id, revisions=[_revision(stage, _PROGRAMME, "P02")],
        people=[stage.cast.people["paolo"]], note="One week later than before; see the frame.",
    )  # fmt: skip
    drafts.make_draft(stage.context, stage.cast.actor("marit"), command)
