"""What the tests do again and again, in the words of the handbook."""

import atexit
import copy
import io
import json
import math
import shutil
import sqlite3
import tempfile
from dataclasses import replace
from functools import cache
from itertools import pairwise
from pathlib import Path

import pytest
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from nod.demo.people import Cast
from nod.services.acts.work import Job, Lane
from nod.services.intake import corrections, intake, intake_check, intake_view, registering
from nod.services.intake.file_contents import look_into
from nod.services.marks import mark_threads, marks, marks_view
from nod.services.register import register_list, releases
from nod.services.register.register_list import AskedView
from nod.services.reviews import reviews, reviews_view, starting
from nod.services.reviews.reviews import DocumentAnswer
from nod.worker import drain, handlers_with

NUMBER = "BFT-TRA-Z1-01-D-A-0101"
OTHER_NUMBER = "BFT-PLS-Z1-01-D-S-0201"


@cache
def pdf(text="Quay hall", size_mm=(420, 297), pages=1) -> bytes:
    """A small vector sheet."""
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(size_mm[0] * mm, size_mm[1] * mm), invariant=1)
    for page in range(pages):
        canvas.drawString(72, 72, f"{text} {page}")
        canvas.rect(100, 100, 200, 200)
        canvas.showPage()
    canvas.save()
    return out.getvalue()


def name(number=NUMBER, revision="P01", status="S3", title="Quay hall plan") -> str:
    return f"{number}_{revision}_{status}_{title}.pdf"


_BUILT = {}


class World:
    """`keeps`: what is made first in it is kept for other worlds of the same project, see `once`."""

    def __init__(self, context, clock, press, cast, *, keeps=False):
        self.context, self.clock, self.press = context, clock, press
        self.cast = Cast(cast.project_id, cast.route_id, cast.people, context, cast.folders)
        self.project_id = cast.project_id
        self.actor = self.cast.actor
        self.written_by_hand = False
        self._made = (cast.project_id, clock.now()) if keeps else None
        self._untouched = self._written()

    def _written(self):
        """Changes with whatever is written to the database."""
        kept = self.context.settings.data_dir / "nod.db"
        log = kept.with_name("nod.db-wal")
        return kept.stat().st_mtime_ns, log.stat().st_size if log.exists() else 0

    def once(self, build, *given, **named):
        """What `build(self, …)` gives, plain values: made once a process, then its data are copied, which is quicker.

        So is what is built next in the same way. A world in which something else was done has it built anew.
        """
        if self._made is None or self._written() != self._untouched or self._made[1] != self.clock.now():
            self._made = None
            return build(self, *given, **named)
        key = (*self._made, build.__module__, build.__qualname__, repr(given), repr(sorted(named.items())))
        if key in _BUILT:
            answer = self._restore(*_BUILT[key])
        else:
            answer = build(self, *given, **named)
            _BUILT[key] = self._put_aside(), answer, self.clock.now(), self.written_by_hand
        self._made = (key[0], self.clock.now(), *key[2:])
        self._untouched = self._written()
        return copy.deepcopy(answer)

    def _put_aside(self):
        self.context.database.close()
        aside = Path(tempfile.mkdtemp(prefix="nod-world-"))
        atexit.register(shutil.rmtree, aside, ignore_errors=True)
        shutil.copytree(self.context.settings.data_dir, aside, dirs_exist_ok=True)
        return aside

    def _restore(self, aside, answer, now, written_by_hand):
        data = self.context.settings.data_dir
        self.context.database.close()
        shutil.rmtree(data)
        shutil.copytree(aside, data)
        self.clock.set(now)
        self.written_by_hand = written_by_hand
        return answer

    def look(self):
        """All that the worker has to look into, and what follows from that."""
        count = 0
        while done := drain(self.context, handlers_with(self.context, self.press), "test", Lane.LOOK):
            count += done
        return count

    def send(self, mail=None):
        """Packs, and hands mail to `mail(payload)`, by default to nobody."""
        by_kind = handlers_with(self.context, self.press)
        sent = []

        def keep(task):
            sent.append((task.key, task.payload))
            if mail:
                mail(task.payload)

        while drain(self.context, {**by_kind, "mail": keep}, "test", Lane.SEND, Lane.REST):
            pass
        return sent

    def arrive(self, files, who="marit"):
        """`files`: name → bytes. Returns the batch's id; the files have been looked into."""
        batch = intake.open_batch(self.context, self.actor(who), intake.OpenBatch(project_id=self.project_id))
        for file_name, content in files.items():
            intake.add_file(self.context, self.actor(who), batch.id, file_name, [content])
        self.look()
        return batch.id

    def batch(self, batch_id, who="marit"):
        return intake_view.read_batch(self.context, self.actor(who), batch_id)

    def list(self, who="marit", *, filters=(), sorts=(), shut=(), **view):
        """A page of the register; filters and sorts as lists."""
        asked = AskedView(
            self.project_id, filters=json.dumps(filters), sorts=json.dumps(sorts), shut=json.dumps(shut), **view
        )
        return register_list.list_register(self.context, self.actor(who), asked)

    def correct(self, *arrivals, who="marit", taken=None, **values):
        """The same values for all of these; returns what would undo it."""
        changes = [
            corrections.Correction(id=each.id, version=each.version, values=values, taken=taken or {})
            for each in arrivals
        ]
        (batch_id,) = {self.sql("SELECT batch_id FROM arrival WHERE id = ?", each.id)[0][0] for each in arrivals}
        command = corrections.CorrectArrivals(changes=changes)
        return corrections.correct_arrivals(self.context, self.actor(who), batch_id, command).undo

    def undo(self, batch_id, changes, who="marit"):
        command = corrections.CorrectArrivals(changes=changes)
        corrections.correct_arrivals(self.context, self.actor(who), batch_id, command)

    def arrivals(self, batch_id):
        """By file name."""
        return {each.file_name: each for each in self.batch(batch_id).arrivals}

    def register(self, batch_id, who="marit"):
        arrivals = self.batch(batch_id, who).arrivals
        seen = {each.id: each.version for each in arrivals if each.state in intake_check.OPEN_STATES}
        return registering.register_batch(
            self.context, self.actor(who), batch_id, registering.RegisterBatch(seen=seen)
        ).outcomes

    def file(self, *names, content=None, who="marit"):
        """Files these and returns (document id, revision id) for each."""
        return self.once(World._file, *names, content=content, who=who)

    def _file(self, *names, content, who):
        files = {each: content or pdf(each) for each in names}
        self.register(self.arrive(files, who), who)
        return [self.document(each.split("_")[0]) for each in names]

    def document(self, number):
        row = self.sql("SELECT id, revision_id FROM document WHERE number = ?", number)[0]
        return row[0], row[1]

    def set_status(self, revision_id, status, who="marit", reason="as agreed"):
        """Gives a revision a status; returns what is in force of its document then."""
        version = self.sql(
            "SELECT d.version FROM document d JOIN revision r ON r.document_id = d.id WHERE r.id = ?", revision_id
        )[0][0]
        command = releases.SetStatus(version=version, status=status, reason=reason)
        return releases.set_status(self.context, self.actor(who), revision_id, command).in_force

    def start(self, *documents, who="marit", name="Round one"):
        command = starting.StartReview(
            project_id=self.project_id, route_id=self.cast.route_id, name=name, documents=dict(documents)
        )
        return starting.start_review(self.context, self.actor(who), command).id

    def review(self, review_id, who="rafael"):
        return reviews_view.read_review(self.context, self.actor(who), review_id)

    def seen(self, review_id):
        return self.review(review_id).version

    def step(self, review_id, who):
        """Of the steps that run, the one somebody has a place in; the first of them without."""
        running = [row for row in self.review(review_id).slip if row.state == "running"]
        person_id = self.cast.people[who]
        own = [row for row in running if any(each.who.id == person_id for each in row.places)]
        return (own or running)[0].id

    def pick_up(self, review_id, who):
        reviews.pick_up(self.context, self.actor(who), review_id, self.step(review_id, who))

    def hand_in(self, review_id, who, verdict="", comment="", **by_number):
        """`by_number`: the last four of a document's number, after an n, with its verdict."""
        review = self.review(review_id, who)
        step_id = self.step(review_id, who)
        answers = [
            DocumentAnswer(
                document_id=each.document_id, verdict=by_number.get(f"n{each.number[-4:]}", verdict), comment=comment
            )
            for each in review.documents
            if each.state == "going"
        ]
        reviews.hand_in(self.context, self.actor(who), review_id, step_id, reviews.HandIn(answers=answers))

    def closed_review(self, *documents, verdict="A", comment=""):
        return self.once(World._closed_review, *documents, verdict=verdict, comment=comment)

    def _closed_review(self, *documents, verdict, comment):
        review_id = self.start(*documents)
        self.pick_up(review_id, "leilani")
        self.hand_in(review_id, "leilani", comment=comment)
        self.hand_in(review_id, "saoirse", verdict)
        return review_id

    def draw(self, revision_id, who="leilani", kind="pin", text="What is this?"):
        points = [(100, 100)] if kind == "pin" else [(10, 10), (90, 10), (90, 90), (10, 90)]
        return self.draw_all(revision_id, {"kind": kind, "points": points, "text": text}, who=who)[0]

    def draw_all(self, revision_id, *new, who="leilani"):
        """`new` are fields of NewMark; the first page where none is given."""
        command = marks.DrawMarks.model_validate({"marks": [{"page": 0, **each} for each in new]})
        return marks.draw_marks(self.context, self.actor(who), revision_id, command)

    def change_mark(self, mark, who="leilani", **values):
        """Of the first sheet that has the mark."""
        (revision_id,) = self.sql("SELECT revision_id FROM mark WHERE id = ?", mark.id)[0]
        change = {"id": mark.id, "version": mark.version, **values}
        command = marks.ChangeMarks.model_validate({"changes": [change]})
        return marks.change_marks(self.context, self.actor(who), revision_id, command)[0]

    def remove_mark(self, revision_id, mark, who="leilani"):
        command = marks.RemoveMarks(marks={mark.id: mark.version})
        marks.remove_marks(self.context, self.actor(who), revision_id, command)

    def reply(self, mark, text, who="anouk"):
        return mark_threads.write_reply(self.context, self.actor(who), mark.id, mark_threads.WriteReply(text=text))

    def ink(self, revision_id, *drawn, who="leilani"):
        command = mark_threads.InkMarks(marks={mark.id: mark.version for mark in drawn})
        return mark_threads.ink_marks(self.context, self.actor(who), revision_id, command)

    def marks(self, revision_id, who):
        return marks_view.list_marks(self.context, self.actor(who), revision_id)

    def sql(self, query, *values):
        """Reads behind the services' backs."""
        path = self.context.settings.data_dir / "nod.db"
        with sqlite3.connect(path) as raw:
            rows = raw.execute(query, values).fetchall()
        raw.close()
        return rows

    def write(self, statement):
        """Changes something behind the services' backs."""
        self.written_by_hand = True
        with sqlite3.connect(self.context.settings.data_dir / "nod.db") as raw:
            raw.execute(statement)
        raw.close()

    def kinds(self):
        return [row[0] for row in self.sql("SELECT kind FROM audit_entry ORDER BY seq")]

    def with_settings(self, **more):
        return replace(self.context, settings=self.context.settings.model_copy(update=more))

    def look_at(self, sha256):
        look_into(Job(self.context, self.press), {"sha256": sha256})


def made_once(build):
    """A fixture of what `build(world)` gives, see `World.once`."""

    @pytest.fixture(name=build.__name__)
    def made(world):
        return world.once(build)

    return made


def in_cloud(canvas, x, y, width, height, way="arcs"):
    """A revision cloud around a rectangle (mm), as different programs draw it."""
    points = _bulges([(x, y), (x + width, y), (x + width, y + height), (x, y + height)])
    canvas.setLineWidth(0.5 * mm)
    if way == "separate strokes":
        for a, b in (pair for arc in points for pair in pairwise(arc)):
            canvas.line(a[0] * mm, a[1] * mm, b[0] * mm, b[1] * mm)
        return
    path = canvas.beginPath()
    for place, arc in enumerate(points):
        if way == "arcs" or place == 0:
            path.moveTo(arc[0][0] * mm, arc[0][1] * mm)
        if way == "short strokes":
            [path.lineTo(px * mm, py * mm) for px, py in arc[1:]]
        else:
            [_quarter(path, arc[start], arc[start + 5], arc[0], arc[10]) for start in (0, 5)]
    canvas.drawPath(path)


def _quarter(path, start, end, first, last):
    """A quarter circle as a curve; its middle is the middle between the arc's ends."""
    mx, my = (first[0] + last[0]) / 2, (first[1] + last[1]) / 2
    k = 0.5523
    a = (start[0] + k * (end[0] - mx), start[1] + k * (end[1] - my))
    b = (end[0] + k * (start[0] - mx), end[1] + k * (start[1] - my))
    path.curveTo(*(value * mm for point in (a, b, end) for value in point))


def _bulges(corners):
    """Half circles along the sides, outwards, each as eleven points."""
    points = []
    for (x0, y0), (x1, y1) in zip(corners, [*corners[1:], corners[0]], strict=True):
        count = max(1, round(math.hypot(x1 - x0, y1 - y0) / 8))
        angle = math.atan2(y1 - y0, x1 - x0)
        for place in range(count):
            at, radius = (place + 0.5) / count, math.hypot(x1 - x0, y1 - y0) / count / 2
            middle = (x0 + (x1 - x0) * at, y0 + (y1 - y0) * at)
            turns = [angle + math.pi + math.pi * step / 10 for step in range(11)]
            points.append([(middle[0] + radius * math.cos(a), middle[1] + radius * math.sin(a)) for a in turns])
    return points


def bytes_of(sent):
    """Of a file to send."""
    with sent.content as path:
        return path.read_bytes()
