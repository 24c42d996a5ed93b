"""Finding anything, over HTTP."""

from __future__ import annotations

from pydantic import Field

from nod.services import searching
from nod.services.answers import FromOutside
from nod.services.searching import Found
from nod.web.answering import answers, feature
from nod.web.guard import actor, context, permission

api = feature("search")


class SearchQuery(FromOutside):
    project_id: str
    words: str = ""
    limit: int = Field(default=8, ge=1, le=50)


@api.get("/api/search", responses=answers(Found))
@permission("member")
def search(query: SearchQuery) -> Found:
    """Documents, sheets and marks with these words."""
    return searching.search(context(), actor(), query.project_id, query.words, query.limit)
