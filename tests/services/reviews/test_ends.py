"""What a route does with a document when it leaves the review, by its verdict."""

import json

import pytest

from nod.core.acts.refusals import RuleBroken
from nod.services.acts.replays import table_faults
from nod.services.acts.work import Job
from nod.services.register import documents
from nod.services.reviews import changing, route_editing
from nod.services.reviews.endings import EndGiven
from nod.services.reviews.paths import NamedGiven
from nod.services.reviews.route_editing import MakeRoute, TryRoute
from nod.services.setup import setup, setup_view
from nod.services.setup.setup_view import TypedField
from nod.services.transmittals import drafts
from nod.services.transmittals.proposals import draft_transmittal
from tests.services.reviews.test_route_editing import rows, start_on, step
from tests.world import NUMBER, OTHER_NUMBER, name


def _route(world, ends, named="To release"):
    command = MakeRoute(
        project_id=world.project_id, name=named, purpose="", ends=ends,
        stages=rows([step(world, "rafael", act="decide", named="Decide")]),
    )  # fmt: skip
    return route_editing.make_route(world.context, world.actor("marit"), command).id


def _tried(world, ends):
    command = TryRoute(project_id=world.project_id, stages=rows([step(world, "rafael", act="decide")]), ends=ends)
    return route_editing.try_route(world.context, world.actor("marit"), command)


def _told(world, **more):
    return EndGiven(tell=[NamedGiven(kind="person", id=world.cast.people["paolo"])], **more)


def _line(world, number):
    return world.sql("SELECT revision, status, in_force, release FROM document WHERE number = ?", number)[0]


def _add_field(world):
    now = setup_view.read_setup(world.context, world.actor("rafael"), world.project_id)
    field = TypedField(name="Package", kind="choice", choices=["Steel", "Glass"])
    command = setup.SetFields(version=now.version, fields=[*now.fields, field])
    setup.set_fields(world.context, world.actor("rafael"), world.project_id, command)
    return "field:" + json.loads(world.sql("SELECT rules FROM project")[0][0])["fields"][-1]["id"]


def test_a_review_releases_what_it_accepts_and_nothing_else(world):
    route = _route(world, {"A": EndGiven(status="A1"), "C": EndGiven(status="S0")})
    world.file(name(revision="C01", status="A1"))
    filed = world.file(name(revision="C02"), name(OTHER_NUMBER))
    assert _line(world, NUMBER) == ("C02", "S3", "C01", "newer")
    review = start_on(world, route, *filed)
    world.hand_in(review, "rafael", "A", **{f"n{OTHER_NUMBER[-4:]}": "C"})
    assert _line(world, NUMBER) == ("C02", "A1", "C02", "same")
    assert _line(world, OTHER_NUMBER) == ("P01", "S0", "", "none")
    dossier = documents.read_document(world.context, world.actor("marit"), filed[0][0])
    assert [(each.code, each.standing.kind) for each in dossier.revisions] == [
        ("C02", "in_force"), ("C01", "superseded"),
    ]  # fmt: skip
    said = world.sql("SELECT body FROM audit_entry WHERE kind = 'status_set' ORDER BY seq")
    assert [json.loads(each)["why"] for (each,) in said] == ["RV-0001, verdict A", "RV-0001, verdict C"]
    assert list(table_faults(world.context.database)) == []


def test_what_only_a_review_may_give_is_given_by_one(world):
    now = setup_view.read_setup(world.context, world.actor("rafael"), world.project_id)
    command = setup.SetCodes(
        version=now.version, revision_scheme="staged", statuses=now.statuses, verdict_set=now.verdict_set,
        reviewed_statuses=["A1"], status_uses=now.status_uses,
    )  # fmt: skip
    setup.set_codes(world.context, world.actor("rafael"), world.project_id, command)
    assert _tried(world, {"C": EndGiven(status="A1")}).end_trouble.startswith("A1 is given by a review that lets")
    review = start_on(world, _route(world, {"A": EndGiven(status="A1")}), *world.file(name()))
    world.hand_in(review, "rafael", "A")
    assert _line(world, NUMBER)[1:3] == ("A1", "P01")


def test_fields_are_set_and_people_told(world):
    key = _add_field(world)
    end = _told(world, fields={key: "steel"}, note="Order the plates.")
    assert [each.words for each in _tried(world, {"B": end}).ends] == [
        "B: Package becomes Steel; Paolo Marchetti is told, with a note."
    ]
    review = start_on(world, _route(world, {"B": end}), *world.file(name()))
    world.hand_in(review, "rafael", "B")
    value = world.sql("SELECT value FROM document_value WHERE field = ?", key.removeprefix("field:"))
    assert value == [("Steel",)]
    told = [payload for kind, payload in world.send() if payload.get("to_email", "").startswith("paolo")]
    assert any("Order the plates." in each["text"] and NUMBER in each["text"] for each in told)


def test_changing_the_route_changes_no_review_that_runs(world):
    route = _route(world, {"A": EndGiven(status="A1")})
    review = start_on(world, route, *world.file(name()))
    command = route_editing.WriteRoute(
        name="To release", purpose="", stages=rows([step(world, "rafael", act="decide")]), version=1
    )
    route_editing.change_route(world.context, world.actor("marit"), route, command)
    assert [each.words for each in world.review(review).ends] == ["A: status A1, which may be built from."]
    world.hand_in(review, "rafael", "A")
    assert _line(world, NUMBER)[1] == "A1"


@pytest.mark.parametrize(
    ("ends", "code"),
    [
        ({"Z": EndGiven(status="A1")}, "verdict_unknown"),
        ({"A": EndGiven(status="Q7")}, "end_unfit"),
        ({"A": EndGiven(fields={"field:none": "x"})}, "end_unfit"),
        ({"A": EndGiven(fields={"number": "x"})}, "end_unfit"),
        ({"A": EndGiven(tell=[NamedGiven(kind="person", id="../../x")])}, "end_unfit"),
    ],
)
def test_what_cannot_be_done_at_the_end_is_refused(world, ends, code):
    with pytest.raises(RuleBroken) as refused:
        _route(world, ends)
    assert refused.value.code == code
    assert _tried(world, ends).end_trouble


def test_an_end_that_does_nothing_is_none(world):
    route = _route(world, {"A": EndGiven(note="said to nobody")})
    assert world.sql("SELECT ends FROM route WHERE id = ?", route) == [("{}",)]


def test_a_recalled_review_ends_nothing(world):
    review = start_on(world, _route(world, {"A": EndGiven(status="A1")}), *world.file(name()))
    command = changing.RecallReview(version=world.seen(review))
    changing.recall_review(world.context, world.actor("marit"), review, command)
    assert _line(world, NUMBER)[1] == "S3"


def test_a_transmittal_is_drafted_for_the_company_of_whoever_started_it(world):
    yusuf = NamedGiven(kind="person", id=world.cast.people["yusuf"])
    end = EndGiven(draft=True, tell=[yusuf], note="For the pour.")
    assert [each.words for each in _tried(world, {"A": end}).ends] == [
        "A: Yusuf Haldane is told, with a note; a transmittal is drafted for the company of whoever started the review."
    ]
    filed = world.file(name(), name(OTHER_NUMBER))
    review = start_on(world, _route(world, {"A": end}), *filed)
    world.hand_in(review, "rafael", "", n0101="A", n0201="B")
    sent = world.send()
    (line,) = drafts.list_drafts(world.context, world.actor("rafael"), world.project_id)
    assert (line.why, line.documents, [each.name for each in line.people]) == (
        "what left RV-0001", 1, ["Yusuf Haldane"],
    )  # fmt: skip
    draft = drafts.read_draft(world.context, world.actor("marit"), line.id)
    assert draft.content.revisions == [world.document(NUMBER)[1]]
    assert draft.content.review_id == review
    assert drafts.list_drafts(world.context, world.actor("tomasz"), world.project_id) == []
    # The outside contact has no notices: a mail tells them, and leads nowhere.
    mail = next(payload for _, payload in sent if payload.get("to_email", "").startswith("yusuf"))
    assert "For the pour." in mail["text"]
    assert mail["link"] is None
    draft_transmittal(Job(world.context, world.press), {
        "project_id": world.project_id, "review_id": review, "starter_id": world.cast.people["marit"],
        "number": "RV-0001", "revisions": draft.content.revisions, "people": [], "note": "",
    })  # fmt: skip
    assert len(drafts.list_drafts(world.context, world.actor("rafael"), world.project_id)) == 1
