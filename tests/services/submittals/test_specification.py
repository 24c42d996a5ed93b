"""A specification of the register, held against the log and taken into it (handbook §9)."""

import io

import pytest
from reportlab.pdfgen.canvas import Canvas

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken, Stale
from nod.services.acts.replays import table_faults
from nod.services.setup import setup_view, submittals
from nod.services.setup.submittals import SetSubmittals
from nod.services.submittals import specification
from nod.services.submittals.specification import LineMoved, LineTaken, TakeSpecification
from tests.services.submittals.acts import change, company_of, listed, make, seen, void
from tests.services.submittals.specs import Paper, in_a_table, in_articles
from tests.services.submittals.test_specification_manners import ticked
from tests.world import made_once, name

SPEC = "BFT-TRA-ZZ-ZZ-P-A-0700"


def file_spec(world, content, revision="P01"):
    """As somebody files it; the id of its revision."""
    given = name(SPEC, revision=revision, title="Specification")
    return world.file(given, content=content)[0][1]


@made_once
def filed(world):
    return file_spec(world, in_articles()[0])


def read(world, revision, who="marit"):
    return specification.read(world.context, world.actor(who), revision)


def lines(world, items, company="ottilie"):
    return [
        LineTaken(
            page=each.page, section=each.section, paragraph=each.paragraph, kind=each.kind or "PD", title=each.title,
            text=each.text, company_id=company_of(world, company),
        )
        for each in items
    ]  # fmt: skip


def take(world, revision, given, moved=(), who="marit"):
    command = TakeSpecification(revision_id=revision, lines=given, moved=list(moved))
    return specification.take(world.context, world.actor(who), command)


def test_it_is_read_with_its_places(world, filed):
    found = read(world, filed)
    assert (found.number, found.revision, found.has_words, len(found.page_mm)) == (SPEC, "P01", True, 4)
    first = found.items[0]
    assert (first.page, first.section, first.paragraph, first.kind) == (1, "35 59 13", "1.03.B", "PD")
    assert first.title == "Marine fenders: product data: for each type of fender"
    assert {each.standing for each in found.items} == {"new"}


def test_what_is_accepted_is_in_the_log_with_its_place(world, filed):
    items = read(world, filed).items
    answer = take(world, filed, lines(world, items[:3]))
    assert (answer.made, answer.moved) == (3, 0)
    log = listed(world).lines
    assert [each.number for each in log] == ["GME-0001", "GME-0002", "GME-0003"]
    shown = seen(world, log[0].id)
    assert (shown.asked_in.number, shown.asked_in.revision, shown.asked_in.page) == (SPEC, "P01", 1)
    assert shown.paragraph == "1.03.B"
    assert shown.description.startswith("Product Data: For each type of fender. Include energy absorbed")
    again = read(world, filed)
    assert [each.standing for each in again.items[:4]] == ["there", "there", "there", "new"]
    assert again.items[0].number == "GME-0001"
    assert again.gone == []
    (body,) = world.sql("SELECT body FROM audit_entry WHERE kind = 'submittal_made' ORDER BY seq LIMIT 1")[0]
    assert f"{SPEC} P01, page 2".encode() in body


def test_a_new_revision_says_what_was_added_moved_and_went(world, filed):
    items = read(world, filed).items
    take(world, filed, lines(world, items[:2]))
    newer = file_spec(world, in_a_table()[0], "P02")
    found = read(world, newer)
    assert [each.number for each in found.gone] == ["GME-0001", "GME-0002"]
    assert {each.standing for each in found.items} == {"new"}
    first = listed(world).lines[0]
    item = found.items[0]
    change(world, first.id, title=item.title, kind=item.kind)
    found = read(world, newer)
    assert (found.items[0].standing, found.items[0].was) == ("moved", "35 59 13 1.03.B")
    assert [each.number for each in found.gone] == ["GME-0002"]
    item = found.items[0]
    moved = LineMoved(
        submittal_id=first.id, version=item.version, page=item.page, section=item.section, paragraph=item.paragraph
    )  # fmt: skip
    assert take(world, newer, [], [moved]).moved == 1
    assert read(world, newer).items[0].standing == "there"
    assert seen(world, first.id).asked_in.revision == "P02"
    with pytest.raises(Stale):
        take(world, newer, [], [moved])
    void(world, listed(world).lines[1].id)
    assert read(world, newer).gone == []
    assert list(table_faults(world.context.database)) == []


def test_one_that_cannot_be_is_named_and_nothing_is_kept(world, filed):
    given = lines(world, read(world, filed).items[:2])
    wrong = [("kind", "XX", "submittal_kind"), ("section", "7", "section_unfit"), ("title", "", "submittal_unnamed")]
    for field, value, code in wrong:
        with pytest.raises(RuleBroken) as refused:
            take(world, filed, [given[0], given[1].model_copy(update={field: value})])
        assert refused.value.code == code
    with pytest.raises(NotFound):
        take(world, filed, [given[0].model_copy(update={"company_id": "nobody"})])
    with pytest.raises(RuleBroken, match="Mark what is to be taken"):
        take(world, filed, [])
    assert listed(world).lines == []


def test_two_who_take_the_same_get_it_once(world, filed):
    given = lines(world, read(world, filed).items[:2])
    take(world, filed, given)
    with pytest.raises(RuleBroken, match="as GME-0001") as refused:
        take(world, filed, given, who="rafael")
    assert refused.value.code == "spec_taken"
    assert len(listed(world).lines) == 2
    void(world, *(each.id for each in listed(world).lines))
    assert take(world, filed, given).made == 2


def test_one_row_that_is_ticked_for_two_kinds_is_two_lines(world):
    paper = Paper("Page {page}", "Works specification")
    ticked(paper)
    found = read(world, file_spec(world, paper.done())).items
    assert len({each.key for each in found}) == len(found) == 4


def test_who_reads_and_takes(world, filed):
    given = lines(world, read(world, filed).items[:1])
    for who in ("saoirse", "ottilie"):
        with pytest.raises(NotAllowed):
            read(world, filed, who)
        with pytest.raises(NotAllowed):
            take(world, filed, given, who=who)
    with pytest.raises(NotFound):
        read(world, "a" * 16)


def _blank():
    out = io.BytesIO()
    canvas = Canvas(out)
    canvas.rect(9, 9, 99, 99)
    canvas.save()
    return out.getvalue()


def test_a_file_without_words_says_so(world):
    found = read(world, file_spec(world, _blank()))
    assert (found.has_words, found.items) == (False, [])


def test_the_words_are_the_projects(world, filed):
    shown = setup_view.read_setup(world.context, world.actor("rafael"), world.project_id)
    kinds = shown.submittals.kinds
    assert "mock-up" in next(each for each in kinds if each.code == "MU").asked_as
    _set(world, shown.version, shown.submittals, ["closeout  Submittals"])
    found = read(world, filed).items
    assert {each.paragraph for each in found if each.section == "35 59 13"} == {"1.05.A", "1.05.B", "1.06.C"}
    with pytest.raises(RuleBroken, match="by which words"):
        _set(world, shown.version + 1, shown.submittals, [])


def _set(world, version, given, articles):
    command = SetSubmittals(version=version, submittals=given.model_copy(update={"articles": articles}))
    submittals.set_submittals(world.context, world.actor("rafael"), world.project_id, command)


def test_a_line_that_was_made_by_hand_is_the_one_that_is_asked_for(world, filed):
    made = make(world, section="35 59 13", paragraph="1.03.b", kind="PD", title="Fenders, data")
    first = read(world, filed).items[0]
    assert (first.standing, first.submittal_id) == ("there", made)
