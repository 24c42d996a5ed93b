"""A comment sheet out as XLSX or PDF, and the XLSX in again with what an author outside has responded in it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from zoneinfo import ZoneInfo

from nod.core.access.levels import Level
from nod.core.acts.refusals import NotAllowed, RuleBroken
from nod.core.reviews import comments as rules
from nod.core.reviews.comments import CommentAct
from nod.core.trail.entries import FactKind
from nod.formats.files.spreadsheet import Table, Value, cell_name
from nod.services.acts.answers import Answered, named
from nod.services.acts.context import Context, acting
from nod.services.acts.seats import Actor
from nod.services.files.tables_in import table_in
from nod.services.files.tables_out import MEDIA, Exported, table_out
from nod.services.reviews.comment_sheet import CommentSheet, CommentShown, read_comments
from nod.services.reviews.comments import (
    LONGEST_NAME,
    LONGEST_TEXT,
    ActOnComment,
    change_comment,
    comment_of,
    parties_of,
    rows_of,
)
from nod.services.reviews.kind import REVIEW
from nod.services.reviews.reviews import record
from nod.services.reviews.words_shown import words_for
from nod.services.things.things import see_thing, tell_thing

_HEADS = (
    ("No", 44), ("Document", 190), ("Rev", 50), ("Place", 120), ("Comment", 380), ("By", 170), ("How grave", 80),
    ("Response", 380), ("Responded by", 170), ("State", 70), ("Close-out", 200),
)  # fmt: skip
_MOST_TOLD = 50


class ResponseTrouble(Answered):
    """`cell` like H7, as the spreadsheet calls it."""

    cell: str
    words: str


class ResponsesTaken(Answered):
    """`kept` responses were taken in; with any trouble none are."""

    kept: int
    same: int
    troubles: list[ResponseTrouble]


def take_comments(context: Context, actor: Actor, review_id: str, form: str) -> Exported:
    """As `xlsx` or `pdf`. Each taking is an entry of the trail. Raises RuleBroken for another form."""
    if form not in ("xlsx", "pdf"):
        raise RuleBroken("view_unknown", "A comment sheet is taken as XLSX or PDF.", form)
    sheet = read_comments(context, actor, review_id)
    with acting(context, actor) as act:
        row, seat = see_thing(act.session, actor, REVIEW, review_id)
        loaded, _ = parties_of(act.session, actor, row, seat)
        record(act, loaded, FactKind.COMMENTS_TAKEN, {"as": form, "comments": len(sheet.comments)})
        zone, project, at = seat.project.time_zone, f"{seat.project.number} {seat.project.name}", act.at
    stem = f"{sheet.number}_comments"
    if form == "xlsx":
        return table_out(context, stem, form, _HEADS, _rows(sheet))
    return Exported(_pdf(sheet, project, zone, at, actor.name), f"{stem}.pdf", MEDIA[form])


def _rows(sheet: CommentSheet) -> list[list[Value]]:
    return [
        [each.number, each.document, each.revision, each.place, each.text, named(each.by), each.grave, each.response,
         _responder(each), each.state, each.close_note]
        for each in sheet.comments
    ]  # fmt: skip


def _responder(each: CommentShown) -> str:
    return each.response_from or (named(each.responded_by) if each.responded_by else "")


def _pdf(sheet: CommentSheet, project: str, time_zone: str, at: datetime, by: str) -> bytes:
    from nod.formats.files.comment_sheet_pdf import CommentLine, write_comment_sheet

    zone = ZoneInfo(time_zone)

    def day(instant: datetime | None) -> str:
        return f"{instant.astimezone(zone):%-d %b %Y}" if instant else ""

    lines = [
        CommentLine(
            str(each.number), "\n".join(filter(None, (f"{each.document} {each.revision}", each.place))), each.text,
            f"{named(each.by)}\n{day(each.raised_at)}", each.grave,
            "\n".join(filter(None, (each.response, f"{_responder(each)}, {day(each.responded_at)}")))
            if each.response else "",
            "\n".join(filter(None, (each.state, each.close_note, f"{named(each.closed_by)}, {day(each.closed_at)}")))
            if each.closed_by else each.state,
        )
        for each in sheet.comments
    ]  # fmt: skip
    total = sheet.all
    tally = f"{total.raised} raised, {total.closed} closed, {total.open} open; {total.musts} of these must be done."
    taken = f"Taken by {by} on {at.astimezone(zone):%-d %b %Y, %H:%M} ({time_zone})"
    return write_comment_sheet(f"{sheet.number} {sheet.name}", project, tally, taken, lines)


@dataclass(frozen=True)
class _Line:
    at: int
    number: int
    response: str
    responder: str


def take_responses_in(
    context: Context, actor: Actor, review_id: str, chunks: Iterable[bytes]
) -> ResponsesTaken:  # fmt: skip
    """Responses of a filled-in sheet, by number: all of them or none, each bad row told with its cell.

    Whoever may respond takes them in, for whoever the column *Responded by* names.
    """
    with context.database.read() as session:
        _, seat = see_thing(session, actor, REVIEW, review_id)
        seat.need(Level.MARK)
    table = table_in(context, chunks, whole=True)
    with acting(context, actor) as act:
        row, seat = see_thing(act.session, actor, REVIEW, review_id)
        seat.need(Level.MARK)
        loaded, parties = parties_of(act.session, actor, row, seat)
        words = words_for(act.session, seat, row)
        there = {each.number: each for each in rows_of(act.session, review_id) if words.of(each.document_id)}
        lines, troubles, column = _lines(table, set(there))
        troubles += [
            ResponseTrouble(cell=cell_name(column, each.at), words=f"At most {LONGEST_TEXT:,} characters; it has more.")
            for each in lines
            if len(each.response) > LONGEST_TEXT or len(each.responder) > LONGEST_NAME
        ]
        changed = [each for each in lines if each.response and each.response != there[each.number].response]
        for each in changed:
            comment = comment_of(there[each.number])
            refused = rules.refusal(comment, parties.before(comment.document), CommentAct.RESPOND)
            if isinstance(refused, NotAllowed):
                raise refused
            if refused:
                troubles.append(ResponseTrouble(cell=cell_name(column, each.at), words=refused.words))
        if troubles:
            return ResponsesTaken(kept=0, same=0, troubles=troubles[:_MOST_TOLD])
        for each in changed:
            found = there[each.number]
            own = each.responder not in ("", actor.name, f"{actor.name} ({actor.company_code})")
            command = ActOnComment(
                version=found.version, act="respond", text=each.response,
                response_from=each.responder if own else "",
            )  # fmt: skip
            change_comment(act, loaded, parties, found, command)
        if changed:
            tell_thing(act, REVIEW, row)
        return ResponsesTaken(kept=len(changed), same=len(lines) - len(changed), troubles=[])


def _lines(table: Table, known: set[int]) -> tuple[list[_Line], list[ResponseTrouble], int]:
    """The lines that name a comment; troubles of those that do not; and the column of the responses."""
    heads = [str(value or "").strip().casefold() for value in table.rows[0]]
    if "no" not in heads or "response" not in heads:
        raise RuleBroken("columns_wanted", "The sheet needs the columns No and Response, as it was taken away.")
    at_number, at_response = heads.index("no"), heads.index("response")
    at_responder = heads.index("responded by") if "responded by" in heads else None
    lines: list[_Line] = []
    troubles: list[ResponseTrouble] = []
    seen: set[int] = set()
    for at, row in enumerate(table.rows[1:], start=2):
        response = str(row[at_response] or "").strip()
        if not response and not row[at_number]:
            continue
        number = _whole(row[at_number])
        if number is None or number not in known:
            words = f"“{row[at_number] or ''}” is no comment of this review."
            troubles.append(ResponseTrouble(cell=cell_name(at_number, at), words=words))
        elif number in seen:
            troubles.append(ResponseTrouble(cell=cell_name(at_number, at), words=f"{number} is there twice."))
        else:
            seen.add(number)
            responder = str(row[at_responder] or "").strip() if at_responder is not None else ""
            lines.append(_Line(at, number, response, responder))
    return lines, troubles, at_response


def _whole(value: Value) -> int | None:
    text = str(value or "").strip().removesuffix(".0")
    return int(text) if text.isdecimal() and len(text) < 7 else None
