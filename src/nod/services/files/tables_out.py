"""A table that is taken away, as XLSX or CSV."""

from __future__ import annotations

import tempfile
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path
from zoneinfo import ZoneInfo

from nod.core.acts.refusals import RuleBroken
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.formats.files.spreadsheet import Value, write_csv, write_xlsx
from nod.services.acts.context import Context, acting, today_in
from nod.services.acts.seats import Actor

MEDIA = {
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    "csv": "text/csv; charset=utf-8",
    "pdf": "application/pdf",
}


MOST_LOGGED = 20_000


@dataclass(frozen=True)
class Exported:
    content: bytes
    name: str
    media_type: str


def table_out(
    context: Context, stem: str, form: str, heads: Sequence[tuple[str, int]], rows: Iterable[Sequence[Value]]
) -> Exported:
    """`heads` with their widths in pixels; `form` is `xlsx` or `csv`."""
    names = [head for head, _ in heads]
    with tempfile.TemporaryDirectory(dir=context.settings.data_dir) as aside:
        target = Path(aside) / "table"
        write_table(target, form, names, [width for _, width in heads], rows)
        return Exported(target.read_bytes(), f"{stem}.{form}", MEDIA[form])


@dataclass(frozen=True)
class LogAsked:
    """A log of a project that is taken: `things` are what it has `total` of, `kind` is the entry of its taking."""

    project_id: str
    things: str
    kind: FactKind
    total: int
    form: str


def log_out(
    context: Context, actor: Actor, log: LogAsked, heads: Sequence[tuple[str, int]],
    rows: Callable[[ZoneInfo], Iterable[Sequence[Value]]],
) -> Exported:  # fmt: skip
    """Recorded before it is made; `rows`, with times in the project's zone, are read outside of that act.

    Raises RuleBroken for more than goes into one file.
    """
    if log.total > MOST_LOGGED:
        words = f"The log has {log.total:,} {log.things}; at most {MOST_LOGGED:,} go into one file."
        raise RuleBroken("list_large", words)
    with acting(context, actor) as act:
        project = act.enter(log.project_id).project
        stem = f"{project.number} {log.things} {today_in(project, act.at).isoformat()}"
        after = {"lines": log.total, "as": log.form}
        act.record(project.id, Fact(log.kind, Subject("project", project.id), project.name, after=after))
        zone = ZoneInfo(project.time_zone)
    return table_out(context, stem, log.form, heads, rows(zone))


def write_table(
    target: Path, form: str, heads: Sequence[str], widths: Sequence[int], rows: Iterable[Sequence[Value]]
) -> None:  # fmt: skip
    if form == "csv":
        target.write_text(write_csv(heads, rows), encoding="utf-8")
    else:
        write_xlsx(target, heads, widths, rows)
