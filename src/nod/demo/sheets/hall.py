"""The quay hall itself: its rooms, doors and levels, as each revision of the architect's plans has them. Metres."""

from __future__ import annotations

from dataclasses import dataclass, replace

WIDE, DEEP, BAY = 54.0, 30.0, 6.0
FLOORS = {"00": 5.2, "01": 9.8, "02": 14.0, "RF": 18.2}
"""Finished levels, in metres above chart datum."""
ROWS = "ABCDEF"


Change = tuple[int, float, float, float, float]
"""Revision and the place of what it changed: x, y, wide, deep."""


@dataclass(frozen=True)
class Room:
    number: str
    name: str
    x: float
    y: float
    wide: float
    deep: float
    use: str = "office"
    fire: str = "none"

    @property
    def area(self) -> float:
        return (self.wide - 0.15) * (self.deep - 0.15)

    @property
    def middle(self) -> tuple[float, float]:
        return self.x + self.wide / 2, self.y + self.deep / 2


@dataclass(frozen=True)
class Door:
    """Begins at (x, y); `turn` in quarters against the clock from a door along x that opens towards +y."""

    tag: str
    x: float
    y: float
    turn: int
    width_mm: int
    fire: str = "none"

    @property
    def leaf(self) -> str:
        return "double" if self.width_mm > 1300 else "single"


@dataclass(frozen=True)
class Floor:
    level: str
    rooms: tuple[Room, ...]
    doors: tuple[Door, ...]
    changed: tuple[Change, ...] = ()

    def room(self, number: str) -> Room:
        return next(each for each in self.rooms if each.number == number)


def _core(level: str, names: dict[str, str]) -> tuple[Room, ...]:
    """What lies at the back on every level: stairs, lift, riser and the rooms between."""
    parts = (
        ("05", "Passage", 0, 18, 54, 2.4, "passage", "none"), ("06", "Stair 1", 0, 20.4, 6, 9.6, "stair", "EI 60"),
        ("07", "Lift", 6, 20.4, 3, 3.6, "lift", "EI 60"), ("08", "Riser", 6, 24, 3, 6, "riser", "EI 60"),
        ("09", "Staff", 9, 20.4, 7, 9.6, "office", "none"), ("10", "Office", 16, 20.4, 8, 9.6, "office", "none"),
        ("11", "WC women", 24, 20.4, 5, 9.6, "wc", "none"),
        ("12", "WC men", 29, 20.4, 5, 9.6, "wc", "none"),
        ("13", "WC accessible", 34, 20.4, 3, 4.4, "wc", "none"), ("14", "Cleaner", 34, 24.8, 3, 5.2, "store", "EI 30"),
        ("15", "Plant room", 37, 20.4, 11, 9.6, "plant", "EI 60"),
        ("16", "Stair 2", 48, 20.4, 6, 9.6, "stair", "EI 60"),
    )  # fmt: skip
    return tuple(
        Room(f"{level}.{number}", names.get(number, name), x, y, wide, deep, use, fire)
        for number, name, x, y, wide, deep, use, fire in parts
    )


def _core_doors(level: str) -> tuple[Door, ...]:
    at = {"06": (2.2, 1500, "EI 30"), "07": (6.9, 1200, "none"), "09": (10, 1010, "none"), "10": (17, 1010, "none"),
          "11": (25.4, 885, "none"), "12": (30.4, 885, "none"), "13": (34.6, 1010, "none"), "15": (40, 1800, "EI 60"),
          "16": (50.2, 1500, "EI 30")}  # fmt: skip
    doors = [Door(f"D-{level[1]}{room}", x, 20.4, 0, width, fire) for room, (x, width, fire) in at.items()]
    return (*doors, Door(f"D-{level[1]}14", 37, 27, 1, 885, "EI 30"))


def floor(level: str, revision: int) -> Floor:
    """A level as a revision of the plan, counted from 0, has it."""
    return {"00": _ground, "01": _first, "02": _second}[level](revision)


def _ground(revision: int) -> Floor:
    rooms = [
        Room("00.01", "Ticket hall", 0, 0, 18, 18, "hall"),
        Room("00.02", "Waiting lounge", 18, 0, 18, 18, "lounge"),
        Room("00.03", "Baggage", 36, 0, 18, 12, "baggage", "EI 30"),
        Room("00.04", "Passport control", 36, 12, 18, 6, "control"),
        *_core("00", {"10": "Ticket office", "09": "Staff" if revision < 1 else "Crew room"}),
    ]
    moved = 5.4 if revision < 1 else 3.6
    doors = [
        Door("D-001", 2.4, 0, 0, 2400), Door("D-002", 8.4, 0, 0, 2400), Door("D-021", 25.8, 0, 0, 2400),
        Door("D-003", 36, moved, 1, 1500 if revision < 1 else 1800, "EI 30"), Door("D-031", 41, 0, 0, 3000),
        Door("D-022", 18, 13.2, 1, 1800), Door("D-023", 18, 4.2, 1, 1800), Door("D-004", 36, 14.4, 1, 1800),
        Door("D-051", 9, 18, 0, 1800), Door("D-052", 26.4, 18, 0, 1800), Door("D-053", 44, 18, 0, 1800),
        *_core_doors("00"),
    ]  # fmt: skip
    changed: list[Change] = [(1, 34.4, 3, 3.6, 5), (1, 9.4, 24, 6.2, 2.2), (1, -3.8, 5.2, 1.4, 13.8)]
    if revision >= 1:
        rooms.append(Room("00.17", "Kiosk", 0, 13.2, 4.8, 4.8, "store", "EI 30"))
        doors.append(Door("D-017", 4.8, 14.2, 1, 1010))
        changed.append((1, -0.4, 12.8, 6.8, 5.4))
    if revision >= 2:
        rooms = [each for each in rooms if each.number not in ("00.13", "00.14")]
        rooms.append(Room("00.13", "WC and changing", 34, 20.4, 3, 9.6, "wc"))
        doors = [each for each in doors if each.tag != "D-014"]
        changed += [(2, 33.4, 20, 4.4, 10.2), (2, 20, 9.6, 14, 2.4)]
    return Floor("00", tuple(rooms), tuple(doors), tuple(changed))


def _first(revision: int) -> Floor:
    wall = 42.0 if revision < 1 else 40.5
    rooms = [
        Room("01.01", "Upper lounge", 0, 0, 30, 18, "lounge"), Room("01.02", "Café", 30, 0, wall - 30, 12, "cafe"),
        Room("01.03", "Kitchen", wall, 0, 54 - wall, 12, "plant", "EI 60"),
        Room("01.04", "Gate to the bridge" if revision < 1 else "Boarding gate", 30, 12, 24, 6, "control"),
        *_core("01", {"09": "Meeting", "13": "Store", "15": "Control room"}),
    ]  # fmt: skip
    doors = [
        Door("D-101", 30, 14, 1, 2400), Door("D-102", 34, 12, 0, 1800), Door("D-103", wall, 6, 1, 1010, "EI 60"),
        Door("D-104", 54, 14, 1, 2400, "EI 30"), Door("D-151", 9, 18, 0, 1800), Door("D-152", 44, 18, 0, 1800),
        *_core_doors("01"),
    ]  # fmt: skip
    changed: list[Change] = [(1, 29.6, -0.4, 25, 12.6), (1, 38, 12.6, 9, 5), (1, 33, -4, 16, 1.3)]
    if revision >= 1:
        doors.append(Door("D-105", 46, 12, 0, 1010))
    return Floor("01", tuple(rooms), tuple(doors), tuple(changed))


def _second(_: int) -> Floor:
    names = {"09": "Harbour master", "10": "Vessel traffic", "15": "Server room", "13": "Store"}
    rooms = (
        Room("02.01", "Roof terrace", 0, 0, 30, 18, "terrace"), Room("02.02", "Plant deck", 30, 0, 24, 18, "plant"),
        *(replace(each, fire="EI 30") if each.use == "office" else each for each in _core("02", names)),
    )  # fmt: skip
    doors = (Door("D-201", 12, 18, 0, 1800), Door("D-202", 38, 18, 0, 1800, "EI 60"), *_core_doors("02"))
    return Floor("02", rooms, doors)
