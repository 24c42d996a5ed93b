"""A table that is taken away, as XLSX or CSV."""

from __future__ import annotations

import tempfile
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path

from nod.formats.files.spreadsheet import Value, write_csv, write_xlsx
from nod.services.acts.context import Context

MEDIA = {
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    "csv": "text/csv; charset=utf-8",
    "pdf": "application/pdf",
}


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


def write_table(
    target: Path, form: str, heads: Sequence[str], widths: Sequence[int], rows: Iterable[Sequence[Value]]
) -> None:  # fmt: skip
    if form == "csv":
        target.write_text(write_csv(heads, rows), encoding="utf-8")
    else:
        write_xlsx(target, heads, widths, rows)
