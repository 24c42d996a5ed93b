"""A part in a review by a link: what an outside contact is asked, the sheets with their ink, and the answer.

Nothing else of the project is there for them (handbook §8, whom). They act as themselves: the link is mailed to them
alone, and the trail says that they came by it.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import date
from pathlib import Path
from typing import Literal

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import NotFound
from nod.core.reviews import acts
from nod.core.reviews.acts import Somebody
from nod.core.reviews.comments import CommentState
from nod.core.reviews.path import Quota
from nod.core.reviews.running import PlaceState, StepRun, StepState
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.formats.sheet.pdf_look import FIRST_LEVEL, LARGE_LEVEL, TILE_PX, TOP_LEVEL, WHOLE_PAGE_LEVEL
from nod.services.acts.answers import Answered, Command, VerdictShown, Who, people_by_id, show_verdicts
from nod.services.acts.context import Context
from nod.services.acts.tries import key_of, take_one
from nod.services.files.files_to_send import FileToSend
from nod.services.links.visits import Guest, guest_of
from nod.services.press.press import Press
from nod.services.register.documents import sendable_name
from nod.services.reviews import review_rows
from nod.services.reviews.begun import BegunShown, KeepBegun, begun_of, keep_begun_at
from nod.services.reviews.comments import ActOnComment, Parties, change_comment, musts_of, rows_of
from nod.services.reviews.kind import REVIEW
from nod.services.reviews.outside_links import has_a_part, released_to
from nod.services.reviews.review_rows import LoadedReview
from nod.services.reviews.reviews import LONGEST_TEXT, HandIn, hand_in_at, moment_in, record, settle
from nod.services.sheet.page_pictures import draw_tile, draw_whole
from nod.services.sheet.sheets import DRAWN_WITH, DrawnWith, SheetPage, show_page
from nod.services.things.things import tell_thing
from nod.store.dialects.sqlite import one_of
from nod.store.tables import (
    BlobRow,
    DocumentRow,
    PageRow,
    ReviewCommentRow,
    ReviewDocumentRow,
    RevisionRow,
)

_MOST_DOWNLOADS = 600
State = Literal["asked", "taken", "handed_in", "over", "none"]


class GuestSheet(Answered):
    """A document as it goes round; `asked` where the guest answers on it now.

    `musts` are numbers of the comments that have to be closed before it may be used.
    """

    document_id: str
    revision_id: str
    number: str
    revision: str
    title: str
    status: str
    file_name: str
    size_bytes: int
    pages: list[SheetPage]
    musts: list[int]
    asked: bool


class GuestPart(Answered):
    """`state`: asked, taken (`taken_by` has picked the step up), handed in, over, or none (no step of theirs).

    `marking`: marks are asked for, too.
    `documents` are those asked about and those of `comments`, on which a response is wanted.
    """

    project: str
    number: str
    name: str
    message: str
    given_by: Who
    guest: str
    state: State
    taken_by: str
    step_id: str
    step: str
    act: str
    due_on: date | None
    marking: bool
    documents: list[GuestSheet]
    comments: list[GuestComment]
    verdict_set: list[VerdictShown]
    begun: list[BegunShown]
    tile_px: int
    first_level: int
    whole_level: int
    large_level: int
    top_level: int
    drawn_with: DrawnWith


class GuestComment(Answered):
    """What was said of a document of the guest's company. `open` while a response can be given."""

    id: str
    number: int
    version: int
    document_id: str
    place: str
    page: int | None
    by: Who
    text: str
    grave: str
    response: str
    close_note: str
    open: bool


class GuestResponds(Command):
    version: int
    text: str = Field(max_length=LONGEST_TEXT)


@dataclass(frozen=True)
class Part:
    """The step that asks the guest now, or the last in which they had a part; None without any.

    `released` are documents of theirs on which they respond to what was said.
    """

    guest: Guest
    loaded: LoadedReview
    at: int | None
    who: Somebody
    released: frozenset[str] = frozenset()

    @property
    def run(self) -> StepRun | None:
        return None if self.at is None else self.loaded.value.steps[self.at]

    @property
    def state(self) -> State:
        if self.run is None:
            return "none"
        place = self.run.place_of(self.who.person)
        if place and place.state is PlaceState.HANDED_IN:
            return "handed_in"
        if self.run.state is not StepState.RUNNING or place is None or place.state is not PlaceState.ASKED:
            return "over"
        return "taken" if self.run.taken_by not in (None, self.who.person) else "asked"


def part_of(context: Context, session: Session, secret: str) -> Part:
    """Raises NotFound for a visit to anything else, or when it is over. Asked anew at every act."""
    guest = guest_of(context, session, secret)
    if guest.kind.code != "review" or guest.link.person_id is None:
        raise NotFound
    loaded = review_rows.load(session, guest.row)
    who = Somebody(guest.link.person_id)
    with_them = [at for at, run in enumerate(loaded.value.steps) if run.place_of(who.person)]
    asked = (at for at in with_them if Part(guest, loaded, at, who).state in _WITH_THEM)
    at = next(asked, with_them[-1] if with_them else None)
    return Part(guest, loaded, at, who, released_to(session, guest.row, who.person))


_WITH_THEM = ("asked", "taken")


def read_part(context: Context, secret: str) -> GuestPart:
    with context.database.read() as session:
        part = part_of(context, session, secret)
        loaded, guest, state, run = part.loaded, part.guest, part.state, part.run
        step = None if part.at is None else loaded.steps[part.at]
        taken_by = run.taken_by if run and run.taken_by and state == "taken" else None
        people = people_by_id(session, {guest.link.made_by, *([taken_by] if taken_by else [])})
        return GuestPart(
            project=f"{guest.project.number} {guest.project.name}", number=loaded.row.number, name=loaded.row.name,
            message=loaded.row.message, given_by=people[guest.link.made_by], guest=guest.name, state=state,
            taken_by=people[taken_by].name if taken_by else "", step_id=step.id if step else "",
            step=step.name if step else "", act=step.act if step else "", due_on=step.due_on if step else None,
            marking=bool(run and run.step.marking and asked_of(part)),
            documents=_sheets(session, part), comments=_comments(session, part),
            verdict_set=show_verdicts(loaded.row.verdict_set, run.step.verdicts if run else None),
            begun=begun_of(session, step.id, part.who.person) if step else [],
            tile_px=TILE_PX, first_level=FIRST_LEVEL, whole_level=WHOLE_PAGE_LEVEL, large_level=LARGE_LEVEL,
            top_level=TOP_LEVEL, drawn_with=DRAWN_WITH,
        )  # fmt: skip


def asked_of(part: Part) -> frozenset[str]:
    """Ids of the documents on which the guest answers in the step that is with them."""
    if part.run is None or part.state not in _WITH_THEM:
        return frozenset()
    return frozenset(each.id for each in part.loaded.value.answered_by(part.run, part.who.person))


def _sheets(session: Session, part: Part) -> list[GuestSheet]:
    asked = asked_of(part)
    order = [each.revision_id for each in part.loaded.documents if each.document_id in asked | part.released]
    query = select(RevisionRow, DocumentRow.number).join(DocumentRow, DocumentRow.id == RevisionRow.document_id)
    found = {row.id: (row, number) for row, number in session.execute(query.where(one_of(RevisionRow.id, order)))}
    hashes = list({row.sha256 for row, _ in found.values()})
    blobs = {each.sha256: each for each in session.scalars(select(BlobRow).where(one_of(BlobRow.sha256, hashes)))}
    pages: dict[str, list[SheetPage]] = {}
    for page in session.scalars(select(PageRow).where(one_of(PageRow.sha256, hashes)).order_by(PageRow.place)):
        pages.setdefault(page.sha256, []).append(show_page(page, blobs[page.sha256].contents.get("labels", [])))
    musts = musts_of(session, part.loaded.row.id)
    return [
        GuestSheet(
            document_id=row.document_id, revision_id=row.id, number=number, revision=row.code, title=row.title,
            status=row.status, file_name=sendable_name(number, row.code, row.status, row.file_name),
            size_bytes=blobs[row.sha256].size_bytes, pages=pages.get(row.sha256, []),
            musts=list(musts.get(row.document_id, ())), asked=row.document_id in asked,
        )
        for row, number in (found[id] for id in order)
    ]  # fmt: skip


def _comments(session: Session, part: Part) -> list[GuestComment]:
    all_of_them = rows_of(session, part.loaded.row.id)
    rows = [each for each in all_of_them if each.document_id in part.released and each.released_at]
    people = people_by_id(session, {each.by_id for each in rows})
    return [
        GuestComment(
            id=row.id, number=row.number, version=row.version, document_id=row.document_id, place=row.place,
            page=row.page, by=people[row.by_id], text=row.text, grave=row.grave, response=row.response,
            close_note=row.close_note, open=row.state == CommentState.OPEN.value,
        )
        for row in rows
    ]  # fmt: skip


def respond(context: Context, secret: str, comment_id: str, command: GuestResponds) -> None:
    """Raises NotFound for a comment that is not released to them, and what responding in Nod raises."""
    with context.database.write() as session:
        part = part_of(context, session, secret)
        part.guest.need("respond")
        row = session.get(ReviewCommentRow, comment_id)
        if row is None or row.review_id != part.loaded.row.id or row.document_id not in part.released:
            raise NotFound(comment_id)
        if row.released_at is None:
            # Said since they were asked.
            raise NotFound(comment_id)
        parties = Parties(part.loaded, part.who.person, runs=False, responds=part.released)
        said = ActOnComment(version=command.version, act="respond", text=command.text)
        change_comment(part.guest.act, part.loaded, parties, row, said)
        tell_thing(part.guest.act, REVIEW, part.loaded.row)


def sheet_of(context: Context, session: Session, secret: str, revision_id: str) -> tuple[Guest, RevisionRow]:
    """Raises NotFound for a revision that does not go round in it."""
    guest = guest_of(context, session, secret)
    revision = session.get(RevisionRow, revision_id)
    if guest.kind.code != "review" or revision is None:
        raise NotFound(revision_id)
    under = session.get(ReviewDocumentRow, (guest.row.id, revision.document_id))
    person_id = guest.link.person_id
    if under is None or under.revision_id != revision_id or person_id is None:
        raise NotFound(revision_id)
    released = revision.document_id in released_to(session, guest.row, person_id)
    if not released and not has_a_part(session, guest.row, person_id):
        raise NotFound(revision_id)
    return guest, revision


def _content(context: Context, secret: str, revision_id: str) -> str:
    with context.database.read() as session:
        return sheet_of(context, session, secret, revision_id)[1].sha256


def read_tile(
    context: Context, press: Press, secret: str, revision_id: str, tile: tuple[int, int, int, int]
) -> Path:  # fmt: skip
    """`tile` is page, level, column and row. Raises NotFound outside the page."""
    sha256 = _content(context, secret, revision_id)
    return draw_tile(context, press, sha256, context.blobs.local_sheet(sha256), tile, revision_id)


def read_page(context: Context, press: Press, secret: str, revision_id: str, leaf: tuple[int, int]) -> Path:
    """The whole page; `leaf` is page and level."""
    sha256 = _content(context, secret, revision_id)
    return draw_whole(context, press, sha256, context.blobs.local_sheet(sha256), leaf, revision_id)


def download_sheet(context: Context, secret: str, revision_id: str) -> FileToSend:
    """The file as it came, under the document's number. An entry of the trail."""
    with context.database.write() as session:
        guest, revision = sheet_of(context, session, secret, revision_id)
        take_one(session, key_of("guest download", guest.link.id), _MOST_DOWNLOADS, guest.act.at)
        document = session.scalars(select(DocumentRow).where(DocumentRow.id == revision.document_id)).one()
        subjects = (Subject("revision", revision.id), Subject("link", guest.link.id), Subject("review", guest.row.id))
        about = f"{document.number} {revision.code}"
        fact = Fact(FactKind.REVISION_DOWNLOADED, Subject("document", document.id), about, subjects)
        guest.act.record(guest.project.id, fact)
        name = sendable_name(document.number, revision.code, revision.status, revision.file_name)
        media = session.get_one(BlobRow, revision.sha256).media_type
        return FileToSend(context.blobs.local(revision.sha256), name, media)


def keep_begun(context: Context, secret: str, step_id: str, command: KeepBegun) -> None:
    """Whoever begins has the step, where any one of several does: the others see it."""
    with context.database.write() as session:
        part, at = _asked(context, session, secret, step_id)
        keep_begun_at(part.guest.act, part.loaded, at, part.who, command)


def hand_in(context: Context, secret: str, step_id: str, command: HandIn) -> None:
    """Raises as handing in by somebody signed in does."""
    with context.database.write() as session:
        part, at = _asked(context, session, secret, step_id)
        moment = moment_in(part.guest.act, part.guest.project, part.loaded)
        hand_in_at(part.guest.act, part.loaded, at, part.who, command, moment)


def _asked(context: Context, session: Session, secret: str, step_id: str) -> tuple[Part, int]:
    """Picked up where that is needed first. Raises NotFound for a step in which the guest has no part."""
    found = part_of(context, session, secret)
    found.guest.need("answer")
    at = found.loaded.at(step_id)
    if at is None or not found.loaded.value.steps[at].place_of(found.who.person):
        raise NotFound(step_id)
    run = found.loaded.value.steps[at]
    if run.step.quota is not Quota.ANY or run.taken_by == found.who.person:
        return found, at
    turn = acts.pick_up(found.loaded.value, found.who, at)
    after = {"step": found.loaded.steps[at].name, "with": found.guest.name}
    record(found.guest.act, found.loaded, FactKind.STEP_PICKED_UP, after, before={"with": "nobody"})
    return replace(found, loaded=settle(found.guest.act, found.loaded, turn)), at
