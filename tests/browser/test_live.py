"""The live channel over the wire: in order, to those who may know, and nothing lost over a broken line."""

import http.client
import json

import pytest

from tests.browser.client import Person
from tests.browser.conftest import EMAILS

pytestmark = pytest.mark.browser


class Line:
    """An open line to the channel."""

    def __init__(self, nod, person, last=None):
        self.connection = http.client.HTTPConnection("127.0.0.1", nod.port + 1, timeout=10)
        headers = {"Cookie": person.cookie(), "Origin": nod.url} | ({"Last-Event-ID": last} if last else {})
        self.connection.request("GET", "/live", headers=headers)
        self.answer = self.connection.getresponse()
        self.key = ""

    def next(self, kind="change"):
        """The next of its kind; of changes those of marks, as the worker may still be at what another test has left."""
        event = {}
        while True:
            line = self.answer.readline().decode().rstrip("\n")
            if line:
                name, _, value = line.partition(": ")
                event[name] = value
            elif event:
                if event.get("event") == kind and (kind != "change" or json.loads(event["data"])["topic"] == "marks"):
                    self.key = event["id"]
                    return event["data"]
                event = {}

    def close(self):
        self.connection.close()


def _draw(person, revision, text):
    body = {"marks": [{"page": 0, "kind": "pin", "points": [[50, 50]], "text": text}]}
    return person("POST", f"/api/sheets/{revision}/marks", body)[0]


@pytest.fixture
def two(nod):
    leilani, anouk = (Person(nod.url, EMAILS[who]) for who in ("leilani", "anouk"))
    line = leilani("GET", f"/api/documents?project_id={leilani.project_id}&limit=1")["lines"][0]
    return leilani, anouk, line["revision_id"]


def test_pencil_is_told_to_its_author_and_ink_to_all(nod, two):
    leilani, anouk, revision = two
    hers, others = Line(nod, leilani), Line(nod, anouk)
    for line in (hers, others):
        line.next("start")
    mark = _draw(leilani, revision, "first")
    assert json.loads(hers.next())["topic"] == "marks"
    leilani("POST", f"/api/sheets/{revision}/ink", {"marks": {mark["id"]: mark["version"]}})
    first = json.loads(others.next())
    assert (first["topic"], first["subject"]) == ("marks", revision)
    # The pencil came before and was not told: the first event after the start is the ink's.
    hers.next()
    assert others.key == hers.key
    for line in (hers, others):
        line.close()


def test_after_a_broken_line_it_goes_on_from_the_last_event(nod, two):
    leilani, anouk, revision = two
    line = Line(nod, anouk)
    last = line.next("start")
    line.close()
    for text in ("a", "b", "c"):
        mark = _draw(leilani, revision, text)
        leilani("POST", f"/api/sheets/{revision}/ink", {"marks": {mark["id"]: mark["version"]}})
    again = Line(nod, anouk, last)
    seen = [json.loads(again.next())["subject"] for _ in range(3)]
    assert seen == [revision] * 3
    again.close()


def test_the_channel_is_for_those_signed_in_and_for_nods_own_pages(nod, two):
    leilani, _, _ = two
    connection = http.client.HTTPConnection("127.0.0.1", nod.port + 1, timeout=10)
    connection.request("GET", "/live")
    assert connection.getresponse().status == 401
    connection.close()
    line = Line(nod, leilani)
    assert line.answer.getheader("Access-Control-Allow-Origin") == nod.url
    line.close()
    connection.request("GET", "/live", headers={"Cookie": leilani.cookie(), "Origin": "http://elsewhere.example"})
    assert connection.getresponse().getheader("Access-Control-Allow-Origin") is None
    connection.close()


def test_an_event_that_is_forgotten_means_that_all_is_fetched_again(nod, two):
    line = Line(nod, two[0], "no-such-event")
    assert line.next("missed")
    line.close()
