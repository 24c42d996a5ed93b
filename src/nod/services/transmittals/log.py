"""The log of transmittals: filtered, counted, a page at a time, the newest first (handbook §10)."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

from sqlalchemy import ColumnElement, exists, func, or_, select, true
from sqlalchemy.orm import Session

from nod.services.acts.answers import Answered
from nod.services.acts.context import Context, today_in
from nod.services.acts.seats import Actor, Seat, take_seat
from nod.services.transmittals.kind import TRANSMITTAL
from nod.services.transmittals.purposes import purposes_of
from nod.services.transmittals.transmittals_view import Choice, TransmittalLine, Viewer, transmittal_lines
from nod.store.tables import CompanyRow, DocumentRow, ProjectRow, RecipientRow, TransmittalDocumentRow, TransmittalRow

Way = Literal["", "out", "in"]
State = Literal["", "waiting", "overdue", "acknowledged", "back", "void"]


@dataclass(frozen=True)
class AskedLog:
    """`words` are looked for in number and note, `document` in the numbers of what was sent.

    `way`: what one's company sent, or got. `company`: the code of the one that sent or got it.
    """

    project_id: str
    words: str = ""
    document: str = ""
    way: Way = ""
    state: State = ""
    purpose: str = ""
    company: str = ""
    start: int = 0
    limit: int = 100


class TransmittalLog(Answered):
    """`total` counts what the filters leave; `companies` and `purposes` are those to choose from."""

    lines: list[TransmittalLine]
    total: int
    companies: list[str]
    purposes: list[Choice]


def list_log(context: Context, actor: Actor, asked: AskedLog) -> TransmittalLog:
    with context.database.read() as session:
        seat = take_seat(session, actor, asked.project_id)
        seat.need_tool("transmittals")
        seen = [TransmittalRow.project_id == asked.project_id, TRANSMITTAL.seen(seat)]
        kept = [*seen, *_filters(seat, actor, asked, today_in(seat.project, context.clock.now()))]
        total = session.scalar(select(func.count()).select_from(TransmittalRow).where(*kept)) or 0
        query = select(TransmittalRow).where(*kept).order_by(
            TransmittalRow.sent_at.desc(), TransmittalRow.number.desc()
        )  # fmt: skip
        rows = list(session.scalars(query.offset(asked.start).limit(asked.limit)))
        senders = select(CompanyRow.code).join(TransmittalRow, TransmittalRow.company_id == CompanyRow.id)
        receivers = (
            select(CompanyRow.code)
            .join(RecipientRow, RecipientRow.company_id == CompanyRow.id)
            .join(TransmittalRow, TransmittalRow.id == RecipientRow.transmittal_id)
        )
        companies = {code for query in (senders, receivers) for code in session.scalars(query.where(*seen).distinct())}
        return TransmittalLog(
            lines=transmittal_lines(session, rows, Viewer(actor.company_id, seat.runs)),
            total=total, companies=sorted(companies),
            purposes=_purposes(session, seat.project),
        )  # fmt: skip


def _purposes(session: Session, project: ProjectRow) -> list[Choice]:
    """The project's, and those that something was sent for before it had others."""
    sent = select(TransmittalRow.purpose, TransmittalRow.purpose_words).where(TransmittalRow.project_id == project.id)
    words = dict(session.execute(sent.distinct()).all())
    words |= {code: each.words for code, each in purposes_of(project).items()}
    return [Choice(code=code, words=each) for code, each in words.items()]


def _filters(seat: Seat, actor: Actor, asked: AskedLog, today: Any) -> list[ColumnElement[bool]]:
    row = TransmittalRow
    found: list[ColumnElement[bool]] = []
    if words := asked.words.strip():
        found.append(or_(row.number.contains(words, autoescape=True), row.note.icontains(words, autoescape=True)))
    if number := asked.document.strip():
        of = TransmittalDocumentRow
        there = DocumentRow.number.contains(number, autoescape=True)
        found.append(exists().where(of.transmittal_id == row.id, DocumentRow.id == of.document_id, there))
    if asked.way:
        out = row.company_id == actor.company_id
        found.append(out if asked.way == "out" else _to(RecipientRow.company_id == actor.company_id))
    if asked.purpose:
        found.append(row.purpose == asked.purpose)
    if asked.company:
        id = select(CompanyRow.id).where(CompanyRow.code == asked.company)
        found.append(or_(row.company_id.in_(id), _to(RecipientRow.company_id.in_(id))))
    if asked.state:
        theirs = or_(row.company_id == actor.company_id, RecipientRow.company_id == actor.company_id)
        found += _state(asked.state, today, true() if seat.runs else theirs)
    return found


def _state(state: State, today: Any, sees: ColumnElement[bool]) -> list[ColumnElement[bool]]:
    """`sees`: those recipients whose receipts the viewer may know of."""
    row = TransmittalRow
    silent = _to(RecipientRow.acknowledged_at.is_(None), ~RecipientRow.copied, sees)
    if state == "void":
        return [row.voided_at.is_not(None)]
    going = row.voided_at.is_(None)
    conditions: dict[str, list[ColumnElement[bool]]] = {
        "waiting": [silent],
        "overdue": [silent, row.answer_wanted_on < today],
        "acknowledged": [~silent],
        "back": [_to(RecipientRow.bounced_at.is_not(None), sees)],
    }
    return [going, *conditions[state]]


def _to(*conditions: ColumnElement[bool]) -> ColumnElement[bool]:
    """There is a recipient of it of whom this holds."""
    return exists().where(RecipientRow.transmittal_id == TransmittalRow.id, *conditions)
