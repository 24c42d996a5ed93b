"""Speed, as ratios to the bare library in the same run: `make bench`. One line a figure, lower is better."""

import hashlib
import io
import os
import secrets
import sqlite3
import statistics
import sys
import tempfile
from pathlib import Path

import pypdfium2 as pdfium
import pypdfium2.raw as pdfium_c
from PIL import Image
from reportlab.pdfgen.canvas import Canvas

from bench import live, mail, sessions
from bench.access import bench_grid
from bench.acts import bench_start_review
from bench.distribution import bench_due
from bench.holders import bench_holders
from bench.intake import bench_set
from bench.laying import bench_laying
from bench.letters import bench_letters
from bench.measure import tell, timed
from bench.packing import bench_packing
from bench.register import bench_register, bench_search
from bench.requests import bench_requests
from bench.review_log import bench_log
from bench.reviews import bench_review
from bench.second_start import bench_second_start
from bench.serving import serving
from bench.sheet_view import bench_sheet_view
from bench.submittals import bench_submittals
from bench.uploading import bench_upload
from bench.verifying import bench_verify
from nod.clock import Clock
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.demo.people import set_up
from nod.formats.sheet.pdf_look import TILE_PX, size_at
from nod.services.acts.context import acting, open_context
from nod.services.press.press import Press
from nod.settings import Settings

BIN = Path(sys.executable).parent
MARIT = "marit@hollinbrook.example"


def dense_sheet(path, segments=100_000):
    """An A0 sheet with that many line segments."""
    canvas = Canvas(str(path), pagesize=(3370, 2384))
    lines = canvas.beginPath()
    for place in range(segments):
        x, y = (place * 37) % 3300, (place * 91) % 2300
        lines.moveTo(x, y)
        lines.lineTo(x + 20 + place % 50, y + 10 + place % 30)
    canvas.drawPath(lines)
    canvas.save()


def bench_tiles(aside):
    """A tile by the press (another process, over its line) against pdfium and Pillow in this process."""
    path = aside / "dense.pdf"
    dense_sheet(path)
    press = Press(1, 60)
    page = pdfium.PdfDocument(path)[0]
    for level in (11, 13):
        places = [(column, row) for column in range(3) for row in range(2)]
        full = size_at(page.get_width(), page.get_height(), level)
        press.tile(path, 0, level, 0, 0)
        ours = statistics.median(timed(lambda at=at: press.tile(path, 0, level, *at), 3) for at in places)
        bare = statistics.median(timed(lambda at=at: _bare_tile(page, full, at), 3) for at in places)
        tell(f"tile of an A0 with 100,000 lines, level {level}", ours, bare)
    press.close()


def _bare_tile(page, full, at):
    bitmap = pdfium.PdfBitmap.new_native(TILE_PX, TILE_PX, pdfium_c.FPDFBitmap_BGRx)
    bitmap.fill_rect((255, 255, 255, 255), 0, 0, TILE_PX, TILE_PX)
    pdfium_c.FPDF_RenderPageBitmap(bitmap, page, -at[0] * TILE_PX, -at[1] * TILE_PX, *full, 0, pdfium_c.FPDF_ANNOT)
    out = io.BytesIO()
    image: Image.Image = bitmap.to_pil().convert("RGB")
    image.getchannel(0).save(out, "PNG", compress_level=1)
    return out.getvalue()


def bench_blobs(context, aside):
    """Taking in 64 MiB against hashing and writing it with one fsync."""
    chunk = secrets.token_bytes(1024 * 1024)

    def chunks():
        for place in range(64):
            yield place.to_bytes(8, "big") + chunk[8:]

    def bare():
        digest = hashlib.sha256()
        with (aside / "bare").open("wb") as file:
            for each in chunks():
                digest.update(each)
                file.write(each)
            file.flush()
            os.fsync(file.fileno())

    def ours():
        stored = context.blobs.put(chunks())
        with context.blobs.local(stored.sha256) as path:
            path.unlink()

    bare_seconds, our_seconds = timed(bare, 5), timed(ours, 5)
    tell("taking in a file of 64 MiB", our_seconds, bare_seconds)


def bench_audit(context, cast, aside):
    """One act with one entry (trail, tree, live event, commit) against one INSERT and commit in bare sqlite3."""
    raw = sqlite3.connect(aside / "bare.db", isolation_level=None)
    raw.execute("PRAGMA journal_mode=WAL")
    raw.execute("PRAGMA synchronous=FULL")
    raw.execute("CREATE TABLE entry (seq INTEGER PRIMARY KEY, body BLOB)")
    body = secrets.token_bytes(600)
    actor = cast.actor("marit")

    def ours():
        with acting(context, actor) as act:
            act.record(
                cast.project_id, Fact(FactKind.SIGNED_IN, Subject("person", actor.person_id), "bench", after={"a": 1})
            )

    def bare():
        raw.execute("BEGIN IMMEDIATE")
        raw.execute("INSERT INTO entry (body) VALUES (?)", (body,))
        raw.execute("COMMIT")

    tell("audit entry, one an act", timed(ours, 300), timed(bare, 300))
    many = 500

    def batch():
        with acting(context, actor) as act:
            for _ in range(many):
                act.record(cast.project_id, Fact(FactKind.SIGNED_IN, Subject("person", actor.person_id), "bench"))

    def bare_batch():
        raw.execute("BEGIN IMMEDIATE")
        for _ in range(many):
            raw.execute("INSERT INTO entry (body) VALUES (?)", (body,))
        raw.execute("COMMIT")

    tell(f"audit entries, {many} an act, each", timed(batch, 5) / many, timed(bare_batch, 5) / many)
    raw.close()


def main():
    with tempfile.TemporaryDirectory() as name:
        aside = Path(name)
        bench_tiles(aside)
        bench_laying(aside)
        bench_sheet_view(aside)
        context = open_context(Settings(data_dir=aside / "data", password_cost=1, demo=True), Clock())
        context.database.migrate()
        cast = set_up(context, ())
        bench_blobs(context, aside)
        bench_audit(context, cast, aside)
        bench_set(context, cast, aside)
        bench_grid()
        bench_start_review(context, cast)
        bench_review(context, cast)
        with serving(context.settings.data_dir) as (url, pid):
            bench_register(context, cast, url)
            bench_search(context, cast, url)
            bench_requests(cast, url, context.settings.data_dir / "nod.db")
            bench_upload(url, pid, MARIT)
        bench_holders(context, cast)
        bench_due(context, cast)
        bench_packing(aside)
        bench_log(context, cast)
        bench_submittals(context, cast)
        bench_verify(context, cast)
        bench_letters(context, cast)
        context.database.close()
    mail.main()
    live.served(live.bench_live)
    live.served(sessions.bench_session)
    bench_second_start()


if __name__ == "__main__":
    main()
