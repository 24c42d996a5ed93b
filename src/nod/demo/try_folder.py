"""Puts a folder of files through a project of its own, as a controller would, and tells what became of each."""

from __future__ import annotations

import io
import tempfile
import time
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path

import pikepdf
from sqlalchemy import select

from nod.clock import Clock
from nod.core.acts.refusals import Refusal
from nod.core.intake.findings import OPEN_STATES
from nod.demo.people import Cast, set_up
from nod.formats.files.media_types import media_type
from nod.services.acts.context import Context, open_context
from nod.services.acts.work import Lane
from nod.services.intake import corrections, intake, intake_view, registering
from nod.services.intake.intake_view import Arrival
from nod.services.marks.mark_files import export_marks
from nod.services.marks.marks_in import take_in_marks
from nod.services.press.press import Press
from nod.settings import Settings
from nod.store.tables import ArrivalRow, MarkRow
from nod.worker import drain, handlers_with

_WHO = "marit"
_LANES = (Lane.LOOK, Lane.SCAN)
_NUMBER = "BFT-HBC-ZZ-ZZ-D-A-{:04d}"


@dataclass
class Tried:
    """What became of one file. `words` are those of its findings, `sure` and `unsure` count what was read of it.

    Marks are counted by kind: as Nod has them, and as annotations of the file that they are written out into.
    """

    name: str
    result: str = ""
    words: list[str] = field(default_factory=list)
    sure: int = 0
    unsure: int = 0
    marks_in: Counter[str] = field(default_factory=Counter)
    marks_told: list[str] = field(default_factory=list)
    marks_out: Counter[str] = field(default_factory=Counter)
    seconds: float = 0.0


def try_folder(folder: Path) -> Iterator[Tried]:
    """Each file by itself, in a new project that is gone afterwards; the order is that of their names."""
    with tempfile.TemporaryDirectory(prefix="nod-try-") as data:
        context = open_context(Settings(data_dir=Path(data), password_cost=1, demo=True), Clock())
        press = Press(2, context.settings.page_timeout_seconds)
        try:
            context.database.migrate()
            cast = set_up(context, ())
            for place, path in enumerate(sorted(each for each in folder.rglob("*") if each.is_file()), 1):
                begun = time.perf_counter()
                tried = _try(context, press, cast, path, place)
                tried.name, tried.seconds = str(path.relative_to(folder)), time.perf_counter() - begun
                yield tried
        finally:
            press.close()
            context.database.close()


def _try(context: Context, press: Press, cast: Cast, path: Path, place: int) -> Tried:
    actor, tried = cast.actor(_WHO), Tried(path.name)
    batch = intake.open_batch(context, actor, intake.OpenBatch(project_id=cast.project_id))
    try:
        with path.open("rb") as file:
            intake.add_file(context, actor, batch.id, path.name, iter(lambda: file.read(1024 * 1024), b""))
    except Refusal as refused:
        return Tried(path.name, "refused", [str(refused)])
    while drain(context, handlers_with(context, press), "try", *_LANES):
        pass
    shown = intake_view.read_batch(context, actor, batch.id).arrivals
    if not shown:
        return Tried(path.name, "nothing in it")
    read = [each for arrival in shown for each in arrival.witnesses if each.now]
    tried.unsure = sum(each.unsure for each in read)
    tried.sure = len(read) - tried.unsure
    _name(context, cast, batch.id, shown, place)
    arrivals = intake_view.read_batch(context, actor, batch.id).arrivals
    tried.words = sorted({each.words for arrival in arrivals for each in arrival.findings if each.weight != "fine"})
    seen = {each.id: each.version for each in arrivals if each.state in OPEN_STATES}
    outcomes = registering.register_batch(context, actor, batch.id, registering.RegisterBatch(seen=seen)).outcomes
    tried.result = ", ".join(f"{count} {what}" for what, count in Counter(each.result for each in outcomes).items())
    _marks(context, press, cast, path, tried)
    return tried


def _name(context: Context, cast: Cast, batch_id: str, arrivals: list[Arrival], place: int) -> None:
    """A number of the project for each that has none: what is tried is the file, not its name."""
    changes = []
    for at, each in enumerate(arrivals):
        if each.state in OPEN_STATES and each.weight == "stop":
            number = _NUMBER.format((place * 20 + at) % 10_000)
            values = {"number": number, "revision": "P01", "status": "S3", "title": each.file_name[:80]}
            changes.append(corrections.Correction(id=each.id, version=each.version, values=values, taken={}))
    if changes:
        command = corrections.CorrectArrivals(changes=changes)
        corrections.correct_arrivals(context, cast.actor(_WHO), batch_id, command)


def _marks(context: Context, press: Press, cast: Cast, path: Path, tried: Tried) -> None:
    """Those that the file has, taken in as marks, and written out again."""
    with path.open("rb") as file:
        if media_type(file.read(4096)) != "application/pdf":
            return
    actor = cast.actor(_WHO)
    revision = _revision(context, cast, path)
    if not revision:
        return
    try:
        taken = take_in_marks(context, press, actor, revision, path.name, [path.read_bytes()])
    except Refusal as refused:
        tried.marks_told = [] if refused.code == "marks_none" else [str(refused)]
        return
    with context.database.read() as session:
        kinds = select(MarkRow.kind).where(MarkRow.revision_id == revision)
        tried.marks_in = Counter(session.scalars(kinds))
    tried.marks_told = [f"{each.count} {each.words}" for each in taken.told]
    try:
        tried.marks_out = _annotations(export_marks(context, press, actor, revision, "pdf").content)
    except Refusal as refused:
        tried.marks_told.append(str(refused))


def _annotations(content: bytes) -> Counter[str]:
    """By subtype, those of a PDF that answer no other; fields and links are no marks."""
    found: Counter[str] = Counter()
    with pikepdf.open(io.BytesIO(content)) as pdf:
        for page in pdf.pages:
            for each in page.obj.get("/Annots", pikepdf.Array()):
                if "/IRT" not in each and each.get("/Subtype") not in ("/Widget", "/Link", "/Popup"):
                    found[str(each.get("/Subtype"))[1:]] += 1
    return found


def _revision(context: Context, cast: Cast, path: Path) -> str:
    with context.database.read() as session:
        query = select(ArrivalRow.revision_id).where(
            ArrivalRow.project_id == cast.project_id,
            ArrivalRow.file_name == path.name,
            ArrivalRow.revision_id.is_not(None),
        )
        return session.scalars(query.order_by(ArrivalRow.id.desc())).first() or ""


def lines_of(tried: Tried) -> Iterator[str]:
    """As they are printed."""
    read = f"{tried.sure} values read, {tried.unsure} unsure" if tried.sure or tried.unsure else "nothing read"
    yield f"{tried.name}: {tried.result or 'nothing to register'}, {read}, {tried.seconds:.1f} s"
    yield from (f"    {words}" for words in tried.words)
    if tried.marks_in or tried.marks_told:
        yield f"    marks in: {_counted(tried.marks_in)}; out: {_counted(tried.marks_out)}"
        yield from (f"        {words}" for words in tried.marks_told)


def _counted(kinds: Counter[str]) -> str:
    return ", ".join(f"{count} {kind}" for kind, count in sorted(kinds.items())) or "none"


def summary(all_tried: list[Tried]) -> str:
    results = Counter(each.result or "nothing to register" for each in all_tried)
    said = ", ".join(f"{count} × {result}" for result, count in results.most_common())
    marks = sum(each.marks_in.total() for each in all_tried)
    read = f"{sum(each.sure for each in all_tried)} values read, {sum(each.unsure for each in all_tried)} unsure"
    return (
        f"{len(all_tried)} files: {said}. {read}. {marks:,} marks in. {sum(each.seconds for each in all_tried):.0f} s."
    )
