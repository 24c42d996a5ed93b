"""Columns changed over many lines, typed fields, statuses that only a review gives."""

import json

import pytest

from nod.core.acts.refusals import NotAllowed, NotFound, Refusal, RuleBroken, Stale
from nod.services.register import changes as changing
from nod.services.register import documents
from nod.services.register.changes import ChangeDocuments, DocumentChange
from nod.services.setup import setup
from nod.services.setup.setup_view import TypedField, read_setup
from tests.world import OTHER_NUMBER, name, pdf


@pytest.fixture
def plan(world):
    """A document filed by the controller: its id."""
    return world.file(name())[0][0]


def _dossier(world, document, who="marit"):
    return documents.read_document(world.context, world.actor(who), document)


def _version(world, document):
    return world.sql("SELECT version FROM document WHERE id = ?", document)[0][0]


def _change(world, *documents, who="marit", **values):
    changes = [DocumentChange(id=each, version=_version(world, each), values=values) for each in documents]
    command = ChangeDocuments(project_id=world.project_id, changes=changes)
    return changing.change_documents(world.context, world.actor(who), command).undo


def _line(world, document):
    return next(line for line in world.list().lines if line.id == document)


def test_a_column_over_many_lines_is_changed_and_taken_back(world):
    ids = [document for document, _ in world.file(name(), name(number=OTHER_NUMBER))]
    undo = _change(world, *ids, discipline="E", purpose="For tender")
    assert {line.discipline for line in world.list().lines} == {"E"}
    command = ChangeDocuments(project_id=world.project_id, changes=undo)
    changing.change_documents(world.context, world.actor("marit"), command)
    assert {line.discipline for line in world.list().lines} == {"A", "S"}
    assert {line.purpose for line in world.list().lines} == {""}
    assert world.kinds().count("document_changed") == 4


def test_a_document_moves_with_all_that_follows_from_it(world, plan):
    target = world.cast.folders["Temporary works"]
    undo = _change(world, plan, folder=target)
    assert _line(world, plan).folder.endswith("Temporary works")
    assert world.kinds()[-1] == "document_moved"
    with pytest.raises(NotFound):
        _dossier(world, plan, "leilani")
    assert undo[0].values == {"folder": world.cast.folders[""]}


@pytest.mark.parametrize(
    ("values", "code"),
    [
        ({"sha256": "x"}, "column_fixed"),
        ({"number": "x"}, "column_fixed"),
        ({"discipline": "Q9"}, "value_unfit"),
        ({"status": "Z9"}, "value_unfit"),
        ({"status": ""}, "status_wanted"),
        ({"title": "  "}, "title_wanted"),
        ({"purpose": "x" * 300}, "value_unfit"),
        ({"folder": "aaaaaaaaaaaaaaaa"}, "not_found"),
    ],
)
def test_a_value_that_does_not_fit_changes_nothing_at_all(world, plan, values, code):
    before = world.sql("SELECT * FROM document")
    with pytest.raises(Refusal) as refused:
        _change(world, plan, purpose="first", **values) if "purpose" not in values else _change(world, plan, **values)
    assert refused.value.code == code
    assert world.sql("SELECT * FROM document") == before


def test_an_author_changes_fields_but_neither_title_nor_place(world, plan):
    _change(world, plan, who="paolo", purpose="For comment")
    for values in ({"title": "Mine"}, {"folder": world.cast.folders["Drawings"]}, {"status": "S4"}):
        with pytest.raises(NotAllowed):
            _change(world, plan, who="paolo", **values)


def test_two_who_change_the_same_line_do_not_overwrite_each_other(world, plan):
    stale = DocumentChange(id=plan, version=_version(world, plan), values={"purpose": "B"})
    _change(world, plan, purpose="A")
    with pytest.raises(Stale):
        changing.change_documents(
            world.context, world.actor("rafael"), ChangeDocuments(project_id=world.project_id, changes=[stale])
        )
    assert _line(world, plan).purpose == "A"


def _fields(world, *fields):
    """Sets the project's fields and returns their column keys by name."""
    version = world.sql("SELECT version FROM project WHERE id = ?", world.project_id)[0][0]
    command = setup.SetFields(version=version, fields=list(fields))
    setup.set_fields(world.context, world.actor("rafael"), world.project_id, command)
    rules = world.sql("SELECT json_extract(rules, '$.fields') FROM project WHERE id = ?", world.project_id)[0][0]
    return {each["name"]: f"field:{each['id']}" for each in json.loads(rules)}


def test_typed_fields_are_columns_filters_and_words(world):
    ids = [document for document, _ in world.file(name(), name(number=OTHER_NUMBER))]
    keys = _fields(
        world,
        TypedField(name="Fire rating", kind="choice", choices=["EI 30", "EI 60"]),
        TypedField(name="Area", kind="number", choices=[]),
        TypedField(name="Needed on site", kind="date", choices=[]),
        TypedField(name="On the critical path", kind="yes_no", choices=[]),
    )
    _change(world, ids[0], **{keys["Fire rating"]: "ei 60", keys["Area"]: "90,5", keys["On the critical path"]: "Y"})
    _change(world, ids[1], **{keys["Area"]: "1200", keys["Needed on site"]: "2027-05-01"})
    by_area = world.list(sorts=[[keys["Area"], "down"]])
    assert [line.fields[keys["Area"][6:]] for line in by_area.lines] == ["1200", "90.5"]
    for filters, wanted in (
        ([[keys["Fire rating"], "is", "EI 60"]], {ids[0]}),
        ([[keys["Fire rating"], "not", "EI 60"]], {ids[1]}),
        ([[keys["Fire rating"], "none"]], {ids[1]}),
        ([[keys["Area"], "from", "100"]], {ids[1]}),
        ([[keys["Needed on site"], "to", "2027-05-01"]], {ids[1]}),
        ([[keys["On the critical path"], "yes"]], {ids[0]}),
        ([[keys["On the critical path"], "any"]], set(ids)),
    ):
        assert {line.id for line in world.list(filters=filters).lines} == wanted, filters
    assert [line.id for line in world.list(words="EI 60").lines] == [ids[0]]
    grouped = world.list(group=keys["Fire rating"])
    assert [(each.words, each.count) for each in grouped.groups] == [("none", 1), ("EI 60", 1)]
    for key, bad in ((keys["Area"], "wide"), (keys["Needed on site"], "May"), (keys["Fire rating"], "EI 90")):
        with pytest.raises(RuleBroken) as refused:
            _change(world, ids[0], **{key: bad})
        assert refused.value.code == "value_unfit"


def test_a_field_of_a_folder_is_for_documents_there_alone(world, plan):
    folder = world.cast.folders["Structure"]
    keys = _fields(world, TypedField(name="Steel grade", kind="text", choices=[], folder_id=folder))
    with pytest.raises(RuleBroken) as refused:
        _change(world, plan, **{keys["Steel grade"]: "S355"})
    assert refused.value.code == "field_elsewhere"
    assert _dossier(world, plan).fields == []
    _change(world, plan, folder=folder)
    _change(world, plan, **{keys["Steel grade"]: "S355"})
    assert [(each.name, each.value) for each in _dossier(world, plan).fields] == [("Steel grade", "S355")]


def test_a_field_keeps_its_values_when_renamed_and_its_kind_when_used(world, plan):
    keys = _fields(world, TypedField(name="Package", kind="text", choices=[]))
    key = keys["Package"]
    _change(world, plan, **{key: "Steelwork"})
    renamed = _fields(world, TypedField(id=key[6:], name="Trade package", kind="text", choices=[]))
    assert renamed == {"Trade package": key}
    assert _line(world, plan).fields == {key[6:]: "Steelwork"}
    with pytest.raises(RuleBroken) as refused:
        _fields(world, TypedField(id=key[6:], name="Trade package", kind="number", choices=[]))
    assert refused.value.code == "field_in_use"


def test_a_status_for_reviews_alone_is_reached_by_one_only(world):
    version = world.sql("SELECT version FROM project WHERE id = ?", world.project_id)[0][0]
    now = read_setup(world.context, world.actor("rafael"), world.project_id)
    command = setup.SetCodes(
        version=version, revision_scheme="staged", statuses=now.statuses, verdict_set=now.verdict_set,
        reviewed_statuses=["A1", "nonsense"],
    )  # fmt: skip
    setup.set_codes(world.context, world.actor("rafael"), world.project_id, command)
    batch = world.arrive({name(status="A1"): pdf("a")})
    assert world.batch(batch).arrivals[0].findings[0].code == "status_needs_review"
    document, revision = world.file(name())[0]
    with pytest.raises(RuleBroken) as refused:
        _change(world, document, status="A1")
    assert refused.value.code == "status_needs_review"
    world.closed_review((document, revision), verdict="A")
    _change(world, document, status="A1")
    assert world.sql("SELECT status FROM revision WHERE id = ?", revision) == [("A1",)]
    assert _dossier(world, document).next_status[0] == "S0"
