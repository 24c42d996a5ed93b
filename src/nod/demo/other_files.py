"""What the contractor files beside the drawings: surveys, a photo, spreadsheets, a method statement."""

from __future__ import annotations

import random
from datetime import timedelta
from pathlib import Path

from docx import Document
from openpyxl import Workbook
from PIL import Image, ImageDraw, ImageFilter

from nod.demo.sheets.tables import door_rows
from nod.demo.story import Stage, at
from nod.demo.surveys import PITS, surveys
from nod.services.intake import intake_view
from nod.services.intake.corrections import CorrectArrivals, Correction, correct_arrivals

_DOOR_ROOMS = {
    "D-001": "Ticket hall",
    "D-021": "Waiting lounge",
    "D-003": "Baggage",
    "D-009": "Crew room",
    "D-010": "Ticket office",
    "D-015": "Plant room",
    "D-006": "Stair 1",
    "D-016": "Stair 2",
    "D-102": "Café",
    "D-103": "Kitchen",
}


@at(-2, 15, 30)
def file_them(stage: Stage) -> None:
    aside = stage.aside
    files = [*surveys(stage), _photo(aside), _schedule(aside), _statement(aside), _driven(aside), _programme(stage)]
    batch = stage.arrive("marit", "Hollinbrook Contracting", files)
    _read_by_eye(stage, batch)
    stage.register_all("marit", batch)


def _read_by_eye(stage: Stage, batch: str) -> None:
    """What character recognition makes of a scan is not what it says; the controller types it."""
    marit = stage.cast.actor("marit")
    (scan,) = (
        each for each in intake_view.read_batch(stage.context, marit, batch).arrivals if PITS.number in each.file_name
    )
    typed = Correction(id=scan.id, version=scan.version, values={"number": PITS.number, "revision": "P01"})
    correct_arrivals(stage.context, marit, batch, CorrectArrivals(changes=[typed]))
    stage.settle()


def _photo(aside: Path) -> Path:
    """Pile heads in the mud, drawn as a camera might have seen them."""
    size = (1600, 1067)
    picture = Image.linear_gradient("L").resize(size)
    picture = Image.merge("RGB", [picture.point(lambda v, by=by: int(70 + v * by)) for by in (0.42, 0.46, 0.5)])
    pen = ImageDraw.Draw(picture)
    for row, high in enumerate((420, 560, 740)):
        for column in range(5 + row):
            x, wide = 180 + column * (260 - 25 * row) + 60 * row, 60 + 22 * row
            pen.rectangle((x, high - 90 - 30 * row, x + wide, high + 120), fill=(118, 112, 104))
            pen.ellipse((x, high - 105 - 30 * row, x + wide, high - 75 - 30 * row), fill=(158, 152, 141))
            pen.line((x + 8, high - 60, x + 8, high + 100), fill=(84, 80, 76), width=4)
    pen.line([(742, 590), (760, 640), (748, 690), (771, 760)], fill=(38, 36, 36), width=5)
    picture = picture.filter(ImageFilter.GaussianBlur(1.6))
    target = aside / "BFT-HBC-Z2-00-R-N-0602_P01_S3_North linkspan, pile heads.jpg"
    picture.save(target, quality=80)
    return target


def _schedule(aside: Path) -> Path:
    book = Workbook()
    sheet = book.worksheets[0]
    sheet.title = "Doors"
    sheet.append(("Door", "Room", "Width mm", "Height mm", "Fire", "Leaf"))
    for tag, _, width, height, fire, leaf, _ in door_rows(1):
        if tag in _DOOR_ROOMS:
            sheet.append((tag, _DOOR_ROOMS[tag], int(width), int(height), fire, leaf))
    target = aside / "BFT-HBC-Z1-00-S-A-0603_P01_S3_Quay hall, door schedule.xlsx"
    book.save(target)
    return target


def _statement(aside: Path) -> Path:
    document = Document()
    document.add_heading("Piling at the north linkspan", 0)
    document.add_paragraph("How the piles are driven, and what is done so that the ferries keep their hours.")
    document.add_heading("Hours", 1)
    document.add_paragraph("Driving between 08:00 and 18:00 on working days, not within 30 minutes of a sailing.")
    document.add_heading("Noise", 1)
    table = document.add_table(rows=0, cols=3)
    for row in (("Place", "Limit", "Measured by"), ("Quay hall", "75 dB", "hour"), ("Harbour Row", "70 dB", "hour")):
        for cell, words in zip(table.add_row().cells, row, strict=True):
            cell.text = words
    target = aside / "BFT-HBC-Z2-00-R-N-0604_P01_S3_North linkspan, piling method.docx"
    document.save(str(target))
    return target


def _driven(aside: Path) -> Path:
    """The log of the piles, a sheet a week, as the foreman keeps it."""
    lots, book = random.Random("driven"), Workbook()  # noqa: S311 - variety, not secrets
    for week in range(1, 4):
        sheet = book.create_sheet(f"Week {week}") if week > 1 else book.worksheets[0]
        sheet.title = f"Week {week}"
        sheet.append(("Pile", "Driven to m", "Blows, last 250 mm", "Set mm", "Remarks"))
        for place in range(8):
            blows = lots.randrange(60, 120)
            remarks = "stopped for the ferry" if place == 3 else ""
            row = (
                f"P{week * 8 + place - 7:02d}",
                -18 - lots.randrange(60) / 10,
                blows,
                round(2500 / blows) / 10,
                remarks,
            )
            sheet.append(row)
    target = aside / "BFT-HBC-Z2-XX-S-N-0607_P01_S2_North linkspan, driven piles.xlsx"
    book.save(target)
    return target


def _programme(stage: Stage) -> Path:
    lines = ["Activity;Start;Weeks;Needs"]
    for name, weeks, long, needs in (
        ("Piling, north linkspan", 4, 6, "0301"),
        ("Foundations, quay hall", 6, 5, "0200"),
        ("Steel frame", 12, 8, "0201"),
        ("Curtain wall", 20, 7, "0184"),
        ("Boarding bridge", 24, 6, "0240"),
        ("Building services", 22, 14, "0430"),
    ):
        lines.append(f"{name};{stage.today + timedelta(weeks=weeks):%d %b %Y};{long};{needs}")
    target = stage.aside / "BFT-HBC-ZZ-ZZ-S-A-0608_P01_S2_Programme, next six months.csv"
    target.write_text("\n".join(lines))
    return target
