"""Every route that the description tells of, with whatever the description allows and more: no fault of ours, and no
answer that the description does not tell of. A small budget here; `make fuzz` has a large one (NOD_FUZZ examples each).
"""

import os
import random
import shutil

import pytest
import schemathesis
from hypothesis import HealthCheck, Phase, given, seed, settings
from hypothesis import strategies as st
from schemathesis.checks import not_a_server_error
from schemathesis.generation import GenerationMode
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    response_headers_conformance,
    response_schema_conformance,
    status_code_conformance,
)

from nod.clock import SetClock
from nod.demo import scenario
from nod.services.acts.context import open_context
from nod.services.people.sign_in import DEMO_PASSWORD
from nod.web.app import create_app
from nod.web.guard import CSRF_HEADER
from tests.conftest import NOW, settings_for
from tests.web.things import make_things
from tests.world import World

pytestmark = pytest.mark.walk

EXAMPLES = int(os.environ.get("NOD_FUZZ", "2"))
EMAIL = {each.key: each.email for each in scenario.PEOPLE}
PEOPLE = ("junpei", "paolo", "marit", "rafael") if "NOD_FUZZ" in os.environ else ("junpei", "rafael")
"""Reader, author, controller, lead."""
CHECKS = [
    not_a_server_error, status_code_conformance, content_type_conformance, response_schema_conformance,
    response_headers_conformance,
]  # fmt: skip
LEAVE = {"do_sign_out", "change_password", "begin_seeing_as", "remove_member", "end_sign_in"}
"""What would end the walk for the person who takes it."""
AWKWARD = [
    "", "é", "\ud800", "\ufffe", "a" * 300, "-1", "9" * 20, "../../x", "=1+1", "0001-01-01", "9999-12-31", "null",
    '["zzz",1]', "[true,true]", "[" * 2000, "%00", "\u202eabc", "1e999", "nan",
]  # fmt: skip

IN_ADDRESSES = [each for each in AWKWARD if each != "\ud800"]


@schemathesis.serializer("application/offset+octet-stream")
def _piece(context, value):
    return value if isinstance(value, bytes) else str(value).encode(errors="replace")


@pytest.fixture(scope="module")
def house(template, press, tmp_path_factory):
    """A project with a thing of every kind, that all examples share and change."""
    path, cast = template
    data = tmp_path_factory.mktemp("fuzz") / "data"
    shutil.copytree(path, data)
    context = open_context(settings_for(data), SetClock(NOW))
    world = World(context, SetClock(NOW), press, cast)
    app = create_app(context, press)
    app.testing = False
    visits = {}
    for who in PEOPLE:
        client = app.test_client()
        client.post("/api/sign-in", json={"email": EMAIL[who], "password": DEMO_PASSWORD})
        cookie = client.get_cookie("nod").value
        visits[who] = {"Cookie": f"nod={cookie}", CSRF_HEADER: client.get("/api/me").json["csrf_token"]}
    yield schemathesis.openapi.from_wsgi("/api/openapi.json", app), visits, make_things(world)
    context.database.close()


def _names():
    import tempfile
    from pathlib import Path

    from nod.services.press.press import Press
    from nod.settings import Settings

    with tempfile.TemporaryDirectory() as aside:
        app = create_app(open_context(Settings(data_dir=Path(aside)), SetClock(NOW)), Press(0, 1))
        app.extensions["nod_context"].database.close()
        return [(path, method) for path, each in app.api_doc["paths"].items() for method in each]


# A file that was answered is closed when the answer is forgotten.
@pytest.mark.filterwarnings("ignore::pytest.PytestUnraisableExceptionWarning")
@pytest.mark.parametrize(("path", "method"), _names())
def test_no_route_fails_or_answers_what_is_not_described(house, path, method):
    schema, visits, ids = house
    operation = schema[path][method]
    if operation.definition.raw["operationId"] in LEAVE:
        pytest.skip("it would end the walk")
    modes = [GenerationMode.POSITIVE, GenerationMode.NEGATIVE]
    cases = st.one_of(*(operation.as_strategy(generation_mode=each) for each in modes))

    @seed(len(path))
    @settings(
        max_examples=EXAMPLES, deadline=None, database=None, phases=[Phase.generate],
        suppress_health_check=list(HealthCheck),
    )  # fmt: skip
    @given(case=cases, lots=st.randoms(use_true_random=False), who=st.sampled_from(PEOPLE))
    def walk(case, lots, who):
        _with_real_things(case, ids, lots)
        response = case.call(headers=visits[who])
        case.validate_response(response, checks=CHECKS)

    walk()


def _with_real_things(case, ids, lots: random.Random):
    """What is in an address is mostly there, or is awkward: made-up ones would all be turned away at the door."""
    _in_path(case.path_parameters or {}, {"token": ids["token"], "code": ids["print"], **ids}, lots)
    for name in list(case.query or {}):
        if name == "project_id" and lots.random() < 0.8:
            case.query[name] = ids["project"]
        elif lots.random() < 0.3:
            case.query[name] = lots.choice(IN_ADDRESSES)
    if isinstance(case.body, dict):
        _in_body(case.body, ids, AWKWARD if case.media_type == "application/json" else IN_ADDRESSES, lots)


def _in_path(parameters, known, lots):
    for name in list(parameters):
        there = known.get(name.removesuffix("_id"))
        if there and lots.random() < 0.6:
            parameters[name] = there
        elif lots.random() < 0.3 and isinstance(parameters[name], str):
            parameters[name] = lots.choice([each for each in IN_ADDRESSES if each and "/" not in each])


def _in_body(body, ids, awkward, lots):
    for name in body:
        there = ids.get(name.removesuffix("_id")) if name.endswith("_id") else None
        if there and lots.random() < 0.8:
            body[name] = there
        elif isinstance(body[name], str) and lots.random() < 0.3:
            body[name] = lots.choice(awkward)
