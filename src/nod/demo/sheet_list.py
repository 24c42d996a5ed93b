"""Every sheet of the Brackwater Ferry Terminal: number, title, how it is drawn, and its revisions."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class DemoSheet:
    """`kind` is how it is drawn; `revisions` lists the codes with their status, oldest first."""

    number: str
    title: str
    kind: str
    size: str
    revisions: tuple[tuple[str, str], ...]
    scale: str = "1:100"


P1, P2, P3 = ("P01", "S3"), ("P02", "S3"), ("P03", "S4")
_ONE, _TWO, _THREE = (P1,), (P1, P2), (P1, P2, P3)

_ARCHITECTURE = (
    DemoSheet("BFT-TRA-Z1-00-D-A-0100", "Quay hall, ground floor plan", "plan 00", "A1", _THREE),
    DemoSheet("BFT-TRA-Z1-01-D-A-0101", "Quay hall, level 1 plan", "plan 01", "A1", _TWO),
    DemoSheet("BFT-TRA-Z1-RF-D-A-0102", "Quay hall, roof plan", "roof", "A1", _ONE),
    DemoSheet("BFT-TRA-Z1-00-D-A-0104", "Quay hall, ground floor ceilings", "ceiling 00", "A1", _ONE),
    DemoSheet("BFT-TRA-Z1-01-D-A-0105", "Quay hall, level 1 ceilings", "ceiling 01", "A1", _ONE),
    DemoSheet("BFT-TRA-ZZ-00-D-A-0120", "Site plan", "site", "A1", _TWO, "1:500"),
    DemoSheet("BFT-TRA-Z4-01-D-A-0140", "Boarding bridge, plan", "bridge plan", "A3", _ONE),
    DemoSheet("BFT-TRA-Z5-00-D-A-0150", "Marshalling yard, booths plan", "booths", "A3", _ONE, "1:50"),
    DemoSheet("BFT-TRA-Z5-ZZ-D-A-0152", "Marshalling yard, booth sections", "booth sections", "A3", _ONE, "1:50"),
    DemoSheet("BFT-TRA-Z1-ZZ-D-A-0160", "Quay hall, section A", "section A", "A1", _TWO),
    DemoSheet("BFT-TRA-Z1-ZZ-D-A-0161", "Quay hall, section B", "section B", "A1", _ONE),
    DemoSheet("BFT-TRA-Z1-ZZ-D-A-0164", "Quay hall, north and south elevations", "long faces", "A1", _ONE),
    DemoSheet("BFT-TRA-Z1-ZZ-D-A-0165", "Quay hall, east and west elevations", "short faces", "A1", _ONE),
    DemoSheet("BFT-TRA-Z4-ZZ-D-A-0142", "Boarding bridge, elevations", "bridge elevations", "A3", _ONE),
    DemoSheet("BFT-TRA-Z1-ZZ-D-A-0180", "Quay hall, outer wall details", "wall", "A1", _TWO, "1:20"),
    DemoSheet("BFT-TRA-Z1-RF-D-A-0181", "Quay hall, parapet and gutter details", "roof edge", "A1", _ONE, "1:10"),
    DemoSheet("BFT-TRA-Z1-ZZ-D-A-0182", "Quay hall, stair 1 details", "stair", "A1", _ONE, "1:20"),
    DemoSheet("BFT-TRA-Z1-00-D-A-0183", "Quay hall, wash rooms", "wash rooms", "A3", _ONE, "1:50"),
    DemoSheet("BFT-TRA-Z1-ZZ-D-A-0184", "Quay hall, curtain wall details", "glazing", "A1", _ONE, "1:2"),
    DemoSheet("BFT-TRA-Z1-ZZ-S-A-0185", "Quay hall, all doors", "doors", "A1", _TWO, "none"),
    DemoSheet("BFT-TRA-Z1-ZZ-S-A-0186", "Quay hall, room finishes", "finishes", "A1", _ONE, "none"),
)
_STRUCTURE = (
    DemoSheet("BFT-PLS-Z1-00-D-S-0200", "Quay hall, foundation layout", "foundations", "A1", _TWO),
    DemoSheet("BFT-PLS-Z1-01-D-S-0201", "Quay hall, level 1 framing", "frame", "A1", _TWO),
    DemoSheet("BFT-PLS-Z1-RF-D-S-0202", "Quay hall, roof framing", "frame", "A1", _ONE),
    DemoSheet("BFT-PLS-Z1-ZZ-D-S-0220", "Quay hall, frame on line A", "frame along", "A1", _TWO),
    DemoSheet("BFT-PLS-Z1-ZZ-D-S-0221", "Quay hall, frame on line 1", "frame across", "A1", _ONE),
    DemoSheet("BFT-PLS-Z1-00-D-S-0222", "Quay hall, column bases", "plates", "A1", _ONE, "1:10"),
    DemoSheet("BFT-PLS-Z1-ZZ-D-S-0223", "Quay hall, steel connections", "connections", "A1", _ONE, "1:10"),
    DemoSheet("BFT-PLS-ZZ-XX-D-S-0224", "Quay wall, section and bars", "retaining wall", "A1", _TWO, "1:20"),
    DemoSheet("BFT-PLS-Z1-ZZ-S-S-0230", "Quay hall, columns of the frame", "columns", "A1", _TWO, "none"),
    DemoSheet("BFT-PLS-Z1-00-S-S-0231", "Quay hall, caps of the piles", "caps", "A3", _ONE, "none"),
    DemoSheet("BFT-PLS-Z4-ZZ-D-S-0240", "Boarding bridge, truss elevation", "truss", "A3", _ONE),
)
_MARINE = (
    DemoSheet("BFT-GME-Z2-XX-D-N-0300", "North linkspan, general arrangement", "linkspan", "A1", _ONE),
    DemoSheet("BFT-GME-Z2-XX-D-N-0301", "North linkspan, piles", "pile plan", "A1", _ONE),
    DemoSheet("BFT-GME-Z2-XX-D-N-0302", "North linkspan, cross section", "cross section", "A1", _ONE, "1:50"),
    DemoSheet("BFT-GME-Z2-XX-D-N-0303", "North linkspan, landward hinge", "hinge", "A1", _TWO, "1:10"),
    DemoSheet("BFT-GME-Z2-XX-D-N-0304", "North linkspan, hydraulic schematic", "hydraulic", "A1", _TWO, "none"),
    DemoSheet("BFT-GME-Z3-XX-D-N-0310", "South linkspan, general arrangement", "linkspan", "A1", _ONE),
    DemoSheet("BFT-GME-Z3-XX-D-N-0313", "South linkspan, cross section", "cross section", "A1", _ONE, "1:50"),
    DemoSheet("BFT-GME-ZZ-XX-D-N-0320", "Fender units", "fender", "A1", _ONE, "1:20"),
    DemoSheet("BFT-GME-ZZ-XX-D-N-0321", "Mooring layout", "moorings", "A1", _ONE, "1:500"),
    DemoSheet("BFT-GME-ZZ-XX-D-N-0322", "Dredging profiles", "sea bed", "A1", _ONE, "1:250"),
    DemoSheet("BFT-GME-Z2-XX-S-N-0330", "North linkspan, pile schedule", "piles", "A1", _TWO, "none"),
)
_SERVICES = (
    DemoSheet("BFT-OHS-Z1-00-D-E-0400", "Quay hall, ground floor lighting", "lighting 00", "A1", _ONE),
    DemoSheet("BFT-OHS-Z1-01-D-E-0401", "Quay hall, level 1 lighting", "lighting 01", "A1", _ONE),
    DemoSheet("BFT-OHS-Z1-00-D-E-0410", "Quay hall, ground floor power", "power 00", "A1", _ONE),
    DemoSheet("BFT-OHS-Z1-01-D-E-0411", "Quay hall, level 1 power", "power 01", "A1", _ONE),
    DemoSheet("BFT-OHS-Z1-00-D-E-0420", "Quay hall, ground floor ventilation", "ventilation 00", "A1", _TWO),
    DemoSheet("BFT-OHS-Z1-01-D-E-0421", "Quay hall, level 1 ventilation", "ventilation 01", "A1", _ONE),
    DemoSheet("BFT-OHS-ZZ-ZZ-D-E-0430", "Low voltage schematic", "low voltage", "A1", _TWO, "none"),
    DemoSheet("BFT-OHS-ZZ-ZZ-D-E-0431", "Fire alarm schematic", "fire alarm", "A1", _ONE, "none"),
    DemoSheet("BFT-OHS-ZZ-ZZ-D-E-0432", "Drainage schematic", "drainage", "A1", _ONE, "none"),
    DemoSheet("BFT-OHS-ZZ-ZZ-D-E-0433", "Ventilation and smoke control schematic", "air", "A1", _ONE, "none"),
    DemoSheet("BFT-OHS-Z4-01-D-E-0440", "Boarding bridge, power", "low voltage", "A3", _ONE, "none"),
    DemoSheet("BFT-OHS-ZZ-ZZ-S-E-0450", "Luminaires", "luminaires", "A3", _ONE, "none"),
)
_FIRE = (
    DemoSheet("BFT-NFA-Z1-00-D-F-0500", "Quay hall, ground floor escape", "escape 00", "A1", _ONE),
    DemoSheet("BFT-NFA-Z1-01-D-F-0501", "Quay hall, level 1 escape", "escape 01", "A1", _ONE),
    DemoSheet("BFT-NFA-Z1-00-D-F-0510", "Quay hall, ground floor compartments", "compartments 00", "A1", _ONE),
    DemoSheet("BFT-NFA-Z1-01-D-F-0511", "Quay hall, level 1 compartments", "compartments 01", "A1", _ONE),
    DemoSheet("BFT-NFA-Z1-02-D-F-0512", "Quay hall, level 2 compartments", "compartments 02", "A1", _ONE),
)
SHEETS: tuple[DemoSheet, ...] = _ARCHITECTURE + _STRUCTURE + _MARINE + _SERVICES + _FIRE
