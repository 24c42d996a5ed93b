"""The register's routes over HTTP: what is asked in an address, files in and out, hostile input."""

import csv
import io
import json
import zipfile
from urllib.parse import urlencode

import pytest

from nod.demo import scenario
from tests.outside import shared_data
from tests.world import NUMBER, OTHER_NUMBER, name, pdf

EMAIL = {each.key: each.email for each in scenario.PEOPLE}


@pytest.fixture
def marit(world, visit):
    world.file(name(), name(number=OTHER_NUMBER, title="Roof"))
    return visit(EMAIL["marit"])


def _list(who, world, **view):
    given = {key: value if isinstance(value, str) else json.dumps(value) for key, value in view.items()}
    return who("GET", "/api/documents?" + urlencode({"project_id": world.project_id, **given}))


def test_the_address_says_the_whole_view(marit, world):
    page = _list(marit, world, filters=[["discipline", "is", "A", "S"]], sorts=[["title", "down"]], group="status").json
    assert [line["title"] for line in page["lines"]] == ["Roof", "Quay hall plan"]
    assert page["filter_words"] == ["Discipline is A Architecture or S Structure"]
    assert page["groups"] == [{"key": "S3", "words": "S3 review and comment", "count": 2}]
    line = page["lines"][1]
    assert line["number"] == NUMBER
    assert (line["zone"], line["level"], line["form"], line["originator"]) == ("Z1", "01", "D", "TRA")
    assert (line["file_name"], line["filed_by"], line["sheet_size"]) == (name(), "Marit Osei", "A3")


@pytest.mark.parametrize(
    "view",
    [
        {"filters": "["}, {"filters": "{}"}, {"filters": '[["a"]]'}, {"filters": '[["title","has",3]]'},
        {"sorts": "[[]]"}, {"sorts": '[["number; DROP TABLE document","up"]]'}, {"shut": '[{"a":1}]'},
        {"cursor": "[[1],2]"}, {"cursor": "null"}, {"group": "number"}, {"filters": "[" * 2000},
        {"filters": json.dumps([["title", "has", "x"]] * 50)},
    ],
)  # fmt: skip
def test_a_damaged_address_is_told_in_words(marit, world, view):
    answer = _list(marit, world, **view)
    assert answer.status_code == 422, answer.text
    assert answer.json["code"] in ("view_unknown", "filter_unknown")
    assert answer.json["detail"]


@pytest.mark.parametrize(
    ("shut", "status"),
    [("[", 422), ("{}", 422), ("[3]", 422), ("[" * 2000, 422), ('["\\ud800"]', 200), ('["\\u0000"]', 200), ("", 200)],
)
def test_a_damaged_address_of_the_submittals_is_told_too(marit, world, shut, status):
    """Half a pair of UTF-16, which no database takes, is left out as it is everywhere."""
    asked = {"project_id": world.project_id, "group": "company", "shut": shut}
    answer = marit("GET", "/api/submittals", query_string=asked)
    assert answer.status_code == status, answer.text
    assert status == 200 or answer.json["code"] == "view_unknown"


def test_names_out_of_the_wild_are_only_words(marit, world):
    lines: list[str] = []
    for file in ("Traversal.txt", "XSS.txt"):
        lines += (shared_data("payloads") / file).read_text(errors="replace").splitlines()
    for words in lines[::7][:120]:
        for view in ({"words": words}, {"filters": [["title", "has", words[:200] or "x"]]}):
            answer = _list(marit, world, **view)
            assert answer.status_code == 200, (words, answer.text)
            assert answer.json["total"] <= 2
        found = marit("GET", "/api/search?" + urlencode({"project_id": world.project_id, "words": words}))
        assert found.status_code == 200


def test_a_list_is_taken_away_by_a_form(marit, world):
    form = {"project_id": world.project_id, "columns": "number,title", "form": "csv", "csrf": marit.csrf}
    answer = marit("POST", "/api/register/export", data=form)
    assert answer.mimetype == "text/csv"
    assert "BFT register 2027-03-09.csv" in answer.headers["Content-Disposition"]
    rows = list(csv.reader(io.StringIO(answer.data.decode("utf-8-sig"))))
    assert rows == [["Number", "Title"], [OTHER_NUMBER, "Roof"], [NUMBER, "Quay hall plan"]]
    assert marit("POST", "/api/register/export", data={**form, "form": "exe"}).status_code == 400


def test_a_revision_goes_in_as_a_stream_and_out_as_a_zip(marit, world):
    document, _ = world.document(NUMBER)
    said = urlencode({"name": "../../etc/plan.pdf", "revision": "P02", "status": "S3", "note": "moved"})
    begun = marit("PUT", f"/api/documents/{document}/revision?{said}", data=pdf("moved")).json
    world.look()
    (arrival,) = marit("GET", f"/api/intake/batches/{begun['batch_id']}").json["arrivals"]
    assert (arrival["file_name"], arrival["number"]) == ("plan.pdf", NUMBER)
    seen = {"seen": {begun["arrival_id"]: arrival["version"]}}
    assert marit("POST", f"/api/intake/batches/{begun['batch_id']}/register", json=seen).status_code == 200
    ask = {"folder_id": world.cast.folders[""], "revisions": "all", "names_as_came": False}
    pack = marit("POST", "/api/packs", json=ask).json
    assert marit("POST", f"/api/packs/{pack['id']}/download").json["code"] == "pack_not_ready"
    world.send()
    content = marit("POST", f"/api/packs/{pack['id']}/download").data
    with zipfile.ZipFile(io.BytesIO(content)) as archive:
        assert len(archive.namelist()) == 3


def test_saved_views_and_sets_by_http(marit, world, visit):
    leilani = visit(EMAIL["leilani"])
    view = {"project_id": world.project_id, "name": "Mine", "shared": False, "content": {"group": "status"}}
    kept = leilani("POST", "/api/register/views", json=view).json
    assert marit("GET", f"/api/register/views?project_id={world.project_id}").json == []
    gone = marit("POST", f"/api/register/views/{kept['id']}/remove", json={"version": 1})
    assert gone.status_code == 404
    large = {**view, "name": "Large", "content": {"words": "x" * 9000}}
    assert leilani("POST", "/api/register/views", json=large).json["code"] == "view_large"
    made = marit("POST", "/api/sets", json={"project_id": world.project_id, "name": "Stage 3", "on": "2027-04-01"}).json
    assert leilani("POST", f"/api/sets/{made['id']}/sheets", json={"version": 1, "documents": []}).status_code == 403
    assert leilani("GET", f"/api/sets/{made['id']}").json["may_change"] is False
