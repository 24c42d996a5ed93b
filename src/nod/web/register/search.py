"""Finding anything, over HTTP."""

from __future__ import annotations

from pydantic import Field

from nod.services.acts.answers import FromOutside
from nod.services.register import search as searching
from nod.services.register.search import Found
from nod.web.answers import answers, feature
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
