"""The page of a sheet brings the sheet's picture along, for those who may see it."""

import json
import re
import shutil
from concurrent.futures import ThreadPoolExecutor

import pytest

from nod.core.refusals import NotFound
from nod.services import intake, sheets
from tests.world import NUMBER, name, pdf

MARIT = "marit@hollinbrook.example"


@pytest.fixture
def revision(world):
    return world.file(name(), content=pdf("Quay hall", size_mm=(841, 594)))[0][1]


def _pictures(text):
    return re.findall(r'<img class="(near|fine)"[^>]* src="([^"]+)" style="([^"]+)"', text)


def test_the_whole_page_is_there_before_any_script(visit, revision):
    answer = visit(MARIT)("GET", f"/sheet/{revision}")
    near = [each for each in _pictures(answer.text) if each[0] == "near"]
    assert answer.headers["Cache-Control"] == "no-store"
    assert [src.partition(",")[0] for _, src, _ in near] == ["data:image/webp;base64"] * 4
    # 1024 by 724 pixels in tiles of 512: the second column begins in the middle, the second row at 512 of 724.
    assert near[3][2] == "left:50.0000%;top:70.7182%;width:50.0000%;height:29.2818%"
    assert "--across:2383.937;--down:1683.780" in answer.text
    fine = [src for kind, src, _ in _pictures(answer.text) if kind == "fine"]
    assert len(fine) == 12
    assert all(re.fullmatch(rf"/api/sheets/{revision}/tiles/0/11/\d/\d", src) for src in fine)


def _told(text):
    found = re.search(r'<script type="application/json" id="told">(.*?)</script>', text, re.S)
    return json.loads(found[1]) if found else None


def test_what_the_front_end_would_ask_first_is_told_with_the_page(visit, world):
    """As the API answers it; a title cannot end the script that it stands in."""
    batch = world.arrive({name(): pdf()})
    (arrival,) = world.arrivals(batch).values()
    world.correct(arrival, title="Quay </script><img src=x onerror=alert(1)>")
    world.register(batch)
    _, revision = world.document(NUMBER)
    marit = visit(MARIT)
    text = marit("GET", f"/sheet/{revision}").text
    told = _told(text)
    assert told["sheet"] == marit("GET", f"/api/sheets/{revision}").json
    me = marit("GET", "/api/me").json
    assert {**told["me"], "now": ""} == {**me, "now": ""}
    assert told["sheet"]["title"].startswith("Quay </script>")
    assert "onerror=alert" in text
    assert "<img src=x" not in text
    for elsewhere in (f"/sheet/{revision}?mark=abc", "/sheet/aaaaaaaaaaaaaaaa"):
        assert _told(marit("GET", elsewhere).text) is None
    assert _told(visit("")("GET", f"/sheet/{revision}").text) is None


def test_tiles_that_are_not_kept_are_asked_for(visit, world, revision):
    shutil.rmtree(world.context.settings.data_dir / "tiles")
    marit = visit(MARIT)
    near = [src for kind, src, _ in _pictures(marit("GET", f"/sheet/{revision}").text) if kind == "near"]
    assert near == [f"/api/sheets/{revision}/tiles/0/10/{place}" for place in ("0/0", "1/0", "0/1", "1/1")]
    assert {marit("GET", src).status_code for src in near} == {200}


def test_the_whole_page_is_drawn_once_for_all_who_ask_at_the_same_time(world, revision):
    """Tiles of the lower levels come from one picture; a page or a place that is not there leaves nothing behind."""
    tiles = world.context.settings.data_dir / "tiles"
    shutil.rmtree(tiles)
    drawn = []

    class Counting:
        def __getattr__(self, name):
            return getattr(world.press, name)

        def first_look(self, *asked):
            drawn.append(asked)
            return world.press.first_look(*asked)

    def ask(*tile):
        return sheets.read_tile(world.context, Counting(), world.actor("marit"), revision, tile)

    with ThreadPoolExecutor(4) as pool:
        paths = list(pool.map(lambda at: ask(0, 10, *at), [(0, 0), (1, 0), (0, 1), (1, 1)]))
    assert (len(drawn), all(path.is_file() for path in paths)) == (1, True)
    assert ask(0, 8, 0, 0).is_file()
    assert len(drawn) == 1
    kept = sorted(tiles.rglob("*"))
    for nowhere in ((7, 10, 0, 0), (0, 10, 9, 9), (0, 7, 0, 0), (0, 15, 0, 0)):
        with pytest.raises(NotFound):
            ask(*nowhere)
    assert sorted(tiles.rglob("*")) == kept


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
