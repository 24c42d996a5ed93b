"""The findings of a batch, always made from the register as it is now."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access.levels import Level
from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.intake import checks as rules
from nod.core.intake.file_names import alike, base_name
from nod.core.intake.findings import OPEN_STATES, Arriving, Finding, Registered
from nod.core.intake.renditions import Came, Together, kind_of, together
from nod.core.intake.witnesses import FIELDS, disagreements
from nod.core.register.columns import Column
from nod.core.register.in_force import MAY_RELEASE
from nod.core.register.revisions import Scheme
from nod.services.acts.projects import rules_of
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.services.compare.arrival_comparisons import Pair, compared_with, known_comparisons, pair_for, revisions_under
from nod.services.register.further_fields import further_columns, unfit
from nod.services.sheet.files_named import documents_with_files
from nod.store.tables import (
    ArrivalRow,
    BatchRow,
    BlobRow,
    ComparisonRow,
    DocumentRow,
    FormerNumberRow,
    PageRow,
    PersonRow,
    RenditionRow,
    RevisionRow,
    SessionRow,
    held_under,
)


@dataclass(frozen=True)
class Checked:
    """A row with its findings; `arriving` is None while its content is not known yet.

    `further` has the words of the fields beyond those of the witnesses.
    """

    row: ArrivalRow
    blob: BlobRow
    sheet_size: str
    arriving: Arriving | None
    findings: list[Finding]
    pair: Pair | None = None
    registered: Registered | None = None
    further: Mapping[str, str] = field(default_factory=dict)


def see_batch(session: Session, actor: Actor, batch_id: str) -> tuple[BatchRow, Seat]:
    """A batch is there for those who may file into its folder. Raises NotFound, or NotAllowed for lesser readers."""
    batch = session.get(BatchRow, batch_id)
    if batch is None:
        raise NotFound(batch_id)
    seat = take_seat(session, actor, batch.project_id)
    if seat.at(batch.folder_id) is Level.NONE:
        raise NotFound(batch_id)
    seat.need_at(batch.folder_id, Level.FILE, seat.project.name)
    return batch, seat


def see_arrival(session: Session, actor: Actor, arrival_id: str) -> tuple[ArrivalRow, BatchRow, Seat]:
    """Raises NotFound, or NotAllowed, as for its batch."""
    row = session.get(ArrivalRow, arrival_id)
    if row is None:
        raise NotFound(arrival_id)
    try:
        batch, seat = see_batch(session, actor, row.batch_id)
    except NotFound as hidden:
        raise NotFound(arrival_id) from hidden
    return row, batch, seat


def need_open(row: ArrivalRow) -> None:
    """Raises RuleBroken for a file that has left Intake."""
    if row.state not in OPEN_STATES:
        raise RuleBroken("arrival_gone", "This file has left Intake.", row.file_name)


def open_rows(session: Session, batch_id: str) -> list[ArrivalRow]:
    query = select(ArrivalRow).where(ArrivalRow.batch_id == batch_id, ArrivalRow.state.in_(OPEN_STATES))
    return list(session.scalars(query.order_by(ArrivalRow.place)))


def check_batch(session: Session, seat: Seat, rows: Sequence[ArrivalRow]) -> list[Checked]:
    """Findings for all rows in a fixed number of queries, as this seat may know them."""
    found = rules_of(seat.project)
    known = _Known(session, seat, rows)
    columns = further_columns(seat.project)
    heads = {name: column.head for name, column in columns.items()}
    stands = together(_came(row, known.blobs[row.sha256]) for row in rows)
    checked: dict[str, Checked] = {}
    # What goes with another file is stopped with it, so that one is looked at first.
    for row in sorted(rows, key=lambda row: stands[row.id].governs is not None):
        blob, size = known.blobs[row.sha256], known.sizes.get(row.sha256, "")
        register = known.register.get(row.number)
        hidden = register is not None and register.for_others
        beside = stands[row.id].governs
        arriving = _arriving(row, blob, size, stands[row.id], known, columns)
        if beside:
            stopped = rules.is_stopped(checked[beside.id].findings)
            arriving = replace(arriving, goes_with=beside.file_name, goes_with_stopped=stopped)
        pair = None if hidden or beside or _is_of_another_kind(arriving, register) else known.pair(found.scheme, row)
        if pair:
            row_known = known.compared(session).get((pair.before, pair.after, pair.strict))
            arriving = replace(arriving, compared=compared_with(pair, row_known))
        may = register.may_release if register else known.may_release[row.batch_id]
        arriving = replace(arriving, may_release=may)
        findings = rules.check(arriving, register, found)
        known_now = arriving if blob.state == "known" else None
        checked[row.id] = Checked(row, blob, size, known_now, findings, pair, register, heads)
    return [checked[row.id] for row in rows]


def _came(row: ArrivalRow, blob: BlobRow) -> Came:
    return Came(row.id, row.number, row.revision, blob.media_type, row.file_name)


def _is_of_another_kind(arriving: Arriving, register: Registered | None) -> bool:
    """The register has the revision, and no such file of it."""
    held = register.renditions.get(arriving.revision, {}) if register else {}
    return bool(held) and arriving.kind not in held


class _Known:
    """What the findings of a batch are made from, fetched for all its rows at once."""

    def __init__(self, session: Session, seat: Seat, rows: Sequence[ArrivalRow]) -> None:
        hashes = {row.sha256 for row in rows}
        numbers = {row.number for row in rows if row.number}
        blobs = session.scalars(select(BlobRow).where(BlobRow.sha256.in_(hashes)))
        self.blobs = {blob.sha256: blob for blob in blobs}
        first_pages = select(PageRow.sha256, PageRow.size_name).where(PageRow.sha256.in_(hashes), PageRow.place == 0)
        self.sizes = {row.sha256: row.size_name for row in session.execute(first_pages)}
        troubles = select(PageRow.sha256, PageRow.trouble).where(PageRow.sha256.in_(hashes), PageRow.trouble != "")
        self.troubles = {sha256: trouble for sha256, trouble in session.execute(troubles)}
        self.register = _registered(session, seat, numbers)
        self.held = revisions_under(session, seat.project.id, numbers)
        self.renamed = _renamed(session, seat, numbers)
        self.missing = _missing(session, seat, rows, self.blobs)
        batches = select(BatchRow.id, BatchRow.folder_id).where(BatchRow.id.in_({row.batch_id for row in rows}))
        self.may_release = {id: seat.at(folder) >= MAY_RELEASE for id, folder in session.execute(batches)}
        self._hashes = hashes
        self._compared: dict[tuple[str, str, bool], ComparisonRow] | None = None

    def pair(self, scheme: Scheme, row: ArrivalRow) -> Pair | None:
        return pair_for(self.held, scheme, row)

    def compared(self, session: Session) -> dict[tuple[str, str, bool], ComparisonRow]:
        if self._compared is None:
            self._compared = known_comparisons(session, self._hashes)
        return self._compared


def _missing(
    session: Session, seat: Seat, rows: Sequence[ArrivalRow], blobs: dict[str, BlobRow]
) -> dict[str, tuple[str, ...]]:
    """By file, the names it refers to that neither came in the same batch nor are in the register for this seat."""
    named = {blob.sha256: blob.contents.get("references", ()) for blob in blobs.values()}
    wanted = {name for names in named.values() for name in names}
    if not wanted:
        return {}
    came = select(ArrivalRow.file_name).where(ArrivalRow.batch_id.in_({row.batch_id for row in rows}))
    there = {alike(base_name(name)) for name in session.scalars(came)}
    there |= documents_with_files(session, seat, wanted).keys()
    left = {sha256: tuple(each for each in names if alike(each) not in there) for sha256, names in named.items()}
    return {sha256: names for sha256, names in left.items() if names}


def _out_with(session: Session, seat: Seat, document: DocumentRow) -> str:
    """Who else has it checked out; empty for nobody and for oneself."""
    if document.checked_out_by in ("", seat.eyes.person_id):
        return ""
    return session.get_one(PersonRow, document.checked_out_by).name


def _in_session(session: Session, document: DocumentRow) -> str:
    """The session that it is checked out to, with its host; empty for none."""
    if not document.checked_out_session:
        return ""
    held = session.get_one(SessionRow, document.checked_out_session)
    return f"{held.number}, hosted by {session.get_one(PersonRow, held.host_id).name}"


def _renamed(session: Session, seat: Seat, numbers: set[str]) -> dict[str, str]:
    """Numbers that documents had before, with what they are now, as far as these may be seen."""
    query = (
        select(FormerNumberRow.number, DocumentRow.number)
        .join(DocumentRow, DocumentRow.id == FormerNumberRow.document_id)
        .where(FormerNumberRow.project_id == seat.project.id, FormerNumberRow.number.in_(numbers))
    )
    return dict(session.execute(query.where(seat.sees(DocumentRow.folder_id))).all())


def _arriving(
    row: ArrivalRow, blob: BlobRow, size: str, stands: Together, known: _Known, columns: Mapping[str, Column]
) -> Arriving:  # fmt: skip
    printed = {field: str(each.get("value", "")) for field, each in row.by_block.items()}
    return Arriving(
        number=row.number,
        revision=row.revision,
        status=row.status,
        title=row.title,
        scale=row.scale,
        sha256=row.sha256,
        fault="bad_archive" if row.unpack_trouble else blob.fault,
        fault_words=row.unpack_trouble or blob.fault_words,
        page_size=size,
        has_text=blob.has_text or blob.state != "known",
        active_content=tuple(blob.active_content.split("; ")) if blob.active_content else (),
        twins_in_batch=stands.twins,
        can_look=blob.page_count > 0 or blob.state != "known",
        media_type=blob.media_type,
        file_name=row.file_name,
        disagreements=tuple(disagreements(row.by_name, printed, row.chosen)),
        block_trouble=_block_trouble(row),
        read_as=next((str(each["reader_of"]) for each in row.by_block.values() if each.get("reader_of")), ""),
        sheets_inside=row.sheets_inside,
        page_trouble=known.troubles.get(row.sha256, ""),
        ocr=blob.ocr,
        missing=known.missing.get(row.sha256, ()),
        renamed_to=known.renamed.get(row.number, ""),
        unfit=unfit(columns, row.fields) if row.fields else {},
        kind=kind_of(blob.media_type, row.file_name),
        as_history=row.as_history,
        came_with=stands.kinds,
    )


def _block_trouble(row: ArrivalRow) -> str:
    """A reader is there for this size and could not read what the file name does not say either."""
    unread = [
        field
        for field, each in row.by_block.items()
        if not each["value"] and field in FIELDS and not getattr(row, field)
    ]
    return f"The title block reader found no {' and no '.join(unread)}." if unread else ""


def _registered(session: Session, seat: Seat, numbers: set[str]) -> dict[str, Registered]:
    """What is held under these numbers; of a document that may not be seen or revised, only that it is not for them."""
    query = (
        select(DocumentRow, RevisionRow, BlobRow.media_type)
        .join(RevisionRow, RevisionRow.document_id == DocumentRow.id)
        .join(BlobRow, BlobRow.sha256 == RevisionRow.sha256)
        .where(held_under(seat.project.id, numbers))
    )
    found: dict[str, Registered] = {}
    files: dict[str, dict[str, dict[str, str]]] = {}
    further = _further_files(session, seat, numbers)
    for document, revision, media_type in session.execute(query):
        if seat.at(document.folder_id) < Level.FILE:
            found[document.number] = Registered("", "", "", {}, for_others=True)
            continue
        of_document = files.setdefault(document.number, {})
        of_revision = of_document.setdefault(revision.code, {})
        of_revision[kind_of(media_type, revision.file_name)] = revision.sha256
        of_revision |= further.get(revision.id, {})
        known = found.setdefault(document.number, _held_line(session, seat, document, of_document))
        known.revisions[revision.code] = revision.sha256
    return found


def _held_line(
    session: Session, seat: Seat, document: DocumentRow, files: dict[str, dict[str, str]]
) -> Registered:  # fmt: skip
    return Registered(
        document.title, document.revision, document.sheet_size, {}, scale=document.scale, status=document.status,
        out_with=_out_with(session, seat, document), in_session=_in_session(session, document),
        withdrawn_why=document.withdrawn_why if document.withdrawn else "", renditions=files,
        in_force=document.in_force, may_release=seat.at(document.folder_id) >= MAY_RELEASE,
    )  # fmt: skip


def _further_files(session: Session, seat: Seat, numbers: set[str]) -> dict[str, dict[str, str]]:
    """By revision, the hash of each of its files that do not govern, by kind."""
    query = (
        select(RenditionRow)
        .join(RevisionRow, RevisionRow.id == RenditionRow.revision_id)
        .join(DocumentRow, DocumentRow.id == RevisionRow.document_id)
        .where(held_under(seat.project.id, numbers))
    )
    found: dict[str, dict[str, str]] = {}
    for row in session.scalars(query):
        found.setdefault(row.revision_id, {})[row.kind] = row.sha256
    return found
