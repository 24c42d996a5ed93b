"""Twenty people at once for ten minutes: no fault, no lost update, and how long 95 answers of 100 took at most.

`make soak`; NOD_SOAK_SECONDS says for how long. Each reads and writes as people do, with the versions they saw; what
was acknowledged last is compared with what is there in the end.
"""

import os
import random
import shutil
import tempfile
import threading
import time
import urllib.error
from collections import Counter
from contextlib import suppress
from pathlib import Path

from tests.browser.client import Person
from tests.browser.conftest import EMAILS, Served
from tests.world import pdf

SECONDS = int(os.environ.get("NOD_SOAK_SECONDS", "600"))
PEOPLE = 20
NAMES = ("marit", "tomasz", "leilani", "saoirse", "anouk", "rafael", "marit", "leilani", "saoirse", "ottilie")


class Worker(threading.Thread):
    def __init__(self, url, place, until, revision, shared):
        super().__init__()
        self.name_of = NAMES[place % len(NAMES)]
        self.lots = random.Random(place)  # noqa: S311 - the same acts every time
        self.person = Person(url, EMAILS[self.name_of])
        self.place, self.until, self.revision, self.shared = place, until, revision, shared
        self.spans, self.refused, self.faults = [], Counter(), []
        self.own, self.said = {}, {}

    def ask(self, method, path, body=None, raw=None):
        begin = time.perf_counter()
        try:
            return self.person(method, path, body, raw, timeout=60)
        except urllib.error.HTTPError as refused:
            self.refused[refused.code] += 1
            if refused.code >= 500:
                self.faults.append((method, path, refused.code, refused.read()[:200]))
            raise
        finally:
            self.spans.append((path.split("?")[0].split("/")[2], time.perf_counter() - begin))

    def run(self):
        acts = (self.read, self.read, self.look, self.draw, self.change, self.change, self.answer, self.both)
        if self.name_of in ("marit", "tomasz"):
            acts = (*acts, self.upload)
        while time.monotonic() < self.until:
            with suppress(urllib.error.HTTPError):
                self.lots.choice(acts)()
            time.sleep(self.lots.uniform(0.05, 0.4))

    def read(self):
        project = self.person.project_id
        for path in (f"/api/documents?project_id={project}&limit=100", f"/api/desk?project_id={project}"):
            self.ask("GET", path)

    def look(self):
        for _ in range(4):
            level = self.lots.randint(9, 12)
            self.person.opener.open(f"{self.person.url}/api/sheets/{self.revision}/tiles/0/{level}/0/0").read()
        self.ask("GET", f"/api/sheets/{self.revision}/marks")

    def draw(self):
        body = {"marks": [{"page": 0, "kind": "pin", "points": [[self.place, len(self.own)]], "text": "first"}]}
        (made,) = self.ask("POST", f"/api/sheets/{self.revision}/marks", body)
        self.own[made["id"]] = made["version"]
        self.said[made["id"]] = "first"

    def change(self):
        """One's own mark, with the version one has seen."""
        if not self.own:
            return
        mark = self.lots.choice(list(self.own))
        text = f"{self.place} {time.monotonic():.6f}"
        body = {"changes": [{"id": mark, "version": self.own[mark], "text": text}]}
        (made,) = self.ask("POST", f"/api/sheets/{self.revision}/marks/change", body)
        self.own[mark], self.said[mark] = made["version"], text

    def answer(self):
        self.ask("POST", f"/api/marks/{self.shared['mark']}/replies", {"text": f"{self.place} {time.monotonic():.6f}"})
        with self.shared["lock"]:
            self.shared["answers"] += 1

    def both(self):
        """All set the state of the same mark: of two with the same version, one is told that it has changed."""
        marks = self.ask("GET", f"/api/sheets/{self.revision}/marks")
        seen = next(each for each in marks if each["id"] == self.shared["mark"])
        state = self.lots.choice(["agreed", "declined", "done", "open"])
        self.ask("POST", f"/api/marks/{seen['id']}/state", {"version": seen["version"], "state": state})
        with self.shared["lock"]:
            self.shared["states"] += 1

    def upload(self):
        project = self.person.project_id
        batch = self.ask("POST", "/api/intake/batches", {"project_id": project})["id"]
        self.person.upload(batch, f"soak {time.monotonic()}.pdf", pdf(f"{time.monotonic()}"))


def main():
    with tempfile.TemporaryDirectory() as name:
        data = Path(name) / "data"
        nod = Served(data)
        ready = next(iter(sorted(Path("build").glob("demo-*"))), None)
        if ready:
            shutil.copytree(ready, data)
        else:
            nod.make_demo()
        nod.start()
        try:
            _soak(nod)
        finally:
            nod.stop()
        print(nod.verify("--files", "--tables").stdout.strip(), flush=True)


def _soak(nod):
    marit = Person(nod.url, EMAILS["marit"])
    lines = marit("GET", f"/api/documents?project_id={marit.project_id}&limit=100")["lines"]
    revision = next(line["revision_id"] for line in lines if line["title"] == "North linkspan, general arrangement")
    body = {"marks": [{"page": 0, "kind": "pin", "points": [[9, 9]], "text": "of all"}]}
    (made,) = marit("POST", f"/api/sheets/{revision}/marks", body)
    marit("POST", f"/api/sheets/{revision}/ink", {"marks": {made["id"]: made["version"]}})
    shared = {"mark": made["id"], "lock": threading.Lock(), "answers": 0, "states": 0}
    until = time.monotonic() + SECONDS
    workers = [Worker(nod.url, place, until, revision, shared) for place in range(PEOPLE)]
    for each in workers:
        each.start()
    for each in workers:
        each.join()
    _tell(nod, workers, revision, shared)


def _tell(nod, workers, revision, shared):
    lost = 0
    for each in workers:
        there = {mark["id"]: mark for mark in each.person("GET", f"/api/sheets/{revision}/marks", timeout=60)}
        lost += sum(1 for mark, text in each.said.items() if there.get(mark, {}).get("text") != text)
    marit = Person(nod.url, EMAILS["marit"])
    marks = marit("GET", f"/api/sheets/{revision}/marks", timeout=60)
    answers = len(next(mark for mark in marks if mark["id"] == shared["mark"])["replies"])
    faults = [fault for each in workers for fault in each.faults]
    refused = sum((each.refused for each in workers), Counter())
    spans = sorted(span for each in workers for _, span in each.spans)
    p95 = spans[int(0.95 * len(spans))]
    print(f"{PEOPLE} people, {SECONDS} s, {len(spans)} acts, p50 {spans[len(spans) // 2] * 1000:.0f} ms, "
          f"p95 {p95 * 1000:.0f} ms, longest {spans[-1] * 1000:.0f} ms", flush=True)  # fmt: skip
    print(f"refused {dict(refused)}; marks changed {sum(len(each.said) for each in workers)}, lost {lost}; "
          f"answers {shared['answers']} given, {answers} there; states {shared['states']} set", flush=True)  # fmt: skip
    if faults or lost or answers != shared["answers"]:
        raise SystemExit(f"faults {faults[:5]}, lost {lost}, answers {answers} of {shared['answers']}")


if __name__ == "__main__":
    main()
