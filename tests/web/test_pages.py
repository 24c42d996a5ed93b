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

from nod.core.acts.refusals import NotFound
from nod.services.intake import intake
from nod.services.sheet import page_pictures
from tests.world import NUMBER, name, pdf

MARIT = "marit@hollinbrook.example"


@pytest.fixture
def revision(world):
    return world.file(name(), content=pdf("Quay hall", size_mm=(841, 594)))[0][1]


def _picture(text):
    """The address of the whole page, and that for large windows."""
    return re.findall(r'<source media="[^"]+" srcset="([^"]+)"><img [^>]*src="([^"]+)"', text)


def test_the_whole_page_is_asked_for_before_any_script(visit, revision):
    marit = visit(MARIT)
    answer = marit("GET", f"/sheet/{revision}")
    assert answer.headers["Cache-Control"] == "no-store"
    tiles = f"/api/sheets/{revision}/tiles/0"
    assert _picture(answer.text) == [(f"{tiles}/11", f"{tiles}/10")]
    assert "--across:2383.937;--down:1683.780" in answer.text
    sizes = [Image.open(io.BytesIO(marit("GET", f"{tiles}/{level}").data)).size for level in (10, 11)]
    assert sizes == [(1024, 724), (2048, 1447)]


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
    while not list(tiles.rglob("10-whole")):
        assert time.monotonic() < deadline
        threading.Event().wait(0.02)


def test_what_another_draws_is_not_begun_again(world):
    """However often a page is opened while its picture is drawn, nothing waits for it but those who asked."""
    tiles = world.context.tiles
    path = tiles.whole_path("ab" * 32, 0, 10)
    with tiles.drawing(path), pytest.raises(BlockingIOError), tiles.drawing(path, wait=False):
        pass
    with tiles.drawing(path, wait=False):
        pass


def test_a_page_is_drawn_once_for_all_who_ask_at_the_same_time(world, revision):
    """A page that is not there leaves nothing behind."""
    tiles = world.context.settings.data_dir / "tiles"
    shutil.rmtree(tiles)
    drawn = []

    class Counting:
        def whole_page(self, *asked):
            drawn.append(asked)
            return world.press.whole_page(*asked)

    def ask(*leaf):
        return page_pictures.read_whole(world.context, Counting(), world.actor("marit"), revision, leaf)

    with ThreadPoolExecutor(4) as pool:
        paths = list(pool.map(lambda level: ask(0, level), [10, 11, 10, 11]))
    assert (len(drawn), all(path.is_file() for path in paths)) == (2, True)
    assert ask(0, 8).is_file()
    kept = sorted(each for each in tiles.rglob("*-whole"))
    for nowhere in ((7, 10), (-1, 10), (0, 7), (0, 12), (0, 15), (0, 10**10)):
        with pytest.raises(NotFound):
            ask(*nowhere)
    assert sorted(tiles.rglob("*-whole")) == kept


@pytest.mark.parametrize(
    "where", ["?page=1", "?page=-1", "?page=x&at=1", "?at=%5B1%2C2%2C3%2C4%5D", "?mark=abc"], ids=lambda each: each[1:]
)
def test_there_is_no_picture_where_the_view_opens_elsewhere(visit, revision, where):
    answer = visit(MARIT)("GET", f"/sheet/{revision}{where}")
    assert answer.status_code == 200
    assert _picture(answer.text) == []
    assert '<div id="root">' in answer.text


def test_those_who_may_not_see_it_get_the_page_as_if_it_were_not_there(visit, world):
    hidden = intake.OpenBatch(project_id=world.project_id, folder_id=world.cast.folders["Temporary works"])
    batch = intake.open_batch(world.context, world.actor("marit"), hidden)
    intake.add_file(world.context, world.actor("marit"), batch.id, name(), [pdf()])
    world.look()
    world.register(batch.id)
    _, revision = world.document(NUMBER)
    assert _picture(visit(MARIT)("GET", f"/sheet/{revision}").text)
    for email in ("", "junpei@brackwater.example"):
        who = visit(email)
        assert who("GET", f"/sheet/{revision}").data == who("GET", "/sheet/aaaaaaaaaaaaaaaa").data


def test_one_who_sees_as_another_has_a_line_above_and_no_picture(visit, world, revision):
    rafael = visit("rafael@hollinbrook.example")
    assert _picture(rafael("GET", f"/sheet/{revision}").text)
    body = {"project_id": world.project_id, "person_id": world.cast.people["marit"]}
    assert rafael("POST", "/api/see-as", json=body).status_code in (200, 204)
    assert _picture(rafael("GET", f"/sheet/{revision}").text) == []


def test_an_address_is_never_written_into_the_page(visit, revision):
    marit = visit(MARIT)
    for hostile in ("%22%3E%3Cscript%3Ealert(1)%3C%2Fscript%3E", f"{revision}%22onload=%22x"):
        answer = marit("GET", f"/sheet/{hostile}")
        assert answer.status_code == 200
        assert "alert" not in answer.text
        assert "onload" not in answer.text
