import ast
import io
import re
from pathlib import Path

import pytest

from nod.core.acts.refusals import DiskFull, Refusal
from nod.services.acts.heartbeats import Beats
from nod.services.people.sign_in import DEMO_PASSWORD
from nod.web import errors
from nod.web.app import create_app
from nod.web.wsgi import behind_proxies
from tests.world import NUMBER, name, pdf

ROOT = Path(__file__).resolve().parents[2]
MARIT = "marit@hollinbrook.example"


@pytest.fixture
def marit(visit):
    return visit(MARIT)


def test_the_front_end_has_words_for_every_refusal_and_no_others():
    """Every code that the source can answer with is a key of the front end's table, and every key is answered."""
    text = (ROOT / "frontend/src/api/problemWords.ts").read_text()
    table = text[text.index("const WORDS") : text.index("\n}", text.index("const WORDS"))]
    known = set(re.findall(r"^  (\w+):", table, re.M)) - OF_THE_BROWSER
    assert known == _codes() | {"malformed", "too_large", "method_not_allowed", "fault"}


OF_THE_BROWSER = {"offline"}
"""What the front end says where no answer came."""


def _codes():
    """Given where a refusal is raised, or by its class itself; whichever class of the tree it is."""
    classes = {each.__name__ for each in _tree(Refusal)}
    found = set()
    for path in (ROOT / "src/nod").rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.ClassDef) and node.name in classes:
                found |= {each for each in map(_text, _own(node)) if re.fullmatch(r"[a-z_]+", each)}
            elif isinstance(node, ast.Call) and getattr(node.func, "id", "") in ("RuleBroken", "NotAllowed"):
                found.add(node.args[0].value)
            elif isinstance(node, ast.Call) and getattr(node.func, "id", "") in classes:
                found |= {_text(each) for each in node.args if re.fullmatch(r"[a-z]+_[a-z_]+", _text(each))}
    return found


def _tree(of):
    return {of}.union(*map(_tree, of.__subclasses__()))


def _own(node):
    """What a class hands to its mother, and its defaults."""
    for each in ast.walk(node):
        if isinstance(each, ast.arguments):
            yield from each.defaults
        elif isinstance(each, ast.Call) and ast.unparse(each.func) == "super().__init__":
            yield from each.args


def _text(node):
    return node.value if isinstance(node, ast.Constant) and isinstance(node.value, str) else ""


def test_problems_are_problem_details(marit):
    answer = marit("POST", "/api/reviews", json={"surprise": 1})
    assert answer.status_code == 400
    assert answer.content_type == "application/problem+json"
    assert {"type", "title", "status", "detail", "code", "about"} == set(answer.json)


@pytest.mark.parametrize("body", [b"{", b"[]", b'"x"', b"null", b"\xff\xfe", b'{"seen": {"a": "one"}}'])
def test_a_hostile_body_is_malformed_and_nothing_more(marit, world, body):
    before = world.kinds()
    batch = world.arrive({})
    path = f"/api/intake/batches/{batch}/register"
    answer = marit.client.post(path, data=body, content_type="application/json", headers={"X-Nod-Csrf": marit.csrf})
    assert (answer.status_code, answer.json["code"]) == (400, "malformed")
    assert world.kinds() == [*before, "batch_opened"]


def test_a_command_of_three_megabytes_is_refused(marit, world):
    body = {"project_id": world.project_id, "came_from": "x" * 3_000_000}
    answer = marit("POST", "/api/intake/batches", json=body)
    assert (answer.status_code, answer.json["code"]) == (413, "too_large")


def test_a_fault_of_ours_tells_no_innards(app, visit, monkeypatch):
    monkeypatch.setattr("nod.web.desk.desk.desk.read_desk", lambda *_: 1 / 0)
    answer = visit(MARIT)("GET", "/api/desk?project_id=x")
    assert (answer.status_code, answer.json["code"]) == (500, "fault")
    assert "division" not in answer.text


def test_every_answer_says_what_a_browser_may_do_with_it(marit):
    for path in ("/", "/api/me", "/healthz", "/api/nothing"):
        headers = marit("GET", path).headers
        policy = headers["Content-Security-Policy"]
        # A refusal is words alone; it may be read out of a frame of Nod's own pages.
        assert policy == "default-src 'none'; frame-ancestors 'self'" or "script-src 'self'" in policy
        assert headers["X-Content-Type-Options"] == "nosniff"
    assert marit("GET", "/api/me").headers["Cache-Control"] == "no-store"


def test_the_cookie_is_for_nod_alone(app):
    answer = app.test_client().post("/api/sign-in", json={"email": MARIT, "password": "ferry-terminal"})
    cookie = answer.headers["Set-Cookie"]
    assert "HttpOnly" in cookie
    assert "SameSite=Lax" in cookie


def test_guessing_passwords_is_told_when_to_come_back(app):
    client = app.test_client()
    codes = [client.post("/api/sign-in", json={"email": MARIT, "password": "guess"}).status_code for _ in range(6)]
    assert codes == [403] * 5 + [429]
    answer = client.post("/api/sign-in", json={"email": MARIT, "password": "ferry-terminal"})
    assert answer.headers["Retry-After"] == "600"


def _upload(marit, batch, file_name, content, **more):
    return marit.client.put(
        f"/api/intake/batches/{batch}/files",
        query_string={"name": file_name},
        headers={"X-Nod-Csrf": marit.csrf},
        **(more or {"data": content}),
    )


def test_a_file_travels_as_it_is(marit, world):
    batch = marit("POST", "/api/intake/batches", json={"project_id": world.project_id}).json["id"]
    answer = _upload(marit, batch, name(), pdf())
    assert answer.status_code == 200
    assert answer.json["number"] == NUMBER
    assert answer.json["looking"] is True
    world.look()
    (arrival,) = marit("GET", f"/api/intake/batches/{batch}").json["arrivals"]
    assert arrival["looking"] is False


def test_an_upload_that_breaks_off_leaves_nothing(marit, world):
    batch = world.arrive({})
    length = {"CONTENT_LENGTH": str(len(pdf()))}
    answer = _upload(marit, batch, name(), None, input_stream=io.BytesIO(pdf()[:500]), environ_overrides=length)
    assert (answer.status_code, answer.json.get("code")) == (422, "upload_broken_off"), answer.json
    assert world.batch(batch).arrivals == []
    assert _upload(marit, batch, name(), pdf()).status_code == 200


def test_a_revision_is_downloaded_under_its_number_and_that_is_recorded(marit, world):
    ((_, revision),) = world.file(name())
    answer = marit("POST", f"/api/revisions/{revision}/download")
    assert answer.data == pdf(name())
    assert f"{NUMBER}_P01_S3.pdf" in answer.headers["Content-Disposition"]
    assert world.kinds()[-1] == "revision_downloaded"


def test_tiles_are_drawn_once_and_kept_by_the_browser(marit, world):
    ((_, revision),) = world.file(name())
    path = f"/api/sheets/{revision}/tiles/0/12/1/1"
    first = marit("GET", path)
    assert first.content_type == "image/png"
    assert "private" in first.headers["Cache-Control"]
    tile = next((world.context.settings.data_dir / "tiles").rglob("12/1_1"))
    made = tile.stat().st_mtime_ns
    assert marit("GET", path).data == first.data
    assert tile.stat().st_mtime_ns == made
    assert marit("GET", f"/api/sheets/{revision}/tiles/0/12/90/1").status_code == 404
    assert marit("GET", f"/api/sheets/{revision}/tiles/7/12/0/0").status_code == 404


def test_health_tells_every_parts_last_sign_of_life_and_nothing_of_what_is_in_nod(app, world, marit):
    beats = Beats(world.context.settings.data_dir)
    for part in ("web-1", "web-2", "live"):
        beats.beat(part, "loop", 60)
    assert app.test_client().get("/healthz").json["status"] == "degraded"
    beats.beat("worker", "mail-2", 60)
    answer = app.test_client().get("/healthz").json
    assert (answer["status"], answer["work"]) == ("ok", None)
    assert [each["part"] for each in answer["parts"]] == ["live", "web-1", "web-2", "worker"]
    assert set(answer) == {"status", "version", "parts", "work"}
    assert marit("GET", "/healthz").json["work"] == {"open": 0, "given_up": 0}
    beats.beat("worker", "mail-2", -1)
    answer = app.test_client().get("/healthz").json
    assert (answer["status"], answer["parts"][3]["late"]) == ("degraded", True)


def test_a_full_disk_answers_in_words(app):
    """A kind of RuleBroken: it was looked up by its own name, and answered 500."""
    assert DiskFull not in errors.STATUS
    with app.test_request_context("/"):
        answer = errors.refused(DiskFull())
    assert (answer.status_code, answer.json["code"]) == (422, "no_room")


def test_the_live_channel_may_be_asked_where_it_is_reached_from_outside(world):
    """Behind TLS, what Nod is asked by is plain HTTP: the policy named that, and the browser blocked the channel."""
    for more, allowed in (
        ({}, "http://localhost:8001"),
        ({"public_url": "https://nod.example"}, "https://nod.example:8001"),
        ({"public_url": "https://nod.example", "live_url": "https://nod.example/live"}, "https://nod.example"),
    ):
        app = create_app(world.with_settings(**more), world.press)
        policy = app.test_client().get("/healthz").headers["Content-Security-Policy"]
        assert f"connect-src 'self' {allowed};" in policy


def test_who_asks_is_who_the_proxies_in_front_say_and_nobody_else_is_believed(world):
    """One stranger could lock everybody out, as all came from the proxy's address; the trail named the proxy."""
    for proxies, told in ((0, "127.0.0.1"), (1, "10.0.0.9"), (2, "10.0.0.7")):
        settings = world.context.settings.model_copy(update={"trusted_proxies": proxies})
        app = behind_proxies(create_app(world.context, world.press), settings)
        body = {"email": MARIT, "password": DEMO_PASSWORD}
        headers = {"X-Forwarded-For": "10.0.0.6, 10.0.0.7, 10.0.0.9"}
        assert app.test_client().post("/api/sign-in", json=body, headers=headers).status_code == 204
        assert world.sql("SELECT came_from FROM sign_in ORDER BY began_at DESC, rowid DESC LIMIT 1") == [(told,)]


def test_each_refusal_has_its_status():
    assert set(errors.STATUS.values()) == {401, 403, 404, 409, 422, 429}


def test_the_description_of_the_api_is_the_one_committed(app):
    import json

    assert json.loads((ROOT / "docs/openapi.json").read_text()) == json.loads(json.dumps(app.api_doc))
