"""Submittals in every state: planned and asked for, sent in and answered, late, closed, void."""

from __future__ import annotations

import io
from dataclasses import dataclass
from datetime import date, timedelta

from reportlab.lib.pagesizes import A4
from reportlab.pdfgen.canvas import Canvas
from sqlalchemy import select

from nod.demo import scenario
from nod.demo.story import Stage, at
from nod.services.acts.seats import Actor
from nod.services.attachments.attachments import add_attachment
from nod.services.submittals import answering, dossier, making, on_route, sending_in, specification
from nod.store.tables import CompanyRow, DocumentRow, RevisionRow, held_under

_OF = {"GME": "ottilie", "OHS": "paolo", "HBC": "kwabena"}
"""Who of a company is asked; those of others are planned until somebody of theirs is in the project."""


@dataclass(frozen=True)
class _Wanted:
    """`weeks`: from today to the day on site. `fate`: what becomes of it, in the order of the acts."""

    company: str
    title: str
    kind: str
    section: str
    lead: int
    weeks: int
    fate: str = "planned"
    rounds: int = 1
    approver: str = "saoirse"


def _planned(company: str, section: str, kind: str, lead: int, weeks: int, *titles: str) -> list[_Wanted]:
    """The same of several, a week apart."""
    return [_Wanted(company, each, kind, section, lead, weeks + place) for place, each in enumerate(titles)]


LOG: tuple[_Wanted, ...] = (
    _Wanted("GME", "Mooring bollards, 100 t", "SD", "35 59 13", 30, 20, "asked review", 2, "leilani"),
    _Wanted("GME", "Fenders, linkspan north", "SD", "35 59 33", 45, 13, "asked review", 2, "anouk"),
    _Wanted("GME", "Fenders, linkspan south", "SD", "35 59 33", 45, 15, "asked preparing", 2, "anouk"),
    _Wanted("GME", "Linkspan hinge bearings", "SD", "34 71 13", 60, 22, "asked C", 2, "leilani"),
    _Wanted("GME", "Linkspan hydraulic cylinders", "CA", "34 71 23", 50, 26, "asked C review", 3, "leilani"),
    _Wanted("GME", "Hydraulic power unit", "PD", "34 71 23", 40, 26, "asked B"),
    _Wanted("GME", "Quay ladders", "SD", "05 51 33", 15, 9, "asked A closed", 1, "anouk"),
    _Wanted("GME", "Anodes, sheet piles", "CA", "26 42 13", 20, 16, "asked A delivered", 1, "anouk"),
    _Wanted("GME", "Boarding bridge, rubber curtain", "SA", "34 77 13", 20, 24, "asked"),
    _Wanted("GME", "Navigation lights", "PD", "34 72 16", 15, 18, "asked sent"),
    _Wanted("GME", "Tide gauge", "PD", "40 91 19", 10, 8, "void"),
    _Wanted("GME", "Dredging disposal licence", "CE", "35 20 23", 0, 4, "asked sent"),
    _Wanted("OHS", "Main switchboard", "SD", "26 24 13", 70, 24, "asked C B", 2),
    _Wanted("OHS", "Sub-distribution boards, level 1", "SD", "26 24 16", 35, 19, "asked route", 2),
    _Wanted("OHS", "Emergency generator", "PD", "26 32 13", 90, 26, "asked B closed", 2),
    _Wanted("OHS", "Air handling units", "PD", "23 73 13", 60, 15, "asked route", 2),
    _Wanted("OHS", "Ducts, level 1", "SD", "23 31 13", 20, 14, "asked preparing", 2),
    _Wanted("OHS", "Sprinkler layout, quay hall", "SD", "21 13 13", 20, 15, "asked review", 2, "dede"),
    _Wanted("OHS", "Sprinkler hydraulics, quay hall", "CA", "21 13 13", 10, 13, "asked A closed", 1, "dede"),
    _Wanted("OHS", "Fire alarm panel", "PD", "28 46 11", 30, 18, "asked B", 1, "dede"),
    _Wanted("OHS", "Luminaires, quay hall", "SA", "26 51 13", 40, 23, "asked C", 2),
    _Wanted("OHS", "Heat pump", "PD", "23 81 46", 80, 30, "asked"),
    _Wanted("OHS", "Pressure test, heating mains", "TR", "23 21 13", 0, 10, "planned"),
    _Wanted("OHS", "Water meters", "PD", "22 11 19", 15, 21, "asked sent"),
    _Wanted("OHS", "Floor gullies", "PD", "22 13 19", 10, 12, "asked A closed"),
    _Wanted("NFA", "Fire strategy, handover report", "TR", "01 91 13", 0, 40, "planned"),
    _Wanted("HBC", "Concrete mix, quay slab", "CA", "03 30 00", 5, 6, "asked A closed", 1, "leilani"),
    _Wanted("SGS", "Hall trusses, workshop drawings", "SD", "05 12 00", 60, 24, "planned", 2, "leilani"),
    _Wanted("SGS", "Welding procedures", "CE", "05 05 23", 0, 14, "planned"),
    _Wanted("PFG", "Curtain wall, quay front", "SD", "08 44 13", 75, 27, "planned", 3),
    *_planned("SGS", "05 51 00", "SD", 30, 22, "Stair 1", "Stair 2", "Stair 3, external"),
    *_planned("SGS", "05 12 23", "SD", 45, 25, "Canopy steel", "Car marshalling gantries", "Plant barge frames"),
    *_planned("SGS", "09 97 13", "SA", 10, 20, "Marine coating, sample panels"),
    *_planned("PFG", "08 44 13", "SA", 20, 30, "Glass, quay front", "Glass, car hall", "Gaskets and sealants"),
    *_planned("PFG", "08 42 29", "PD", 55, 28, "Sliding doors, quay hall", "Sliding doors, boarding bridge"),
    *_planned("OHS", "23 09 23", "SD", 30, 27, "Controls, plant room", "Controls, quay hall", "Controls, level 1"),
    *_planned("OHS", "26 05 36", "SD", 15, 18, "Cable trays, level 0", "Cable trays, level 1", "Cable trays, roof"),
    *_planned("OHS", "01 78 23", "MA", 0, 44, "Manual, electrical", "Manual, heating", "Manual, fire alarm"),
    *_planned("GME", "01 78 36", "WA", 0, 46, "Warranty, linkspans", "Warranty, boarding bridge"),
    *_planned("GME", "34 77 13", "SD", 50, 29, "Boarding bridge drives", "Boarding bridge cladding"),
    *_planned(
        "HBC", "03 30 00", "PD", 5, 9, "Concrete mix, pile caps", "Curing compound", "Grout, bearing plates",
        "Waterstops",
    ),
    *_planned("GME", "35 31 16", "SA", 10, 24, "Rock armour, sample panel"),
)  # fmt: skip


def _day(stage: Stage, weeks: int) -> date:
    return stage.today + timedelta(weeks=weeks)


def _ids(stage: Stage) -> list[str]:
    return [stage.made[f"submittal {place}"] for place in range(len(LOG))]


def _version(stage: Stage, id: str) -> int:
    return dossier.read_submittal(stage.context, stage.cast.actor("marit"), id).line.version


def _file(stage: Stage, who: Actor, id: str, name: str, words: str) -> str:
    return add_attachment(stage.context, who, "submittal", id, name, [_page(words)]).id


def _page(words: str) -> bytes:
    out = io.BytesIO()
    canvas = Canvas(out, A4, invariant=1)
    canvas.setFont("Helvetica-Bold", 14)
    canvas.drawString(72, 740, scenario.PROJECT_NAME)
    canvas.setFont("Helvetica", 11)
    canvas.drawString(72, 710, words)
    canvas.save()
    return out.getvalue()


def _with(stage: Stage, *acts: str) -> list[tuple[str, _Wanted]]:
    """Those in whose fate an act comes."""
    return [
        (id, wanted) for id, wanted in zip(_ids(stage), LOG, strict=True) if set(acts) & set(wanted.fate.split())
    ]  # fmt: skip


@at(-14, 9, 40)
def write_down_what_is_wanted(stage: Stage) -> None:
    with stage.context.database.read() as session:
        companies = {code: id for id, code in session.execute(select(CompanyRow.id, CompanyRow.code))}
    for place, each in enumerate(LOG):
        details = making.Details(
            title=each.title, kind=each.kind, section=each.section, lead=each.lead, rounds=each.rounds,
            required_on=_day(stage, each.weeks), company_id=companies[each.company],
            approver_id=stage.cast.actor(each.approver).person_id,
        )  # fmt: skip
        command = making.MakeSubmittal(project_id=stage.cast.project_id, details=details)
        made = making.make_submittal(stage.context, stage.cast.actor("marit"), command)
        stage.made[f"submittal {place}"] = made.id


@at(-13, 10, 20)
def ask_for_them(stage: Stage) -> None:
    by_company: dict[str, list[str]] = {}
    for id, wanted in _with(stage, "asked"):
        by_company.setdefault(wanted.company, []).append(id)
    for company, ids in by_company.items():
        whom = stage.cast.actor(_OF[company]).person_id
        command = sending_in.AskFor(submittals={each: _version(stage, each) for each in ids}, person_id=whom)
        sending_in.ask_for(stage.context, stage.cast.actor("marit"), command)


def _send_in(stage: Stage, id: str, wanted: _Wanted) -> None:
    who = stage.cast.actor(_OF[wanted.company])
    files = [_file(stage, who, id, f"{wanted.title}.pdf", f"{wanted.title}, section {wanted.section}")]
    command = sending_in.SendIn(version=_version(stage, id), files=files)
    sending_in.send_in(stage.context, who, id, command)


def _give(stage: Stage, id: str, wanted: _Wanted) -> None:
    person = stage.cast.actor(wanted.approver).person_id
    command = answering.GiveToAnswer(version=_version(stage, id), person_id=person)
    answering.give(stage.context, stage.cast.actor("marit"), id, command)


_SAID = {
    "A": "No comment.", "B": "As noted on the sheet: mind the tolerances.",
    "C": "The loads do not agree with the calculation. Revise and send in again.",
}  # fmt: skip


def _answer(stage: Stage, id: str, wanted: _Wanted, verdict: str) -> None:
    who = stage.cast.actor(wanted.approver)
    files = [_file(stage, who, id, f"Answer to {wanted.title}.pdf", f"{verdict}: {_SAID[verdict]}")]
    command = answering.AnswerSubmittal(version=_version(stage, id), verdict=verdict, note=_SAID[verdict], files=files)
    answering.answer(stage.context, who, id, command)


@at(-12, 11, 0)
def the_first_are_sent_in(stage: Stage) -> None:
    for id, wanted in _with(stage, "A", "B", "C"):
        _send_in(stage, id, wanted)
        _give(stage, id, wanted)


@at(-9, 15, 30)
def some_of_tra_are_answered(stage: Stage) -> None:
    for id, wanted in _with(stage, "A", "B", "C"):
        if wanted.approver in ("saoirse", "dede"):
            _answer(stage, id, wanted, _first(wanted))


@at(-5, 16, 10)
def the_others_are_answered(stage: Stage) -> None:
    for id, wanted in _with(stage, "A", "B", "C"):
        if wanted.approver not in ("saoirse", "dede"):
            _answer(stage, id, wanted, _first(wanted))


def _first(wanted: _Wanted) -> str:
    return next(each for each in wanted.fate.split() if each in _SAID)


@at(-4, 9, 50)
def a_second_round(stage: Stage) -> None:
    for id, wanted in _with(stage, "C"):
        if {"B", "review"} & set(wanted.fate.split()):
            _send_in(stage, id, wanted)
            _give(stage, id, wanted)
        if "B" in wanted.fate.split():
            _answer(stage, id, wanted, "B")


@at(-3, 10, 30)
def what_is_answered_is_closed(stage: Stage) -> None:
    for id, _ in _with(stage, "closed", "delivered"):
        command = answering.CloseSubmittal(version=_version(stage, id))
        answering.close(stage.context, stage.cast.actor("marit"), id, command)
    for id, _ in _with(stage, "delivered"):
        delivered = sending_in.Deliver(version=_version(stage, id), delivered_on=stage.today - timedelta(days=5))
        sending_in.deliver(stage.context, stage.cast.actor("marit"), id, delivered)
    ((id, _),) = _with(stage, "void")
    reason = "The harbour trust keeps its own gauge."
    voided = sending_in.VoidSubmittals(submittals={id: _version(stage, id)}, reason=reason)
    sending_in.void(stage.context, stage.cast.actor("marit"), voided)


@at(-2, 9, 15)
def more_are_sent_in(stage: Stage) -> None:
    for id, wanted in _with(stage, "review", "sent", "route"):
        if "C" in wanted.fate.split():
            continue
        _send_in(stage, id, wanted)
        if "review" in wanted.fate.split():
            _give(stage, id, wanted)
    for id, wanted in _with(stage, "preparing"):
        seen = sending_in.SeenSubmittal(version=_version(stage, id))
        sending_in.prepare(stage.context, stage.cast.actor(_OF[wanted.company]), id, seen)
    first = _ids(stage)[0]
    parties = [sending_in.CopiedParty(kind="person", id=stage.cast.actor("junpei").person_id)]
    copied = sending_in.CopyIn(version=_version(stage, first), parties=parties)
    sending_in.copy_in(stage.context, stage.cast.actor("marit"), first, copied)


@at(-2, 14, 5)
def two_go_on_a_route(stage: Stage) -> None:
    """The outcome of these reviews answers them."""
    for id, _ in _with(stage, "route"):
        command = on_route.GiveToRoute(version=_version(stage, id), route_id=stage.cast.route_id)
        on_route.give_to_route(stage.context, stage.cast.actor("marit"), id, command)


@at(-5, 15, 40)
def one_is_taken_from_the_specification(stage: Stage) -> None:
    """The sample that the section on concrete asks for."""
    with stage.context.database.read() as session:
        of_spec = select(RevisionRow.id).join(DocumentRow, DocumentRow.id == RevisionRow.document_id)
        here = held_under(stage.cast.project_id, "BFT-TRA-ZZ-ZZ-P-A-0700")
        revision_id = session.scalars(of_spec.where(here)).one()
        company_id = session.scalars(select(CompanyRow.id).where(CompanyRow.code == "HBC")).one()
    marit = stage.cast.actor("marit")
    items = specification.read(stage.context, marit, revision_id).items
    item = next(each for each in items if (each.section, each.kind) == ("03 30 00", "SA"))
    line = specification.LineTaken(
        page=item.page, section=item.section, paragraph=item.paragraph, kind=item.kind, text=item.text,
        title="Board-marked finish of the quay wall", company_id=company_id, required_on=_day(stage, 22),
    )  # fmt: skip
    specification.take(stage.context, marit, specification.TakeSpecification(revision_id=revision_id, lines=[line]))
