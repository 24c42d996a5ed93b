"""Reviews over HTTP, for members."""

from __future__ import annotations

import io
from typing import Literal

from flask import Response, send_file
from pydantic import Field, RootModel

from nod.services.acts.answers import Answered, FromOutside, Who
from nod.services.files.tables_out import MEDIA
from nod.services.reviews import (
    absences,
    asking_outside,
    before_start,
    begun,
    changing,
    comment_files,
    comment_sheet,
    comments,
    log,
    on_sheet,
    ready_route,
    reminding,
    review_record,
    reviews,
    reviews_view,
    route_editing,
    routes_view,
    starting,
)
from nod.services.reviews.absences import Absences, AbsenceShown, SetAbsence
from nod.services.reviews.asking_outside import AskResponses
from nod.services.reviews.before_start import CheckStart, StartChecked
from nod.services.reviews.begun import BegunShown, KeepBegun
from nod.services.reviews.changing import CancelReview, EndStep, HandOn, PutIn, RecallReview, SwapIn
from nod.services.reviews.comment_files import ResponsesTaken
from nod.services.reviews.comment_sheet import CommentSheet
from nod.services.reviews.comments import ActOnComment, AddComment
from nod.services.reviews.log import AskedLog, ReviewLog
from nod.services.reviews.on_sheet import SheetPart
from nod.services.reviews.ready_route import MakeReadyRoute, RouteMade
from nod.services.reviews.reminding import Reminded, RemindNow
from nod.services.reviews.reviews import HandIn
from nod.services.reviews.reviews_view import Review
from nod.services.reviews.route_editing import MakeRoute, RouteTried, SeenRoute, TryRoute, WriteRoute
from nod.services.reviews.routes_view import RouteShown
from nod.services.reviews.starting import ReviewStarted, StartReview
from nod.web.answers import answers, feature, file_answers
from nod.web.bodies import body_pieces, raw_body
from nod.web.guard import actor, context, permission, press
from nod.web.reviews.log import Narrowed

api = feature("reviews")


TAKEN_AS = (MEDIA["xlsx"], MEDIA["pdf"])


class CommentPath(FromOutside):
    comment_id: str


class TakenAs(FromOutside):
    form: Literal["xlsx", "pdf"] = "xlsx"


class OfProject(FromOutside):
    project_id: str


class WhichRoutes(OfProject):
    retired: bool = False


class RoutePath(FromOutside):
    route_id: str


class ReviewPath(FromOutside):
    review_id: str


class StepPath(ReviewPath):
    step_id: str


class LogQuery(Narrowed):
    start: int = Field(default=0, ge=0, le=1_000_000)
    limit: int = Field(default=100, ge=1, le=500)


class RevisionPath(FromOutside):
    revision_id: str


class BegunAnswers(RootModel[list[BegunShown]]):
    pass


class SheetParts(RootModel[list[SheetPart]]):
    pass


class FirstOpen(Answered):
    """Empty where nothing is asked of one."""

    revision_id: str


class AbsencePath(FromOutside):
    absence_id: str


class Newcomers(RootModel[list[Who]]):
    pass


class Routes(RootModel[list[RouteShown]]):
    pass


@api.get("/api/reviews", responses=answers(ReviewLog))
@permission("read")
def list_reviews(query: LogQuery) -> ReviewLog:
    """The log of reviews: running ones first, the soonest due on top."""
    return log.list_log(context(), actor(), AskedLog(**query.model_dump()))


@api.get("/api/routes", responses=answers(Routes))
@permission("member")
def list_routes(query: WhichRoutes) -> list[RouteShown]:
    """The routes of the project with their dates, were they begun now."""
    return routes_view.list_routes(context(), actor(), query.project_id, retired=query.retired)


@api.post("/api/routes", responses=answers(RouteMade))
@permission("run")
def make_ready_route(body: MakeReadyRoute) -> RouteMade:
    """Make the ready route from names: comments, then a verdict."""
    return ready_route.make_ready_route(context(), actor(), body)


@api.post("/api/routes/written", responses=answers(RouteMade))
@permission("run")
def make_route(body: MakeRoute) -> RouteMade:
    """Make a route, step by step."""
    return route_editing.make_route(context(), actor(), body)


@api.post("/api/routes/tried", responses=answers(RouteTried))
@permission("run")
def try_route(body: TryRoute) -> RouteTried:
    """When its steps would end, and what cannot work."""
    return route_editing.try_route(context(), actor(), body)


@api.put("/api/routes/<route_id>", responses=answers())
@permission("run")
def change_route(path: RoutePath, body: WriteRoute) -> None:
    """Change a route; reviews that run keep theirs."""
    route_editing.change_route(context(), actor(), path.route_id, body)


@api.post("/api/routes/<route_id>/retire", responses=answers())
@permission("run")
def retire_route(path: RoutePath, body: SeenRoute) -> None:
    """Nobody starts on it any more."""
    route_editing.retire_route(context(), actor(), path.route_id, body)


@api.post("/api/routes/<route_id>/bring-back", responses=answers())
@permission("run")
def bring_route_back(path: RoutePath, body: SeenRoute) -> None:
    """A retired route is in use again."""
    route_editing.bring_route_back(context(), actor(), path.route_id, body)


@api.post("/api/reviews/remind", responses=answers(Reminded))
@permission("mark")
def remind_now(body: RemindNow) -> Reminded:
    """Remind all who are asked in these reviews and have not answered."""
    return reminding.remind_now(context(), actor(), body)


@api.get("/api/absences", responses=answers(Absences))
@permission("member")
def list_absences(query: OfProject) -> Absences:
    """Who is away, today and to come, and who could stand in."""
    return absences.list_absences(context(), actor(), query.project_id)


@api.post("/api/absences", responses=answers(AbsenceShown))
@permission("member")
def set_absence(body: SetAbsence) -> AbsenceShown:
    """Somebody is away, and another stands in."""
    return absences.set_absence(context(), actor(), body)


@api.delete("/api/absences/<absence_id>", responses=answers())
@permission("member")
def remove_absence(path: AbsencePath) -> None:
    """They are back."""
    absences.remove_absence(context(), actor(), path.absence_id)


@api.post("/api/reviews", responses=answers(ReviewStarted))
@permission("file")
def start_review(body: StartReview) -> ReviewStarted:
    """Send documents on a route."""
    return starting.start_review(context(), actor(), body)


@api.post("/api/reviews/check", responses=answers(StartChecked))
@permission("file")
def check_start(body: CheckStart) -> StartChecked:
    """What stands in the way of a review before it is sent, and what the contract says. Changes nothing."""
    return before_start.check_start(context(), actor(), body)


@api.get("/api/reviews/<review_id>", responses=answers(Review))
@permission("read")
def read_review(path: ReviewPath) -> Review:
    """A review with its slip."""
    return reviews_view.read_review(context(), actor(), path.review_id)


@api.post("/api/reviews/<review_id>/steps/<step_id>/pick-up", responses=answers())
@permission("mark")
def pick_up(path: StepPath) -> None:
    """Take a running step that any one of several takes."""
    reviews.pick_up(context(), actor(), path.review_id, path.step_id)


@api.post("/api/reviews/<review_id>/steps/<step_id>/put-down", responses=answers())
@permission("mark")
def put_down(path: StepPath) -> None:
    """Give a step that one has picked up back to the others."""
    reviews.put_down(context(), actor(), path.review_id, path.step_id)


@api.post("/api/reviews/<review_id>/steps/<step_id>/hand-in", responses=answers())
@permission("mark")
def hand_in(path: StepPath, body: HandIn) -> None:
    """Hand in one's comments or verdicts."""
    reviews.hand_in(context(), actor(), path.review_id, path.step_id, body)


@api.get("/api/reviews/<review_id>/steps/<step_id>/begun", responses=answers(BegunAnswers))
@permission("read")
def read_begun(path: StepPath) -> list[BegunShown]:
    """What one has begun to answer in a step."""
    return begun.read_begun(context(), actor(), path.review_id, path.step_id)


@api.put("/api/reviews/<review_id>/steps/<step_id>/begun", responses=answers())
@permission("mark")
def keep_begun(path: StepPath, body: KeepBegun) -> None:
    """Keep what one has begun to answer, until it is handed in."""
    begun.keep_begun(context(), actor(), path.review_id, path.step_id, body)


@api.get("/api/reviews/<review_id>/first-open", responses=answers(FirstOpen))
@permission("read")
def read_first_open(path: ReviewPath) -> FirstOpen:
    """The revision with which one's part of a review goes on."""
    return FirstOpen(revision_id=on_sheet.first_open(context(), actor(), path.review_id))


@api.get("/api/revisions/<revision_id>/review-parts", responses=answers(SheetParts))
@permission("read")
def list_review_parts(path: RevisionPath) -> list[SheetPart]:
    """The steps that ask one about a revision."""
    return on_sheet.list_parts(context(), actor(), path.revision_id)


@api.get("/api/reviews/<review_id>/steps/<step_id>/others", responses=answers(Newcomers))
@permission("read")
def list_newcomers(path: StepPath) -> list[Who]:
    """Who could take a place in a step."""
    return changing.list_newcomers(context(), actor(), path.review_id, path.step_id)


@api.post("/api/reviews/<review_id>/steps/<step_id>/hand-on", responses=answers())
@permission("mark")
def hand_on(path: StepPath, body: HandOn) -> None:
    """One's place in a step is another's from now on."""
    changing.hand_on(context(), actor(), path.review_id, path.step_id, body)


@api.post("/api/reviews/<review_id>/steps/<step_id>/put-in", responses=answers())
@permission("run")
def put_in(path: StepPath, body: PutIn) -> None:
    """Put somebody in for another, or beside the others, with a reason."""
    changing.put_in(context(), actor(), path.review_id, path.step_id, body)


@api.post("/api/reviews/<review_id>/steps/<step_id>/end", responses=answers())
@permission("run")
def end_step(path: StepPath, body: EndStep) -> None:
    """End a step that nobody answers, with a reason."""
    changing.end_step(context(), actor(), path.review_id, path.step_id, body)


@api.post("/api/reviews/<review_id>/swap-in", responses=answers())
@permission("mark")
def swap_in(path: ReviewPath, body: SwapIn) -> None:
    """Go on with newer revisions; the stage begins again."""
    changing.swap_in(context(), actor(), path.review_id, body)


@api.post("/api/reviews/<review_id>/recall", responses=answers())
@permission("mark")
def recall_review(path: ReviewPath, body: RecallReview) -> None:
    """Recall a review in which nothing is decided."""
    changing.recall_review(context(), actor(), path.review_id, body)


@api.post("/api/reviews/<review_id>/record", responses=file_answers("application/pdf"))
@permission("read")
def take_record(path: ReviewPath) -> Response:
    """The record of a review as a PDF. A POST, because each taking is recorded."""
    made = review_record.take_record(context(), press(), actor(), path.review_id)
    content = io.BytesIO(made.content)
    return send_file(content, mimetype="application/pdf", as_attachment=True, download_name=made.name)


@api.get("/api/reviews/<review_id>/comments", responses=answers(CommentSheet))
@permission("read")
def read_comments(path: ReviewPath) -> CommentSheet:
    """The comment sheet of a review."""
    return comment_sheet.read_comments(context(), actor(), path.review_id)


@api.post("/api/reviews/<review_id>/comments", responses=answers())
@permission("mark")
def add_comment(path: ReviewPath, body: AddComment) -> None:
    """Add a comment to the sheet of a running review."""
    comments.add_comment(context(), actor(), path.review_id, body)


@api.post("/api/reviews/<review_id>/comments/ask", responses=answers())
@permission("mark")
def ask_responses(path: ReviewPath, body: AskResponses) -> None:
    """Ask an outside contact for their response to what was said of their documents."""
    asking_outside.ask_responses(context(), actor(), path.review_id, body)


@api.post("/api/review-comments/<comment_id>/act", responses=answers())
@permission("mark")
def act_on_comment(path: CommentPath, body: ActOnComment) -> None:
    """Respond to a comment, close it, open it again, or say anew how grave it is."""
    comments.act_on_comment(context(), actor(), path.comment_id, body)


@api.post("/api/reviews/<review_id>/comments/taken", responses=file_answers(*TAKEN_AS))
@permission("read")
def take_comments(path: ReviewPath, query: TakenAs) -> Response:
    """The comment sheet as a file. A POST, because each taking is recorded."""
    made = comment_files.take_comments(context(), actor(), path.review_id, query.form)
    content = io.BytesIO(made.content)
    return send_file(content, mimetype=made.media_type, as_attachment=True, download_name=made.name)


@api.put("/api/reviews/<review_id>/comments/responses", responses=answers(ResponsesTaken))
@permission("mark")
@raw_body(lambda _settings: 21 * 1024 * 1024)
def take_responses_in(path: ReviewPath) -> ResponsesTaken:
    """A comment sheet that was filled in elsewhere: its responses, all or none."""
    return comment_files.take_responses_in(context(), actor(), path.review_id, body_pieces())


@api.post("/api/reviews/<review_id>/cancel", responses=answers())
@permission("mark")
def cancel_review(path: ReviewPath, body: CancelReview) -> None:
    """Cancel a review, with a reason."""
    changing.cancel_review(context(), actor(), path.review_id, body)
