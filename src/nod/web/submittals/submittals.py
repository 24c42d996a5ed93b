"""Submittals over HTTP."""

from __future__ import annotations

import io
from datetime import date
from typing import Literal

from flask import Response, send_file
from pydantic import Field

from nod.services.acts.addressed import strings_in
from nod.services.acts.answers import FromOutside
from nod.services.files.tables_out import MEDIA
from nod.services.submittals import (
    analysis,
    answering,
    calendar_feed,
    dossier,
    log,
    log_report,
    log_taken,
    making,
    month,
    on_route,
    parts,
    sending_in,
    specification,
    taking_in,
)
from nod.services.submittals import record as submittal_record
from nod.services.submittals.analysis import SubmittalAnalysis
from nod.services.submittals.answering import AnswerSubmittal, CloseSubmittal, GiveToAnswer
from nod.services.submittals.calendar_feed import FeedShown, MakeFeed, WithdrawFeed
from nod.services.submittals.dossier import SubmittalChoices, SubmittalShown
from nod.services.submittals.log import AskedSubmittals, Sort, StateWord, SubmittalLog, View
from nod.services.submittals.log_groups import GroupBy
from nod.services.submittals.making import ChangedSubmittals, ChangeSubmittals, MadeSubmittal, MakeSubmittal
from nod.services.submittals.month import Month
from nod.services.submittals.on_route import GiveToRoute
from nod.services.submittals.parts import SetItems, SetLots
from nod.services.submittals.record import RecordSent, SendRecord
from nod.services.submittals.sending_in import (
    AskFor,
    CopyIn,
    Deliver,
    RemindOf,
    SeenSubmittal,
    SendIn,
    SubmittalsReminded,
    VoidSubmittals,
)
from nod.services.submittals.specification import SpecificationRead, SpecificationTaken, TakeSpecification
from nod.services.submittals.taking_in import SubmittalsTried
from nod.web.answers import answers, feature, file_answers
from nod.web.bodies import body_pieces, raw_body
from nod.web.guard import actor, context, permission
from nod.web.lists import LARGEST_BODY_BYTES, ListQuery

api = feature("submittals")


class Narrowed(FromOutside):
    project_id: str
    words: str = ""
    view: View = ""
    state: StateWord = ""
    late: bool = False
    company: str = ""
    kind: str = ""
    answered_by: str = ""
    waits_for: str = ""
    took: int = Field(default=0, ge=0, le=100)
    late_on: date | None = None
    sort: Sort = "float"
    down: bool = False


class SubmittalsQuery(Narrowed):
    """`group` puts lines under headings; `shut` is JSON: the keys of those that are shut."""

    group: GroupBy = ""
    shut: str = ""
    start: int = Field(default=0, ge=0)
    limit: int = Field(default=100, ge=1, le=200)


class TakeSubmittalsForm(Narrowed):
    """As a form of the browser sends it. `a4` and `a3` are PDFs, under headings where it is grouped."""

    form: Literal["xlsx", "csv", "a4", "a3"] = "xlsx"
    group: GroupBy = ""


class SubmittalPath(FromOutside):
    submittal_id: str


class ProjectQuery(FromOutside):
    project_id: str


@api.get("/api/submittals", responses=answers(SubmittalLog))
@permission("member")
def list_submittals(query: SubmittalsQuery) -> SubmittalLog:
    """The log of submittals, those with the least float first."""
    asked = query.model_dump() | {"shut": strings_in(query.shut)}
    return log.list_submittals(context(), actor(), AskedSubmittals(**asked))


@api.post("/api/submittals/taken", responses=file_answers(MEDIA["xlsx"], MEDIA["csv"], MEDIA["pdf"]))
@permission("member")
def take_submittals(form: TakeSubmittalsForm) -> Response:
    """The log as a file, narrowed as it is shown. A POST, because each taking is recorded."""
    asked = AskedSubmittals(**form.model_dump(exclude={"form"}))
    if form.form in ("xlsx", "csv"):
        made = log_taken.take_log(context(), actor(), asked, form.form)
    else:
        made = log_report.take_report(context(), actor(), asked, "A4" if form.form == "a4" else "A3")
    return send_file(io.BytesIO(made.content), mimetype=made.media_type, as_attachment=True, download_name=made.name)


@api.get("/api/submittals/analysis", responses=answers(SubmittalAnalysis))
@permission("member")
def read_submittal_analysis(query: ProjectQuery) -> SubmittalAnalysis:
    """Answer times by company, rounds by kind, floats by day."""
    return analysis.read_analysis(context(), actor(), query.project_id)


@api.get("/api/submittals/choices", responses=answers(SubmittalChoices))
@permission("member")
def read_choices(query: ProjectQuery) -> SubmittalChoices:
    """The project's kinds of submittals, and what a new one begins with."""
    return dossier.read_choices(context(), actor(), query.project_id)


class SubmittalListQuery(ListQuery):
    """`purpose`: a log, or a schedule that only moves the days required on site."""

    purpose: Literal["log", "dates"] = "log"


@api.put("/api/submittals/list", responses=answers(SubmittalsTried))
@permission("run")
@raw_body(lambda _: LARGEST_BODY_BYTES)
def take_submittals_in(query: SubmittalListQuery) -> SubmittalsTried:
    """Try a log or a schedule, or keep it: the file is the body."""
    return taking_in.take_in(context(), actor(), query.asked(), query.purpose, body_pieces())


@api.get("/api/submittals/template", responses=file_answers(MEDIA["xlsx"]))
@permission("run")
def read_submittals_template(query: ProjectQuery) -> Response:
    """A spreadsheet to fill in, with the project's kinds, companies and people to choose from."""
    made = taking_in.read_template(context(), actor(), query.project_id)
    return send_file(io.BytesIO(made.content), mimetype=made.media_type, as_attachment=True, download_name=made.name)


@api.post("/api/submittals", responses=answers(MadeSubmittal))
@permission("run")
def make_submittal(body: MakeSubmittal) -> MadeSubmittal:
    """Make a submittal, planned."""
    return making.make_submittal(context(), actor(), body)


@api.post("/api/submittals/change", responses=answers(ChangedSubmittals))
@permission("member")
def change_submittals(body: ChangeSubmittals) -> ChangedSubmittals:
    """Change the same of several, all or none; says what would undo it."""
    return making.change_submittals(context(), actor(), body)


@api.post("/api/submittals/ask", responses=answers())
@permission("member")
def ask_for(body: AskFor) -> None:
    """Ask one person for several."""
    sending_in.ask_for(context(), actor(), body)


@api.post("/api/submittals/remind", responses=answers(SubmittalsReminded))
@permission("member")
def remind(body: RemindOf) -> SubmittalsReminded:
    """RemindOf whoever has these."""
    return sending_in.remind(context(), actor(), body)


@api.post("/api/submittals/void", responses=answers())
@permission("member")
def void_submittals(body: VoidSubmittals) -> None:
    """Void several, with a reason."""
    sending_in.void(context(), actor(), body)


@api.get("/api/submittals/feed", responses=answers(FeedShown))
@permission("member")
def read_feed(query: ProjectQuery) -> FeedShown:
    """The secret address under which one's own calendar reads the days of submittals."""
    return calendar_feed.read_feed(context(), actor(), query.project_id)


@api.post("/api/submittals/feed", responses=answers(FeedShown))
@permission("member")
def make_feed(body: MakeFeed) -> FeedShown:
    """Make that address; one that there is ends."""
    return calendar_feed.make_feed(context(), actor(), body)


@api.post("/api/submittals/feed/withdraw", responses=answers())
@permission("member")
def withdraw_feed(body: WithdrawFeed) -> None:
    """Withdraw it: the calendar gets nothing any more."""
    calendar_feed.withdraw_feed(context(), actor(), body)


class FeedPath(FromOutside):
    token: str


@api.get("/api/calendar/<token>", responses=file_answers("text/calendar"))
@permission("link")
def read_calendar(path: FeedPath) -> Response:
    """For a calendar, which signs in nowhere: the days of submittals as its person sees them now."""
    return Response(calendar_feed.read_calendar(context(), path.token), mimetype="text/calendar")


class MonthQuery(FromOutside):
    """`month` as 2027-03; without one, this month."""

    project_id: str
    month: str = ""
    view: View = ""
    company: str = ""


@api.get("/api/submittals/month", responses=answers(Month))
@permission("member")
def read_submittals_month(query: MonthQuery) -> Month:
    """What must be sent in, answered and on site, and what was delivered, day by day."""
    return month.read_month(context(), actor(), query.project_id, query.month, query.view, query.company)


class SpecQuery(FromOutside):
    revision_id: str


@api.get("/api/submittals/specification", responses=answers(SpecificationRead))
@permission("run")
def read_specification(query: SpecQuery) -> SpecificationRead:
    """What a specification of the register asks for, held against the log."""
    return specification.read(context(), actor(), query.revision_id)


@api.post("/api/submittals/specification", responses=answers(SpecificationTaken))
@permission("run")
def take_specification(body: TakeSpecification) -> SpecificationTaken:
    """Take what was accepted into the log, in one act."""
    return specification.take(context(), actor(), body)


@api.get("/api/submittals/<submittal_id>", responses=answers(SubmittalShown))
@permission("member")
def read_submittal(path: SubmittalPath) -> SubmittalShown:
    """A submittal with its arithmetic, its rounds and what may be done with it."""
    return dossier.read_submittal(context(), actor(), path.submittal_id)


@api.post("/api/submittals/<submittal_id>/record", responses=file_answers("application/pdf"))
@permission("member")
def take_submittal_record(path: SubmittalPath) -> Response:
    """A submittal as a PDF. A POST, because each taking is recorded."""
    made = submittal_record.take_record(context(), actor(), path.submittal_id)
    return send_file(io.BytesIO(made.content), mimetype=made.media_type, as_attachment=True, download_name=made.name)


@api.post("/api/submittals/<submittal_id>/send-on", responses=answers(RecordSent))
@permission("member")
def send_submittal_on(path: SubmittalPath, body: SendRecord) -> RecordSent:
    """Send it by mail, as a PDF, to whom one chooses."""
    return submittal_record.send_record(context(), actor(), path.submittal_id, body)


@api.post("/api/submittals/<submittal_id>/prepare", responses=answers())
@permission("member")
def prepare(path: SubmittalPath, body: SeenSubmittal) -> None:
    """Say that it is being prepared."""
    sending_in.prepare(context(), actor(), path.submittal_id, body)


@api.post("/api/submittals/<submittal_id>/send-in", responses=answers())
@permission("member")
def send_in(path: SubmittalPath, body: SendIn) -> None:
    """Send it in, with files that were attached to it."""
    sending_in.send_in(context(), actor(), path.submittal_id, body)


@api.post("/api/submittals/<submittal_id>/give-to-route", responses=answers())
@permission("member")
def give_to_route(path: SubmittalPath, body: GiveToRoute) -> None:
    """Have what was sent in go round on a route, whose outcome answers it."""
    on_route.give_to_route(context(), actor(), path.submittal_id, body)


@api.put("/api/submittals/<submittal_id>/items", responses=answers())
@permission("member")
def set_submittal_items(path: SubmittalPath, body: SetItems) -> None:
    """Its items, each with a verdict of its own."""
    parts.set_items(context(), actor(), path.submittal_id, body)


@api.put("/api/submittals/<submittal_id>/lots", responses=answers())
@permission("member")
def set_submittal_lots(path: SubmittalPath, body: SetLots) -> None:
    """Its lots, each with its own days."""
    parts.set_lots(context(), actor(), path.submittal_id, body)


@api.post("/api/submittals/<submittal_id>/give", responses=answers())
@permission("member")
def give(path: SubmittalPath, body: GiveToAnswer) -> None:
    """Give it to somebody to answer."""
    answering.give(context(), actor(), path.submittal_id, body)


@api.post("/api/submittals/<submittal_id>/answer", responses=answers())
@permission("member")
def answer(path: SubmittalPath, body: AnswerSubmittal) -> None:
    """Answer it with a verdict and a file, or enter what its approver answered."""
    answering.answer(context(), actor(), path.submittal_id, body)


@api.post("/api/submittals/<submittal_id>/close", responses=answers())
@permission("member")
def close(path: SubmittalPath, body: CloseSubmittal) -> None:
    """Close it; those who have a part in it are told."""
    answering.close(context(), actor(), path.submittal_id, body)


@api.post("/api/submittals/<submittal_id>/copied", responses=answers())
@permission("member")
def copy_in(path: SubmittalPath, body: CopyIn) -> None:
    """Say who is copied in."""
    sending_in.copy_in(context(), actor(), path.submittal_id, body)


@api.post("/api/submittals/<submittal_id>/delivered", responses=answers())
@permission("member")
def deliver(path: SubmittalPath, body: Deliver) -> None:
    """Say when it was on site."""
    sending_in.deliver(context(), actor(), path.submittal_id, body)
