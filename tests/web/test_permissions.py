"""The walk: every route, as everybody. A route without a line here, or without a stated permission, fails."""

import base64
import re

import pytest

from nod.core.trail.entries import FactKind
from tests.web.asked_bodies import BODIES
from tests.world import pdf

pytestmark = pytest.mark.walk

RANK = {
    "nobody": -1, "stranger": 0, "bronwen": 0, "junpei": 1, "leilani": 2, "paolo": 3, "marit": 4, "rafael": 5,
    "ines": 6,
}  # fmt: skip
"""Nobody signed in; a stranger; somebody removed; reader, reviewer, author, controller, lead, steward."""
PEOPLE = tuple(RANK)
NEEDS = {"signed in": 0, "member": 1, "read": 1, "mark": 2, "file": 3, "keep": 4, "run": 4, "lead": 5, "steward": 6}
LEADS_NOWHERE = {
    "set_absence", "remove_absence", "do_sign_out", "begin_seeing_as", "end_sign_in", "remove_starter",
    "remove_reader", "draw_change", "take_hand_over_back", "respond_as_guest", "remove_attachment", "bounce_mail",
    "try_again", "ask_proof", "read_layered_tile", "read_layered_page", "read_upload", "add_piece", "end_upload",
    "stop_pack", "download_pack", "draw_revision_change", "remove_scale", "unlink_mark", "download_mark_file",
    "download_record", "remove_guest_file", "remove_guest_letter_file",
}  # fmt: skip
"""Acts on things that are not made here, as they would end the walk: a wrong one answers 404 to everybody."""


def _routes(app):
    for rule in app.url_map.iter_rules():
        for method in sorted(rule.methods - {"HEAD", "OPTIONS"}):
            yield rule, method, app.view_functions[rule.endpoint]


def _address(rule, ids):
    values = {
        "page": 0, "level": 9, "column": 0, "row": 0, "place": 0, "reader_id": "a" * 16, "upload_id": "a" * 16,
        "scale_id": "a" * 16,
        "absence_id": "a" * 16, "project": "BFT", "link_id": "a" * 16, "file_id": "a" * 16, "kind": "document",
        "task_id": 99, "target": ids["document"],
        "before_revision_id": ids["revision"], "after_revision_id": ids["revision"], "before_page": 0, "after_page": 0,
        "moved": "1,0,0,1,0,0", "shown": "both", "off": "none", "part": "cover", "name": "x.js", "address": "register",
        **{key: ids[key] for key in ("kind", "target") if key in ids},
        **{f"{key}_id": value for key, value in ids.items()}, "token": ids["token"], "code": ids["print"],
    }  # fmt: skip
    path = rule.rule
    for part, here in _elsewhere(ids).items():
        values |= here if part in path else {}
    for argument in rule.arguments:
        for form in (f"<{argument}>", f"<int:{argument}>", f"<path:{argument}>"):
            path = path.replace(form, str(values[argument]))
    return path


def _elsewhere(ids):
    """By a part of an address, what its arguments are there."""
    return {
        "key-links": {"token": ids["key_link"]},
        "/calendar/<token>": {"token": ids["feed"]},
        "/guest/review": {
            "revision_id": ids["guest_revision"],
            "step_id": ids["guest_step"],
            "mark_id": ids["guest_mark"],
        },
        "/covers/": {"code": ids["cover"]},
        "/guest/transmittal": {"revision_id": ids["revision"]},
        "/guest/submittal": {"attachment_id": ids["guest_file"]},
        "/guest/letter": {"attachment_id": ids["guest_letter_file"]},
        "/guest/session": {"revision_id": ids["guest_revision"], "mark_id": ids["session_mark"]},
        "/sessions/": {"revision_id": ids["guest_revision"], "part": 1},
    }


def _visit(rule, ids):
    """The visit by a link to the kind of thing that the route is about."""
    kinds = {
        "transmittal": "guest", "review": "guest_of_review", "list": "guest_of_set", "session": "guest_of_session",
        "submittal": "guest_of_submittal", "letter": "guest_of_letter",
    }  # fmt: skip
    return ids[next((id for kind, id in kinds.items() if f"/guest/{kind}" in rule.rule), "guest_of_document")]


def _ask(who, rule, method, ids):
    name = rule.endpoint.partition(".")[2] or rule.endpoint
    body = BODIES.get({"do_sign_in": "sign_in"}.get(name, name))
    body = body(ids) if callable(body) else body
    query = {
        "project_id": ids["project"], "name": "x.pdf", "words": "ma", "country": "GB", "first_year": 2027,
        "last_year": 2027, "column": "discipline", "revision": "P02", "status": "S3",
        "left": 0, "low": 0, "right": 100, "high": 100, "revision_id": ids["guest_revision"],
    }  # fmt: skip
    if name in (
        "add_file",
        "add_attachment",
        "begin_revision",
        "read_planned_list",
        "read_received_list",
        "take_in_marks",
        "take_responses_in",
        "take_submittals_in",
    ):
        return who(method, _address(rule, ids), query_string=query, data=pdf("odd"))
    if name == "preview_share":
        query |= {"kind": "shared_set", "target": ids["set"]}
    if name in ("read_offer", "list_letters_about"):
        query |= {"kind": "document", "target": ids["document"]}
    if "/api/guest/" in rule.rule:
        return _ask_by_link(who, rule, method, ids, body)
    if name in ("begin_upload", "add_piece"):
        said = f"batch {base64.b64encode(ids['batch'].encode()).decode()},filename eC5wZGY="
        headers = {"Tus-Resumable": "1.0.0", "Upload-Length": "9", "Upload-Offset": "0", "Upload-Metadata": said}
        content = {"data": b"%PDF-1", "content_type": "application/offset+octet-stream"} if name == "add_piece" else {}
        return who(method, _address(rule, ids), headers=headers, **content)
    if name in OF_FORMS:
        return who(method, _address(rule, ids), data=body)
    if method == "POST" and body is None:
        return who(method, _address(rule, ids), json={}, query_string=query)
    return who(method, _address(rule, ids), json=body, query_string=query if method in ("GET", "DELETE") else None)


def _ask_by_link(who, rule, method, ids, body):
    more = {"json": body} if body is not None else {}
    if rule.endpoint.endswith(("add_guest_file", "add_guest_letter_file")):
        more = {"data": pdf("odd"), "query_string": {"name": "odd.pdf"}}
    return who(method, _address(rule, ids), headers={"X-Nod-Guest": _visit(rule, ids)}, **more)


def test_every_route_states_its_permission(app):
    unstated = [rule.rule for rule, _, view in _routes(app) if not hasattr(view, "permission")]
    assert unstated == []


def test_every_route_is_in_the_description(app):
    """Two features that share an address would leave the methods of one of them out."""
    described = {(path, method.upper()) for path, each in app.api_doc["paths"].items() for method in each}
    here = {
        (re.sub(r"<(?:\w+:)?(\w+)>", r"{\1}", rule.rule), method)
        for rule, method, _ in _routes(app)
        if rule.rule.startswith("/api/")
    }
    assert here - described == {("/api/openapi.json", "GET")}


def test_every_route_as_everybody(app, ids, everybody):
    """Below the level: 401 without a sign-in, 404 without a seat in the project, 403 with too low a level.

    At or above it: anything but these. The acts of the high levels come last, as some can be done once only.
    """
    walked = 0
    for rule, method, view in sorted(_routes(app), key=lambda each: each[0].rule.endswith("sign-out")):
        name = rule.endpoint.partition(".")[2] or rule.endpoint
        for person in PEOPLE:
            answer = _ask(everybody[person], rule, method, ids)
            told = f"{method} {rule.rule} as {person}: {answer.status_code} {answer.data[:200]!r}"
            assert answer.status_code < 500, told
            elsewhere = name in OF_COMPANIES and RANK[person] < RANK["marit"]
            elsewhere |= name in OF_ITS_AUTHOR and person != "marit"
            _check(view.permission, person, answer, told, leads_nowhere=name in LEADS_NOWHERE or elsewhere)
            walked += 1
    assert walked > 600


OF_FORMS = {
    "export_log", "ask_proof", "export_register", "export_marks", "export_measures", "print_sheet", "take_comments",
    "take_log", "take_transmittals", "take_sessions", "take_submittals",
}  # fmt: skip
OF_COMPANIES = {
    "read_transmittal", "take_evidence", "acknowledge_as_member", "download_part", "void_transmittal",
    "chase_transmittals", "send_mail_again", "catch_up", "hand_over", "download_mail", "read_draft",
    "change_draft", "discard_draft", "read_submittal", "change_submittals", "ask_for", "remind", "void_submittals",
    "prepare", "send_in", "give", "give_to_route", "set_submittal_items", "set_submittal_lots",
    "answer", "close", "copy_in", "deliver",
    "take_submittal_record", "send_submittal_on", "take_letter_pdf", "take_letter_mbox",
    "take_letter_eml", "read_letter", "begin_letter_reply", "note_letter_seen",
    "close_letter", "reopen_letter", "mark_letter_answer", "remind_of_letters", "set_letter_private",
}  # fmt: skip
"""For those whose companies sent or got it, and who runs the project: to the others it is not there."""
OF_ITS_AUTHOR = {
    "read_letter_draft", "keep_letter_draft", "send_letter", "drop_letter_draft", "ask_letter_check",
    "take_letter_back", "give_letter_back", "let_letter_go",
}  # fmt: skip
"""For whoever has begun to write it: to everybody else it is not there."""
ABOUT_THE_THING = {
    "not_your_step", "not_your_view", "not_your_link", "not_your_review", "not_your_mark", "not_a_recipient",
    "not_yours", "not_your_sending", "wrong_password", "not_leading", "not_your_comment", "not_host", "session_level",
    "submittal_party", "letter_part", "own_letter",
}  # fmt: skip


def _check(needed, person, answer, told, *, leads_nowhere):
    if needed in ("public", "link"):
        nowhere = leads_nowhere or "/assets/" in told or "get_assets" in told
        assert answer.status_code not in (401, 404) or nowhere, told
        return
    rank, code = RANK[person], answer.json["code"] if answer.status_code == 403 else ""
    if rank < 0:
        assert answer.status_code == 401, told
    elif leads_nowhere:
        assert answer.status_code in (204, 403, 404), told
    elif rank == 0 and needed not in ("signed in", "steward"):
        assert answer.status_code == 404, told
    elif rank < NEEDS[needed]:
        assert answer.status_code == 403, told
        assert code in ("level_too_low", "not_running", "not_leading", "not_steward"), told
    else:
        assert answer.status_code != 404, told
        assert answer.status_code != 403 or code in ABOUT_THE_THING - {"not_leading"}, told


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
    assert set(world.kinds()) <= set(FactKind)


def test_what_one_may_in_a_session_is_asked_by_the_server(ids, everybody):
    """Who may look never writes; who may comment answers, and draws nothing; nobody else is in the room at all."""
    at = f"/api/sessions/{ids['session']}"
    draw = f"{at}/sheets/{ids['guest_revision']}/marks"
    pin = {"marks": [{"page": 0, "kind": "pin", "points": [[1, 1]], "text": "Here"}]}
    drawn = everybody["paolo"]("POST", draw, json=pin).json[0]
    state = {"version": drawn["version"], "state": "done"}
    tried = {
        who: (
            everybody[who]("POST", f"{at}/here", json={"revision_id": ids["guest_revision"]}).status_code,
            everybody[who]("POST", draw, json=pin).status_code,
            everybody[who]("POST", f"{at}/close", json={"version": 1}).status_code,
        )
        for who in ("junpei", "leilani", "paolo", "stranger")
    }
    assert tried == {
        "junpei": (204, 403, 403), "leilani": (204, 403, 403), "paolo": (204, 200, 403), "stranger": (404, 404, 404)
    }  # fmt: skip
    assert everybody["leilani"]("POST", f"/api/marks/{drawn['id']}/state", json=state).status_code == 200
