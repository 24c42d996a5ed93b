"""What addresses of lists carry as JSON: read with the care that a body gets, as anybody may have written it."""

from __future__ import annotations

import json
from typing import Any

from nod.core.acts.plain_text import clean_all
from nod.core.acts.refusals import RuleBroken


def _damaged() -> RuleBroken:
    return RuleBroken("view_unknown", "This list cannot be shown: its address is damaged.")


def json_list(text: str) -> list[Any]:
    """None where it is empty. Raises RuleBroken for what is no list."""
    try:
        found = clean_all(json.loads(text or "[]"))
    except (ValueError, RecursionError) as error:
        raise _damaged() from error
    if not isinstance(found, list):
        raise _damaged()
    return found


def strings_in(text: str) -> tuple[str, ...]:
    """The same, of text alone."""
    found = json_list(text)
    if not all(isinstance(each, str) for each in found):
        raise _damaged()
    return tuple(found)
