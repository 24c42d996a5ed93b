"""A set of 300 sheets in one file, from the last byte to 300 checked files, against bare loops over the same pages."""

import io
import multiprocessing
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pikepdf
import pypdfium2 as pdfium
from PIL import Image

from bench.measure import tell
from nod.demo.sheets.drawing import draw_sheet
from nod.demo.sheets.frame import BLOCK_ZONES, SIZES_MM, Issue, SheetSpec
from nod.services.acts.work import Lane
from nod.services.intake import block_readers, intake, intake_view
from nod.services.press.press import Press
from nod.worker import drain, handlers_with

SHEETS = 300
THUMBNAIL_PX = 640


def _set(aside):
    """A plan, a frame, services in turn: what a consultant's plot queue leaves."""
    kinds = ("plan 00", "frame", "lighting 01", "escape 00")
    target = aside / "set.pdf"
    with pikepdf.new() as whole:
        for place in range(SHEETS):
            number = f"BFT-TRA-Z1-01-D-A-{1000 + place}"
            line = (Issue("P01", "S3", "01 Mar 2027", "First issue"),)
            spec = SheetSpec(number, f"Sheet {place}", "Tallow Reed Architects", "A1", "1:100", line, "S. Tanaka")
            draw_sheet(aside / "one.pdf", spec, kinds[place % len(kinds)])
            with pikepdf.open(aside / "one.pdf") as one:
                whole.pages.extend(one.pages)
        whole.save(target, object_stream_mode=pikepdf.ObjectStreamMode.generate)
    return target


def _bare_part(job):
    """Text with a box for each character, a thumbnail, the page as a file of its own; pypdfium2 and Pillow only."""
    path, places, aside = job
    document = pdfium.PdfDocument(path)
    for place in places:
        page = document[place]
        words = page.get_textpage()
        words.get_text_range()
        for at in range(words.count_chars()):
            words.get_charbox(at, loose=True)
        scale = THUMBNAIL_PX / max(page.get_size())
        picture = page.render(scale=scale).to_pil().convert("RGB")
        picture.thumbnail((320, 320), Image.Resampling.BOX)
        picture.save(io.BytesIO(), "WEBP", lossless=True, method=0, quality=0)
        single = pdfium.PdfDocument.new()
        single.import_pages(document, [place])
        single.save(Path(aside) / f"{place}.pdf")
        page.close()


def _draw_reader(context, actor, batch_id):
    zones = [block_readers.ZoneShown.model_validate({"corner": "lower right", **zone}) for zone in BLOCK_ZONES]
    width, height = SIZES_MM["A1"]
    command = block_readers.KeepReader(
        batch_id=batch_id, name="A1", company="Tallow Reed", width_mm=width, height_mm=height, zones=zones
    )
    block_readers.keep_reader(context, actor, command)


def bench_set(context, cast, aside):
    path = _set(aside)
    (aside / "bare-set").mkdir()
    halves = [(str(path), range(start, SHEETS, 2), str(aside / "bare-set")) for start in (0, 1)]
    with multiprocessing.get_context("spawn").Pool(2) as pool:
        pool.map(len, [[], []])
        begin = time.perf_counter()
        pool.map(_bare_part, halves)
        bare = time.perf_counter() - begin

    press = Press(2, 60)
    # A running Nod has its press at hand, as the bare pool has its processes.
    with ThreadPoolExecutor(2) as both:
        list(both.map(lambda _: press.facts(path), range(2)))
    actor = cast.actor("marit")
    batch = intake.open_batch(context, actor, intake.OpenBatch(project_id=cast.project_id))
    intake.add_file(context, actor, batch.id, "set.pdf", [path.read_bytes()])
    _draw_reader(context, actor, batch.id)
    begin = time.perf_counter()
    while drain(context, handlers_with(context, press), "bench", Lane.LOOK):
        pass
    ours = time.perf_counter() - begin
    read = [each for each in intake_view.read_batch(context, actor, batch.id).arrivals if each.split_from]
    assert len(read) == SHEETS
    assert len({each.number for each in read}) == SHEETS
    assert {each.scale for each in read} == {"1:100"}
    tell(f"{SHEETS} A1 sheets in one file: split, read, thumbnails", ours, bare)
    begin = time.perf_counter()
    intake_view.read_batch(context, actor, batch.id)
    print(f"{'the batch of 300 read for the table':44} {(time.perf_counter() - begin) * 1000:9.2f} ms")
    press.close()
