"""Files that nobody should send, and one that is merely large, through the real Intake."""

import time
import urllib.request
from pathlib import Path

import pytest

from tests.browser.client import Person
from tests.browser.conftest import EMAILS
from tests.browser.test_kill import _children
from tests.outside import ROOT, shared_data

pytestmark = pytest.mark.browser

LARGE_BYTES = 200 * 1024**2


def _wait(marit, batch, seconds=120):
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        arrivals = marit("GET", f"/api/intake/batches/{batch}")["arrivals"]
        if not any(each["looking"] for each in arrivals):
            return arrivals
        time.sleep(0.3)
    raise TimeoutError([each["file_name"] for each in arrivals if each["looking"]])


def _web_processes(nod):
    """The two that answer."""
    return {pid for pid in _children(nod.process.pid) if Path(f"/proc/{pid}/comm").read_text().startswith("nod web-")}


def test_every_hostile_pdf_ends_registered_or_held_with_words(nod):
    shared_data("pdf")
    paths = [
        path for part in ("malformed", "encrypted", "active") for path in sorted((ROOT / "pdf" / part).glob("*.pdf"))
    ]
    marit = Person(nod.url, EMAILS["marit"])
    before = _web_processes(nod)
    batch = marit("POST", "/api/intake/batches", {"project_id": marit.project_id})["id"]
    for place, path in enumerate(paths):
        marit.upload(batch, f"BFT-TRA-Z5-00-D-A-{6000 + place}_P01_S3_{path.stem}.pdf", path.read_bytes())
    arrivals = _wait(marit, batch)
    seen = {each["id"]: each["version"] for each in arrivals}
    outcomes = marit("POST", f"/api/intake/batches/{batch}/register", {"seen": seen})["outcomes"]
    assert len(outcomes) == len(paths) > 25
    for each in outcomes:
        assert each["result"] == "registered" or len(each["reason"].split()) > 4
        assert not any(sign in each["reason"] for sign in ("Error", "Traceback", "0x", "None"))
    assert {each["result"] for each in outcomes} == {"registered", "held"}
    assert before == _web_processes(nod), "a process died"
    for each in arrivals:
        if each["weight"] != "stop":
            _look_at_a_tile(marit, each)


def _look_at_a_tile(marit, arrival):
    lines = marit("GET", f"/api/documents?project_id={marit.project_id}&words={arrival['number']}")["lines"]
    status, _ = _status(marit, f"/api/sheets/{lines[0]['revision_id']}/tiles/0/11/0/0")
    assert status in (200, 404, 422)


def _status(person, path):
    request = urllib.request.Request(person.url + path)
    try:
        with person.opener.open(request, timeout=40) as answer:
            return answer.status, answer.read()
    except urllib.error.HTTPError as refused:
        return refused.code, b""


def test_a_file_of_200_mb_goes_through_without_filling_memory(nod):
    marit = Person(nod.url, EMAILS["marit"])
    batch = marit("POST", "/api/intake/batches", {"project_id": marit.project_id})["id"]
    web = _web_processes(nod)
    assert len(web) == 2
    before = {pid: _peak_kb(pid) for pid in web}

    def pieces():
        yield b"%PDF-1.7\n"
        for _ in range(LARGE_BYTES // 1024**2):
            yield b"%" * 1024**2

    request = urllib.request.Request(
        f"{nod.url}/api/intake/batches/{batch}/files?name=large.pdf", method="PUT", data=pieces(),
        headers={
            "X-Nod-Csrf": marit.csrf, "Content-Type": "application/octet-stream",
            "Content-Length": str(LARGE_BYTES + 9),
        },
    )  # fmt: skip
    with marit.opener.open(request, timeout=120) as answer:
        assert answer.status == 200
    grown = max(_peak_kb(pid) - before[pid] for pid in web)
    assert grown < 60_000, f"the web process grew by {grown} kB"
    (arrival,) = _wait(marit, batch)
    assert arrival["size_bytes"] == LARGE_BYTES + 9
    assert arrival["findings"][0]["code"] == "unreadable"


def _peak_kb(pid):
    status = Path(f"/proc/{pid}/status").read_text()
    return next(int(line.split()[1]) for line in status.splitlines() if line.startswith("VmHWM"))


@pytest.mark.parametrize(
    "payload", ["../../x", "..%2f..%2fx", "<script>alert(1)</script>", "'; DROP TABLE document;--"]
)
def test_hostile_names_are_only_names(nod, payload):
    marit = Person(nod.url, EMAILS["marit"])
    batch = marit("POST", "/api/intake/batches", {"project_id": marit.project_id})["id"]
    arrival = marit.upload(batch, payload, b"%PDF-1.7 nothing")
    assert "/" not in arrival["file_name"]
    assert arrival["weight"] == "stop"
    assert marit("GET", f"/api/documents?project_id={marit.project_id}")["total"] >= 17
