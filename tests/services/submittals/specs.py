# ruff: noqa: E501 - what stands in one paragraph of the paper stands on one line here
"""Three specifications in three manners, each with its key, written by hand: page, section, paragraph, kind."""

import io
from dataclasses import dataclass

from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.lib.utils import simpleSplit
from reportlab.pdfgen.canvas import Canvas

LEFT, TOP, WIDTH = 25 * mm, A4[1] - 32 * mm, A4[0] - 45 * mm


@dataclass
class Paper:
    """Writes lines down a page, and begins the next where they do not fit."""

    foot: str
    head: str

    def __post_init__(self):
        self.bytes = io.BytesIO()
        self.canvas = Canvas(self.bytes, pagesize=A4, invariant=1)
        self.page = 0
        self._begin()

    def _begin(self):
        self.y = TOP
        self.canvas.setFont("Helvetica", 8)
        self.canvas.drawString(LEFT, A4[1] - 15 * mm, self.head)
        self.canvas.drawString(LEFT, 12 * mm, self.foot.format(page=self.page + 1))

    def turn(self):
        self.canvas.showPage()
        self.page += 1
        self._begin()

    def write(self, text, *, bold=False, size=10, indent=0.0, before=0.0):
        font = "Helvetica-Bold" if bold else "Helvetica"
        lines = simpleSplit(text, font, size, WIDTH - indent)
        self.y -= before
        if self.y - len(lines) * size * 1.3 < 25 * mm:
            self.turn()
        self.canvas.setFont(font, size)
        for place, line in enumerate(lines):
            # What hangs over stands below the words, not below the label.
            hang = 6 * mm if place else 0
            self.canvas.drawString(LEFT + indent + hang, self.y, line)
            self.y -= size * 1.3
        return self.page

    def row(self, cells, places, *, bold=False):
        """A row of a table: each cell's words below its place, on as many lines as they need."""
        font = "Helvetica-Bold" if bold else "Helvetica"
        ends = [*places[1:], WIDTH]
        wrapped = [
            simpleSplit(cell, font, 9, end - at - 3 * mm) for cell, at, end in zip(cells, places, ends, strict=True)
        ]
        tall = max(map(len, wrapped))
        if self.y - tall * 12 < 25 * mm:
            self.turn()
        self.canvas.setFont(font, 9)
        for lines, at in zip(wrapped, places, strict=True):
            for place, line in enumerate(lines):
                self.canvas.drawString(LEFT + at, self.y - place * 12, line)
        self.y -= tall * 12 + 4
        return self.page

    def done(self):
        self.canvas.save()
        return self.bytes.getvalue()


def in_articles():
    """Sections of three parts, articles with lettered paragraphs; headings in capitals; references that are none."""
    paper, key = Paper("Brackwater Ferry Terminal    35 59 13 - {page}", "Issued for tender"), []
    paper.write("TABLE OF CONTENTS", bold=True, size=12)
    for section, title, page in (("35 59 13", "MARINE FENDERS", 2), ("08 71 00", "DOOR HARDWARE", 3)):
        paper.write(f"SECTION {section} {title} ..................................... {page}")
    paper.write("1.03 SUBMITTALS ........................................ 2", indent=5 * mm)
    paper.turn()

    def item(section, way, kind, text, indent=8 * mm):
        page = paper.write(text, indent=indent)
        key.append((page, section, way, kind))

    paper.write("SECTION 35 59 13", bold=True, size=13)
    paper.write("MARINE FENDERS", bold=True, size=13)
    paper.write("PART 1 - GENERAL", bold=True, before=8)
    paper.write("1.01 SUMMARY", bold=True, before=6)
    paper.write(
        "A. Section includes fenders of the linkspans and the quay wall, with frames and chains.", indent=8 * mm
    )
    paper.write("B. Shop drawings of others show the anchors that are cast in.", indent=8 * mm)
    paper.write("1.02 RELATED SECTIONS", bold=True, before=6)
    paper.write("A. Section 03 30 00 - Cast-in-Place Concrete: anchors cast in.", indent=8 * mm)
    paper.write("B. Section 05 12 00 - Structural Steel.", indent=8 * mm)
    paper.write("1.03 ACTION SUBMITTALS", bold=True, before=6)
    paper.write(
        "A. Comply with Section 01 33 00 for all submittals; allow 10 working days for each review.", indent=8 * mm
    )
    item("35 59 13", "1.03.B", "PD", "B. Product Data: For each type of fender. Include energy absorbed and reaction at 0, 25, "
         "50 and 72.5 percent of deflection, and the rubber compound that is used for it.")  # fmt: skip
    item("35 59 13", "1.03.C", "SD", "C. Shop Drawings: Frames, panels, chains and their fixings.")
    paper.write("1. Show anchors with their loads.", indent=16 * mm)
    paper.write("2. Show welds by standard symbols.", indent=16 * mm)
    paper.write("D. Samples: For each exposed product and colour:", indent=8 * mm)
    key.append((paper.page, "35 59 13", "1.03.D", "SA"))
    paper.write("1. Panel facing, 300 by 300 mm.", indent=16 * mm)
    item(
        "35 59 13",
        "1.03.E",
        "CA",
        "E. Delegated-Design Submittal: Calculations of the fender system signed by the engineer who is responsible.",
    )
    paper.write("1.04 INFORMATIONAL SUBMITTALS", bold=True, before=6)
    item("35 59 13", "1.04.A", "CE", "A. Qualification Data: For the maker and the installer.")
    item("35 59 13", "1.04.B", "TR", "B. Material test reports: Rubber, by an accredited laboratory.")
    paper.write("C. Submit the following:", indent=8 * mm)
    item("35 59 13", "1.04.C.1", "CE", "1. Mill certificates of steel plate.", 16 * mm)
    item("35 59 13", "1.04.C.2", "TR", "2. Field reports of the pull-out tests of anchors.", 16 * mm)
    paper.write("1.05 CLOSEOUT SUBMITTALS", bold=True, before=6)
    item("35 59 13", "1.05.A", "MA", "A. Maintenance Data: For fenders to include in the manuals.")
    item("35 59 13", "1.05.B", "WA", "B. Warranty: Signed by the maker.")
    paper.write("1.06 QUALITY ASSURANCE", bold=True, before=6)
    paper.write("A. Welding: By welders who hold certificates that are in force.", indent=8 * mm)
    paper.write("B. Do not fabricate until shop drawings have been answered.", indent=8 * mm)
    item(
        "35 59 13",
        "1.06.C",
        "MU",
        "C. Mockups: Submit a mock-up of one panel with its chain for approval before the others are made.",
    )
    paper.write("PART 2 - PRODUCTS", bold=True, before=8)
    paper.write("2.01 FENDERS", bold=True, before=6)
    for place in range(22):
        paper.write(f"{chr(65 + place)}. Energy absorbed at least {400 + place} kNm at 72 percent, reaction at most {900 + place} kN; the "
                    "friction of the facing is at most 0.2 when it is dry.", indent=8 * mm)  # fmt: skip
    paper.write("PART 3 - EXECUTION", bold=True, before=8)
    paper.write("3.01 INSTALLATION", bold=True, before=6)
    paper.write("A. Warranty of the maker is not touched by cutting to length.", indent=8 * mm)
    paper.write("END OF SECTION 35 59 13", bold=True, before=8)
    paper.turn()
    paper.write("SECTION 08 71 00 - DOOR HARDWARE", bold=True, size=13)
    paper.write("PART 1 - GENERAL", bold=True, before=8)
    paper.write("1.3 SUBMITTALS", bold=True, before=6)
    item("08 71 00", "1.3.A", "PD", "A. Manufacturer's product data for each piece of hardware.")
    item("08 71 00", "1.3.B", "SA", "B. Samples of each finish, if asked for.")
    item("08 71 00", "1.3.C", "", "C. Door hardware schedule: By opening, with keying.")
    item("08 71 00", "1.3.D", "WA", "D. Special warranties: Closers, ten years.")
    paper.write("1.4 SUBMITTAL PROCEDURES", bold=True, before=6)
    paper.write("A. Product data are sent as one file for each set.", indent=8 * mm)
    paper.write("END OF SECTION", bold=True, before=8)
    return paper.done(), key


def in_clauses():
    """Decimal clauses down to four figures, bracketed letters; sentences that ask for something in other clauses."""
    paper, key = Paper("Page {page}", "Works specification   BFT-TRA-ZZ-ZZ-P-A-0700"), []

    def item(section, way, kind, text, indent=0.0):
        page = paper.write(text, indent=indent, before=3)
        key.append((page, section, way, kind))

    paper.write("4 Curtain walling (08 44 13)", bold=True, size=13)
    paper.write("4.1 Scope", bold=True, before=5)
    paper.write("4.1.1 The glazed walls to the quay and to the yard. Glass of 8 / 16 / 66.2 is used throughout; 1.5 mm sheet "
                "aluminium is used for flashings.", before=3)  # fmt: skip
    paper.write("4.2 Contractor's submissions", bold=True, before=5)
    item("08 44 13", "4.2.1", "SD", "4.2.1 Workshop drawings of each junction at 1:2, with the tolerances of the frame that is built by others "
         "and the way in which they are taken up.")  # fmt: skip
    item("08 44 13", "4.2.2", "CA", "4.2.2 Calculations of mullions, transoms and brackets under wind of 1.8 kPa.")
    paper.write("4.2.3 Samples as follows:", before=3)
    key.append((paper.page, "08 44 13", "4.2.3", "SA"))
    paper.write("a) mullion of 300 mm with its cap;", indent=10 * mm)
    paper.write("b) each kind of glass, 300 x 300 mm.", indent=10 * mm)
    paper.write("4.2.4 The contractor shall submit for each of the following:", before=3)
    item("08 44 13", "4.2.4.a", "TR", "a) test reports of air, water and wind;", 10 * mm)
    item("08 44 13", "4.2.4.b", "CE", "b) certificates of the welders of the brackets;", 10 * mm)
    item("08 44 13", "4.2.4.c", "MA", "c) operation and maintenance manuals.", 10 * mm)
    paper.write("4.2.5 Submissions are made 30 working days before the item is ordered.", before=3)
    paper.write("4.3 Performance", bold=True, before=5)
    paper.write("4.3.1 Air leakage at 600 Pa is at most 1.5 m3/h m2. Test results are kept on site.", before=3)
    paper.write("4.3.2 The contractor must not start before calculations have been accepted.", before=3)
    item(
        "08 44 13",
        "4.3.3",
        "MU",
        "4.3.3 A bay of 4 m by 4.5 m is built. The contractor shall submit the mock-up for approval before fabrication begins.",
    )
    for place in range(4, 30):
        paper.write(f"4.3.{place} Joint {place} moves by {place} mm each way without loss of tightness, under the loads of the table "
                    "that is given by the engineer.", before=3)  # fmt: skip
    paper.write("4.4 Guarantees", bold=True, before=5)
    item(
        "08 44 13",
        "4.4.1",
        "WA",
        "4.4.1 The contractor shall submit a guarantee of ten years for sealed units, for record, with the last invoice.",
    )
    paper.write("5 Structural steel (05 12 00)", bold=True, size=13, before=8)
    paper.write("5.1 Submittals", bold=True, before=5)
    item("05 12 00", "5.1.1", "SD", "5.1.1 Fabrication drawings of each piece, with welds and bolts.")
    item("05 12 00", "5.1.2", "PD", "5.1.2 Technical data of the paint system, of bolts and of grout.")
    item("05 12 00", "5.1.3", "CE", "5.1.3 Declaration of performance of all sections and plates.")
    paper.write("5.2 Fabrication", bold=True, before=5)
    paper.write(
        "5.2.1 Execution class 3 for the bridge. Where certificates are asked for, they are of type 3.1.", before=3
    )
    return paper.done(), key


ROWS = (
    ("S-01", "03 30 00", "Concrete mixes, each class", "Product data", "30 d before"),
    ("S-02", "03 30 00", "Bending schedules and construction joints of the quay wall, with the order of pours and the days between them", "Shop drawing", "20 d before"),
    ("S-03", "05 12 00", "Connections that are not drawn", "Calculation", "30 d before"),
    ("S-04", "05 12 00", "Welders and procedures", "Certificate", "before work"),
    ("S-05", "08 44 13", "Junctions at 1:2", "Shop drawing", "40 d before"),
    ("S-06", "08 44 13", "Mullion with cap; glass", "Sample", "40 d before"),
    ("S-07", "35 59 13.10", "Energy and reaction of rubber units", "Test report", "60 d before"),
    ("S-08", "35 59 13.10", "Care of fenders", "O&M manual", "handover"),
    ("S-09", "22 11 16", "Pipes, valves and their supports", "Product data", "30 d before"),
    ("S-10", "22 11 16", "Flushing and pressure", "Test report", "handover"),
)  # fmt: skip
KIND = {
    "Product data": "PD", "Shop drawing": "SD", "Calculation": "CA", "Certificate": "CE", "Sample": "SA",
    "Test report": "TR", "O&M manual": "MA",
}  # fmt: skip
PLACES = (0, 18 * mm, 45 * mm, 105 * mm, 135 * mm)


def in_a_table():
    """A schedule of five columns over two pages, its heads on both; another table that is none of submittals."""
    paper, key = Paper("Page {page}", "Employer's requirements"), []
    paper.write("Appendix C  Rooms", bold=True, size=13)
    paper.row(("No.", "Room", "Area", "Finish", "Height"), PLACES, bold=True)
    for place in range(6):
        paper.row(
            (f"{place + 1}", f"Quay hall {place}", f"{place * 10} m2", "Sample of terrazzo as in the hall", "4.2 m"),
            PLACES,
        )
    paper.turn()
    paper.write("Appendix D  Schedule of submittals", bold=True, size=13)
    paper.write("What is listed is sent in under the contract. Each item is on one line of the log.")
    heads = ("Ref.", "Section", "Description", "Type", "When")
    paper.row(heads, PLACES, bold=True)
    for place, row in enumerate(ROWS):
        if place == 6:
            paper.turn()
            paper.row(heads, PLACES, bold=True)
        page = paper.row(row, PLACES)
        key.append((page, row[1], row[0], KIND[row[3]]))
    paper.write("Nothing is ordered before its samples have been answered. The list is not exhaustive.", before=10)
    return paper.done(), key
