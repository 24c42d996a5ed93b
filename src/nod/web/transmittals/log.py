"""The log of transmittals over HTTP: taken away as a file, and the evidence of one of them."""

from __future__ import annotations

import io
from typing import Literal

from flask import Response, send_file

from nod.services.acts.answers import FromOutside
from nod.services.files.tables_out import MEDIA, Exported
from nod.services.transmittals import evidence, log_taken
from nod.services.transmittals.log import AskedLog, State, Way
from nod.web.answers import feature, file_answers
from nod.web.guard import actor, context, permission

api = feature("transmittal_log")


class TransmittalPath(FromOutside):
    transmittal_id: str


class Narrowed(FromOutside):
    project_id: str
    words: str = ""
    document: str = ""
    way: Way = ""
    state: State = ""
    purpose: str = ""
    company: str = ""


class TakeTransmittalsForm(Narrowed):
    """As a form of the browser sends it."""

    form: Literal["xlsx", "csv"] = "xlsx"


@api.post("/api/transmittals/taken", responses=file_answers(MEDIA["xlsx"], MEDIA["csv"]))
@permission("member")
def take_transmittals(form: TakeTransmittalsForm) -> Response:
    """The log as a file, narrowed as it is shown. A POST, because each taking is recorded."""
    asked = AskedLog(**form.model_dump(exclude={"form"}))
    return _sent(log_taken.take_log(context(), actor(), asked, form.form))


@api.post("/api/transmittals/<transmittal_id>/evidence", responses=file_answers(MEDIA["pdf"]))
@permission("read")
def take_evidence(path: TransmittalPath) -> Response:
    """One transmittal with all its times as a PDF. A POST, because each taking is recorded."""
    return _sent(evidence.take_evidence(context(), actor(), path.transmittal_id))


def _sent(made: Exported) -> Response:
    content = io.BytesIO(made.content)
    return send_file(content, mimetype=made.media_type, as_attachment=True, download_name=made.name)
