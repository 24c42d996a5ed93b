"""The walk: every route, as everybody. A route without a line here, or without a stated permission, fails."""

import pytest

from nod.core.trail import KIND_WORDS
from nod.services.mailing import guest_token
from tests.world import NUMBER, name, pdf

PEOPLE = ("marit", "rafael", "leilani", "reader", "stranger", "nobody")
LEVELS = {"marit": 4, "rafael": 4, "leilani": 2, "reader": 1, "stranger": 0, "nobody": -1}
NEEDS = {"signed in": 0, "read": 1, "mark": 2, "file": 3, "keep": 4, "log": 4}

BODIES = {
    "sign_in": {"email": "x@example.com", "password": "x"},
    "open_batch": lambda ids: {"project_id": ids["project"]},
    "register_batch": {"seen": {}},
    "correct_arrival": {"version": 1, "title": "T"},
    "discard_arrival": {"version": 1, "reason": "r"},
    "draw_mark": {"page": 0, "kind": "pin", "points": [[1, 1]], "colour": "red", "text": ""},
    "ink_marks": {"marks": {}},
    "change_mark": {"version": 2, "text": "x"},
    "remove_mark": {"version": 2},
    "write_reply": {"text": "hello"},
    "set_mark_state": {"version": 2, "state": "open"},
    "start_review": lambda ids: {
        "project_id": ids["project"],
        "route_id": ids["route"],
        "name": "n",
        "documents": {ids["document"]: ids["revision"]},
    },
    "pick_up": {"version": 1},
    "put_down": {"version": 1},
    "hand_in": {"version": 1, "answers": []},
    "cancel_review": {"version": 1, "reason": "r"},
    "check_sending": lambda ids: {"project_id": ids["project"], "revisions": [ids["revision"]], "purpose": "record"},
    "send_transmittal": lambda ids: {
        "project_id": ids["project"],
        "revisions": [ids["revision"]],
        "people": [ids["person"]],
        "purpose": "record",
    },
}


@pytest.fixture
def ids(world, template):
    """One of each thing that a route can be about."""
    document, revision = world.file(name())[0]
    (mark,) = world.ink(revision, world.draw(revision))
    review = world.closed_review((document, revision))
    from nod.services import transmittals

    sent = transmittals.send_transmittal(
        world.context,
        world.actor("marit"),
        transmittals.SendTransmittal(
            project_id=world.project_id, revisions=[revision], people=[world.cast.people["yusuf"]], purpose="record"
        ),
    )
    world.send()
    batch = world.arrive({"odd.pdf": pdf("odd")})
    recipient = world.sql("SELECT id FROM recipient")[0][0]
    return {
        "project": world.project_id, "route": world.cast.route_id, "document": document, "revision": revision,
        "mark": mark.id, "review": review, "transmittal": sent.id, "batch": batch, "person": world.cast.people["yusuf"],
        "arrival": world.batch(batch).arrivals[0].id, "token": guest_token(world.context, recipient), "number": NUMBER,
    }  # fmt: skip


@pytest.fixture
def everybody(world, visit):
    """People of every level: a reader and a stranger are made here, beside those of the demo."""
    from nod.services import projects
    from nod.services.context import acting
    from nod.services.sign_in import DEMO_PASSWORD, hasher

    secret = hasher(world.context).hash(DEMO_PASSWORD)
    with acting(world.context, world.actor("rafael")) as act:
        company = world.actor("anouk").company_id
        reader = projects.add_person(act, "Rea Der", "reader@brackwater.example", company, "reads", secret)
        projects.add_member(act, world.project_id, reader, ("reader",))
        projects.add_person(act, "Stran Ger", "stranger@brackwater.example", company, "elsewhere", secret)
    emails = {"marit": "marit@hollinbrook.example", "rafael": "rafael@hollinbrook.example"}
    emails |= {"leilani": "leilani@plinthwork.example", "nobody": ""}
    return {who: visit(emails.get(who, f"{who}@brackwater.example")) for who in PEOPLE}


def _routes(app):
    for rule in app.url_map.iter_rules():
        for method in sorted(rule.methods - {"HEAD", "OPTIONS"}):
            yield rule, method, app.view_functions[rule.endpoint]


def _address(rule, ids):
    values = {
        "page": 0, "level": 9, "column": 0, "row": 0, "part": "cover", "name": "x.js", "address": "register",
        **{f"{key}_id": value for key, value in ids.items()}, "token": ids["token"],
    }  # fmt: skip
    path = rule.rule
    for argument in rule.arguments:
        for form in (f"<{argument}>", f"<int:{argument}>", f"<path:{argument}>"):
            path = path.replace(form, str(values[argument]))
    return path


def _ask(who, rule, method, ids):
    name = rule.endpoint.partition(".")[2] or rule.endpoint
    body = BODIES.get({"do_sign_in": "sign_in"}.get(name, name))
    body = body(ids) if callable(body) else body
    query = {"project_id": ids["project"], "name": "x.pdf"}
    if name == "add_file":
        return who(method, _address(rule, ids), query_string=query, data=pdf("odd"))
    if method == "POST" and body is None:
        return who(method, _address(rule, ids), json={}, query_string=query)
    return who(method, _address(rule, ids), json=body, query_string=query if method == "GET" else None)


def test_every_route_states_its_permission(app):
    unstated = [rule.rule for rule, _, view in _routes(app) if not hasattr(view, "permission")]
    assert unstated == []


def test_every_route_as_everybody(app, ids, everybody):
    """Below the level: 401 without a sign-in, 404 without a seat in the project, 403 with too low a level.

    At or above it: anything but these. The acts of the high levels come last, as some can be done once only.
    """
    walked = 0
    for rule, method, view in sorted(_routes(app), key=lambda each: each[0].rule.endswith("sign-out")):
        for person in sorted(PEOPLE, key=LEVELS.__getitem__):
            answer = _ask(everybody[person], rule, method, ids)
            told = f"{method} {rule.rule} as {person}: {answer.status_code} {answer.data[:200]!r}"
            assert answer.status_code < 500, told
            _check(view.permission, person, answer, told)
            walked += 1
    assert walked > 200


def _check(needed, person, answer, told):
    if needed in ("public", "link"):
        assert answer.status_code not in (401, 404) or "/assets/" in told or "get_assets" in told, told
        return
    level = LEVELS[person]
    if level < 0:
        assert answer.status_code == 401, told
    elif level == 0 and needed != "signed in":
        assert answer.status_code == 404, told
    elif level < NEEDS[needed]:
        assert answer.status_code == 403, told
    else:
        assert answer.status_code != 404, told
        about_the_thing = ("not_your_step", "not_your_review", "not_your_mark", "not_a_recipient")
        assert answer.status_code != 403 or answer.json["code"] in about_the_thing, told


def test_what_one_may_not_see_answers_like_what_is_not_there(ids, everybody):
    stranger = everybody["stranger"]
    for there, not_there in (
        (f"/api/documents/{ids['document']}", "/api/documents/aaaaaaaaaaaaaaaa"),
        (f"/api/sheets/{ids['revision']}/tiles/0/9/0/0", "/api/sheets/aaaaaaaaaaaaaaaa/tiles/0/9/0/0"),
        (f"/api/reviews/{ids['review']}", "/api/reviews/aaaaaaaaaaaaaaaa"),
        (f"/api/audit?project_id={ids['project']}", "/api/audit?project_id=aaaaaaaaaaaaaaaa"),
    ):
        first, second = stranger("GET", there), stranger("GET", not_there)
        assert (first.status_code, first.data) == (second.status_code, second.data)


@pytest.mark.parametrize("path", ["/api/reviews", "/api/intake/batches", "/api/sign-out", "/api/transmittals"])
def test_nothing_changes_without_the_csrf_token(visit, path):
    who = visit("marit@hollinbrook.example")
    for token in ("", "guess"):
        who.csrf = token
        answer = who("POST", path, json={})
        assert (answer.status_code, answer.json["code"]) == (403, "csrf")


def test_get_never_changes_anything(app, ids, everybody, world):
    before = (world.kinds(), world.sql("SELECT count(*) FROM live_event"), world.sql("SELECT count(*) FROM outbox"))
    for rule, method, _ in _routes(app):
        if method == "GET":
            for person in PEOPLE:
                _ask(everybody[person], rule, method, ids)
    after = (world.kinds(), world.sql("SELECT count(*) FROM live_event"), world.sql("SELECT count(*) FROM outbox"))
    assert before == after
    assert set(world.kinds()) <= set(KIND_WORDS)
