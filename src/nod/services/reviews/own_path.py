"""The path that a review goes: its route's, with other people where that is allowed, or one written for it alone."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from sqlalchemy import select

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.core.reviews.path import Path
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.context import Act
from nod.services.acts.seats import Seat
from nod.services.notices.notices import Notice, tell_person
from nod.services.reviews.paths import NamedGiven, StageGiven, path_given, path_kept, whom_named
from nod.services.reviews.review_rows import LoadedReview
from nod.services.reviews.roster import ProjectRoster
from nod.services.reviews.route_checks import check_may_start, check_route, check_verdicts_there, people_of
from nod.services.things.things import who_may_know
from nod.store.dialects.sqlite import put_unless_there
from nod.store.tables import FollowRow, PersonRow, RouteRow

ONE_OFF = "a path of its own"


@dataclass(frozen=True)
class Chosen:
    """`route` is None for a path of its own; `name` is how the review calls the path it went."""

    path: Path
    name: str
    route: RouteRow | None


def choose_path(act: Act, seat: Seat, route_id: str, stages: Sequence[StageGiven]) -> Chosen:
    """Raises NotFound for a route that is not there, RuleBroken for one that is retired and a path that cannot work.

    NotAllowed for a route that others start, and for changing what is not one's to change.
    """
    route = _route(act, seat, route_id) if route_id else None
    if not stages:
        if route is None:
            raise NotFound(route_id)
        path = path_kept(route.stages)
        check_verdicts_there(ProjectRoster(act.session, seat.project), path, route.name)
        return Chosen(path, route.name, route)
    path = path_given(list(stages))
    check_route(ProjectRoster(act.session, seat.project), path, route.name if route else "")
    if route is None:
        if not seat.runs:
            raise NotAllowed("not_running", "A path of its own is written by leads and controllers.")
        return Chosen(path, ONE_OFF, None)
    kept = path_kept(route.stages)
    if path == kept:
        return Chosen(kept, route.name, route)
    if not seat.runs:
        _check_change(route, kept, path)
    return Chosen(path, f"{route.name}, changed", route)


def _route(act: Act, seat: Seat, route_id: str) -> RouteRow:
    route = act.session.get(RouteRow, route_id)
    if route is None or route.project_id != seat.project.id:
        raise NotFound(route_id)
    if route.retired_at:
        raise RuleBroken("route_retired", f"The route {route.name} is retired. Choose another.", route.name)
    if not check_may_start(act.session, seat, act.actor, route):
        raise NotAllowed("not_your_route", f"The route {route.name} is for others to start.", route.name)
    return route


def _check_change(route: RouteRow, kept: Path, path: Path) -> None:
    """Whoever starts may put other people in, where the route says so, and change nothing else."""
    if not route.may_change:
        words = f"The route {route.name} is gone as it stands. A lead or controller can change it for one review."
        raise NotAllowed("route_fixed", words, route.name)
    if _without_people(kept) != _without_people(path):
        words = f"On the route {route.name} the people can be changed, and nothing else."
        raise NotAllowed("route_fixed", words, route.name)


def _without_people(path: Path) -> Path:
    return tuple(replace(stage, steps=tuple(replace(step, whom=()) for step in stage.steps)) for stage in path)


def tell_others(act: Act, seat: Seat, loaded: LoadedReview, tell: Sequence[NamedGiven], message: str) -> int:
    """Who else should know: each is told now, and follows the review. Returns how many.

    Raises RuleBroken for somebody who is not there; whoever may not see all of its documents is left out.
    """
    roster = ProjectRoster(act.session, seat.project)
    named = whom_named(list(tell))
    if any(not words for words in roster.words(named).values()):
        raise RuleBroken("teller_unknown", "Somebody who should know is not there any more.", loaded.row.name)
    review = loaded.row
    about = [Subject("review", review.id)]
    may = who_may_know(act.session, seat.project.id, people_of(roster, named), about)
    people = [each for each in people_of(roster, named) if each in may]
    text = [
        f"{act.actor.name} has started {review.number} {review.name}, and wanted you told.",
        *(["", message] if message else []), "", "You follow it, and hear of what is decided.",
    ]  # fmt: skip
    for person_id in people:
        row = {
            "person_id": person_id, "kind": "review", "target": review.id, "project_id": seat.project.id,
            "since_at": act.at,
        }  # fmt: skip
        put_unless_there(act.session, FollowRow, "person_id", "kind", "target", **row)
        subject = f"{seat.project.number}: started · {review.number} {review.name}"
        notice = Notice(
            f"started:{review.id}:{person_id}", subject, text, f"/reviews/{review.id}", about, act.actor.name
        )
        tell_person(act, seat.project, "filed", person_id, notice, may=may)
    if people:
        names = act.session.scalars(select(PersonRow.name).where(PersonRow.id.in_(people)).order_by(PersonRow.name))
        name = f"{review.number} {review.name}"
        fact = Fact(FactKind.FOLLOW_BEGUN, Subject("review", review.id), name, after={"for": list(names)})
        act.record(seat.project.id, fact)
    return len(people)
