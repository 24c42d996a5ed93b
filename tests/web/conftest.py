import pytest

from nod.demo import scenario
from nod.services.people.sign_in import DEMO_PASSWORD
from nod.web.app import create_app
from nod.web.guard import CSRF_HEADER
from tests.web.things import make_things


class Visit:
    """A signed-in test client that sends its CSRF token."""

    def __init__(self, app, email=""):
        self.client = app.test_client()
        self.csrf = ""
        if email:
            answer = self.client.post("/api/sign-in", json={"email": email, "password": DEMO_PASSWORD})
            assert answer.status_code == 204, answer.text
            self.csrf = self.client.get("/api/me").json["csrf_token"]

    def __call__(self, method, path, json=None, headers=(), **more):
        headers = {CSRF_HEADER: self.csrf, **dict(headers)}
        # Buffered: a streamed file is read and closed.
        return self.client.open(path, method=method, json=json, headers=headers, buffered=True, **more)


_APP = []
"""The routes are laid out once a process: that takes as long as many a test."""


@pytest.fixture
def app(world):
    if not _APP:
        _APP.append(create_app(world.context, world.press))
    (app,) = _APP
    app.extensions |= {"nod_context": world.context, "nod_press": world.press}
    # Faults of ours are to be seen as what they are.
    app.testing = False
    return app


@pytest.fixture
def visit(app):
    return lambda email="": Visit(app, email)


@pytest.fixture
def ids(world):
    return world.once(make_things)


EVERYBODY = ("nobody", "stranger", "bronwen", "junpei", "leilani", "paolo", "marit", "rafael", "ines")
"""See `RANK` in the walk over all routes."""


@pytest.fixture
def everybody(world, visit):
    """The demo's people of every rank, and a stranger who is made here."""
    from nod.services.acts import projects
    from nod.services.acts.context import acting
    from nod.services.people.sign_in import DEMO_PASSWORD, hasher

    secret = hasher(world.context).hash(DEMO_PASSWORD)
    with acting(world.context, world.actor("rafael")) as act:
        company = world.actor("anouk").company_id
        projects.add_person(act, "Stran Ger", "stranger@brackwater.example", company, "elsewhere", secret)
    emails = {each.key: each.email for each in scenario.PEOPLE} | {
        "nobody": "",
        "stranger": "stranger@brackwater.example",
    }
    return {who: visit(emails[who]) for who in EVERYBODY}
