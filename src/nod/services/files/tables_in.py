"""A table that somebody sends, read from the pieces it comes in."""

from __future__ import annotations

import tempfile
from collections.abc import Iterable
from pathlib import Path

from nod.core.acts.refusals import RuleBroken
from nod.formats.files.spreadsheet import BrokenTable, Table, read_table
from nod.services.acts.context import Context

LARGEST_BYTES = 20 * 1024 * 1024


def table_in(context: Context, chunks: Iterable[bytes], *, whole: bool = False, sheet: str = "") -> Table:
    """XLSX or CSV. Raises RuleBroken for one that is larger than 20 MB, and in words for one that is no table.

    `whole` and `sheet`: see `read_table`.
    """
    with tempfile.TemporaryDirectory(dir=context.settings.data_dir) as aside:
        path, size = Path(aside) / "table", 0
        with path.open("wb") as file:
            for chunk in chunks:
                size += len(chunk)
                if size > LARGEST_BYTES:
                    raise RuleBroken("file_too_large", "The list is larger than 20 MB.")
                file.write(chunk)
        try:
            return read_table(path, whole=whole, sheet=sheet)
        except BrokenTable as error:
            raise RuleBroken("table_broken", str(error)) from error
