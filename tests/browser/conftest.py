"""The real thing: all processes of Nod on a demo of its own, and Chromium in front, as several people at once."""

import fcntl
import hashlib
import os
import re
import shutil
import signal
import subprocess
import sys
import tempfile
import time
import urllib.request
from pathlib import Path

import pytest
from playwright.sync_api import expect

from nod.services.people.sign_in import DEMO_PASSWORD
from nod.store.database import LONG_HOLD_SECONDS
from tests.browser.client import Person
from tests.ports import free_run
from tests.speed import how_slow

BIN = Path(sys.executable).parent
ROOT = Path(__file__).resolve().parents[2]
CHROMIUM = shutil.which("chromium-headless-shell") or shutil.which("chromium")
"""The same engine without the browser's own windows, each of which is drawn by a process of its own."""
FLAGS = (
    "--no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking"
    " --disable-component-update --disable-sync"
)
EMAILS = {
    "marit": "marit@hollinbrook.example",
    "ottilie": "ottilie@gannetmarine.example",
    "rafael": "rafael@hollinbrook.example",
    "kwabena": "kwabena@hollinbrook.example",
    "tomasz": "tomasz@tallowreed.example",
    "saoirse": "saoirse@tallowreed.example",
    "leilani": "leilani@plinthwork.example",
    "anouk": "anouk@brackwater.example",
    "junpei": "junpei@brackwater.example",
    "ines": "ines@hollinbrook.example",
    "dede": "dede@nettlecombe.example",
}


# A machine that is busy elsewhere answers late; what is waited for is still what has to come.
expect.set_options(timeout=20_000)


class Served:
    """A running Nod and its data."""

    def __init__(self, data: Path):
        self.data = data
        self.port = free_run(4)
        self.url = f"http://127.0.0.1:{self.port}"
        self.environment = os.environ | {
            "NOD_DATA_DIR": str(data), "NOD_PORT": str(self.port), "NOD_DEMO": "true",
            "NOD_CLOCK_START": "2027-03-09T08:30:00+00:00", "NOD_PASSWORD_COST": "1",
        }  # fmt: skip
        self.process = None

    def make_demo(self):
        subprocess.run([BIN / "nod", "make-demo"], env=self.environment, check=True, capture_output=True)

    def start(self):
        with (self.data.parent / "serve.log").open("ab") as log:
            self.process = subprocess.Popen([BIN / "nod", "serve"], env=self.environment, stdout=log, stderr=log)
        self.wait()

    def wait(self, seconds=120.0):
        until = time.monotonic() + seconds
        while time.monotonic() < until:
            try:
                with urllib.request.urlopen(f"{self.url}/healthz", timeout=2) as answer:
                    if answer.status == 200:
                        return
            except OSError:
                time.sleep(0.1)
        raise TimeoutError((self.data.parent / "serve.log").read_text()[-2000:])

    def stop(self):
        self.process.send_signal(signal.SIGTERM)
        assert self.process.wait(20) == 0
        # Everybody else waits while one writes.
        told = re.findall(r"held the database long.*worked=\D*([\d.]+)", (self.data.parent / "serve.log").read_text())
        longest = max(map(float, told), default=0.0)
        most = 2 * LONG_HOLD_SECONDS
        assert longest < most or longest < most * how_slow()

    def verify(self, *more):
        return subprocess.run(
            [BIN / "nod", "verify", *more], env=self.environment, capture_output=True, text=True, check=False
        )


def _what_makes_the_demo():
    """The hash of everything that the demo's data follow from."""
    digest = hashlib.sha256((ROOT / "requirements.lock").read_bytes())
    for path in sorted((ROOT / "src/nod").rglob("*.py")):
        digest.update(f"{path.relative_to(ROOT)} {hashlib.sha256(path.read_bytes()).hexdigest()}".encode())
    return digest.hexdigest()[:16]


@pytest.fixture(scope="session")
def untouched():
    """The demo's data as they were made. They are kept until the sources change, as making them takes a minute."""
    kept = ROOT / "build" / f"demo-{_what_makes_the_demo()}"
    kept.parent.mkdir(exist_ok=True)
    with (kept.parent / "demo.lock").open("a") as held:
        fcntl.flock(held, fcntl.LOCK_EX)
        _make_untouched(kept)
    return kept


def _make_untouched(kept):
    if not kept.is_dir():
        for old in kept.parent.glob("demo-*"):
            shutil.rmtree(old)
        with tempfile.TemporaryDirectory(dir=kept.parent) as aside:
            Served(Path(aside) / "data").make_demo()
            (Path(aside) / "data").rename(kept)


@pytest.fixture(scope="module")
def made_demo(untouched, tmp_path_factory):
    """The demo that the tests of one file share: what one file does to it is no matter of the next."""
    data = tmp_path_factory.mktemp("demo") / "data"
    shutil.copytree(untouched, data)
    return Served(data)


@pytest.fixture
def own_nod(untouched, tmp_path):
    """A demo of one's own, not started yet."""
    shutil.copytree(untouched, tmp_path / "data")
    served = Served(tmp_path / "data")
    yield served
    if served.process and served.process.poll() is None:
        served.stop()


@pytest.fixture(scope="module")
def nod(made_demo):
    made_demo.start()
    yield made_demo
    made_demo.stop()


@pytest.fixture(scope="session")
def browser_type_launch_args(browser_type_launch_args):
    return {**browser_type_launch_args, "executable_path": CHROMIUM, "args": FLAGS.split()}


@pytest.fixture(scope="session")
def browser_context_args(browser_context_args):
    return {
        **browser_context_args, "viewport": {"width": 1280, "height": 800}, "locale": "en-GB",
        "timezone_id": "Europe/London", "reduced_motion": "reduce",
    }  # fmt: skip


def revision_of(nod, title):
    """The current revision of the document with that title."""
    marit = Person(nod.url, EMAILS["marit"])
    lines = marit("GET", f"/api/documents?project_id={marit.project_id}&limit=100")["lines"]
    return next(line["revision_id"] for line in lines if line["title"] == title)


@pytest.fixture
def sheet(nod):
    """The revision of a sheet that nobody has marked when the first test begins."""
    return revision_of(nod, "North linkspan, general arrangement")


@pytest.fixture
def other_sheet(nod):
    """One more, for what is not to be in the way on the first."""
    return revision_of(nod, "South linkspan, general arrangement")


@pytest.fixture
def visit(nod, browser, browser_context_args):
    """`visit("marit")` is her page, signed in; `visit()` a stranger's. Errors and foreign requests fail the test."""
    contexts, trouble = [], []

    def open_page(who="", path="/", **more):
        context = browser.new_context(**{**browser_context_args, **more}, accept_downloads=True)
        contexts.append(context)
        page = context.new_page()
        page.on("pageerror", lambda error: trouble.append(f"{who}: {error}"))
        page.on("console", lambda line: trouble.append(f"{who}: {line.text}") if _is_trouble(line) else None)
        page.on(
            "request", lambda request: trouble.append(f"foreign {request.url}") if _is_foreign(request.url) else None
        )
        if who:
            answer = context.request.post(
                f"{nod.url}/api/sign-in", data={"email": EMAILS[who], "password": DEMO_PASSWORD}
            )
            assert answer.ok
        page.goto(nod.url + path)
        return page

    yield open_page
    for context in contexts:
        context.close()
    assert trouble == []


def _is_trouble(line):
    # A 401 on the first question who one is, and refusals that a test provokes, are not errors of the page; nor is a
    # picture that is broken off as a page is left: one that the server cannot give is told with its status besides.
    expected = (
        "Image load aborted",
        "ERR_FAILED",
        "ERR_INTERNET_DISCONNECTED",
        "status of 401",
        "status of 403",
        "status of 404",
        "status of 409",
        "status of 422",
    )
    return line.type == "error" and not any(each in line.text for each in expected)


def _is_foreign(url):
    return not url.startswith(("http://127.0.0.1", "data:", "blob:"))
