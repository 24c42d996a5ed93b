"""Marks taken in from a file: matched by identifier, the newer wins, nothing twice (handbook §6, open formats)."""

from __future__ import annotations

import tempfile
from collections import Counter
from collections.abc import Iterable
from dataclasses import asdict, replace
from datetime import datetime
from pathlib import Path

from sqlalchemy import exists, select

from nod.core.access.levels import Level
from nod.core.acts.refusals import DiskFull, NotFound, RuleBroken
from nod.core.marks.annotations import MarksIn, to_marks
from nod.core.marks.mark_files import FiledLink, FiledMark, FiledReply, Paper
from nod.core.marks.marks import MarkKind, MarkState, Shape
from nod.core.marks.stored_marks import check_mark
from nod.core.threads.threads import LONGEST_TEXT, Way, check_text
from nod.core.trail.entries import Fact, FactKind, Subject, changed
from nod.formats.files.unfit import CannotAnnotate, NotXfdf
from nod.services.access.visibility import see_revision
from nod.services.acts.answers import Answered
from nod.services.acts.context import Act, Context, acting
from nod.services.acts.seats import Actor, take_seat
from nod.services.marks import mark_files_in
from nod.services.marks.live_marks import tell
from nod.services.marks.mark_files import changed_at
from nod.services.marks.mark_links import MOST_LINKS, add_link, find_target
from nod.services.marks.mark_rows import is_read_by, places_of
from nod.services.marks.mark_threads import next_pin, set_state
from nod.services.marks.marks import check_measures, content_of, new_thread, record
from nod.services.marks.scales import pages_of
from nod.services.press.press import Press, PressStopped
from nod.services.sheet.title_blocks import box_of
from nod.services.threads.said import Outside, add_reply
from nod.store.blobs import NoRoom, StoredBlob, room
from nod.store.tables import DocumentRow, MarkRow, ProjectRow, ReplyRow, ThreadLinkRow, ThreadRow

LARGEST_BYTES = 200 * 1024**2
_LARGEST_XFDF_BYTES = 32 * 1024**2
_MOST_MARKS = 5000
NOBODY = "nobody named"


class Told(Answered):
    words: str
    count: int


class TakenIn(Answered):
    """What came of each mark in the file. `told` says in words what was left or is shown as something else."""

    added: int
    renewed: int
    same: int
    answers: int
    states: int
    links: int
    told: list[Told]


def take_in_marks(
    context: Context, press: Press, actor: Actor, revision_id: str, name: str, pieces: Iterable[bytes]
) -> TakenIn:
    """A PDF with annotations or an XFDF of this sheet. Ink at once, under the names that the file gives.

    Raises RuleBroken for a file that is neither, or that holds too many.
    """
    with context.database.read() as session:
        revision, _, _ = see_revision(session, actor, revision_id, Level.MARK)
        papers = [Paper(box_of(page), page.user_unit) for page in pages_of(session, revision)]
    found, kept = _read(context, press, pieces, papers, context.clock.now())
    if not found.marks and not found.told:
        raise RuleBroken("marks_none", "There are no marks in this file.", name[:80])
    if len(found.marks) > _MOST_MARKS:
        raise RuleBroken("too_many_changes", f"The file has more than {_MOST_MARKS} marks.", name[:80])
    with acting(context, actor) as act:
        _, document, _ = see_revision(act.session, actor, revision_id, Level.MARK)
        taking = _Taking(act, document, revision_id)
        for mark in found.marks:
            taking.take(mark)
        answer = taking.answer(found)
        _say(act, document, revision_id, name, taking, kept)
        mark_files_in.keep(act, revision_id, name, kept, [each.model_dump() for each in answer.told])
        return answer


def _read(
    context: Context, press: Press, pieces: Iterable[bytes], papers: list[Paper], now: datetime
) -> tuple[MarksIn, StoredBlob]:
    """And the file as it is kept from now on, whether or not all it says can be a mark."""
    with tempfile.TemporaryDirectory(dir=context.settings.data_dir) as aside:
        path = Path(aside) / "marks"
        try:
            with room(), path.open("wb") as file:
                for piece in pieces:
                    file.write(piece)
        except NoRoom as error:
            raise DiskFull from error
        with path.open("rb") as file:
            head = file.read(1024)
        try:
            if b"%PDF" in head:
                annotations, own_papers = press.annotations(path)
                found = to_marks(annotations, own_papers[: len(papers)] or papers, now)
                return found, context.blobs.put_file(path)
            if path.stat().st_size > _LARGEST_XFDF_BYTES:
                raise NotXfdf(f"The file is no PDF, and larger than {_LARGEST_XFDF_BYTES // 1024**2} MB.")
            # Half a second to load, and seldom asked for.
            from nod.formats.marks.xfdf import read_xfdf

            return to_marks(read_xfdf(path.read_bytes()), papers, now), context.blobs.put_file(path)
        except NoRoom as error:
            raise DiskFull from error
        except (CannotAnnotate, NotXfdf) as error:
            raise RuleBroken("marks_unreadable", str(error)) from error
        except PressStopped as error:
            raise RuleBroken("file_slow", "Reading the marks of this file takes too long.") from error


class _Taking:
    """One file's marks on their way into a sheet, within one act."""

    def __init__(self, act: Act, document: DocumentRow, revision_id: str) -> None:
        self._act, self._document, self._revision_id = act, document, revision_id
        rows = list(act.session.scalars(select(MarkRow).where(MarkRow.document_id == document.id)))
        seat = take_seat(act.session, act.actor, document.project_id)
        ids = select(ThreadRow.id).where(ThreadRow.on_id == document.id, is_read_by(seat))
        read = set(act.session.scalars(ids))
        # What is not for whoever takes the file in is not changed by it.
        here = [
            row for row in rows
            if row.revision_id == revision_id and row.thread.shared_at and row.thread_id in read
        ]  # fmt: skip
        self._known: dict[str, MarkRow] = {}
        for row in here:
            self._known[row.id] = self._known[row.thread.file_id or row.id] = row
        threads = {row.thread_id: row for row in here}
        # The same marks as they stand on other revisions, where the file may have been written.
        self._elsewhere = {
            row.id: threads[row.thread_id] for row in rows if row.thread_id in threads and row.id not in self._known
        }
        self._pins = {row.pin_number for row in self._known.values() if row.pin_number}
        self._disciplines = act.session.get_one(ProjectRow, document.project_id).rules["disciplines"]
        self.count: Counter[str] = Counter()
        self._left: Counter[str] = Counter()
        self.touched: list[MarkRow] = []

    def take(self, mark: FiledMark) -> None:
        if mark.discipline not in self._disciplines:
            mark = replace(mark, discipline="")
        row = self._known.get(mark.id) or self._elsewhere.get(mark.id)
        if row is None:
            row = self._add(mark)
        elif row.removed_at:
            self._left["taken away here before, and left so"] += 1
            return
        elif mark.id in self._elsewhere:
            # Where it lies there is no place on this sheet.
            self.count["same"] += 1
        else:
            self._renew(row, mark)
        if row is not None:
            self._thread(row, mark)

    def _add(self, mark: FiledMark) -> MarkRow | None:
        act = self._act
        thread = new_thread(act, self._document, self._revision_id, mark.text)
        thread.way, thread.author_name, thread.file_id = Way.FILE.value, mark.author or NOBODY, mark.id
        thread.said_at, thread.shared_at = min(mark.drawn_at, act.at), act.at
        row = MarkRow(
            id=thread.id, thread=thread, document_id=self._document.id, revision_id=self._revision_id, page=mark.page,
            kind=mark.kind.value, points=[list(point) for point in mark.points], look=asdict(mark.look),
            label=mark.label, discipline=mark.discipline, rings=list(mark.rings), aim_pt=0.0, rank=0, locked=False,
            changed_at=min(mark.changed_at, act.at), version=1,
        )  # fmt: skip
        if not self._fits(row, mark):
            return None
        row.pin_number = self._pin(mark) if mark.kind is MarkKind.PIN else None
        self._act.session.add(row)
        self._act.session.flush()
        record(
            self._act,
            self._document,
            row,
            FactKind.MARK_TAKEN_IN,
            after={**content_of(row), "author": thread.author_name},
        )
        self._known[mark.id] = row
        self.count["added"] += 1
        self.touched.append(row)
        return row

    def _fits(self, row: MarkRow, mark: FiledMark) -> bool:
        try:
            check_mark(Shape(mark.kind, mark.points, mark.look), mark.rings)
            check_text(mark.text, required=False)
            check_measures(self._act, self._revision_id, [row])
        except RuleBroken as refusal:
            self._left[f"left out: {refusal.words}"] += 1
            return False
        return True

    def _pin(self, mark: FiledMark) -> int:
        number = mark.pin_number
        if not number or number in self._pins:
            number = max([next_pin(self._act.session, self._revision_id) - 1, *self._pins]) + 1
        self._pins.add(number)
        return number

    def _renew(self, row: MarkRow, mark: FiledMark) -> None:
        before, said = content_of(row), _content_in(mark)
        news = {key: value for key, value in said.items() if getattr(row, key) != value}
        own, reworded = changed_at(row), mark.text != row.thread.text
        if not (news or reworded) or mark.changed_at.replace(microsecond=0) <= own.replace(microsecond=0):
            self.count["same"] += 1
            return
        if why := self._stays(row):
            self._left[why] += 1
            return
        trial = MarkRow(kind=row.kind, page=row.page, **{**{key: getattr(row, key) for key in said}, **news})
        if not self._fits(trial, mark):
            return
        for key, value in news.items():
            setattr(row, key, value)
        places = places_of(self._act.session, row) if reworded else [row]
        row.thread.text = mark.text
        for each in places:
            each.changed_at, each.version = min(mark.changed_at, self._act.at), each.version + 1
        record(self._act, self._document, row, FactKind.MARK_CHANGED, *changed(before, content_of(row)))
        self.count["renewed"] += 1
        self.touched += places

    def _stays(self, row: MarkRow) -> str:
        """Why a mark that was drawn here is not changed by a file; empty where it is."""
        if row.thread.way == Way.FILE:
            return ""
        if row.thread.author_id != self._act.actor.person_id:
            return "changed in the file, but only their authors change them here"
        if row.locked:
            return "changed in the file, but locked here"
        answered = self._act.session.scalar(select(exists().where(ReplyRow.thread_id == row.thread_id)))
        return "changed in the file, but answered here, so they stay as they are" if answered else ""

    def _thread(self, row: MarkRow, mark: FiledMark) -> None:
        query = select(ReplyRow.id, ReplyRow.file_id).where(ReplyRow.thread_id == row.thread_id)
        known = {name for pair in self._act.session.execute(query) for name in pair}
        for reply in mark.replies:
            if reply.id not in known:
                self._answer(row, reply)
        if mark.links:
            self._lead(row, mark.links)
        at = mark.state_at
        thread = row.thread
        new = at is not None and (thread.state_at is None or at > thread.state_at.replace(microsecond=0))
        if at and new and mark.state != thread.state and mark.state is not MarkState.OPEN:
            before = thread.state
            carried = set_state(self._act.session, row, mark.state, self._act.actor.person_id, at)
            after = {"state": thread.state, "author": mark.state_by}
            record(self._act, self._document, row, FactKind.MARK_STATE_SET, {"state": before}, after)
            self.count["states"] += 1
            self.touched += carried

    def _answer(self, row: MarkRow, reply: FiledReply) -> None:
        outside = Outside(Way.FILE, reply.author or NOBODY, reply.at, file_id=reply.id)
        add_reply(self._act, row.thread, reply.text, said_on=row.revision_id, outside=outside)
        after = {"text": reply.text, "author": outside.name}
        record(self._act, self._document, row, FactKind.MARK_ANSWERED, after=after)
        self.count["answers"] += 1
        self.touched += places_of(self._act.session, row)

    def _lead(self, row: MarkRow, links: Iterable[FiledLink]) -> None:
        of_mark = select(ThreadLinkRow).where(ThreadLinkRow.thread_id == row.thread_id)
        known = list(self._act.session.scalars(of_mark))
        gone = {each.id for each in known if each.removed_at}
        here = {(each.kind, each.target) for each in known if not each.removed_at}
        for link in links:
            if (link.kind, link.target) in here:
                continue
            if link.id in gone:
                self._left["of a link that was taken away here before, and left so"] += 1
                continue
            try:
                target = find_target(self._act, self._document, link.kind, link.target)
            except (NotFound, RuleBroken):
                self._left["of a link to what is not here, or not for you: left in the file"] += 1
                continue
            if len(here) >= MOST_LINKS:
                self._left[f"of a link beyond the {MOST_LINKS} that a mark can have: left in the file"] += 1
                continue
            if (target.kind, target.target) in here:
                continue
            add_link(self._act, self._document, row, target, link.author)
            here.add((target.kind, target.target))
            self.count["links"] += 1
            self.touched += places_of(self._act.session, row)

    def answer(self, found: MarksIn) -> TakenIn:
        if found.cut:
            words = f"whose text is longer than {LONGEST_TEXT} characters, and was cut: the file has all of it"
            self._left[words] += found.cut
        told = [Told(words=words, count=count) for words, count in self._left.items()]
        told += [
            Told(words=f"of kind {kind}, shown as something like it", count=count) for kind, count in found.told.items()
        ]
        count = self.count
        return TakenIn(
            added=count["added"], renewed=count["renewed"], same=count["same"], answers=count["answers"],
            states=count["states"], links=count["links"], told=told,
        )  # fmt: skip


def _content_in(mark: FiledMark) -> dict[str, object]:
    said: dict[str, object] = {
        "points": [list(point) for point in mark.points], "look": asdict(mark.look), "label": mark.label,
        "rings": list(mark.rings),
    }  # fmt: skip
    # Other programs know of none: what it has here stays.
    return said | {"discipline": mark.discipline} if mark.discipline else said


def _say(act: Act, document: DocumentRow, revision_id: str, name: str, taking: _Taking, kept: StoredBlob) -> None:
    after = {"file": name[:200], "sha256": kept.sha256, **{key: value for key, value in taking.count.items() if value}}
    about = f"{document.number} {document.revision}"
    subject, others = Subject("document", document.id), (Subject("revision", revision_id),)
    act.record(document.project_id, Fact(FactKind.MARKS_TAKEN_IN, subject, about, others, after=after))
    tell(act, document, taking.touched)
