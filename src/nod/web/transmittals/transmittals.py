"""Transmittals over HTTP, for members."""

from __future__ import annotations

import io
from typing import Literal

from flask import Response, send_file
from pydantic import Field

from nod.services.acts.answers import FromOutside
from nod.services.transmittals import (
    chasing,
    checking,
    guests,
    log,
    previewing,
    sending_again,
    transmittals,
    transmittals_view,
    voiding,
)
from nod.services.transmittals.chasing import Chase, Chased
from nod.services.transmittals.checking import CheckSending, Sendable
from nod.services.transmittals.log import AskedLog, TransmittalLog
from nod.services.transmittals.previewing import SendingPreview
from nod.services.transmittals.sending_again import SendAgain
from nod.services.transmittals.transmittals import SendTransmittal, Sent
from nod.services.transmittals.transmittals_view import Addressees, Transmittal
from nod.services.transmittals.voiding import Voided, VoidTransmittal
from nod.web.answers import answers, feature, file_answers, send
from nod.web.guard import actor, context, permission
from nod.web.transmittals.log import Narrowed

api = feature("transmittals")


class OfProject(FromOutside):
    project_id: str


class LogQuery(Narrowed):
    start: int = Field(default=0, ge=0)
    limit: int = Field(default=100, ge=1, le=200)


class TransmittalPath(FromOutside):
    transmittal_id: str


class RecipientPath(FromOutside):
    transmittal_id: str
    person_id: str


class PartPath(FromOutside):
    transmittal_id: str
    part: Literal["cover", "pack"]


@api.get("/api/transmittals", responses=answers(TransmittalLog))
@permission("member")
def list_transmittals(query: LogQuery) -> TransmittalLog:
    """The log of transmittals, newest first."""
    return log.list_log(context(), actor(), AskedLog(**query.model_dump()))


@api.get("/api/addressees", responses=answers(Addressees))
@permission("file")
def list_addressees(query: OfProject) -> Addressees:
    """Whom one can send to, and for what."""
    return transmittals_view.list_addressees(context(), actor(), query.project_id)


@api.post("/api/transmittals/check", responses=answers(Sendable))
@permission("file")
def check_sending(body: CheckSending) -> Sendable:
    """What the sender should know before sending. Changes nothing."""
    return checking.check_sending(context(), actor(), body)


@api.post("/api/transmittals/preview", responses=answers(SendingPreview))
@permission("file")
def preview_sending(body: SendTransmittal) -> SendingPreview:
    """The mail that sending would write. Changes nothing."""
    return previewing.preview_sending(context(), actor(), body)


@api.post("/api/transmittals/preview/cover", responses=file_answers("application/pdf"))
@permission("file")
def preview_cover(body: SendTransmittal) -> Response:
    """The cover sheet that sending would draw. Changes nothing."""
    content = io.BytesIO(previewing.preview_cover(context(), actor(), body))
    return send_file(content, mimetype="application/pdf", as_attachment=False, download_name="cover.pdf")


@api.post("/api/transmittals", responses=answers(Sent))
@permission("file")
def send_transmittal(body: SendTransmittal) -> Sent:
    """Send documents out."""
    return transmittals.send_transmittal(context(), actor(), body)


@api.get("/api/transmittals/<transmittal_id>", responses=answers(Transmittal))
@permission("read")
def read_transmittal(path: TransmittalPath) -> Transmittal:
    """A transmittal with the times of each recipient."""
    return transmittals_view.read_transmittal(context(), actor(), path.transmittal_id)


@api.post("/api/transmittals/<transmittal_id>/acknowledge", responses=answers())
@permission("read")
def acknowledge_as_member(path: TransmittalPath) -> None:
    """Acknowledge a transmittal sent to oneself."""
    guests.acknowledge_as_member(context(), actor(), path.transmittal_id)


@api.post("/api/transmittals/<transmittal_id>/recipients/<person_id>/send-again", responses=answers())
@permission("file")
def send_mail_again(path: RecipientPath, body: SendAgain) -> None:
    """Send the mail once more, to the same address or to another."""
    sending_again.send_again(context(), actor(), path.transmittal_id, path.person_id, body)


@api.post(
    "/api/transmittals/<transmittal_id>/parts/<part>", responses=file_answers("application/pdf", "application/zip")
)
@permission("read")
def download_part(path: PartPath) -> Response:
    """The cover sheet or the ZIP. A POST, because each download is recorded."""
    return send(guests.download_part(context(), actor(), path.transmittal_id, path.part))


@api.post("/api/transmittals/<transmittal_id>/void", responses=answers(Voided))
@permission("file")
def void_transmittal(path: TransmittalPath, body: VoidTransmittal) -> Voided:
    """Void a transmittal that was a mistake, and prepare another in its place."""
    return voiding.void_transmittal(context(), actor(), path.transmittal_id, body)


@api.post("/api/transmittals/chase", responses=answers(Chased))
@permission("file")
def chase_transmittals(body: Chase) -> Chased:
    """Remind those who have not acknowledged, of many transmittals at once."""
    return chasing.chase(context(), actor(), body)
