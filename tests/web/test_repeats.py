"""A form's key does an act once, whatever the mouse and the line do."""

import threading
from datetime import timedelta

import pytest
from sqlalchemy import func, select

from nod.services.acts.once import settle_key
from nod.services.links import links
from nod.store.tables import AuditEntryRow, DoneOnceRow, LinkRow, MarkRow, ReplyRow
from tests.services.links.visiting import enter
from tests.services.sessions.meeting import link_to, make
from tests.world import name

KEY = {"Idempotency-Key": "0123456789abcdef0123456789abcdef"}
MARIT = "marit@hollinbrook.example"


@pytest.fixture
def talk(ids):
    return f"/api/talk/document/{ids['document']}"


def _count(world, table):
    with world.context.database.read() as session:
        return session.scalar(select(func.count()).select_from(table))


def test_a_request_that_comes_twice_is_done_once_and_answered_alike(world, visit, talk):
    marit = visit(MARIT)
    said, entries = _count(world, ReplyRow), _count(world, AuditEntryRow)
    first = marit("POST", talk, json={"text": "Which bolts?"}, headers=KEY)
    again = marit("POST", talk, json={"text": "Which bolts?"}, headers=KEY)
    assert (first.status_code, again.status_code) == (200, 200)
    assert again.json == first.json
    assert again.headers["X-Nod-Again"] == "1"
    assert (_count(world, ReplyRow), _count(world, AuditEntryRow)) == (said + 1, entries + 1)


def test_without_a_key_each_is_an_act_of_its_own(world, visit, talk):
    marit = visit(MARIT)
    said = _count(world, ReplyRow)
    for _ in range(2):
        assert marit("POST", talk, json={"text": "Which bolts?"}).status_code == 200
    assert _count(world, ReplyRow) == said + 2


def test_two_in_the_same_moment_are_one(app, world, visit, talk):
    marit = visit(MARIT)
    said = _count(world, ReplyRow)
    gate = threading.Barrier(4)
    answers = []

    def press():
        gate.wait()
        with app.test_client() as client:
            client.set_cookie("nod", marit.client.get_cookie("nod").value)
            headers = {"X-Nod-Csrf": marit.csrf, **KEY}
            answers.append(client.post(talk, json={"text": "Which bolts?"}, headers=headers))

    presses = [threading.Thread(target=press) for _ in range(4)]
    for each in presses:
        each.start()
    for each in presses:
        each.join()
    assert [each.status_code for each in answers] == [200] * 4
    assert len({each.text for each in answers}) == 1
    assert _count(world, ReplyRow) == said + 1


def test_a_key_with_other_contents_is_refused_and_says_so(visit, talk):
    marit = visit(MARIT)
    assert marit("POST", talk, json={"text": "Which bolts?"}, headers=KEY).status_code == 200
    other = marit("POST", talk, json={"text": "Which bolts, and when?"}, headers=KEY)
    assert (other.status_code, other.json["code"]) == (422, "done_otherwise")


def test_what_was_refused_can_be_asked_for_again_under_its_key(visit, talk):
    marit = visit(MARIT)
    assert marit("POST", talk, json={"text": " "}, headers=KEY).status_code == 422
    assert marit("POST", talk, json={"text": "Which bolts?"}, headers=KEY).status_code == 200


def test_another_person_with_the_same_key_does_an_act_of_their_own(world, visit, talk):
    said = _count(world, ReplyRow)
    for email in (MARIT, "rafael@hollinbrook.example"):
        assert visit(email)("POST", talk, json={"text": "Which bolts?"}, headers=KEY).status_code == 200
    assert _count(world, ReplyRow) == said + 2


def test_an_answer_that_was_never_given_is_told_and_not_done_again(world, visit, talk, monkeypatch):
    """The process was killed between the act and its answer."""
    monkeypatch.setattr("nod.web.repeats.settle_key", lambda *_: None)
    monkeypatch.setattr("nod.web.repeats._WAITS_S", (0.001,))
    marit = visit(MARIT)
    said = _count(world, ReplyRow)
    marit("POST", talk, json={"text": "Which bolts?"}, headers=KEY)
    again = marit("POST", talk, json={"text": "Which bolts?"}, headers=KEY)
    assert (again.status_code, again.json["code"]) == (409, "done_already")
    assert _count(world, ReplyRow) == said + 1


def test_keys_are_plain_and_forgotten_after_two_days(world, visit, talk):
    marit = visit(MARIT)
    for key in ("short", "x" * 65, "../../../../../../x"):
        refused = marit("POST", talk, json={"text": "Which bolts?"}, headers={"Idempotency-Key": key})
        assert (refused.status_code, refused.json["code"]) == (422, "key_malformed")
    assert marit("POST", talk, json={"text": "Which bolts?"}, headers=KEY).status_code == 200
    world.clock.advance(timedelta(days=3))
    other = {"Idempotency-Key": "f" * 32}
    marit = visit(MARIT)
    assert marit("POST", talk, json={"text": "And the nuts?"}, headers=other).status_code == 200
    with world.context.database.read() as session:
        assert session.scalars(select(DoneOnceRow.key)).all() == ["f" * 32]


def test_settling_a_key_that_is_gone_is_nothing(world):
    from nod.core.acts.once import Once

    settle_key(world.context.database, "nobody", Once("k" * 16, "f"), 200, "{}")
    assert _count(world, DoneOnceRow) == 0


def test_what_is_told_once_is_kept_nowhere(world, visit, ids):
    """The address of a link has its secret in it, of which only a hash is kept."""
    wish = {"kind": "document", "target": ids["document"], "for_kind": "anyone", "people": [], "allows": [],
            "ends_on": None, "password": "", "most_visits": None}  # fmt: skip
    marit = visit(MARIT)
    given = marit("POST", "/api/links", json=wish, headers=KEY)
    assert given.status_code == 200, given.text
    secret = given.json["links"][0]["address"].rpartition("/")[2]
    with world.context.database.read() as session:
        assert all(secret not in row.body for row in session.scalars(select(DoneOnceRow)))
    again = marit("POST", "/api/links", json=wish, headers=KEY)
    assert (again.status_code, again.json["code"]) == (409, "done_already")


def test_what_was_done_before_a_fault_of_ours_is_not_done_again(world, visit, talk, monkeypatch):
    from nod.web import threads

    def say_and_fail(*said):
        whole(*said)
        return 1 / 0

    service = next(each for name, each in vars(threads).items() if hasattr(each, "say"))
    whole = service.say
    marit, said = visit(MARIT), _count(world, ReplyRow)
    with monkeypatch.context() as patched:
        patched.setattr(service, "say", say_and_fail)
        assert marit("POST", talk, json={"text": "Which bolts?"}, headers=KEY).status_code == 500
    again = marit("POST", talk, json={"text": "Which bolts?"}, headers=KEY)
    assert (again.status_code, again.json["code"]) == (409, "done_already")
    assert _count(world, ReplyRow) == said + 1


def test_a_guest_of_a_session_marks_once_however_often_it_is_sent(world, visit):
    """Each visit has keys of its own; where its link is shut nothing is answered again."""
    ((_, sheet),) = world.file(name())
    session = make(world, sheet)
    nobody, address = visit(), f"/api/guest/session/sheets/{sheet}/marks"
    body = {"marks": [{"page": 0, "kind": "pin", "points": [[40, 40]], "text": "Anchor here"}]}

    def draw(secret, **more):
        return nobody("POST", address, json={**body, **more}, headers={**KEY, "X-Nod-Guest": secret})

    one, other = (enter(world, link_to(world, session, "mark"), who) for who in ("Otto Brenner", "Lene Falk"))
    first, again = draw(one), draw(one)
    assert (first.status_code, again.status_code, again.json) == (200, 200, first.json)
    assert _count(world, MarkRow) == 1
    assert draw(one, marks=[{**body["marks"][0], "text": "Another"}]).json["code"] == "done_otherwise"
    assert draw(other).status_code == 200
    assert _count(world, MarkRow) == 2
    with world.context.database.read() as read:
        link_id = read.scalars(select(LinkRow.id).order_by(LinkRow.made_at, LinkRow.id)).all()
    for each in link_id:
        links.withdraw_link(world.context, world.actor("marit"), each)
    assert draw(one).status_code == 404


def test_a_time_without_a_zone_is_refused_and_named(world, visit):
    """An instant (RFC 3339) is what a session opens and closes at: a time of nowhere is none."""
    ((_, sheet),) = world.file(name())
    marit = visit(MARIT)
    body = {"project_id": world.project_id, "name": "Quay hall", "revisions": [sheet], "parties": [], "note": ""}
    for closes_at, status in (("2031-05-20T09:00:00", 400), ("2031-05-20", 400)):
        refused = marit("POST", "/api/sessions", json={**body, "opens_at": None, "closes_at": closes_at})
        assert (refused.status_code, refused.json["code"]) == (status, "malformed")
        assert "closes_at" in refused.text
