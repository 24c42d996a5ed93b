"""What was sent once and answered 500: each is told in words, and what is like it too."""

import io
import json
import time

import pytest
from openpyxl import load_workbook

from nod.core.access.folder_names import tidy_path
from nod.core.acts.plain_text import clean_text
from nod.core.intake import block_picks
from nod.core.intake.file_names import base_name
from nod.demo import scenario
from tests.core.intake.test_checks import RULES
from tests.world import NUMBER, name, pdf

EMAIL = {each.key: each.email for each in scenario.PEOPLE}
JSON = "application/json"


@pytest.fixture
def marit(visit):
    return visit(EMAIL["marit"])


@pytest.fixture
def rafael(visit):
    return visit(EMAIL["rafael"])


def test_links_and_tokens_of_other_letters_are_not_ours(app, marit):
    for path in ("/api/key-links/é", "/api/key-links/%ED%A0%80", "/api/links/é/opened", "/api/codes/é"):
        assert app.test_client().get(path).status_code in (404, 405)
    assert app.test_client().post("/api/key-links/é", json={"password": "x"}).status_code == 404
    marit.csrf = "é"
    assert marit("POST", "/api/sign-out").json["code"] == "csrf"


@pytest.mark.parametrize(
    "query",
    [
        "from_on=0001-01-01", "until_on=9999-12-31", "until_on=0000-00-00", "before=é", "before=%ED%A0%80",
        "object_kind=%00", f"subject_id={'9' * 5000}",
    ],
)  # fmt: skip
def test_odd_questions_to_the_log(marit, world, query):
    answer = marit("GET", f"/api/audit?project_id={world.project_id}&{query}")
    assert answer.status_code in (200, 400, 422), answer.text


@pytest.mark.parametrize(
    ("part", "value"),
    [
        ("cursor", '["zzz",1]'), ("cursor", "[true,true]"), ("cursor", f"[{10**30},{10**30}]"), ("cursor", "[1e999,1]"),
        ("cursor", '["\\ud800",1]'), ("cursor", "[" * 30_000), ("cursor", "[null,null]"), ("cursor", '[[],{}]'),
        ("filters", '[["filed_at","to","9999-12-31"]]'), ("filters", '[["filed_at","from","0001-01-01"]]'),
        ("filters", '[["title","has","\\ud800"]]'), ("filters", '[["title","is","\\ufffe"]]'),
        ("filters", "[" * 30_000), ("sorts", '[["\\ud800"]]'), ("sorts", '[["filed_at","down"]]'),
        ("group", "\ufffe"), ("words", "\x00\x0b"), ("limit", "9" * 20), ("shut", '["\\ud800"]'),
    ],
)  # fmt: skip
def test_odd_questions_to_the_register(marit, world, part, value):
    world.file(name())
    query = {"project_id": world.project_id, "sorts": '[["filed_at"]]', part: value}
    answer = marit("GET", "/api/documents", query_string=query)
    assert answer.status_code in (200, 400, 422), answer.text
    assert marit("GET", "/api/register/values", query_string={**query, "column": ""}).status_code in (400, 422)


def test_numbers_that_no_database_takes_are_malformed(marit, ids):
    for path in (
        f"/api/sheets/{ids['revision']}/links/{'9' * 20}",
        f"/api/sheets/{ids['revision']}/corners/{'9' * 20}?left=0&low=0&right=1&high=1",
        f"/api/sheets/{ids['revision']}/layered/{'9' * 20}/0/9",
        f"/api/documents/{ids['document']}?page={'9' * 20}",
        f"/api/given-up/{'9' * 20}/again",
    ):
        assert marit("GET", path).status_code in (200, 400, 404, 405), path


@pytest.mark.parametrize("distance", ["9" * 5000, "9" * 400 + "e9", "1'" * 3000, "1/0", "1 1/0"])
def test_a_distance_without_end(marit, ids, distance):
    body = {"page": 0, "points": [[0, 0], [100, 0]], "distance": distance}
    answer = marit("POST", f"/api/sheets/{ids['revision']}/scales", json=body)
    assert (answer.status_code, answer.json["code"]) == (422, "length_unreadable")


@pytest.mark.parametrize("odd", ["\ud800", "\udfff@x.example", "\ufffe", "\x00", "é" * 5000])
def test_half_characters_and_no_characters(app, marit, world, odd):
    plain = app.test_client()
    assert plain.post("/api/sign-in", json={"email": odd, "password": odd}).status_code == 403
    assert plain.post("/api/forgotten-password", json={"email": odd}).status_code == 204
    made = marit("POST", "/api/sets", json={"project_id": world.project_id, "name": odd})
    assert made.status_code in (200, 422)
    assert marit("GET", f"/api/sets?project_id={world.project_id}").status_code == 200


@pytest.mark.parametrize("body", ["[" * 200_000, '{"email":' * 100_000, "[" * 90_000 + "]" * 90_000, "{", "", "\x00"])
def test_json_that_has_no_end_or_no_bottom(app, marit, body):
    for who, path in ((app.test_client().post, "/api/sign-in"),):
        answer = who(path, data=body, content_type=JSON)
        assert (answer.status_code, answer.content_type) == (400, "application/problem+json")
    answer = marit("POST", "/api/sets", data=body, content_type=JSON)
    assert answer.status_code == 400


def test_a_hundred_thousand_letters_pasted_into_people(rafael, world):
    began = time.process_time()
    for text in ("a" * 100_000, "a@" * 50_000, "<" * 100_000):
        answer = rafael("POST", "/api/people/read", json={"project_id": world.project_id, "text": text})
        assert answer.status_code == 200, answer.text
    # Seconds, where it was minutes; that it grows in proportion is seen by tests/core/acts/test_patterns.py.
    assert time.process_time() - began < 20


def test_a_title_of_noncharacters_goes_out_in_every_export(marit, world):
    """U+FFFE in one title made every export of the register fail: it never gets in, and would go out if it had."""
    batch = world.arrive({name(): pdf()})
    (arrival,) = world.arrivals(batch).values()
    world.correct(arrival, title="Quay\ufffe \ud800hall\x0b")
    assert world.batch(batch).arrivals[0].title == "Quay hall"
    world.register(batch)
    world.written_by_hand = True
    with world.context.database.write() as session:
        from nod.store.tables import DocumentRow

        session.query(DocumentRow).filter(DocumentRow.number == NUMBER).one().title = "Old \uffff\ufffetitle"
    for form in ("xlsx", "csv"):
        answer = marit("POST", "/api/register/export", data={"project_id": world.project_id, "form": form})
        assert answer.status_code == 200
        text = answer.data.decode("utf-8-sig") if form == "csv" else str(_cells(answer.data))
        assert "Old title" in text


def _cells(content):
    return [[cell.value for cell in row] for row in load_workbook(io.BytesIO(content)).worksheets[0].iter_rows()]


def test_a_fields_name_is_text_in_the_head_of_a_table(marit, world):
    """OWASP, CSV injection: heads are cells like others."""
    head = '=HYPERLINK("http://x.example","see")'
    with world.context.database.write() as session:
        from nod.store.tables import ProjectRow

        row = session.get_one(ProjectRow, world.project_id)
        field = {"id": "see", "name": head, "kind": "text", "choices": [], "folder_id": ""}
        row.rules = {**row.rules, "fields": [*row.rules.get("fields", []), field]}
    world.file(name())
    data = {"project_id": world.project_id, "columns": "number,field:see"}
    made = marit("POST", "/api/register/export", data={**data, "form": "csv"})
    assert f"'{head[:11]}" in made.data.decode("utf-8-sig")
    made = load_workbook(io.BytesIO(marit("POST", "/api/register/export", data={**data, "form": "xlsx"}).data))
    cell = made.worksheets[0]["B1"]
    assert (cell.data_type, cell.value) == ("s", head)


def test_names_and_readings_out_of_files_are_cleaned_like_what_is_typed():
    assert base_name("a/b\ufffe\ud800c.pdf") == "bc.pdf"
    assert tidy_path("Issue\ufffe 3/\ud800Plans") == "Issue 3/Plans"
    assert block_picks.pick("Quay\ufffe hall\ud800", "title", "", RULES).value == "Quay hall"


def test_what_is_kept_of_text_can_be_carried_by_every_format():
    """Over all of Unicode's awkward ranges, against XML's own words (XML 1.0, 2.2, Char) and UTF-8 (RFC 3629)."""
    from lxml import etree

    awkward = [*range(0x20), *range(0x7F, 0xA0), *range(0xD800, 0xE000), *range(0xFDD0, 0xFDF0)]
    awkward += [plane + last for plane in range(0, 0x110000, 0x10000) for last in (0xFFFE, 0xFFFF)]
    whole = "".join(map(chr, awkward))
    kept = clean_text(whole)
    assert kept == "\t\n\r"
    fine = "".join(chr(code) for code in range(0x20, 0x11000) if code not in set(awkward))
    assert clean_text(fine) == fine
    element = etree.Element("x")
    element.text = fine
    assert etree.fromstring(etree.tostring(element)).text == fine
    fine.encode()
    json.dumps(kept)
