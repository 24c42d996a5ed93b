"""What the tests do again and again, in the words of the handbook."""

import io
import sqlite3
from dataclasses import replace
from functools import cache

from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from nod.demo.people import Cast
from nod.services import intake, intake_view, marks, reviews, reviews_view
from nod.services.looking import look_into
from nod.services.reviews import DocumentAnswer
from nod.worker import LOOK_KINDS, SEND_KINDS, drain, handlers_with

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


class World:
    def __init__(self, context, clock, press, cast):
        self.context, self.clock, self.press = context, clock, press
        self.cast = Cast(cast.project_id, cast.route_id, cast.people, context, cast.folders)
        self.project_id = cast.project_id
        self.actor = self.cast.actor

    def look(self):
        return drain(self.context, handlers_with(self.press), "test", LOOK_KINDS)

    def send(self, mail=None):
        """Packs, and hands mail to `mail(payload)`, by default to nobody."""
        by_kind = handlers_with(self.press)
        sent = []

        def keep(_context, key, payload):
            sent.append((key, payload))
            if mail:
                mail(payload)

        while drain(self.context, {**by_kind, "mail": keep}, "test", SEND_KINDS):
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

    def register(self, batch_id, who="marit"):
        arrivals = self.batch(batch_id, who).arrivals
        seen = {each.id: each.version for each in arrivals if each.state in intake.OPEN_STATES}
        return intake.register_batch(self.context, self.actor(who), batch_id, intake.RegisterBatch(seen=seen)).outcomes

    def file(self, *names, content=None, who="marit"):
        """Files these and returns (document id, revision id) for each."""
        files = {each: content or pdf(each) for each in names}
        self.register(self.arrive(files, who), who)
        return [self.document(each.split("_")[0]) for each in names]

    def document(self, number):
        row = self.sql("SELECT id, revision_id FROM document WHERE number = ?", number)[0]
        return row[0], row[1]

    def start(self, *documents, who="marit", name="Round one"):
        command = reviews.StartReview(
            project_id=self.project_id, route_id=self.cast.route_id, name=name, documents=dict(documents)
        )
        return reviews.start_review(self.context, self.actor(who), command).id

    def review(self, review_id, who="rafael"):
        return reviews_view.read_review(self.context, self.actor(who), review_id)

    def seen(self, review_id):
        return reviews.SeenVersion(version=self.review(review_id).version)

    def pick_up(self, review_id, who):
        reviews.pick_up(self.context, self.actor(who), review_id, self.seen(review_id))

    def hand_in(self, review_id, who, verdict="", comment=""):
        review = self.review(review_id)
        answers = [
            DocumentAnswer(document_id=each.document_id, verdict=verdict, comment=comment) for each in review.documents
        ]
        command = reviews.HandIn(version=review.version, answers=answers)
        reviews.hand_in(self.context, self.actor(who), review_id, command)

    def closed_review(self, *documents, verdict="A"):
        review_id = self.start(*documents)
        self.pick_up(review_id, "leilani")
        self.hand_in(review_id, "leilani")
        self.hand_in(review_id, "saoirse", verdict)
        return review_id

    def draw(self, revision_id, who="leilani", kind="pin", text="What is this?"):
        points = [(100, 100)] if kind == "pin" else [(10, 10), (90, 10), (90, 90), (10, 90)]
        command = marks.DrawMark(page=0, kind=kind, points=points, colour="red", text=text)
        return marks.draw_mark(self.context, self.actor(who), revision_id, command)

    def ink(self, revision_id, *drawn, who="leilani"):
        command = marks.InkMarks(marks={mark.id: mark.version for mark in drawn})
        return marks.ink_marks(self.context, self.actor(who), revision_id, command)

    def marks(self, revision_id, who):
        return marks.list_marks(self.context, self.actor(who), revision_id)

    def sql(self, query, *values):
        """Reads behind the services' backs."""
        path = self.context.settings.data_dir / "nod.db"
        with sqlite3.connect(path) as raw:
            rows = raw.execute(query, values).fetchall()
        raw.close()
        return rows

    def kinds(self):
        return [row[0] for row in self.sql("SELECT kind FROM audit_entry ORDER BY seq")]

    def with_settings(self, **more):
        return replace(self.context, settings=self.context.settings.model_copy(update=more))

    def look_at(self, sha256):
        look_into(self.context, self.press, {"sha256": sha256})
