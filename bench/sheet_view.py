"""The sheet in Chromium: the first sharp view against pdf.js, a kept tile against a file, panning under marks."""

import functools
import http.server
import multiprocessing
import random
import shutil
import statistics
import threading
import time
import urllib.parse
import urllib.request
from itertools import pairwise
from pathlib import Path

from playwright.sync_api import sync_playwright
from reportlab.pdfgen.canvas import Canvas
from tests.browser.client import Person
from tests.browser.conftest import CHROMIUM, EMAILS, FLAGS

from bench.measure import tell, timed_pair
from bench.serving import serving
from bench.sessions import make_session
from nod.clock import Clock
from nod.demo.people import set_up
from nod.services.acts.context import open_context
from nod.services.acts.work import Lane
from nod.services.intake import intake, intake_view, registering
from nod.services.marks import mark_threads, marks
from nod.services.people.sign_in import DEMO_PASSWORD
from nod.services.press.press import Press
from nod.settings import Settings
from nod.worker import drain, handlers_with

SEGMENTS, MARKS, UNSEEN = 100_000, 2000, 5
A1_PT = (2384, 1684)
WINDOW = {"width": 1280, "height": 800}
MARIT = "marit@hollinbrook.example"
LEILANI = EMAILS["leilani"]
PDFJS = Path(__file__).resolve().parents[1] / "frontend/node_modules/pdfjs-dist/build"
PAGE = """<!doctype html><title>.</title><body style="margin:0"><canvas></canvas><script type="module">
import * as pdfjs from './pdf.min.mjs'
pdfjs.GlobalWorkerOptions.workerSrc = './pdf.worker.min.mjs'
const page = await (await pdfjs.getDocument({ url: new URL('dense.pdf', location).href }).promise).getPage(1)
const viewport = page.getViewport({ scale: %f })
const canvas = document.querySelector('canvas')
canvas.width = viewport.width
canvas.height = viewport.height
await page.render({ canvas, viewport }).promise
requestAnimationFrame(() => { document.body.dataset.painted = performance.now() })
</script>"""
FRAMES = """() => new Promise((done) => {
  const at = []
  const tick = (now) => { at.push(now); at.length < 90 ? requestAnimationFrame(tick) : done(at) }
  requestAnimationFrame(tick)
})"""


def plan(path, seed=5):
    """Segments as CAD writes them: short runs, each stroked by itself, in a few inks and widths; most are level."""
    lots = random.Random(seed)  # noqa: S311 - the same plan every time
    canvas = Canvas(str(path), pagesize=A1_PT)
    drawn = 0
    while drawn < SEGMENTS:
        if lots.random() < 0.02:
            canvas.setLineWidth(lots.choice((0.36, 0.51, 0.71, 1.0)))
            canvas.setStrokeGray(lots.choice((0, 0, 0, 0.35, 0.6)))
        run = canvas.beginPath()
        x, y = lots.uniform(0, A1_PT[0]), lots.uniform(0, A1_PT[1])
        run.moveTo(x, y)
        for _ in range(min(lots.choice((1, 1, 1, 2, 4, 5)), SEGMENTS - drawn)):
            long = lots.uniform(2, 40) * lots.choice((-1, 1))
            across, up = lots.choice(((long, 0), (0, long), (long, long / 3)))
            x, y, drawn = x + across, y + up, drawn + 1
            run.lineTo(x, y)
        canvas.drawPath(run)
    canvas.save()


def _file(context, cast, contents):
    """A document for each drawing; their revisions."""
    press = Press(2, 60)
    actor = cast.actor("marit")
    batch = intake.open_batch(context, actor, intake.OpenBatch(project_id=cast.project_id))
    for place, content in enumerate(contents, 5001):
        intake.add_file(context, actor, batch.id, f"BFT-TRA-Z1-01-D-A-{place}_P01_S3_Plan {place}.pdf", [content])
    while drain(context, handlers_with(context, press), "bench", Lane.LOOK):
        pass
    press.close()
    arrivals = intake_view.read_batch(context, actor, batch.id).arrivals
    seen = {each.id: each.version for each in arrivals}
    registering.register_batch(context, actor, batch.id, registering.RegisterBatch(seen=seen))
    with context.database.read() as session:
        rows = session.connection().exec_driver_sql("SELECT revision_id FROM document ORDER BY number").all()
    return [row[0] for row in rows]


def _others(folder):
    """As dense, and each another drawing, so that no process has ever opened it."""
    for seed in range(6, 6 + 2 * UNSEEN):
        plan(folder / "other.pdf", seed)
        yield (folder / "other.pdf").read_bytes()


def _mark(context, cast, revision):
    lots = random.Random(6)  # noqa: S311
    kinds = ("cloud", "rectangle", "arrow", "ellipse", "polyline")
    actor = cast.actor("leilani")
    for first in range(0, MARKS, 200):
        new = []
        for place in range(first, first + 200):
            x, y = lots.uniform(50, A1_PT[0] - 150), lots.uniform(50, A1_PT[1] - 150)
            new.append(
                marks.NewMark(page=0, kind=kinds[place % len(kinds)], points=_points(kinds[place % len(kinds)], x, y))
            )
        drawn = marks.draw_marks(context, actor, revision, marks.DrawMarks(marks=new))
        ink = mark_threads.InkMarks(marks={each.id: each.version for each in drawn})
        mark_threads.ink_marks(context, actor, revision, ink)


def _points(kind, x, y):
    return [(x, y), (x + 60, y), (x + 60, y + 40), (x, y + 40)] if kind == "cloud" else [(x, y), (x + 60, y + 40)]


# Keeps when each part of the picture that the page brought along was painted, as the browser tells it, and when the
# view was sharp. Nothing asks the page while it works: that would cost it frames.
WATCH = """
window.painted = []
const seen = (list) => window.painted.push(...list.getEntries().map((each) => each.renderTime))
new PerformanceObserver(seen).observe({ type: 'element', buffered: true })
addEventListener('DOMContentLoaded', () => { window.parts = document.querySelectorAll('#first-look img').length })
const look = () => {
  if (!document.querySelector('[data-sharp=true], [data-painted]')) return
  watching.disconnect()
  window.ready = performance.now()
  console.info('ready')
}
const watching = new MutationObserver(look)
watching.observe(document, { subtree: true, attributes: true, attributeFilter: ['data-sharp', 'data-painted'] })
"""
CALM_MS = 1000


def _first_sharp(browser, address, session=None):
    """Seconds by the page's own clock until the sheet has been painted, and until it can be marked."""
    context = browser.new_context(viewport=WINDOW)
    if session:
        assert context.request.post(f"{session}/api/sign-in", data={"email": MARIT, "password": DEMO_PASSWORD}).ok
    page = context.new_page()
    page.add_init_script(WATCH)
    # What the one before left to do is done by then.
    page.wait_for_timeout(CALM_MS)
    with page.expect_console_message(lambda each: each.text == "ready", timeout=60_000):
        page.goto(address, wait_until="commit")
    parts, painted, ready = page.evaluate(
        "[window.parts, window.painted, Number(document.body.dataset.painted ?? window.ready)]"
    )
    context.close()
    # A view that was sharp before the page's own picture was there has taken its place.
    seen = sorted(painted)[parts - 1] if 0 < parts <= len(painted) else ready
    return min(seen, ready) / 1000, ready / 1000


def _tell_first(what, browser, address, sheets, url):
    """Each sheet in turn with pdf.js, so that a drift of the machine falls on both."""
    rows = [(*_first_sharp(browser, sheet, url), _first_sharp(browser, address)[0]) for sheet in sheets]
    painted, ready, bare = (statistics.median(each) for each in zip(*rows, strict=True))
    tell(f"first sharp view, {what} ({bare / painted:.1f} x sooner)", painted, bare)
    tell("the same, until it can be marked", ready, bare)


def _frames(browser, url, revision):
    """Milliseconds between frames while the sheet is dragged to and fro."""
    context = browser.new_context(viewport=WINDOW)
    assert context.request.post(f"{url}/api/sign-in", data={"email": MARIT, "password": DEMO_PASSWORD}).ok
    page = context.new_page()
    page.goto(f"{url}/sheet/{revision}")
    page.locator("[data-sharp=true]").wait_for(timeout=120_000)
    page.locator("aside[aria-busy=false]").wait_for()
    page.mouse.move(500, 400)
    page.mouse.wheel(0, -400)
    page.wait_for_timeout(1500)
    page.evaluate(f"window.frames_told = ({FRAMES})()")
    page.mouse.down()
    for step in range(80):
        page.mouse.move(500 + 150 * ((step // 20) % 2 * 2 - 1) * (step % 20) / 20, 400 + step % 20 * 5)
    page.mouse.up()
    at = page.evaluate("window.frames_told")
    context.close()
    return [after - before for before, after in pairwise(at)]


ARRIVING_A_SECOND = 20


def _draw_on(url, email, address, stop, drawn):
    """A process's work: somebody else inks marks, so many a second, and says how many there were in what time."""
    person = Person(url, email)
    begun, count = time.monotonic(), 0
    while not stop.is_set():
        time.sleep(max(0.0, begun + count / ARRIVING_A_SECOND - time.monotonic()))
        x, y = 100 + count * 37 % 2000, 100 + count * 53 % 1400
        new = {"page": 0, "kind": "pin", "points": [[x, y]], "text": "Here"}
        person("POST", address, {"marks": [new], "ink": True})
        count += 1
    drawn.send(count / (time.monotonic() - begun))


def _frames_while_marks_arrive(browser, url, revision, session):
    """Milliseconds between frames, and how many marks came a second."""
    spawn = multiprocessing.get_context("spawn")
    stop, (mine, theirs) = spawn.Event(), spawn.Pipe(duplex=False)
    drawing = spawn.Process(
        target=_draw_on, args=(url, LEILANI, f"/api/sessions/{session}/sheets/{revision}/marks", stop, theirs)
    )
    drawing.start()
    try:
        frames = _frames(browser, url, f"{revision}?session={session}")
        stop.set()
        assert mine.poll(30), "nobody says how many were drawn"
        return frames, mine.recv()
    finally:
        stop.set()
        drawing.join()


class _Quiet(http.server.SimpleHTTPRequestHandler):
    def log_message(self, *_):
        """Nobody reads it."""


def bench_sheet_view(aside):
    folder = aside / "bare-view"
    folder.mkdir()
    plan(folder / "dense.pdf")
    for name in ("pdf.min.mjs", "pdf.worker.min.mjs"):
        shutil.copy(PDFJS / name, folder / name)
    # Nod's view of the sheet is 940 by 752 pixels beside the list of marks.
    (folder / "index.html").write_text(PAGE % (min(940 / A1_PT[0], 752 / A1_PT[1])))
    data = aside / "view-data"
    context = open_context(Settings(data_dir=data, password_cost=1, demo=True), Clock())
    context.database.migrate()
    cast = set_up(context, ())
    dense = (folder / "dense.pdf").read_bytes()
    plain, marked, *unseen = _file(context, cast, [dense, dense, *_others(folder)])
    _mark(context, cast, marked)
    bare = http.server.ThreadingHTTPServer(("127.0.0.1", 0), functools.partial(_Quiet, directory=str(folder)))
    threading.Thread(target=bare.serve_forever, daemon=True).start()
    with serving(data) as (url, _), sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS.split())
        address = f"http://127.0.0.1:{bare.server_port}/index.html"
        sheet = f"{url}/sheet/{{}}"
        _first_sharp(browser, address)
        _first_sharp(browser, sheet.format(marked), url)
        unseen = [sheet.format(each) for each in unseen]
        _tell_first("filed and never opened", browser, address, unseen[:UNSEEN], url)
        shutil.rmtree(data / "tiles")
        _tell_first("nothing of it kept at all", browser, address, unseen[UNSEEN:], url)
        _first_sharp(browser, sheet.format(plain), url)
        _tell_first("its tiles kept", browser, address, [sheet.format(plain)] * 9, url)
        without, under = _frames(browser, url, plain), _frames(browser, url, marked)
        tell(
            f"a frame while panning, {MARKS} marks (bare: none)",
            *(statistics.median(x) / 1000 for x in (under, without)),
        )
        worst = [statistics.quantiles(each, n=20)[-1] / 1000 for each in (under, without)]
        tell("the same, 95 of 100 frames", *worst)
        session = make_session(Person(url, MARIT), [cast.people["leilani"]], marked)
        rest = [each for _ in range(3) for each in _frames(browser, url, f"{marked}?session={session}")]
        busy, rates = [], []
        for _ in range(3):
            frames, rate = _frames_while_marks_arrive(browser, url, marked, session)
            busy += frames
            rates.append(rate)
        arriving = f"{MARKS} marks and {statistics.mean(rates):.0f} more a second"
        tell(
            f"a frame while panning, {arriving} (bare: none more; limit 1.3)",
            statistics.mean(busy) / 1000,
            statistics.mean(rest) / 1000,
        )
        browser.close()
        _bench_tile(url, plain)
    bare.shutdown()
    context.database.close()


def _bench_tile(url, revision):
    """A tile that is kept, against a file of the front end: both over HTTP by the same process, signed in."""
    person = Person(url, MARIT)
    tile = f"{url}/api/sheets/{revision}/tiles/0/12/1/1"
    asset = urllib.parse.urljoin(url, "/icon.svg")
    person.opener.open(tile).read()
    ours, bare = timed_pair(lambda: person.opener.open(tile).read(), lambda: urllib.request.urlopen(asset).read(), 200)
    tell("a tile that is kept (bare: a static file)", ours, bare)
