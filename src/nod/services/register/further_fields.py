"""Values beyond the five that witnesses speak of: read off the title block or typed in Intake, kept at filing."""

from __future__ import annotations

from collections.abc import Mapping

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import RuleBroken
from nod.core.intake.findings import HISTORY
from nod.core.intake.witnesses import FIELDS
from nod.core.register.columns import FIELD, OFF_THE_SHEET, Column, field_columns
from nod.core.register.typed_values import check_value
from nod.services.access.folders import folders_above
from nod.services.register.changes import put_value
from nod.services.register.finding_words import gather_words
from nod.store.tables import ArrivalRow, DocumentRow, DocumentValueRow, ProjectRow


def further_columns(project: ProjectRow) -> dict[str, Column]:
    """The columns that a zone can fill, by the name of the zone's field; typed fields by their key."""
    return {**OFF_THE_SHEET, **{column.key: column for column in field_columns(project.rules["fields"])}}


def value_of(row: ArrivalRow, field: str) -> str:
    """What a file would be filed with now."""
    if field == HISTORY:
        return "yes" if row.as_history else ""
    return str(getattr(row, field)) if field in FIELDS else str(row.fields.get(field, ""))


def unfit(columns: Mapping[str, Column], fields: Mapping[str, str]) -> dict[str, str]:
    """Why a value cannot be kept, by field; fields that the project has no more are not among them."""
    found = {}
    for field, value in fields.items():
        if field in columns:
            try:
                check_value(columns[field], value, columns[field].choices or ())
            except RuleBroken as broken:
                found[field] = broken.words
    return found


def keep_fields(
    session: Session, project: ProjectRow, document: DocumentRow, fields: Mapping[str, str]
) -> dict[str, str]:
    """What fits is kept; returns it by the words of its column.

    What a sheet says of itself goes with its revision, so that without a new value there is none. Other fields stay.
    """
    columns = further_columns(project)
    left_out = unfit(columns, fields)
    above = folders_above(session, document.folder_id) if fields else ()
    query = select(DocumentValueRow.field, DocumentValueRow.value).where(DocumentValueRow.seq == document.seq)
    held = dict(session.execute(query).all())
    kept, moved = {}, False
    for field, column in columns.items():
        given = "" if field in left_out else fields.get(field, "")
        if not (given or field in OFF_THE_SHEET) or (column.folder_id and column.folder_id not in above):
            continue
        value = check_value(column, given, column.choices or ())
        if value:
            kept[column.head.lower()] = value
        if value != held.get(column.key.removeprefix(FIELD), ""):
            put_value(session, document, column, value)
            moved = True
    if moved:
        gather_words(session, document)
    return kept
