"""Who and what there is at the Brackwater Ferry Terminal."""

from __future__ import annotations

from dataclasses import dataclass

from nod.core.register.numbers import NumberField

PROJECT_NUMBER, PROJECT_NAME, TIME_ZONE = "BFT", "Brackwater Ferry Terminal", "Europe/London"

COMPANIES: tuple[tuple[str, str, str], ...] = (
    ("BHT", "Brackwater Harbour Trust", "client"),
    ("TRA", "Tallow Reed Architects", "lead designer"),
    ("PLS", "Plinthwork Structures", "consultant"),
    ("GME", "Gannet Marine Engineering", "consultant"),
    ("OHS", "Ohmfield Services", "consultant"),
    ("HBC", "Hollinbrook Contracting", "main contractor"),
    ("SGS", "Sparrowgate Steel", "subcontractor"),
    ("PFG", "Palefire Glazing", "subcontractor"),
    ("NFA", "Nettlecombe Fire Advice", "consultant"),
)

DISCIPLINES = {"A": "Architecture", "S": "Structure", "N": "Marine", "E": "Building services", "F": "Fire"}

NUMBER_FIELDS = [
    NumberField("project", {"BFT": "Brackwater Ferry Terminal"}),
    NumberField("originator", {code: name for code, name, _ in COMPANIES}),
    NumberField(
        "functional",
        {
            "Z1": "quay hall",
            "Z2": "north linkspan",
            "Z3": "south linkspan",
            "Z4": "boarding bridge",
            "Z5": "marshalling yard",
            "ZZ": "several zones",
        },
    ),
    NumberField(
        "spatial",
        {"00": "ground", "01": "level 1", "02": "level 2", "RF": "roof", "XX": "no level", "ZZ": "several levels"},
    ),
    NumberField(
        "form",
        {
            "D": "drawing",
            "S": "schedule",
            "C": "calculation",
            "R": "report",
            "P": "specification",
            "L": "letter",
        },
    ),
    NumberField("discipline", DISCIPLINES),
    NumberField("number", pattern=r"\d{4}", pattern_words="four figures"),
]


@dataclass(frozen=True)
class DemoPerson:
    key: str
    name: str
    company: str
    job: str
    roles: tuple[str, ...]
    outside: bool = False
    steward: bool = False
    left: bool = False

    @property
    def email(self) -> str:
        domain = {
            "HBC": "hollinbrook",
            "TRA": "tallowreed",
            "PLS": "plinthwork",
            "BHT": "brackwater",
            "SGS": "sparrowgate",
            "GME": "gannetmarine",
            "OHS": "ohmfield",
            "NFA": "nettlecombe",
            "PFG": "palefire",
        }
        return f"{self.key}@{domain[self.company]}.example"


PEOPLE: tuple[DemoPerson, ...] = (
    DemoPerson("marit", "Marit Osei", "HBC", "document controller", ("controller",)),
    DemoPerson("rafael", "Rafael Nwosu", "HBC", "project lead", ("lead",)),
    DemoPerson("tomasz", "Tomasz Adeyemi", "TRA", "document controller", ("controller",)),
    DemoPerson("saoirse", "Saoirse Tanaka", "TRA", "design lead", ("reviewer",)),
    DemoPerson("leilani", "Leilani Brandt", "PLS", "structural engineer", ("reviewer",)),
    DemoPerson("anouk", "Anouk Ferreira", "BHT", "client's engineer", ("reviewer",)),
    DemoPerson("yusuf", "Yusuf Haldane", "SGS", "workshop manager", (), outside=True),
    DemoPerson("ottilie", "Ottilie Vestergaard", "GME", "marine engineer", ("author",)),
    DemoPerson("paolo", "Paolo Marchetti", "OHS", "services engineer", ("author",)),
    DemoPerson("dede", "Dede Okonkwo", "NFA", "fire engineer", ("reviewer",)),
    DemoPerson("junpei", "Junpei Mori", "BHT", "harbour master's office", ("reader",)),
    DemoPerson("kwabena", "Kwabena Lindqvist", "HBC", "site foreman", ("reader",)),
    DemoPerson("ines", "Ines Carvalho", "HBC", "workspace steward", (), steward=True),
    DemoPerson("bronwen", "Bronwen Achebe", "PFG", "glazing designer", ("author",), left=True),
)

FOLDERS: tuple[tuple[str, ...], ...] = (
    ("Drawings",),
    ("Drawings", "Architecture"),
    ("Drawings", "Structure"),
    ("Drawings", "Marine"),
    ("Drawings", "Building services"),
    ("Drawings", "Fire"),
    ("Schedules",),
    ("Specifications",),
    ("Letters",),
    ("Reports",),
    ("Contractor only",),
    ("Contractor only", "Temporary works"),
    ("Issued to the site",),
)

FOLDER_OF_COMPANY = {
    "TRA": "Architecture",
    "PLS": "Structure",
    "GME": "Marine",
    "OHS": "Building services",
    "NFA": "Fire",
}

# Folder, whom, level: what differs from the roles' levels in the topmost folder.
GRANTS: tuple[tuple[str, str, str, str], ...] = (
    ("Contractor only", "everyone", "", "none"),
    ("Contractor only", "company", "HBC", "file"),
    ("Fire", "company", "NFA", "file"),
    ("Drawings", "person", "junpei", "none"),
    ("Marine", "person", "junpei", "read"),
    ("Marine", "role", "author", "file"),
    ("", "person", "kwabena", "none"),
    ("Issued to the site", "person", "kwabena", "mark"),
)
