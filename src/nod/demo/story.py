"""What happened at Brackwater in the last three weeks, act by act."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import date, timedelta
from pathlib import Path

from sqlalchemy import select

from nod.core.intake.findings import OPEN_STATES
from nod.demo import scenario
from nod.demo.issue import COMPANY, Issue
from nod.demo.people import Cast
from nod.demo.sheet_list import SHEETS, DemoSheet
from nod.demo.sheets.drawing import draw_sheet
from nod.demo.sheets.frame import BLOCK_ZONES, SIZES_MM, SheetSpec
from nod.demo.sheets.frame import Issue as IssueLine
from nod.services.acts.context import Context
from nod.services.intake import block_readers, intake, intake_view, registering
from nod.services.intake.block_readers import ZoneShown
from nod.services.links.visits import EnterLink, enter_link
from nod.services.reviews import reviews, reviews_view, starting
from nod.services.reviews.reviews import DocumentAnswer
from nod.services.transmittals import guests, received, transmittals
from nod.services.transmittals.guests import Acknowledge
from nod.services.transmittals.recipients import guest_token
from nod.store.tables import DocumentRow, RecipientRow

_READERS = {"TRA": ("A1", "A3"), "PLS": ("A1", "A3")}
_AUTHORS = {
    "TRA": "S. Tanaka", "PLS": "L. Brandt", "GME": "O. Vestergaard", "OHS": "P. Marchetti", "NFA": "D. Okonkwo",
    "HBC": "R. Nwosu",
}  # fmt: skip
_CHANGES = {
    "TRA": ("Partitions and doors revised after comments", "Wash rooms revised, issued for authorisation"),
    "PLS": ("Revised for the loads of the crane", "Lift pit added"),
    "GME": ("Revised after the ground investigation",),
    "OHS": ("Revised after coordination",),
}


Event = Callable[["Stage"], None]
EVENTS: list[tuple[tuple[int, int, int], Event]] = []


def at(days: int, hour: int, minute: int = 0) -> Callable[[Event], Event]:
    """When an event happens: working days from today (0 or before) and local time."""

    def plan(event: Event) -> Event:
        EVENTS.append(((days, hour, minute), event))
        return event

    return plan


@dataclass(frozen=True)
class Stage:
    """Everything a chapter needs."""

    context: Context
    cast: Cast
    aside: Path
    settle: Callable[[], None]
    today: date
    made: dict[str, str] = field(default_factory=dict)

    def sheet_file(self, sheet: DemoSheet, revision: int, name: str = "") -> Path:
        """Draws a sheet at its `revision`-th revision (from 0) under the name it would be sent with."""
        code, status = sheet.revisions[min(revision, len(sheet.revisions) - 1)]
        target = self.aside / (name or f"{sheet.number}_{code}_{status}_{sheet.title}.pdf")
        draw_sheet(target, self.spec_of(sheet, revision), sheet.kind)
        return target

    def spec_of(self, sheet: DemoSheet, revision: int) -> SheetSpec:
        company_code = sheet.number.split("-")[1]
        company = next(name for code, name, _ in scenario.COMPANIES if code == company_code)
        words = ("First issue for comment", *_CHANGES.get(company_code, ()), "Revised", "Revised again")
        issues = tuple(
            IssueLine(code, status, (self.today - timedelta(days=21 - 7 * place)).strftime("%d %b %Y"), words[place])
            for place, (code, status) in enumerate(sheet.revisions[: revision + 1])
        )
        return SheetSpec(sheet.number, sheet.title, company, sheet.size, sheet.scale, issues, _AUTHORS[company_code])

    def draw_reader(self, who: str, batch_id: str, company: str, size: str) -> None:
        """The title block of the project's frame, as a controller would draw it."""
        width, height = SIZES_MM[size]
        command = block_readers.KeepReader(
            batch_id=batch_id, name=f"{company}, {size}", company=company, width_mm=width, height_mm=height,
            zones=[ZoneShown.model_validate({"corner": "lower right", **zone}) for zone in BLOCK_ZONES],
        )  # fmt: skip
        block_readers.keep_reader(self.context, self.cast.actor(who), command)
        self.settle()

    def arrive(self, who: str, came_from: str, files: list[Path], folder: str = "") -> str:
        actor = self.cast.actor(who)
        code = next((code for code, name, _ in scenario.COMPANIES if name == came_from), "")
        folder_id = self.cast.folders[folder or scenario.FOLDER_OF_COMPANY.get(code, "")]
        command = intake.OpenBatch(project_id=self.cast.project_id, came_from=came_from, folder_id=folder_id)
        batch = intake.open_batch(self.context, actor, command)
        for file in files:
            intake.add_file(self.context, actor, batch.id, file.name, [file.read_bytes()])
        self.settle()
        return batch.id

    def register(self, who: str, batch_id: str) -> None:
        actor = self.cast.actor(who)
        batch = intake_view.read_batch(self.context, actor, batch_id)
        seen = {each.id: each.version for each in batch.arrivals if each.state in OPEN_STATES}
        registering.register_batch(self.context, actor, batch_id, registering.RegisterBatch(seen=seen))

    def register_all(self, who: str, batch_id: str) -> None:
        """Raises RuntimeError if anything is held: the scene was to have all of it."""
        self.register(who, batch_id)
        arrivals = intake_view.read_batch(self.context, self.cast.actor(who), batch_id).arrivals
        held = [f"{each.file_name}: {each.reason}" for each in arrivals if each.state != "registered"]
        if held:
            raise RuntimeError("; ".join(held))

    def documents(self, prefix: str) -> list[DocumentRow]:
        with self.context.database.read() as session:
            query = (
                select(DocumentRow)
                .where(DocumentRow.number.startswith(prefix), DocumentRow.copy_of == "")
                .order_by(DocumentRow.number)
            )
            return list(session.scalars(query))

    def start(self, who: str, name: str, prefixes: tuple[str, ...], message: str = "", route: str = "") -> str:
        chosen = {row.id: row.revision_id for prefix in prefixes for row in self.documents(prefix)}
        command = starting.StartReview(
            project_id=self.cast.project_id,
            route_id=route or self.cast.route_id,
            name=name,
            message=message,
            documents=chosen,
        )
        started = starting.start_review(self.context, self.cast.actor(who), command)
        return started.id

    def _mine(self, who: str, review_id: str) -> tuple[reviews_view.Review, reviews_view.SlipRow]:
        """A review, and the step of it that runs with somebody."""
        actor = self.cast.actor(who)
        review = reviews_view.read_review(self.context, actor, review_id)
        step = next(
            row for row in review.slip
            if row.state == "running" and any(place.who.id == actor.person_id for place in row.places)
        )  # fmt: skip
        return review, step

    def pick_up(self, who: str, review_id: str) -> None:
        _, step = self._mine(who, review_id)
        reviews.pick_up(self.context, self.cast.actor(who), review_id, step.id)

    def hand_in(
        self, who: str, review_id: str, verdicts: str = "", comments: tuple[str, ...] = (), note: str = ""
    ) -> None:
        """`verdicts`: a letter a document in the order of the review, repeated as needed."""
        review, step = self._mine(who, review_id)
        answers = [
            DocumentAnswer(
                document_id=each.document_id,
                verdict=verdicts[place % len(verdicts)] if verdicts else "",
                comment=comments[place] if place < len(comments) else "",
            )
            for place, each in enumerate(review.documents)
        ]
        command = reviews.HandIn(answers=answers, note=note)
        reviews.hand_in(self.context, self.cast.actor(who), review_id, step.id, command)


def _sheets(originator: str) -> list[DemoSheet]:
    return [sheet for sheet in SHEETS if sheet.number.split("-")[1] == originator]


def _first_issue(code: str, company: str, who: str) -> Event:
    def event(stage: Stage) -> None:
        batch_id = stage.arrive(who, company, [stage.sheet_file(sheet, 0) for sheet in _sheets(code)])
        for size in _READERS.get(code, ()):
            stage.draw_reader(who, batch_id, company, size)
        stage.register(who, batch_id)

    return event


at(-15, 10, 20)(_first_issue("TRA", "Tallow Reed Architects", "tomasz"))
at(-14, 9, 50)(_first_issue("PLS", "Plinthwork Structures", "marit"))
at(-13, 11, 5)(_first_issue("GME", "Gannet Marine Engineering", "marit"))
at(-12, 10, 20)(_first_issue("OHS", "Ohmfield Services", "marit"))
at(-12, 14, 10)(_first_issue("NFA", "Nettlecombe Fire Advice", "marit"))


def _second_issue(code: str, company: str, who: str) -> Event:
    def event(stage: Stage) -> None:
        sheets = [sheet for sheet in _sheets(code) if len(sheet.revisions) > 1]
        stage.register(who, stage.arrive(who, company, [stage.sheet_file(sheet, 1) for sheet in sheets]))

    return event


at(-5, 10)(_second_issue("TRA", "Tallow Reed Architects", "tomasz"))
at(-4, 15)(_second_issue("PLS", "Plinthwork Structures", "marit"))
at(-4, 15, 40)(_second_issue("GME", "Gannet Marine Engineering", "marit"))
at(-2, 11, 30)(_second_issue("OHS", "Ohmfield Services", "marit"))


_QUAY_HALL = ("BFT-TRA-Z1-00-D-A-0100", "BFT-TRA-Z1-01-D-A-0101", "BFT-TRA-Z1-RF-D-A-0102")


@at(-11, 9, 30)
def start_quay_hall(stage: Stage) -> None:
    message = "Please look at the door widths on the ground floor first."
    stage.made["quay"] = stage.start("marit", "Quay hall plans, first round", _QUAY_HALL, message)


@at(-10, 14, 5)
def pick_up_quay_hall(stage: Stage) -> None:
    stage.pick_up("leilani", stage.made["quay"])


@at(-9, 11, 40)
def check_quay_hall(stage: Stage) -> None:
    comments = (
        "Columns C4 and C5 clash with the door to baggage.",
        "Agrees with framing.",
        "Parapet detail to follow.",
    )
    note = "Ground floor needs another look before it goes out."
    stage.hand_in("leilani", stage.made["quay"], comments=comments, note=note)


@at(-7, 16, 15)
def decide_quay_hall(stage: Stage) -> None:
    stage.hand_in("saoirse", stage.made["quay"], "CBA", note="Ground floor to be revised; the roof can go.")


@at(-6, 9, 10)
def send_quay_hall(stage: Stage) -> None:
    marit = stage.cast.actor("marit")
    review = reviews_view.read_review(stage.context, marit, stage.made["quay"])
    command = transmittals.SendTransmittal(
        project_id=stage.cast.project_id,
        revisions=[each.revision_id for each in review.documents],
        people=[stage.cast.people["yusuf"], stage.cast.people["anouk"]],
        purpose="comment",
        note="First round of the quay hall, for your comments.",
        answer_wanted_on=stage.today + timedelta(days=3),
        review_id=review.id,
    )
    stage.made["sent"] = transmittals.send_transmittal(stage.context, marit, command).id


def _open(stage: Stage, place: int) -> str:
    """A recipient opens their link; returns the secret of the visit."""
    with stage.context.database.read() as session:
        query = select(RecipientRow).where(RecipientRow.transmittal_id == stage.made["sent"])
        token = guest_token(stage.context, session.scalars(query.order_by(RecipientRow.place)).all()[place].id)
    return enter_link(stage.context, EnterLink(token=token), "", None).guest


@at(-6, 13, 25)
def download_quay_hall(stage: Stage) -> None:
    guests.download_as_guest(stage.context, _open(stage, 0), "pack")


@at(-5, 8, 5)
def acknowledge_quay_hall(stage: Stage) -> None:
    note = "Received with thanks. We begin with the escape stairs."
    guests.acknowledge(stage.context, _open(stage, 0), Acknowledge(note=note))
    _open(stage, 1)


@at(-5, 9, 15)
def start_escape(stage: Stage) -> None:
    stage.made["escape"] = stage.start(
        "marit", "Quay hall escape routes", ("BFT-NFA-Z1-00-D-F-0500", "BFT-NFA-Z1-01-D-F-0501")
    )


@at(-4, 13)
def pick_up_escape(stage: Stage) -> None:
    stage.pick_up("rafael", stage.made["escape"])


@at(-3, 9, 5)
def check_escape(stage: Stage) -> None:
    stage.hand_in("rafael", stage.made["escape"], comments=("Travel distances agree with the strategy.", ""))


@at(-1, 15, 20)
def decide_escape(stage: Stage) -> None:
    """Closed, and waiting to be sent out."""
    stage.hand_in("saoirse", stage.made["escape"], "AB", ("", "Door 02.03 opens against the route."))


@at(-5, 11)
def start_bridge(stage: Stage) -> None:
    stage.made["bridge"] = stage.start("marit", "Boarding bridge, truss and plan", ("BFT-PLS-Z4", "BFT-TRA-Z4-01"))


@at(-4, 9, 35)
def pick_up_bridge(stage: Stage) -> None:
    """Picked up and forgotten: two working days late today."""
    stage.pick_up("anouk", stage.made["bridge"])


@at(-5, 16, 30)
def start_lighting(stage: Stage) -> None:
    stage.made["lighting"] = stage.start(
        "tomasz", "Quay hall lighting", ("BFT-OHS-Z1-00-D-E-0400", "BFT-OHS-Z1-01-D-E-0401")
    )


@at(-4, 11)
def pick_up_lighting(stage: Stage) -> None:
    stage.pick_up("leilani", stage.made["lighting"])


@at(-3, 10, 50)
def check_lighting(stage: Stage) -> None:
    """Checked in time; the verdict is due today."""
    comments = ("Tray 4 crosses the smoke curtain.", "")
    stage.hand_in("leilani", stage.made["lighting"], comments=comments, note="One clash, otherwise fine.")


@at(-1, 16, 40)
def start_linkspan(stage: Stage) -> None:
    """Nobody has picked it up yet."""
    stage.start(
        "marit",
        "North linkspan",
        ("BFT-GME-Z2-XX-D-N-0300", "BFT-GME-Z2-XX-D-N-0301"),
        "The piling starts in four weeks.",
    )


@at(0, 7, 55)
def morning_post(stage: Stage) -> None:
    """Something fine, and something of each kind that is not."""
    by_number = {sheet.number: sheet for sheet in SHEETS}
    ground, level = by_number["BFT-TRA-Z1-00-D-A-0100"], by_number["BFT-TRA-Z1-01-D-A-0101"]
    yard, bridge = by_number["BFT-TRA-Z5-00-D-A-0150"], by_number["BFT-TRA-Z4-01-D-A-0140"]
    new = DemoSheet("BFT-TRA-Z1-02-D-A-0103", "Quay hall, level 2 plan", "plan 02", "A1", (("P01", "S3"),))
    door = DemoSheet("BFT-TRA-Z1-ZZ-D-A-0190", "Quay hall, door details", "door details", "A3", (("P01", "S3"),))
    files = [
        stage.sheet_file(ground, 2),
        stage.sheet_file(new, 0),
        stage.sheet_file(level, 0, f"{level.number}_P02_S3_{level.title}.pdf"),
        stage.sheet_file(yard, 0),
        stage.sheet_file(door, 0, "BFT-TRA-Z1-ZZ-D-A-O19O_P01_S3_Quay hall, door details.pdf"),
        stage.sheet_file(door, 0, "BFT-TRA-Z1-01-D-X-0191_P01_S3_Quay hall, stair details.pdf"),
        stage.sheet_file(bridge, 0, f"{bridge.number}_P04_S3_Boarding bridge, plan at deck level.pdf"),
        _broken_file(stage, stage.sheet_file(new, 0)),
    ]
    stage.arrive("tomasz", "Tallow Reed Architects", files)


@at(0, 8, 10)
def structures_issue(stage: Stage) -> None:
    """Thirty sheets from the structural engineer, the first thing on the controller's desk."""
    known = {sheet.number: sheet for sheet in _sheets("PLS")}
    issue = Issue(stage.aside, known, stage.spec_of)
    batch = stage.arrive("marit", COMPANY, issue.files())
    theirs = received.KeepReceived(number="PLS-T-0014", dated=stage.today, text=issue.list_of_it(), keep=True)
    received.keep_received(stage.context, stage.cast.actor("marit"), batch, theirs)


def _broken_file(stage: Stage, whole: Path) -> Path:
    broken = stage.aside / "BFT-TRA-Z5-00-D-A-0151_P01_S3_Marshalling yard, levels.pdf"
    broken.write_bytes(whole.read_bytes()[:900])
    return broken
