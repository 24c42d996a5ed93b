"""What stands around the register at Brackwater: fields, drawing sets, promises, a view, a document checked out."""

from __future__ import annotations

from datetime import timedelta

from nod.demo.sheet_list import SHEETS
from nod.demo.story import Stage, at
from nod.services.files.lists_in import ListAsked
from nod.services.register import changes as changing
from nod.services.register import check_outs, drawing_sets, planned_list, saved_views
from nod.services.register.changes import ChangeDocuments, DocumentChange
from nod.services.register.drawing_sets import MakeSet, SetSheets
from nod.services.register.saved_views import KeepView
from nod.services.setup import setup, setup_view
from nod.services.setup.setup_view import TypedField

_PACKAGES = ("Substructure", "Frame", "Envelope", "Services", "Marine works")
_PACKAGE_OF = {"A": "Envelope", "S": "Frame", "E": "Services", "N": "Marine works"}
# Number, title, days from today.
_PROMISED = (
    ("BFT-TRA-Z1-02-D-A-0103", "Quay hall, level 2 plan", -1),
    ("BFT-TRA-Z1-ZZ-D-A-0190", "Quay hall, door details", -6),
    ("BFT-TRA-Z1-ZZ-D-A-0195", "Quay hall, facade sections", 9),
    ("BFT-TRA-Z5-00-D-A-0151", "Marshalling yard, levels", -3),
    ("BFT-GME-Z3-XX-D-N-0311", "South linkspan, piles", -8),
    ("BFT-GME-Z3-XX-D-N-0312", "South linkspan, fenders", 14),
    ("BFT-OHS-Z1-02-D-E-0402", "Quay hall, level 2 lighting", 6),
    ("BFT-OHS-Z4-01-D-E-0441", "Boarding bridge, controls", 20),
    ("BFT-NFA-Z1-02-D-F-0502", "Quay hall, level 2 escape", -2),
    ("BFT-PLS-Z4-ZZ-D-S-0241", "Boarding bridge, connections", 3),
)


@at(-12, 9, 30)
def promises(stage: Stage) -> None:
    """What each company has promised, taken in as the list it came as."""
    lines = ["Document number;Title;Planned"]
    for place, sheet in enumerate(SHEETS):
        lines.append(f"{sheet.number};{sheet.title};{stage.today - timedelta(days=24 - place % 12)}")
    lines += [f"{number};{title};{stage.today + timedelta(days=days)}" for number, title, days in _PROMISED]
    asked = ListAsked(stage.cast.project_id, None, day_first=True, keep=True)
    planned_list.read_list(stage.context, stage.cast.actor("marit"), asked, ["\n".join(lines).encode()])


@at(-3, 9, 0)
def fields(stage: Stage) -> None:
    """Two fields of the project, and most of their values."""
    rafael, project_id = stage.cast.actor("rafael"), stage.cast.project_id
    version = setup_view.read_setup(stage.context, rafael, project_id).version
    wanted = [
        TypedField(name="Package", kind="choice", choices=list(_PACKAGES)),
        TypedField(name="Needed on site", kind="date", choices=[]),
    ]
    setup.set_fields(stage.context, rafael, project_id, setup.SetFields(version=version, fields=wanted))
    package, needed = (f"field:{each.id}" for each in setup_view.read_setup(stage.context, rafael, project_id).fields)
    changes = []
    for place, row in enumerate(stage.documents("BFT-")):
        values = {package: _PACKAGE_OF[row.discipline]} if row.discipline in _PACKAGE_OF else {}
        if row.discipline in "SN":
            values[needed] = (stage.today + timedelta(days=30 + 7 * (place % 16))).isoformat()
        changes.append(DocumentChange(id=row.id, version=row.version, values=values))
    changing.change_documents(
        stage.context, stage.cast.actor("marit"), ChangeDocuments(project_id=project_id, changes=changes)
    )


@at(-3, 9, 20)
def sets(stage: Stage) -> None:
    """An issue and a package."""
    marit = stage.cast.actor("marit")
    for name, prefixes, days in (
        ("Stage 4, quay hall", ("BFT-TRA-Z1", "BFT-PLS-Z1", "BFT-NFA"), 18),
        ("Linkspan piling", ("BFT-GME",), 25),
    ):
        on = stage.today + timedelta(days=days)
        made = drawing_sets.make_set(stage.context, marit, MakeSet(project_id=stage.cast.project_id, name=name, on=on))
        ids = [row.id for prefix in prefixes for row in stage.documents(prefix)]
        drawing_sets.set_sheets(stage.context, marit, made.id, SetSheets(version=1, documents=ids))


@at(-3, 9, 40)
def views(stage: Stage) -> None:
    """One view for everybody."""
    content = {
        "group": "discipline",
        "columns": [["number", 0], ["title", 0], ["revision", 0], ["status", 0], ["verdict", 0], ["due_on", 0]],
    }
    command = KeepView(project_id=stage.cast.project_id, name="By discipline", shared=True, content=content)
    saved_views.keep_view(stage.context, stage.cast.actor("marit"), command)


@at(-1, 15, 0)
def check_out(stage: Stage) -> None:
    """Somebody works on a sheet."""
    (row,) = stage.documents("BFT-OHS-Z4-01")
    command = check_outs.CheckOut(version=row.version, note="Adding the supply of the gangway")
    check_outs.check_out(stage.context, stage.cast.actor("paolo"), row.id, command)
