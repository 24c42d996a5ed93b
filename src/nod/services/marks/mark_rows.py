"""Marks as rows of the database, read so that no row can keep the others of its sheet from being seen."""

from __future__ import annotations

from nod.core.marks.stored_marks import StoredShape, read_shape
from nod.store.tables import MarkRow


def shape_of(row: MarkRow) -> StoredShape:
    """Never raises, whatever has come to be stored; a pin stands for what cannot be drawn."""
    return read_shape(row.kind, row.points, row.rings, row.look)
