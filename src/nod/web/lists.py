"""Lists that come as the raw body of a request: tried first, then kept."""

from __future__ import annotations

import json

from pydantic import Field

from nod.core.acts.refusals import RuleBroken
from nod.services.acts.answers import FromOutside
from nod.services.files.lists_in import ListAsked

LARGEST_BODY_BYTES = 21 * 1024**2


class ListQuery(FromOutside):
    """`columns` is JSON: field to place of its column from 0; empty to have them guessed by the row that names them.

    That row is `heads`, 0 to have it found; of a book `sheet` says which.
    """

    project_id: str
    columns: str = ""
    day_first: bool = True
    keep: bool = False
    sheet: str = ""
    heads: int = Field(default=0, ge=0)

    def asked(self) -> ListAsked:
        """Raises RuleBroken for columns that cannot be read."""
        return ListAsked(self.project_id, _columns(self.columns), self.day_first, self.keep, self.sheet, self.heads)


def _columns(said: str) -> dict[str, int] | None:
    if not said:
        return None
    try:
        found = json.loads(said)
    except ValueError as error:
        raise RuleBroken("columns_wanted", "The columns are not said in a way that can be read.") from error
    if not isinstance(found, dict) or not all(isinstance(at, int) for at in found.values()):
        raise RuleBroken("columns_wanted", "The columns are not said in a way that can be read.")
    return found
