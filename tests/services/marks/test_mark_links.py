"""Marks that lead to other things, and the way back."""

import re

import pypdf
import pytest

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken
from nod.services.marks import linked_things, mark_files, mark_links, mark_threads, marks, marks_in
from nod.services.marks.mark_links import LinkMark
from tests.world import made_once, name, pdf

OTHER = "BFT-TRA-Z1-02-D-A-0102"


@made_once
def placed(world):
    """A sheet with a mark in ink, and another document."""
    ((document, revision),) = world.file(name())
    ((other, other_revision),) = world.file(name(OTHER, title="Level 2"))
    (mark,) = world.ink(revision, world.draw(revision))
    return document, revision, other, other_revision, mark


def link(world, mark, kind, target, who="leilani"):
    return mark_links.link_mark(world.context, world.actor(who), mark.id, LinkMark(kind=kind, target=target))


def back(world, kind, target, who="leilani"):
    found = linked_things.list_linked_marks(world.context, world.actor(who), world.project_id, kind, target)
    return [each.mark_id for each in found.marks]


def test_a_mark_leads_to_a_document_and_the_document_back(world, placed):
    _, revision, other, other_revision, mark = placed
    (made,) = link(world, mark, "document", other).links
    assert (made.words, made.address, made.mine) == (f"{OTHER} Level 2", f"/sheet/{other_revision}", True)
    (seen,) = linked_things.list_linked_marks(
        world.context, world.actor("anouk"), world.project_id, "document", other
    ).marks
    assert (seen.mark_id, seen.revision_id, seen.words) == (mark.id, revision, "What is this?")
    assert not world.marks(revision, "anouk")[0].links[0].mine
    ((subjects,),) = world.sql(
        "SELECT group_concat(kind || ' ' || subject_id) FROM audit_subject WHERE seq = "
        "(SELECT seq FROM audit_entry WHERE kind = 'mark_linked')"
    )
    assert f"document {other}" in subjects


def test_to_reviews_transmittals_and_the_web(world, placed):
    document, revision, *_, mark = placed
    review = world.start((document, revision))
    link(world, mark, "review", review)
    linked = link(world, mark, "web", " https://tides.example/brackwater ")
    assert [(each.kind, each.target) for each in linked.links] == [
        ("review", review), ("web", "https://tides.example/brackwater"),
    ]  # fmt: skip
    assert back(world, "review", review) == [mark.id]


def test_twice_is_once(world, placed):
    _, _, other, _, mark = placed
    link(world, mark, "document", other)
    assert len(link(world, mark, "document", other, who="anouk").links) == 1
    assert world.kinds().count("mark_linked") == 1


def test_only_who_made_a_link_takes_it_away(world, placed):
    _, _, other, _, mark = placed
    (made,) = link(world, mark, "document", other).links
    with pytest.raises(NotFound):
        mark_links.unlink_mark(world.context, world.actor("anouk"), mark.id, made.id)
    assert mark_links.unlink_mark(world.context, world.actor("leilani"), mark.id, made.id).links == []
    assert back(world, "document", other) == []
    with pytest.raises(NotFound):
        mark_links.unlink_mark(world.context, world.actor("leilani"), mark.id, made.id)
    assert link(world, mark, "document", other).links


def test_what_one_does_not_see_is_not_named_in_either_direction(world, placed):
    """Yusuf may read this sheet and not the other document; then the other way round."""
    _, revision, other, _, mark = placed
    link(world, mark, "document", other)
    hide = "UPDATE document SET folder_id = ? WHERE id = ?"
    hidden = world.cast.folders["Contractor only"]
    with world.context.database.write() as session:
        session.connection().exec_driver_sql(hide, (hidden, other))
    assert world.marks(revision, "leilani")[0].links == []
    with pytest.raises(NotFound):
        back(world, "document", other)
    with pytest.raises(NotFound):
        link(world, mark, "document", other)
    assert back(world, "document", other, who="marit") == [mark.id]


def test_a_sheet_that_one_does_not_see_is_not_told_of_at_the_target(world, placed):
    document, _, other, _, mark = placed
    link(world, mark, "document", other)
    with world.context.database.write() as session:
        session.connection().exec_driver_sql(
            "UPDATE document SET folder_id = ? WHERE id = ?", (world.cast.folders["Contractor only"], document)
        )
    assert back(world, "document", other) == []
    assert back(world, "document", other, who="marit") == [mark.id]


def test_links_of_pencil_are_ones_own(world, placed):
    _, revision, other, _, _ = placed
    pencil = world.draw(revision)
    link(world, pencil, "document", other)
    assert back(world, "document", other) == [pencil.id]
    assert back(world, "document", other, who="anouk") == []
    with pytest.raises(NotFound):
        link(world, pencil, "web", "https://tides.example", who="anouk")


def test_a_mark_taken_away_is_not_told_of(world, placed):
    _, revision, other, _, _ = placed
    mark = world.draw(revision)
    link(world, mark, "document", other)
    marks.remove_marks(
        world.context, world.actor("leilani"), revision, marks.RemoveMarks(marks={mark.id: mark.version})
    )
    assert back(world, "document", other) == []


@pytest.mark.parametrize("target", ["javascript:alert(1)", "tides.example"])
def test_an_address_that_runs_something_is_refused(world, placed, target):
    with pytest.raises(RuleBroken):
        link(world, placed[-1], "web", target)


def test_its_own_sheet_and_things_of_other_projects_are_no_targets(world, placed):
    document, *_, mark = placed
    with pytest.raises(RuleBroken):
        link(world, mark, "document", document)
    with pytest.raises(NotFound):
        link(world, mark, "review", "a" * 16)


def test_one_who_only_reads_links_nothing(world, placed):
    with pytest.raises((NotAllowed, NotFound)):
        link(world, placed[-1], "document", placed[2], who="yusuf")


def test_targets_are_offered_by_words(world, placed):
    document, revision, other, _, _ = placed
    review = world.start((document, revision), name="Level 2 partitions")

    def offered(words):
        found = linked_things.find_targets(world.context, world.actor("leilani"), revision, words)
        return [(each.kind, each.target) for each in found.targets]

    assert offered("level 2") == [("document", other), ("review", review)]
    assert offered("https://tides.example") == [("web", "https://tides.example")]
    assert offered("") == []
    assert offered("%") == []


def test_a_reply_by_another_does_not_touch_the_links(world, placed):
    _, revision, other, _, mark = placed
    link(world, mark, "document", other)
    mark_threads.write_reply(world.context, world.actor("anouk"), mark.id, mark_threads.WriteReply(text="Seen."))
    assert len(world.marks(revision, "anouk")[0].links) == 1


def _file(world, revision, form, who="leilani"):
    return mark_files.export_marks(world.context, world.press, world.actor(who), revision, form).content


def _take_in(world, revision, content, who="marit"):
    return marks_in.take_in_marks(world.context, world.press, world.actor(who), revision, "marks", [content])


@pytest.mark.parametrize("form", ["pdf", "xfdf"])
def test_links_travel_in_files_and_come_back_once(world, placed, form):
    _, revision, other, other_revision, mark = placed
    link(world, mark, "document", other)
    link(world, mark, "web", "https://tides.example/brackwater")
    content = _file(world, revision, form)
    taken = _take_in(world, revision, content)
    assert (taken.links, taken.answers, taken.told) == (0, 0, [])

    third = world.file(name(revision="P02"), content=pdf("two"))[0][1]
    taken = _take_in(world, third, content)
    assert (taken.added, taken.answers, taken.links) == (1, 0, 2)
    (read,) = world.marks(third, "anouk")
    assert [(each.kind, each.target) for each in read.links] == [
        ("document", other), ("web", "https://tides.example/brackwater"),
    ]  # fmt: skip
    assert read.replies == []
    assert mark.id in back(world, "document", other)
    kept = world.sql("SELECT body FROM audit_entry WHERE kind = 'mark_linked' ORDER BY seq DESC LIMIT 1")
    assert "Leilani Brandt (PLS)" in kept[0][0].decode()
    assert _take_in(world, third, content).links == 0

    # What it leads to does not come to a sheet of the thing itself, nor to one who does not see it.
    taken = _take_in(world, other_revision, content)
    assert (taken.added, taken.links) == (1, 1)
    assert [(each.words, each.count) for each in taken.told] == [
        ("of a link to what is not here, or not for you: left in the file", 1)
    ]


def test_a_link_that_was_taken_away_stays_away(world, placed):
    _, revision, other, _, mark = placed
    (made,) = link(world, mark, "document", other).links
    content = _file(world, revision, "xfdf")
    mark_links.unlink_mark(world.context, world.actor("leilani"), mark.id, made.id)
    taken = _take_in(world, revision, content)
    assert (taken.links, taken.told[0].words) == (0, "of a link that was taken away here before, and left so")
    assert world.marks(revision, "anouk")[0].links == []


def test_an_address_that_is_only_written_in_another_way_comes_once(world, placed):
    _, revision, _, _, mark = placed
    link(world, mark, "web", "https://tides.example/brackwater")
    content = _file(world, revision, "xfdf").replace(b'"target":"https', b'"target":"  https')
    assert _take_in(world, revision, content).links == 0
    assert len(world.marks(revision, "anouk")[0].links) == 1


def test_other_programs_read_a_link_as_an_answer(world, placed, tmp_path):
    _, revision, other, _, mark = placed
    link(world, mark, "document", other)
    path = tmp_path / "marks.pdf"
    path.write_bytes(_file(world, revision, "pdf"))
    pages = pypdf.PdfReader(path).pages
    answers = [each.get_object() for each in pages[0]["/Annots"] if "/IRT" in each.get_object()]
    assert [each["/Contents"] for each in answers] == [f"Linked to {OTHER} Level 2"]
    assert answers[0]["/IRT"]["/NM"] == mark.id
    assert f"{OTHER} Level 2" in _file(world, revision, "csv").decode()
    summary = tmp_path / "summary.pdf"
    summary.write_bytes(_file(world, revision, "summary"))
    assert f"Linked to {OTHER} Level 2" in " ".join(pypdf.PdfReader(summary).pages[0].extract_text().split())


@pytest.mark.parametrize("said", ['{"kind": "ship", "target": "x", "words": "y"}', '{"kind": 1}', "[]", "{", '"x"'])
def test_a_link_that_somebody_else_wrote_is_no_more_than_an_answer(world, placed, said):
    _, revision, other, _, mark = placed
    link(world, mark, "document", other)
    third = world.file(name(revision="P02"), content=pdf("two"))[0][1]
    content = re.sub(rb"(<nod:link>).*?(</nod:link>)", rb"\1" + said.encode() + rb"\2", _file(world, revision, "xfdf"))
    taken = _take_in(world, third, content)
    assert (taken.added, taken.links, taken.answers + len(taken.told)) == (1, 0, 1)


def test_a_mark_leads_to_another_mark_and_back(world, placed):
    _, revision, _, other_revision, mark = placed
    (there,) = world.ink(other_revision, world.draw(other_revision, "anouk", text="The same door"), who="anouk")
    pencil = world.draw(other_revision, "anouk", text="The same door, in pencil")
    offered = linked_things.find_targets(world.context, world.actor("leilani"), revision, "same door").targets
    assert [(each.kind, each.target, each.kind_words) for each in offered] == [("thread", there.thread_id, "mark")]
    (made,) = link(world, mark, "thread", there.thread_id).links
    assert (made.words, made.address) == ("The same door", f"/marks/{there.thread_id}")
    assert back(world, "thread", there.thread_id, "anouk") == [mark.id]
    with pytest.raises(NotFound):
        link(world, mark, "thread", pencil.thread_id)
    with pytest.raises(RuleBroken) as refused:
        link(world, mark, "thread", mark.thread_id)
    assert refused.value.code == "links_to_itself"


def test_a_mark_leads_to_one_revision_of_a_document(world, placed):
    _, revision, other, other_revision, mark = placed
    world.file(name(OTHER, "P02", title="Level 2"), content=pdf("again"))
    (offered,) = linked_things.find_targets(world.context, world.actor("leilani"), revision, "0102 p01").targets
    assert (offered.kind, offered.target, offered.words) == ("revision", other_revision, f"{OTHER} P01 Level 2")
    (made,) = link(world, mark, "revision", other_revision).links
    assert (made.address, made.kind_words) == (f"/sheet/{other_revision}", "revision")
    assert back(world, "revision", other_revision) == [mark.id]
    assert back(world, "document", other) == []
    assert linked_things.find_targets(world.context, world.actor("leilani"), revision, "p01").targets == []
    with pytest.raises(NotFound):
        link(world, mark, "revision", "nowhere")
