"""Words rather than drawings: the specification in three sections, and letters as the files they came as."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, timedelta
from email.message import EmailMessage
from email.utils import format_datetime
from pathlib import Path

from docx import Document
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Flowable, PageBreak, Paragraph, SimpleDocTemplate

from nod.demo.sheets.pen import Pen
from nod.demo.story import Stage, at

_BODY = ParagraphStyle("body", fontName="Nod-Regular", fontSize=10, leading=14, leftIndent=14 * mm, spaceAfter=4)
_ARTICLE = ParagraphStyle("article", fontName="Nod-Bold", fontSize=11, leading=15, spaceBefore=8, spaceAfter=3)
_PART = ParagraphStyle("part", fontName="Nod-Bold", fontSize=12, leading=18, spaceBefore=12, spaceAfter=4)
_SECTION = ParagraphStyle("section", fontName="Nod-Bold", fontSize=16, leading=22, spaceAfter=10)

Article = tuple[str, Sequence[str]]
Section = tuple[str, str, Sequence[tuple[str, Sequence[Article]]]]

SECTIONS: tuple[Section, ...] = (
    (
        "03 30 00",
        "Concrete cast in place",
        (
            (
                "Part 1  General",
                (
                    (
                        "1.1  What this section covers",
                        (
                            "Foundations, ground beams, slabs and the quay wall, as on the sheets BFT-PLS-Z1-00-D-S.",
                            "Formwork, bars and finishes are part of the section; piles are not.",
                        ),
                    ),
                    ("1.2  Related sheets", ("BFT-PLS-Z1-00-D-S-0200, BFT-PLS-ZZ-XX-D-S-0224.",)),
                    (
                        "1.3  Submittals",
                        (
                            "A.  Product data: cement, admixtures, curing compound, waterstops.",
                            "B.  Mix design for each class of concrete, with test reports of the last six months.",
                            "C.  Shop drawings: bar bending schedules and layout of construction joints.",
                            "D.  Samples: board-marked finish of the quay wall, one square metre.",
                            "E.  Certificates: bars, mill certificates of each delivery.",
                        ),
                    ),
                    (
                        "1.4  Mock-up",
                        ("One bay of the quay wall, 3 m long and full height, kept until the wall is accepted.",),
                    ),
                ),
            ),
            (
                "Part 2  Products",
                (
                    (
                        "2.1  Concrete",
                        (
                            "Class C35/45, XS1 above and XS3 in the tidal zone, water to cement at most 0.45.",
                            "Slag cement in the tidal zone.",
                        ),
                    ),
                    ("2.2  Bars", ("Ribbed bars, B500B. Cover 60 mm in the tidal zone, 45 mm elsewhere.",)),
                ),
            ),
            (
                "Part 3  Execution",
                (
                    ("3.1  Placing", ("Not below 5 °C, not in water that moves. Layers of at most 500 mm.",)),
                    ("3.2  Curing", ("Seven days, fourteen where slag cement is used. No salt water.",)),
                    ("3.3  Tests", ("Three cubes for each 50 m³ or each day, whichever gives more.",)),
                ),
            ),
        ),
    ),
    (
        "05 12 00",
        "Structural steel",
        (
            (
                "Part 1  General",
                (
                    (
                        "1.1  What this section covers",
                        ("The frame of the quay hall, the trusses of the boarding bridge and their connections.",),
                    ),
                    ("1.2  Related sheets", ("BFT-PLS-Z1-01-D-S-0201, BFT-PLS-Z4-ZZ-D-S-0240.",)),
                    (
                        "1.3  Submittals",
                        (
                            "A.  Shop drawings of each piece, with welds and bolts, 20 working days ahead.",
                            "B.  Calculations of connections that are not drawn.",
                            "C.  Product data: paint system, bolts, grout.",
                            "D.  Test reports: welders, welding procedures, ultrasonic tests.",
                            "E.  Manual: care of the paint, for handover.",
                        ),
                    ),
                ),
            ),
            (
                "Part 2  Products",
                (
                    (
                        "2.1  Steel",
                        ("S355 J2 for the frame, S355 J2H for hollow sections, S355 K2 for plates over 40 mm.",),
                    ),
                    (
                        "2.2  Paint",
                        ("Corrosivity C5, life more than 25 years: 60 µm zinc, 160 µm epoxy, 60 µm polyurethane.",),
                    ),
                ),
            ),
            (
                "Part 3  Execution",
                (
                    ("3.1  Fabrication", ("Execution class 3 for the bridge, 2 for the frame.",)),
                    (
                        "3.2  Erection",
                        ("No bolts that carry load are tightened before the frame is plumb to 1 in 600.",),
                    ),
                ),
            ),
        ),
    ),
    (
        "08 44 13",
        "Curtain walls",
        (
            (
                "Part 1  General",
                (
                    (
                        "1.1  What this section covers",
                        ("The glazed walls to the quay and to the yard, and the glazing of the boarding bridge.",),
                    ),
                    ("1.2  Related sheets", ("BFT-TRA-Z1-ZZ-D-A-0184, BFT-TRA-Z1-ZZ-D-A-0164.",)),
                    (
                        "1.3  Submittals",
                        (
                            "A.  Shop drawings at 1:2 of each junction.",
                            "B.  Samples: mullion of 300 mm with cap, each kind of glass 300 × 300 mm.",
                            "C.  Test reports: air, water, wind to 1.8 kPa; impact.",
                            "D.  Mock-up of 4 m by 4.5 m with one corner, tested before fabrication.",
                            "E.  Warranty: ten years for sealed units.",
                        ),
                    ),
                ),
            ),
            (
                "Part 2  Products",
                (
                    ("2.1  Glass", ("8 / 16 / 66.2, coated, g at most 0.35, U at most 1.1 W/m²K.",)),
                    ("2.2  Frames", ("Aluminium 6063 T6, thermally broken, powder coated 60 µm, marine grade.",)),
                ),
            ),
            (
                "Part 3  Execution",
                (("3.1  Fixing", ("Brackets in slots, adjustable by 25 mm each way. Stainless steel only.",)),),
            ),
        ),
    ),
)


@at(-6, 15, 20)
def file_the_papers(stage: Stage) -> None:
    """The specification from the architect, letters as the contractor's controller files them."""
    batch = stage.arrive("marit", "Tallow Reed Architects", [specification(stage.aside)], "Specifications")
    stage.register_all("marit", batch)
    letters = [_from_the_client(stage), _to_the_client(stage.aside), _from_the_marine_engineer(stage)]
    stage.register_all("marit", stage.arrive("marit", "Hollinbrook Contracting", letters, "Letters"))


def specification(aside: Path) -> Path:
    target = aside / "BFT-TRA-ZZ-ZZ-P-A-0700_P01_S2_Specification, three sections.pdf"
    Pen(str(aside / "fonts.pdf"), (10, 10))
    paper = SimpleDocTemplate(
        str(target),
        pagesize=A4,
        invariant=1,
        leftMargin=25 * mm,
        rightMargin=20 * mm,
        topMargin=30 * mm,
        bottomMargin=25 * mm,
        title="Brackwater Ferry Terminal, specification",
    )
    story: list[Flowable] = []
    for number, name, parts in SECTIONS:
        story.append(Paragraph(f"Section {number}  {name}", _SECTION))
        for part, articles in parts:
            story.append(Paragraph(part, _PART))
            for head, lines in articles:
                story.append(Paragraph(head, _ARTICLE))
                story += [Paragraph(line, _BODY) for line in lines]
        story += [Paragraph(f"End of section {number}", _BODY), PageBreak()]
    paper.build(story, onFirstPage=_edges, onLaterPages=_edges)
    return target


def _edges(canvas: Canvas, paper: SimpleDocTemplate) -> None:
    """What stands above and below on every page."""
    canvas.setFont("Nod-Regular", 8)
    canvas.drawString(25 * mm, A4[1] - 18 * mm, "Brackwater Ferry Terminal   BFT-TRA-ZZ-ZZ-P-A-0700   P01")
    canvas.drawRightString(A4[0] - 20 * mm, 14 * mm, f"Page {paper.page}")


_HOURS = (
    "We write about the hours of work at the quay. The ferries sail at 07:10, 12:40 and 18:20.",
    "Piles may not be driven within 30 minutes of a sailing. The harbour master decides where fog delays one.",
    "Please tell us by the end of next week how your programme keeps to this.",
)


def _from_the_client(stage: Stage) -> Path:
    target = stage.aside / "BFT-BHT-ZZ-ZZ-L-A-0801_P01_S2_Hours of work at the quay.pdf"
    paper = SimpleDocTemplate(str(target), pagesize=A4, invariant=1, leftMargin=25 * mm, topMargin=40 * mm)
    dated = stage.today - timedelta(days=12)
    lines = [
        "Brackwater Harbour Trust",
        "To Hollinbrook Contracting",
        f"{dated:%d %B %Y}",
        "Our reference BHT-L-0014",
        "<b>Hours of work at the quay</b>",
        *_HOURS,
        "Anouk Ferreira",
    ]
    paper.build([Paragraph(line, _BODY) for line in lines])
    return target


def _to_the_client(aside: Path) -> Path:
    document = Document()
    document.add_heading("Hours of work at the quay", 1)
    document.add_paragraph("To Brackwater Harbour Trust. Your reference BHT-L-0014.")
    document.add_paragraph(
        "We shall drive piles between 08:00 and 18:00, and stop from 12:10 to 13:10 on every day of sailing."
    )
    document.add_paragraph("The revised programme, BFT-HBC-ZZ-ZZ-S-A-0608, comes with our next issue. Rafael Nwosu")
    target = aside / "BFT-HBC-ZZ-ZZ-L-A-0802_P01_S2_Answer on the hours of work.docx"
    document.save(str(target))
    return target


def _from_the_marine_engineer(stage: Stage) -> Path:
    """A letter that came as a mail, kept as it came."""
    mail = EmailMessage()
    mail["From"], mail["To"] = "Ottilie Vestergaard <ottilie@gannetmarine.example>", "marit@hollinbrook.example"
    mail["Subject"] = "Toe level of pile P07"
    mail["Date"] = format_datetime(datetime.combine(stage.today - timedelta(days=11), datetime.min.time()))
    mail["Message-ID"] = "<p07.toe@gannetmarine.example>"
    mail.set_content(
        "Dear Marit,\n\nthe boring at P07 found soft clay to -21 m. We lower the toe by 3.0 m; the schedule\n"
        "BFT-GME-Z2-XX-S-N-0330 follows as P02.\n\nOttilie Vestergaard\n"
    )
    target = stage.aside / "BFT-GME-Z2-XX-L-N-0803_P01_S2_Toe level of pile P07.eml"
    target.write_bytes(mail.as_bytes())
    return target
