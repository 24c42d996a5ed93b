"""Sessions: one closed with its record, one that is open this morning, one to come."""

from __future__ import annotations

from datetime import timedelta
from typing import Literal

from nod.demo.story import Stage, at
from nod.services.marks import mark_threads
from nod.services.marks.marks import NewMark
from nod.services.sessions import making, marking, opening, presence, sessions_view
from nod.services.sessions.invitations import Party
from nod.services.sessions.making import MakeSession
from nod.services.sessions.marking import DrawInSession
from nod.services.sessions.opening import CloseSession
from nod.services.sessions.presence import Here

_MARINE = ("BFT-GME-ZZ-XX-D-N-0320", "BFT-GME-ZZ-XX-D-N-0321")
_SERVICES = ("BFT-OHS-Z1-01-D-E-0411", "BFT-OHS-Z1-01-D-E-0421", "BFT-TRA-Z1-01-D-A-0105")
_FIRE = ("BFT-NFA-Z1-01-D-F-0501", "BFT-NFA-Z1-01-D-F-0511")
Point = tuple[float, float]


def _party(stage: Stage, who: str, may: Literal["look", "comment", "mark"] = "mark") -> Party:
    return Party(kind="person", id=stage.cast.actor(who).person_id, may=may)


def _make(
    stage: Stage, name: str, numbers: tuple[str, ...], parties: list[Party], hours: float, opens_in: float = 0,
    note: str = "", who: str = "marit",
) -> str:  # fmt: skip
    now = stage.context.clock.now()
    opens_at = now + timedelta(hours=opens_in)
    command = MakeSession(
        project_id=stage.cast.project_id, name=name, note=note, opens_at=opens_at if opens_in else None,
        closes_at=opens_at + timedelta(hours=hours), parties=parties,
        revisions=[stage.documents(number)[0].revision_id for number in numbers],
    )  # fmt: skip
    return making.make_session(stage.context, stage.cast.actor(who), command).id


def _come(stage: Stage, session_id: str, who: str, number: str) -> None:
    revision_id = stage.documents(number)[0].revision_id
    presence.be_here(stage.context, stage.cast.actor(who), session_id, Here(revision_id=revision_id))


def _mark(
    stage: Stage, session_id: str, who: str, number: str, kind: Literal["cloud", "pin", "arrow"],
    points: tuple[Point, ...], text: str,
) -> str:  # fmt: skip
    new = NewMark(page=0, kind=kind, points=list(points), text=text)
    revision_id = stage.documents(number)[0].revision_id
    command = DrawInSession(marks=[new])
    return marking.draw_in_session(stage.context, stage.cast.actor(who), session_id, revision_id, command)[0].id


def _box(left: float, low: float, width: float, height: float) -> tuple[Point, ...]:
    return ((left, low), (left + width, low), (left + width, low + height), (left, low + height))


@at(-4, 13, 30)
def meet_on_the_quay(stage: Stage) -> None:
    parties = [_party(stage, "ottilie"), _party(stage, "anouk"), _party(stage, "junpei", "comment")]
    note = "Where the ferries touch the quay: fenders against the mooring lines."
    id = _make(stage, "Fenders and moorings", _MARINE, parties, 2, note=note)
    for who in ("marit", "ottilie", "anouk", "junpei"):
        _come(stage, id, who, _MARINE[0])
    first = _mark(stage, id, "anouk", _MARINE[0], "cloud", _box(500, 700, 260, 180), "Which vessel is this fender for?")
    second = _mark(stage, id, "ottilie", _MARINE[1], "pin", ((800, 900),), "The line crosses the ladder.")
    _mark(stage, id, "marit", _MARINE[1], "pin", ((1100, 640),), "Bollard pull on the drawing, please.")
    stage.made.update({"quay session": id, "quay first": first, "quay second": second})


@at(-4, 14, 40)
def answer_on_the_quay(stage: Stage) -> None:
    for who, mark, text in (
        ("ottilie", "quay first", "The relief ferry, 62 m. It will be written beside it."),
        ("junpei", "quay second", "The harbour master wants the ladder to stay."),
    ):
        answer = mark_threads.WriteReply(text=text)
        mark_threads.write_reply(stage.context, stage.cast.actor(who), stage.made[mark], answer)
    session_id = stage.made["quay session"]
    actor = stage.cast.actor("marit")
    version = sessions_view.read_session(stage.context, actor, session_id).version
    opening.close_session(stage.context, actor, session_id, CloseSession(version=version))


@at(0, 8, 5)
def meet_on_level_1(stage: Stage) -> None:
    parties = [
        _party(stage, "paolo"), _party(stage, "saoirse"), _party(stage, "dede", "comment"), _party(stage, "kwabena"),
    ]  # fmt: skip
    note = "Ceilings against ducts and luminaires. Bring your sections."
    id = _make(stage, "Level 1, what hangs below the slab", _SERVICES, parties, 3, note=note)
    for who in ("marit", "paolo", "saoirse"):
        _come(stage, id, who, _SERVICES[0])
    _mark(
        stage, id, "saoirse", _SERVICES[2], "cloud", _box(700, 760, 320, 160), "The duct hangs lower than the ceiling."
    )
    _mark(stage, id, "paolo", _SERVICES[0], "pin", ((900, 820),), "Sockets behind the benches, too?")
    _mark(stage, id, "marit", _SERVICES[0], "pin", ((600, 620),), "The board is in the way out of the stair.")
    stage.made["level 1 session"] = id


@at(0, 8, 10)
def announce_the_fire_walk(stage: Stage) -> None:
    parties = [_party(stage, "dede"), _party(stage, "paolo"), _party(stage, "anouk", "look")]
    _make(stage, "Ways out of level 1", _FIRE, parties, 1.5, opens_in=29.5, note="Before the fire authority sees it.")
