"""The page of a sheet brings the sheet's picture along, for those who may see it."""

import base64
import hashlib
import io
import re
import shutil
import threading
import time
from concurrent.futures import ThreadPoolExecutor

import pytest
from PIL import Image

from nod.core.refusals import NotFound
from nod.services import intake, sheets
from tests.world import NUMBER, name, pdf

MARIT = "marit@hollinbrook.example"


@pytest.fixture
def revision(world):
    return world.file(name(), content=pdf("Quay hall", size_mm=(841, 594)))[0][1]


def _pictures(text):
    """Of each part of the page: its address, that for large windows, and its place."""
    return re.findall(r'<source media="[^"]+" srcset="([^"]+)"><img [^>]*src="([^"]+)" style="([^"]+)"', text)


def test_the_whole_page_is_asked_for_before_any_script(visit, revision):
    answer = visit(MARIT)("GET", f"/sheet/{revision}")
    assert answer.headers["Cache-Control"] == "no-store"
    tiles = f"/api/sheets/{revision}/tiles/0"
    # 1024 by 724 pixels; the upper part has one row more than half of them.
    assert _pictures(answer.text) == [
        (f"{tiles}/11/0", f"{tiles}/10/0", "top:0.0000%;height:50.1381%"),
        (f"{tiles}/11/1", f"{tiles}/10/1", "top:50.1381%;height:49.8619%"),
    ]
    assert "--across:2383.937;--down:1683.780" in answer.text


def test_the_parts_make_the_page(visit, revision):
    marit = visit(MARIT)
    for large, near, _ in _pictures(marit("GET", f"/sheet/{revision}").text):
        sizes = [Image.open(io.BytesIO(marit("GET", each).data)).size for each in (near, large)]
        assert sizes == ([(1024, 363), (2048, 725)] if near.endswith("0") else [(1024, 361), (2048, 722)])


def test_the_script_of_the_page_is_the_only_one_that_may_stand_in_it(visit, revision):
    """By its hash (CSP level 3); the address it begins is one of the front end's files."""
    answer = visit(MARIT)("GET", f"/sheet/{revision}")
    (address, script), *others = re.findall(r'<script data-start="([^"]*)">(.*?)</script>', answer.text, re.S)
    digest = base64.b64encode(hashlib.sha256(script.encode()).digest()).decode()
    policy = answer.headers["Content-Security-Policy"]
    assert f"script-src 'self' 'wasm-unsafe-eval' 'sha256-{digest}';" in policy
    assert others == []
    assert re.findall("<script", answer.text) == ["<script"]
    assert visit("")("GET", address).status_code == 200
    assert "sha256" not in visit(MARIT)("GET", "/register").headers["Content-Security-Policy"]


@pytest.mark.parametrize(
    ("site", "policy"), [("none", "unsafe-none"), ("cross-site", "same-origin"), ("", "same-origin")]
)
def test_a_page_that_another_may_have_opened_is_cut_off_from_it(visit, revision, site, policy):
    """Sec-Fetch-Site says `none` where nothing but the person asked (W3C Fetch Metadata)."""
    answer = visit("")("GET", f"/sheet/{revision}", headers={"Sec-Fetch-Site": site} if site else {})
    assert answer.headers["Cross-Origin-Opener-Policy"] == policy


def test_what_the_front_end_asks_first_is_one_answer(visit, revision):
    marit = visit(MARIT)
    opening = marit("GET", f"/api/sheets/{revision}/opening").json
    assert opening["sheet"] == marit("GET", f"/api/sheets/{revision}").json
    assert {**opening["me"], "now": ""} == {**marit("GET", "/api/me").json, "now": ""}


def test_a_page_that_is_not_kept_is_begun_with_before_it_is_asked_for(visit, world, revision):
    tiles = world.context.settings.data_dir / "tiles"
    shutil.rmtree(tiles)
    visit(MARIT)("GET", f"/sheet/{revision}")
    deadline = time.monotonic() + 20
    while len(list(tiles.rglob("10-?"))) < 2:
        assert time.monotonic() < deadline
        threading.Event().wait(0.02)


def test_what_another_draws_is_not_begun_again(world):
    """However often a page is opened while its picture is drawn, nothing waits for it but those who asked."""
    tiles = world.context.tiles
    path = tiles.part_path("ab" * 32, 0, 10, 0)
    with tiles.drawing(path), pytest.raises(BlockingIOError), tiles.drawing(path, wait=False):
        pass
    with tiles.drawing(path, wait=False):
        pass


def test_a_part_is_drawn_once_for_all_who_ask_at_the_same_time(world, revision):
    """A page or a part that is not there leaves nothing behind."""
    tiles = world.context.settings.data_dir / "tiles"
    shutil.rmtree(tiles)
    drawn = []

    class Counting:
        def part(self, *asked):
            drawn.append(asked)
            return world.press.part(*asked)

    def ask(*leaf):
        return sheets.read_part(world.context, Counting(), world.actor("marit"), revision, leaf)

    with ThreadPoolExecutor(4) as pool:
        paths = list(pool.map(lambda part: ask(0, 10, part), [0, 1, 0, 1]))
    assert (len(drawn), all(path.is_file() for path in paths)) == (2, True)
    assert ask(0, 8, 0).is_file()
    kept = sorted(each for each in tiles.rglob("*-?"))
    for nowhere in ((7, 10, 0), (0, 10, 2), (0, 8, 1), (0, 7, 0), (0, 12, 0), (0, 15, 0)):
        with pytest.raises(NotFound):
            ask(*nowhere)
    assert sorted(tiles.rglob("*-?")) == kept


@pytest.mark.parametrize(
    "where", ["?page=1", "?page=-1", "?page=x&at=1", "?at=%5B1%2C2%2C3%2C4%5D", "?mark=abc"], ids=lambda each: each[1:]
)
def test_there_is_no_picture_where_the_view_opens_elsewhere(visit, revision, where):
    answer = visit(MARIT)("GET", f"/sheet/{revision}{where}")
    assert answer.status_code == 200
    assert _pictures(answer.text) == []
    assert '<div id="root">' in answer.text


def test_those_who_may_not_see_it_get_the_page_as_if_it_were_not_there(visit, world):
    hidden = intake.OpenBatch(project_id=world.project_id, folder_id=world.cast.folders["Temporary works"])
    batch = intake.open_batch(world.context, world.actor("marit"), hidden)
    intake.add_file(world.context, world.actor("marit"), batch.id, name(), [pdf()])
    world.look()
    world.register(batch.id)
    _, revision = world.document(NUMBER)
    assert _pictures(visit(MARIT)("GET", f"/sheet/{revision}").text)
    for email in ("", "junpei@brackwater.example"):
        who = visit(email)
        assert who("GET", f"/sheet/{revision}").data == who("GET", "/sheet/aaaaaaaaaaaaaaaa").data


def test_one_who_sees_as_another_has_a_line_above_and_no_picture(visit, world, revision):
    rafael = visit("rafael@hollinbrook.example")
    assert _pictures(rafael("GET", f"/sheet/{revision}").text)
    body = {"project_id": world.project_id, "person_id": world.cast.people["marit"]}
    assert rafael("POST", "/api/see-as", json=body).status_code in (200, 204)
    assert _pictures(rafael("GET", f"/sheet/{revision}").text) == []


def test_an_address_is_never_written_into_the_page(visit, revision):
    marit = visit(MARIT)
    for hostile in ("%22%3E%3Cscript%3Ealert(1)%3C%2Fscript%3E", f"{revision}%22onload=%22x"):
        answer = marit("GET", f"/sheet/{hostile}")
        assert answer.status_code == 200
        assert "alert" not in answer.text
        assert "onload" not in answer.text
