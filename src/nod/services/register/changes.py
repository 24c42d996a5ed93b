"""Changing documents in the list: one cell or a column over many lines, in one act that can be taken back."""

from __future__ import annotations

from typing import Any

from pydantic import Field
from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.register.columns import FIELD, Column, Kind
from nod.core.register.typed_values import check_value
from nod.core.trail.entries import Fact, FactKind, Subject, changed
from nod.services.access.folders import folders_above
from nod.services.access.visibility import refuse_copy
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting, check_version
from nod.services.acts.seats import Actor, Seat, too_low
from nod.services.register.copies_kept import follow_home
from nod.services.register.finding_words import gather_words
from nod.services.register.in_force import refresh_in_force
from nod.services.register.register_list import columns_of
from nod.services.register.releases import check_status, put_status
from nod.store.dialects.sqlite import one_of, unindexed
from nod.store.tables import (
    CompanyRow,
    DocumentRow,
    DocumentValueRow,
    FolderRow,
    RevisionRow,
)

MOST_CHANGES = 5000


class DocumentChange(Command):
    """New values of one document by the keys of columns; a folder by its id. What is left out stays."""

    id: str
    version: int
    values: dict[str, str] = Field(default_factory=dict)


class ChangeDocuments(Command):
    project_id: str
    changes: list[DocumentChange]


class Changed(Answered):
    """`undo` are the changes that would take these back."""

    undo: list[DocumentChange]


def change_documents(context: Context, actor: Actor, command: ChangeDocuments) -> Changed:
    """All or none. Raises NotAllowed for a column that needs more access, RuleBroken for a value that does not fit."""
    with acting(context, actor) as act:
        seat = act.enter(command.project_id, Level.FILE)
        if len(command.changes) > MOST_CHANGES:
            raise RuleBroken("too_many_changes", f"At most {MOST_CHANGES:,} documents are changed at once.")
        changing = _Changing(act, seat, command.changes)
        undo = [changing.one(each) for each in command.changes]
        refresh_in_force(act, seat.project, changing.restated)
        for folder in sorted(changing.folders):
            act.tell(command.project_id, "register", folder, {folder})
        return Changed(undo=[each for each in undo if each.values])


class _Changing:
    """What stays the same over all documents of one act."""

    def __init__(self, act: Act, seat: Seat, changes: list[DocumentChange]) -> None:
        self.act, self.seat = act, seat
        ids = [each.id for each in changes]
        query = select(DocumentRow).where(
            unindexed(DocumentRow.project_id) == seat.project.id, one_of(DocumentRow.id, ids)
        )
        self.rows = {row.id: row for row in act.session.scalars(query)}
        # Read at once, and held, so that they need not be asked for one by one.
        of_revision = any(not {"status", "purpose"}.isdisjoint(each.values) for each in changes)
        current = [row.revision_id for row in self.rows.values()] if of_revision else []
        self.revisions = list(act.session.scalars(select(RevisionRow).where(one_of(RevisionRow.id, current))))
        self.columns = columns_of(seat.project)
        rules = seat.project.rules
        self.codes: dict[str, set[str]] = {
            "discipline": set(rules["disciplines"]),
            "status": set(rules["statuses"]),
            "originator": set(act.session.scalars(select(CompanyRow.code))),
        }
        self.folders: set[str] = set()
        self.restated: set[str] = set()

    def one(self, change: DocumentChange) -> DocumentChange:
        """Returns what would take it back."""
        row = self.rows.get(change.id)
        if row is None or self.seat.at(row.folder_id) is Level.NONE:
            raise NotFound(change.id)
        refuse_copy(row)
        values = {key: self._checked(row, key, value) for key, value in change.values.items()}
        check_version(change.version, row.version, row.number)
        was = {key: self._value(row, key) for key in values}
        before, after = changed(was, values)
        if after:
            self.folders.add(row.folder_id)
            for key, value in after.items():
                self._set(row, key, value)
            self.folders.add(row.folder_id)
            row.version += 1
            self._record(row, before, after)
        return DocumentChange(id=row.id, version=row.version, values=before)

    def _checked(self, row: DocumentRow, key: str, value: str) -> str:
        column = self.columns.get(key)
        if column is None or column.change is Level.NONE:
            raise RuleBroken("column_fixed", "This column cannot be changed in the list.", key)
        if self.seat.at(row.folder_id) < column.change:
            raise too_low(column.change, row.number)
        if key == "folder":
            return self._target(value)
        if key == "title" and not value.strip():
            raise RuleBroken("title_wanted", "A document keeps a title.", row.number)
        codes = set(column.choices) if column.choices else self.codes.get(key, set())
        plain = check_value(column, value, codes)
        if key == "status":
            revision = self.act.session.get_one(RevisionRow, row.revision_id)
            about = f"{row.number} {row.revision}"
            check_status(self.act.session, self.seat.project, revision, about, plain)
        if column.folder_id and plain:
            self._check_field_here(row, column)
        return plain

    def _target(self, folder_id: str) -> str:
        folder = self.act.session.get(FolderRow, folder_id)
        if folder is None or folder.project_id != self.seat.project.id:
            raise NotFound(folder_id)
        self.seat.need_at(folder_id, Level.FILE, folder.name)
        return folder_id

    def _check_field_here(self, row: DocumentRow, column: Column) -> None:
        if column.folder_id not in folders_above(self.act.session, row.folder_id):
            name = self.act.session.get_one(FolderRow, column.folder_id).name
            raise RuleBroken("field_elsewhere", f"{column.head} is a field of the folder {name} and below.", row.number)

    def _value(self, row: DocumentRow, key: str) -> str:
        if key == "folder":
            return row.folder_id
        if key.startswith(FIELD):
            kept = self.act.session.get(DocumentValueRow, (row.seq, key.removeprefix(FIELD)))
            return kept.value if kept else ""
        return str(getattr(row, key))

    def _set(self, row: DocumentRow, key: str, value: str) -> None:
        if key == "folder":
            row.folder_id = value
            follow_home(self.act, row)
        elif key.startswith(FIELD):
            set_value(self.act.session, row, self.columns[key], value)
        elif key == "status":
            revision = self.act.session.get_one(RevisionRow, row.revision_id)
            put_status(self.act, self.seat.project, row, revision, value)
            self.restated.add(row.id)
        else:
            setattr(row, key, value)
            if key == "purpose":
                self.act.session.get_one(RevisionRow, row.revision_id).purpose = value

    def _record(self, row: DocumentRow, before: dict[str, Any], after: dict[str, Any]) -> None:
        moved = "folder" in after
        if moved:
            before, after = dict(before), dict(after)
            for side in (before, after):
                side["folder"] = self.act.session.get_one(FolderRow, side["folder"]).name
        before, after = ({self._name(key): value for key, value in side.items()} for side in (before, after))
        kind = FactKind.DOCUMENT_MOVED if moved and len(after) == 1 else FactKind.DOCUMENT_CHANGED
        subjects = (Subject("revision", row.revision_id),)
        fact = Fact(kind, Subject("document", row.id), row.number, subjects, before, after)
        self.act.record(row.project_id, fact)

    def _name(self, key: str) -> str:
        return self.columns[key].head.lower() if key.startswith(FIELD) else key


def set_value(session: Session, row: DocumentRow, column: Column, value: str) -> None:
    """Keep a typed field's value; empty takes it away."""
    put_value(session, row, column, value)
    gather_words(session, row)


def put_value(session: Session, row: DocumentRow, column: Column, value: str) -> None:
    """As `set_value`, for several in a row: the words by which the document is found have to be gathered after."""
    field = column.key.removeprefix(FIELD)
    session.execute(delete(DocumentValueRow).where(DocumentValueRow.seq == row.seq, DocumentValueRow.field == field))
    if value:
        number = float(value) if column.kind is Kind.NUMBER else None
        session.add(DocumentValueRow(seq=row.seq, field=field, value=value, number=number))
    session.flush()


def need_free(row: DocumentRow, actor: Actor) -> None:
    """Raises RuleBroken while somebody else has it checked out, or a session."""
    if row.checked_out_session:
        words = f"{row.number} is checked out to a session. Take it out of the session, or close that."
        raise RuleBroken("in_a_session", words, row.number)
    if row.checked_out_by not in ("", actor.person_id):
        raise RuleBroken("checked_out", f"{row.number} is checked out by somebody else.", row.number)
