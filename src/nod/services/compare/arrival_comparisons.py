"""Comparing an arrived drawing with what the register holds: asked for once a number is known, done by the worker."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.access.audiences import for_folders
from nod.core.compare.laid import Box, ComparedPages
from nod.core.intake.block_readers import Zone
from nod.core.intake.findings import ComparedWith
from nod.core.register import revisions
from nod.core.register.revisions import Scheme
from nod.core.sheet.placed_words import size_seen_mm
from nod.formats.sheet.pdf_look import CannotDraw
from nod.services.acts.arrived_files import of_file
from nod.services.acts.context import Context
from nod.services.acts.projects import rules_of
from nod.services.acts.work import Job, Lane, work
from nod.services.compare.kept_leaves import KeptLeaf, borrowed
from nod.services.press.press import PressCrashed, PressStopped
from nod.services.sheet.title_blocks import box_of, readers_of
from nod.store import journal
from nod.store.tables import (
    ArrivalRow,
    BatchRow,
    BlobRow,
    ComparisonRow,
    DocumentRow,
    PageRow,
    ProjectRow,
    RevisionRow,
    held_under,
)

_MOST_PAGES = 60
_AROUND_MM = 2.0
_BLAMED_AT = 3
_OPEN = ("waiting", "held")


@dataclass(frozen=True)
class Pair:
    """Two files to lay over each other. `strict`: both claim to be the same revision."""

    before: str
    after: str
    strict: bool
    revision: str


def pair_for(number_held: dict[str, tuple[str, dict[str, str]]], scheme: Scheme, row: ArrivalRow) -> Pair | None:
    """With what a row is to be compared. `number_held`: number → current code and code → SHA-256."""
    if row.number not in number_held:
        return None
    current, held = number_held[row.number]
    if row.revision in held:
        same = held[row.revision] == row.sha256
        return None if same else Pair(held[row.revision], row.sha256, True, row.revision)
    old, new = revisions.parse(scheme, current), revisions.parse(scheme, row.revision)
    if old is None or new is None or new < old or held[current] == row.sha256:
        return None
    return Pair(held[current], row.sha256, False, current)


def revisions_under(session: Session, project_id: str, numbers: set[str]) -> dict[str, tuple[str, dict[str, str]]]:
    query = (
        select(DocumentRow.number, DocumentRow.revision, RevisionRow.code, RevisionRow.sha256)
        .join(RevisionRow, RevisionRow.document_id == DocumentRow.id)
        .where(held_under(project_id, numbers))
    )
    found: dict[str, tuple[str, dict[str, str]]] = {}
    for number, current, code, sha256 in session.execute(query):
        found.setdefault(number, (current, {}))[1][code] = sha256
    return found


def ask(session: Session, at: datetime, project: ProjectRow, rows: Sequence[ArrivalRow]) -> None:
    """Has every pair compared that is not known yet; one that is known for other zones is compared anew."""
    held = revisions_under(session, project.id, {row.number for row in rows if row.number})
    if not held:
        return
    scheme = rules_of(project).scheme
    zones = _left_out_by_reader(session, project.id)
    for row in rows:
        pair = pair_for(held, scheme, row)
        if pair and _both_known(session, pair):
            _ask_pair(session, at, pair, [] if pair.strict else zones.get(row.reader_id, []))


def _both_known(session: Session, pair: Pair) -> bool:
    blobs = [session.get_one(BlobRow, sha256) for sha256 in (pair.before, pair.after)]
    return all(b.state == "known" and not b.fault and b.page_count for b in blobs)


def _ask_pair(session: Session, at: datetime, pair: Pair, left_out: list[list[Any]]) -> None:
    digest = hashlib.sha256(json.dumps(left_out, sort_keys=True).encode()).hexdigest()[:12]
    key = (pair.before, pair.after, pair.strict)
    row = session.get(ComparisonRow, key)
    if row is not None and row.result.get("asked") == digest:
        return
    if row is None:
        row = ComparisonRow(before_sha256=pair.before, after_sha256=pair.after, strict=pair.strict, asked_at=at)
        session.add(row)
    row.state, row.result = "waiting", {"asked": digest}
    session.flush()
    payload = {"before": pair.before, "after": pair.after, "strict": pair.strict, "left_out": left_out, "asked": digest}
    journal.ask(session, at, "compare", f"compare:{pair.before}:{pair.after}:{pair.strict:d}:{digest}", payload)


def ask_revisions(session: Session, at: datetime, before: str, after: str) -> None:
    """Has a revision compared with the one before it, unless it has been, in Intake or since."""
    pair = Pair(before, after, False, "")
    if before != after and session.get(ComparisonRow, (before, after, False)) is None and _both_known(session, pair):
        _ask_pair(session, at, pair, [])


def _left_out_by_reader(session: Session, project_id: str) -> dict[str, list[list[Any]]]:
    """What a title block says changes with every revision, so its zones and their frames are no changed places.

    By reader: corner, across, down, width, height in millimetres.
    """
    found: dict[str, list[list[Any]]] = {}
    for reader in readers_of(session, project_id):
        for z in reader.zones:
            wide, high = z.width_mm + 2 * _AROUND_MM, z.height_mm + 2 * _AROUND_MM
            place = [z.corner, z.across_mm - _AROUND_MM, z.down_mm - _AROUND_MM, wide, high]
            found.setdefault(reader.id, []).append(place)
    return found


@work("compare", Lane.LOOK, "comparing the drawings", of_file, shared=True)
def compare_files(job: Job, payload: dict[str, Any]) -> None:
    """Page by page; what cannot be compared says so in words."""
    context = job.context
    key = (payload["before"], payload["after"], payload["strict"])
    with context.database.read() as session:
        before, after = (_sheets(session, sha256) for sha256 in key[:2])
        extras = _extras(session, key[0]) == _extras(session, key[1])
    result: dict[str, Any] = {"asked": payload["asked"], "pages": [len(before), len(after)], "same_extras": extras}
    try:
        result["compared"] = [_compared(job, old, new, payload) for old, new in zip(before, after, strict=False)]
    except PressCrashed:
        if job.tries < _BLAMED_AT:
            raise
        result["fault"] = "a page brings the reading to a stop."
    except (PressStopped, CannotDraw):
        result["fault"] = "a page takes too long or cannot be drawn."
    _keep(context, key, result)


def _compared(job: Job, old: _Seen, new: _Seen, payload: dict[str, Any]) -> dict[str, Any]:
    job.go_on()
    left_out = _places(payload["left_out"], new[1])
    with borrowed(job.context, old[0], new[0]) as leaves:
        return _plain(job.press.compare(*leaves, left_out, strict=payload["strict"]))


_Seen = tuple[KeptLeaf, tuple[float, float]]


def _sheets(session: Session, sha256: str) -> list[_Seen]:
    """The first pages with their size in millimetres."""
    rows = session.scalars(select(PageRow).where(PageRow.sha256 == sha256).order_by(PageRow.place).limit(_MOST_PAGES))
    return [(KeptLeaf(sha256, row.place, row.user_unit), size_seen_mm(box_of(row), row.user_unit)) for row in rows]


def _places(left_out: list[list[Any]], size: tuple[float, float]) -> tuple[Box, ...]:
    return tuple(Zone("", *place).on(size) for place in left_out)


def _extras(session: Session, sha256: str) -> list[Any]:
    """What a file holds beside its drawing: layers, scripts, annotations, links, scales."""
    blob = session.get_one(BlobRow, sha256)
    pages = session.scalars(select(PageRow.contents).where(PageRow.sha256 == sha256).order_by(PageRow.place))
    return [blob.contents.get("layers"), blob.contents.get("active"), list(pages)]


def _plain(found: ComparedPages) -> dict[str, Any]:
    changes = found.compared.changes
    return {
        "changes": [{"box": [round(value, 2) for value in each.box], "clouded": each.clouded} for each in changes],
        "moved": found.compared.moved,
        "share": round(found.compared.share, 4),
        "too_many": found.compared.too_many,
        "size_mm": [round(side, 2) for side in found.size_mm],
        "same_words": found.same_words,
    }


def _keep(context: Context, key: tuple[str, str, bool], result: dict[str, Any]) -> None:
    """A comparison that was asked for anew meanwhile is left to the later one."""
    with context.database.write() as session:
        row = session.get_one(ComparisonRow, key)
        if row.result.get("asked") != result["asked"]:
            return
        row.state, row.result = "known", result
        of_after = select(ArrivalRow.batch_id).where(ArrivalRow.sha256 == key[1], ArrivalRow.state.in_(_OPEN))
        for batch in session.scalars(select(BatchRow).where(BatchRow.id.in_(of_after))):
            journal.tell(
                session, context.clock.now(), batch.project_id, "intake", batch.id, for_folders(batch.folder_id), by=""
            )


def known_comparisons(session: Session, hashes: set[str]) -> dict[tuple[str, str, bool], ComparisonRow]:
    """All comparisons in which these files come second."""
    query = select(ComparisonRow).where(ComparisonRow.after_sha256.in_(hashes))
    return {(row.before_sha256, row.after_sha256, row.strict): row for row in session.scalars(query)}


_ANOTHER = 0.6


def compared_with(pair: Pair, row: ComparisonRow | None) -> ComparedWith:
    """What the findings need to know of a comparison."""
    if row is None or row.state != "known":
        return ComparedWith(pair.revision)
    result = row.result
    pages = result.get("compared", [])
    changes = [change for page in pages for change in page["changes"]]
    return ComparedWith(
        revision=pair.revision,
        known=True,
        fault=result.get("fault", ""),
        places=len(changes),
        bare=sum(1 for change in changes if not change["clouded"]),
        same_words=all(page["same_words"] for page in pages),
        same_extras=result["same_extras"],
        other_drawing=any(page["too_many"] or page["share"] > _ANOTHER for page in pages),
        pages=(result["pages"][0], result["pages"][1]),
    )
