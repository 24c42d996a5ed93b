"""A client made of the description alone does the work of a day: it knows no address and no field but those there."""

import base64
import json
import urllib.parse

import jsonschema_rs
import pytest

from nod.demo import scenario
from nod.services.people.sign_in import DEMO_PASSWORD
from tests.world import NUMBER, name, pdf

EMAIL = {each.key: each.email for each in scenario.PEOPLE}


class Described:
    """Calls operations by their names. What the description does not have cannot be said, nor answered."""

    def __init__(self, client, description):
        self._client, self._whole = client, description
        self._cookies, self._token = {}, ""
        self._operations = {
            operation["operationId"]: (method, path, operation)
            for path, each in description["paths"].items()
            for method, operation in each.items()
        }

    def __call__(self, operation_id, body=None, **values):
        method, path, operation = self._operations[operation_id]
        query, headers = {}, {}
        for each in operation.get("parameters", []):
            if each["name"] not in values:
                assert not each.get("required"), f"{operation_id} needs {each['name']}"
                continue
            value = values.pop(each["name"])
            if each["in"] == "path":
                path = path.replace(f"{{{each['name']}}}", urllib.parse.quote(str(value)))
            else:
                {"query": query, "header": headers}[each["in"]][each["name"]] = value
        assert not values, f"{operation_id} is not described to take {list(values)}"
        content = self._body(operation, body, headers)
        for scheme in (operation.get("security") or [{}])[0]:
            self._prove_oneself(self._whole["components"]["securitySchemes"][scheme], headers)
        answer = self._client.open(
            path, method=method, query_string=query, headers=headers, data=content, buffered=True
        )
        return self._answered(operation_id, operation, answer)

    def _body(self, operation, body, headers):
        described = operation.get("requestBody")
        if described is None:
            assert body is None, "a body is not described"
            return None
        ((media_type, content),) = described["content"].items()
        headers["Content-Type"] = media_type
        if media_type == "application/json":
            self._check(content["schema"], body)
            return json.dumps(body)
        return body

    def _prove_oneself(self, scheme, headers):
        if scheme["in"] == "header":
            headers[scheme["name"]] = self._token

    def _answered(self, operation_id, operation, answer):
        described = operation["responses"].get(str(answer.status_code))
        assert described, f"{operation_id} answered {answer.status_code}: {answer.text}"
        for header in described.get("headers", {}):
            assert header in answer.headers, header
        content = described.get("content", {}).get("application/json")
        if content:
            self._check(content["schema"], answer.json)
            return answer.json
        return answer

    def _check(self, schema, value):
        jsonschema_rs.validate({**schema, "components": self._whole["components"]}, value)

    def sign_in(self, who):
        self("do_sign_in", {"email": EMAIL[who], "password": DEMO_PASSWORD})
        me = self("read_me")
        self._token = me["csrf_token"]
        return me["projects"][0]["id"]


@pytest.fixture
def described(app):
    description = json.loads(json.dumps(app.api_doc))
    return lambda: Described(app.test_client(), description)


def _b64(text):
    return base64.b64encode(text.encode()).decode()


def test_a_day_by_the_description_alone(described, world):
    marit, leilani, saoirse = described(), described(), described()
    project = marit.sign_in("marit")
    leilani.sign_in("leilani")
    saoirse.sign_in("saoirse")
    # Upload.
    batch = marit("open_batch", {"project_id": project})["id"]
    content, version = pdf("by the description"), {"Tus-Resumable": "1.0.0"}
    said = f"batch {_b64(batch)},filename {_b64(name())}"
    begun = marit("begin_upload", **version, **{"Upload-Length": str(len(content)), "Upload-Metadata": said})
    upload = begun.headers["Location"].rpartition("/")[2]
    for start, end in ((0, 400), (400, len(content))):
        marit("add_piece", content[start:end], upload_id=upload, **version, **{"Upload-Offset": str(start)})
    assert marit("read_upload", upload_id=upload).headers["Upload-Offset"] == str(len(content))
    world.look()
    # Register.
    arrivals = marit("read_batch", batch_id=batch)["arrivals"]
    seen = {each["id"]: each["version"] for each in arrivals}
    outcomes = marit("register_batch", {"seen": seen}, batch_id=batch)["outcomes"]
    assert [each["result"] for each in outcomes] == ["registered"]
    (line,) = marit("list_register", project_id=project)["lines"]
    assert line["number"] == NUMBER
    # Mark.
    new = {"page": 0, "kind": "pin", "points": [[100, 100]], "text": "What is this?"}
    (mark,) = leilani("draw_marks", {"marks": [new]}, revision_id=line["revision_id"])
    leilani("ink_marks", {"marks": {mark["id"]: mark["version"]}}, revision_id=line["revision_id"])
    saoirse("write_reply", {"text": "A door"}, mark_id=mark["id"])
    # Review.
    (route,) = [each["id"] for each in marit("list_routes", project_id=project) if each["name"] == "Check and decide"]
    start = {"project_id": project, "route_id": route, "name": "One", "documents": {line["id"]: line["revision_id"]}}
    review = marit("start_review", start)["id"]
    steps = [each["id"] for each in leilani("read_review", review_id=review)["slip"]]
    leilani("pick_up", review_id=review, step_id=steps[0])
    for who, step, verdict in ((leilani, steps[0], ""), (saoirse, steps[1], "A")):
        answers = [{"document_id": line["id"], "verdict": verdict, "comment": "fine"}]
        who("hand_in", {"answers": answers}, review_id=review, step_id=step)
    # Send.
    people = marit("list_addressees", project_id=project)["people"]
    sending = {
        "project_id": project, "revisions": [line["revision_id"]], "people": [people[0]["who"]["id"]],
        "purpose": "construction", "review_id": review,
    }  # fmt: skip
    sent = marit("send_transmittal", sending)["id"]
    world.send()
    assert marit("read_transmittal", transmittal_id=sent)["packed"]


def test_what_is_not_described_cannot_be_said(described):
    marit = described()
    marit.sign_in("marit")
    with pytest.raises(AssertionError, match="is not described"):
        marit("read_me", extra=1)
    with pytest.raises(jsonschema_rs.ValidationError):
        marit("open_batch", {"project": 5})
