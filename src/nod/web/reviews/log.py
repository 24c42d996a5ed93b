"""The log of reviews over HTTP: taken away as a file, and what of it is late."""

from __future__ import annotations

import io
from typing import Literal

from flask import Response, send_file
from pydantic import Field

from nod.services.acts.answers import FromOutside
from nod.services.files.tables_out import MEDIA
from nod.services.reviews import lateness, log_taken
from nod.services.reviews.lateness import Lateness
from nod.services.reviews.log import AskedLog, State, Whose
from nod.web.answers import answers, feature, file_answers
from nod.web.guard import actor, context, permission

api = feature("review_log")


class OfProject(FromOutside):
    project_id: str


class Narrowed(OfProject):
    words: str = Field(default="", max_length=200)
    whose: Whose = ""
    state: State = ""
    late: bool = False
    route: str = Field(default="", max_length=200)
    document: str = Field(default="", max_length=200)


class TakeLogForm(Narrowed):
    """As a form of the browser sends it."""

    form: Literal["xlsx", "csv"] = "xlsx"


@api.post("/api/reviews/taken", responses=file_answers(MEDIA["xlsx"], MEDIA["csv"]))
@permission("read")
def take_log(form: TakeLogForm) -> Response:
    """The log as a file, narrowed as it is shown. A POST, because each download is recorded."""
    asked = AskedLog(**form.model_dump(exclude={"form"}))
    made = log_taken.take_log(context(), actor(), asked, form.form)
    content = io.BytesIO(made.content)
    return send_file(content, mimetype=made.media_type, as_attachment=True, download_name=made.name)


@api.get("/api/reviews/late", responses=answers(Lateness))
@permission("run")
def read_lateness(query: OfProject) -> Lateness:
    """What is late, by company, and how long companies take to answer."""
    return lateness.read_lateness(context(), actor(), query.project_id)
