"""The issue of sheets that waits in Intake: a consultant's thirty, with something of each kind that can be wrong."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import pikepdf

from nod.demo.sheet_list import DemoSheet
from nod.demo.sheets.drawing import draw_sheet
from nod.demo.sheets.frame import SheetSpec
from nod.demo.sheets.pen import Pen
from nod.demo.sheets.scan import scan

COMPANY = "Plinthwork Structures"
_NEW = (("P01", "S3"),)
_TITLES = (
    ("stair core", "stair"), ("lift pit", "foundations"), ("slab edges", "frame"), ("column schedule", "columns"),
    ("base plates", "plates"), ("bracing bays", "frame across"), ("roof purlins", "frame"),
    ("canopy frame", "frame along"), ("gantry", "frame across"), ("louvre rails", "connections"),
    ("plinth beams", "foundations"), ("pile caps", "caps"),
)  # fmt: skip

SpecOf = Callable[[DemoSheet, int], SheetSpec]


class Issue:
    """Draws the files of the issue into `aside`. `known` are the company's sheets in the register, by number."""

    def __init__(self, aside: Path, known: dict[str, DemoSheet], spec_of: SpecOf) -> None:
        self._aside, self._known, self._spec_of = aside, known, spec_of
        self._files: list[Path] = []
        self._listed = {("BFT-PLS-Z1-01-D-S-0217", "P01"): "Quay hall, trial pit section"}

    def files(self) -> list[Path]:
        """Thirty arrivals: twenty-five files, of which one is a set of six."""
        self._what_is_known()
        self._what_is_new()
        self._what_is_broken()
        self._set()
        return self._files

    def list_of_it(self) -> str:
        """What its sender's transmittal lists: all that was to come, and a sheet that was forgotten."""
        rows = sorted((number, code, title) for (number, code), title in self._listed.items())
        return "\n".join("\t".join(row) for row in [("Drawing No.", "Rev", "Title"), *rows])

    def _draw(self, sheet: DemoSheet, revision: int, name: str = "", **more: object) -> Path:
        """`more` may change the specification, or `add` something to the drawing."""
        add = more.pop("add", None)
        spec = replace(self._spec_of(sheet, revision), **more)  # type: ignore[arg-type]
        code, status = sheet.revisions[revision]
        self._listed[sheet.number, code] = sheet.title
        target = self._aside / (name or f"{sheet.number}_{code}_{status}_{sheet.title}.pdf")
        draw_sheet(target, spec, sheet.kind, add)  # type: ignore[arg-type]
        self._files.append(target)
        return target

    def _sheet(self, ending: str, *more: tuple[str, str]) -> DemoSheet:
        """A sheet of the register with revisions to come."""
        sheet = next(each for number, each in self._known.items() if number.endswith(ending))
        return replace(sheet, revisions=(*sheet.revisions, *more))

    def _new(self, place: int, size: str = "A1") -> DemoSheet:
        title, kind = _TITLES[place % len(_TITLES)]
        return DemoSheet(f"BFT-PLS-Z1-01-D-S-02{place + 3:02d}", f"Quay hall, {title}", kind, size, _NEW)

    def _what_is_known(self) -> None:
        """Next revisions, good and bad; the same again; what has changed in silence."""
        found, framing = self._sheet("0200", ("P03", "S3")), self._sheet("0201", ("P03", "S3"))
        older = replace(found, revisions=(found.revisions[0], ("P02.1", "S0")))
        roof, truss = self._sheet("0202", ("P02", "S3"), ("P03", "S3")), self._sheet("0240", ("P02", "S3"))
        self._draw(found, 2)
        self._draw(framing, 2, add=_brace)
        self._draw(older, 1)
        self._draw(framing, 1)
        self._draw(roof, 0, add=_brace)
        self._draw(roof, 2)
        self._save_again(self._draw(truss, 0))
        self._draw(replace(truss, title="Boarding bridge, truss and bearings", size="A1"), 1, scale="1:50")

    def _what_is_new(self) -> None:
        """Numbers that are wrong or look right, names that say one thing and blocks another."""
        for place in range(3):
            self._draw(self._new(place), 0)
        self._lead_elsewhere(self._draw(self._new(3), 0), "Bar bending shapes.pdf")
        twice = self._new(4)
        self._draw(twice, 0)
        self._draw(twice, 0, f"{twice.number}_P01_S3_{twice.title} copy.pdf")
        wrong = self._new(5)
        self._draw(wrong, 0, f"{wrong.number.replace('-S-', '-X-')}_P01_S3_{wrong.title}.pdf")
        alike = self._new(6)
        self._draw(alike, 0, f"{alike.number.replace('-01-', '-O1-')}_P01_S3_{alike.title}.pdf")
        foreign = self._new(7)
        looks_alike = foreign.number.replace("BFT", "BF\u0422")
        self._draw(foreign, 0, f"{looks_alike}_P01_S3_{foreign.title}.pdf")
        other = self._new(8)
        self._draw(other, 0, f"{other.number}_P02_S3_{other.title}.pdf")
        self._draw(self._new(9), 0, f"{self._new(9).number}_P01_S9_{self._new(9).title}.pdf")
        self._add_script(self._draw(self._new(10), 0))

    def _what_is_broken(self) -> None:
        """Locked, cut off, scanned, and what is no PDF at all."""
        locked = self._draw(self._new(11), 0)
        with pikepdf.open(locked, allow_overwriting_input=True) as pdf:
            pdf.save(locked, encryption=pikepdf.Encryption(user="tide", owner="tide"))
        cut = self._draw(replace(self._new(12), title="Quay hall, kerbs"), 0)
        cut.write_bytes(cut.read_bytes()[:900])
        pit = DemoSheet("BFT-PLS-Z1-01-D-S-0216", "Quay hall, trial pit sketch", "trial pit", "A3", _NEW)
        scan(self._draw(pit, 0))
        schedule = self._aside / "BFT-PLS-ZZ-ZZ-S-S-0290_P01_S2_Bar schedule.csv"
        schedule.write_text("mark,diameter mm,length mm,number\nB1,16,4200,24\nB2,20,3850,12\n")
        self._files.append(schedule)

    def _set(self) -> None:
        """Six sheets in one file, as a plot queue leaves them."""
        sheets = [
            DemoSheet(f"BFT-PLS-Z4-ZZ-D-S-02{50 + place}", f"Boarding bridge, node {place + 1}", "frame", "A3", _NEW)
            for place in range(6)
        ]
        target = self._aside / "Boarding bridge nodes.pdf"
        with pikepdf.new() as whole:
            for sheet in sheets:
                part = self._draw(sheet, 0, "part.pdf")
                self._files.remove(part)
                with pikepdf.open(part) as pdf:
                    whole.pages.extend(pdf.pages)
            whole.save(target, deterministic_id=True)
        self._files.append(target)

    def _save_again(self, path: Path) -> None:
        with pikepdf.open(path, allow_overwriting_input=True) as pdf:
            pdf.docinfo["/Producer"] = "Saved again"
            pdf.save(path, deterministic_id=True)

    def _add_script(self, path: Path) -> None:
        with pikepdf.open(path, allow_overwriting_input=True) as pdf:
            pdf.Root.OpenAction = pikepdf.Dictionary(S=pikepdf.Name.JavaScript, JS=pikepdf.String("void 0"))
            pdf.save(path, deterministic_id=True)

    def _lead_elsewhere(self, path: Path, name: str) -> None:
        """A link to a file that has not come along."""
        with pikepdf.open(path, allow_overwriting_input=True) as pdf:
            action = pikepdf.Dictionary(S=pikepdf.Name.GoToR, F=pikepdf.String(name))
            link = pikepdf.Dictionary(
                Type=pikepdf.Name.Annot, Subtype=pikepdf.Name.Link, Rect=[60, 60, 200, 80], Border=[0, 0, 0], A=action
            )
            pdf.pages[0].Annots = pdf.make_indirect(pikepdf.Array([link]))
            pdf.save(path, deterministic_id=True)


def _brace(pen: Pen, at: Callable[[float, float], tuple[float, float]]) -> None:
    """A brace that nobody has clouded."""
    x0, y0 = at(1.2, 1.2)
    x1, y1 = at(1.8, 1.9)
    pen.line(x0, y0, x1, y1, 0.5)
    pen.text(x1 + 2, y1 + 2, "CHS 114 brace", 2.0)
