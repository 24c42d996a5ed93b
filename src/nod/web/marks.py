"""Prints, and what their codes tell, over HTTP."""

from __future__ import annotations

import io
from typing import Literal

from flask import Response, send_file

from nod.services.acts.answers import FromOutside
from nod.services.marks import prints
from nod.services.marks.prints import StillInForce
from nod.web.answers import answers, feature, file_answers
from nod.web.guard import actor, context, permission, press

api = feature("printing")


class PrintedPath(FromOutside):
    revision_id: str


class PrintForm(FromOutside):
    paper: str
    marks: Literal["true", "false"] = "true"


class CodePath(FromOutside):
    code: str


@api.post("/api/sheets/<revision_id>/print", responses=file_answers("application/pdf"))
@permission("read")
def print_sheet(path: PrintedPath, form: PrintForm) -> Response:
    """The sheet as a PDF for the printer. A POST, because each download is recorded."""
    made = prints.print_sheet(
        context(), press(), actor(), path.revision_id, form.paper, with_marks=form.marks == "true"
    )
    content = io.BytesIO(made.content)
    return send_file(content, mimetype=made.media_type, as_attachment=True, download_name=made.name)


@api.get("/api/codes/<code>", responses=answers(StillInForce))
@permission("link")
def read_code(path: CodePath) -> StillInForce:
    """Whether the revision of a print is still current; for anybody who holds it."""
    return prints.is_still_in_force(context(), path.code)
