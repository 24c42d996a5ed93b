"""Sessions over HTTP."""

from __future__ import annotations

import io
from typing import Literal

from flask import Response, send_file
from pydantic import Field, RootModel

from nod.services.acts.answers import FromOutside
from nod.services.files.tables_out import MEDIA
from nod.services.marks.marks_view import Mark
from nod.services.sessions import (
    calendars,
    happened,
    invitations,
    log_taken,
    making,
    marking,
    opening,
    presence,
    records,
    sessions_view,
)
from nod.services.sessions.happened import Happenings
from nod.services.sessions.invitations import ChangeParties
from nod.services.sessions.making import ChangeSession, CheckSession, MadeSession, MakeSession, SessionCheck
from nod.services.sessions.marking import DrawInSession
from nod.services.sessions.opening import CloseSession, OpenAgain, SeenSession, TakeSheetOut
from nod.services.sessions.presence import Here
from nod.services.sessions.sessions_view import AskedSessions, DocumentSessions, SessionLog, SessionShown, State
from nod.web.answers import answers, feature, file_answers, send
from nod.web.guard import actor, context, permission

api = feature("sessions")


class Narrowed(FromOutside):
    project_id: str
    words: str = ""
    document: str = ""
    state: State = ""
    mine: bool = False


class TakeSessionsForm(Narrowed):
    """As a form of the browser sends it."""

    form: Literal["xlsx", "csv"] = "xlsx"


class SessionsQuery(Narrowed):
    start: int = Field(default=0, ge=0)
    limit: int = Field(default=100, ge=1, le=200)


class SessionPath(FromOutside):
    session_id: str


class SheetPath(SessionPath):
    revision_id: str


class RecordPath(SessionPath):
    part: int


class DocumentPath(FromOutside):
    document_id: str


class DrawnMarks(RootModel[list[Mark]]):
    pass


@api.get("/api/sessions", responses=answers(SessionLog))
@permission("member")
def list_sessions(query: SessionsQuery) -> SessionLog:
    """The log of sessions: open, to come, closed."""
    return sessions_view.list_sessions(context(), actor(), AskedSessions(**query.model_dump()))


@api.post("/api/sessions/taken", responses=file_answers(MEDIA["xlsx"], MEDIA["csv"]))
@permission("member")
def take_sessions(form: TakeSessionsForm) -> Response:
    """The log as a file, narrowed as it is shown. A POST, because each taking is recorded."""
    asked = AskedSessions(**form.model_dump(exclude={"form"}))
    made = log_taken.take_log(context(), actor(), asked, form.form)
    return send_file(io.BytesIO(made.content), mimetype=made.media_type, as_attachment=True, download_name=made.name)


@api.post("/api/sessions/check", responses=answers(SessionCheck))
@permission("member")
def check_session(body: CheckSession) -> SessionCheck:
    """What stands in the way, and who would see what they could not otherwise. Changes nothing."""
    return making.check_session(context(), actor(), body)


@api.post("/api/sessions", responses=answers(MadeSession))
@permission("file")
def make_session(body: MakeSession) -> MadeSession:
    """Make a session, and invite to it."""
    return making.make_session(context(), actor(), body)


@api.get("/api/sessions/<session_id>", responses=answers(SessionShown))
@permission("member")
def read_session(path: SessionPath) -> SessionShown:
    """A session with its sheets, its people and what may be done with it."""
    return sessions_view.read_session(context(), actor(), path.session_id)


@api.post("/api/sessions/<session_id>", responses=answers())
@permission("member")
def change_session(path: SessionPath, body: ChangeSession) -> None:
    """Change its name, note or times, or hand it over."""
    making.change_session(context(), actor(), path.session_id, body)


@api.post("/api/sessions/<session_id>/parties", responses=answers())
@permission("member")
def change_parties(path: SessionPath, body: ChangeParties) -> None:
    """Invite, say what somebody may do, or take them out."""
    invitations.change_parties(context(), actor(), path.session_id, body)


@api.post("/api/sessions/<session_id>/open", responses=answers())
@permission("member")
def open_session(path: SessionPath, body: SeenSession) -> None:
    """Open it before its time."""
    opening.open_now(context(), actor(), path.session_id, body)


@api.post("/api/sessions/<session_id>/close", responses=answers())
@permission("member")
def close_session(path: SessionPath, body: CloseSession) -> None:
    """Close it; its record is made."""
    opening.close_session(context(), actor(), path.session_id, body)


@api.post("/api/sessions/<session_id>/open-again", responses=answers())
@permission("member")
def open_session_again(path: SessionPath, body: OpenAgain) -> None:
    """Open a closed session again; what follows makes a further part of its record."""
    opening.open_again(context(), actor(), path.session_id, body)


@api.post("/api/sessions/<session_id>/sheets/<revision_id>/take-out", responses=answers())
@permission("member")
def take_sheet_out(path: SheetPath, body: TakeSheetOut) -> None:
    """Let the session go on without a sheet, which is checked in."""
    opening.take_sheet_out(context(), actor(), path.session_id, path.revision_id, body)


@api.post("/api/sessions/<session_id>/sheets/<revision_id>/marks", responses=answers(DrawnMarks))
@permission("member")
def draw_in_session(path: SheetPath, body: DrawInSession) -> list[Mark]:
    """Draw marks in the session, in ink or in pencil."""
    return marking.draw_in_session(context(), actor(), path.session_id, path.revision_id, body)


@api.post("/api/sessions/<session_id>/here", responses=answers())
@permission("member")
def be_here(path: SessionPath, body: Here) -> None:
    """Say where one looks, to those who are in the session."""
    presence.be_here(context(), actor(), path.session_id, body)


@api.get("/api/sessions/<session_id>/happened", responses=answers(Happenings))
@permission("member")
def read_happenings(path: SessionPath) -> Happenings:
    """What happened in it, the newest first."""
    return happened.read_happenings(context(), actor(), path.session_id)


@api.post("/api/sessions/<session_id>/records/<int:part>", responses=file_answers("application/zip"))
@permission("member")
def download_record(path: RecordPath) -> Response:
    """The record of a closing. A POST, because each download is recorded."""
    return send(records.download_record(context(), actor(), path.session_id, path.part))


@api.get("/api/sessions/<session_id>/calendar", responses=file_answers("text/calendar"))
@permission("member")
def read_calendar_file(path: SessionPath) -> Response:
    """A calendar file with its time."""
    content, name = calendars.calendar_file(context(), actor(), path.session_id)
    response = Response(content, mimetype="text/calendar")
    response.headers["Content-Disposition"] = f"attachment; filename={name}"
    return response


@api.get("/api/documents/<document_id>/sessions", responses=answers(DocumentSessions))
@permission("read")
def list_document_sessions(path: DocumentPath) -> DocumentSessions:
    """The sessions that a document is or was in, as far as they are there for the viewer."""
    return sessions_view.list_document_sessions(context(), actor(), path.document_id)
