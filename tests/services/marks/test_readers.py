"""Ink that some read: whom it is there for, in every place where marks come up, and how it is opened to more."""

from dataclasses import replace

import pytest
from sqlalchemy import select

from nod.core.access.audiences import is_seen
from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken, Stale
from nod.formats.files.spreadsheet import read_table
from nod.services.acts import live
from nod.services.acts.seats import take_seat
from nod.services.marks import carried_marks, mark_files, mark_threads, marks_in, prints
from nod.services.marks.kind import THREAD
from nod.services.marks.mark_rows import is_read_by
from nod.services.marks.mark_threads import InkMarks, OpenMarks, WriteReply
from nod.services.marks.marks_view import list_marks
from nod.services.register import search
from nod.services.things.audiences import audience_of
from nod.services.trail import trail
from nod.services.trail.trail import TrailView
from nod.store.tables import ThreadReaderRow, ThreadRow
from tests.services.marks.test_live_marks import PEOPLE, check_as_fetched, heard
from tests.world import NUMBER, name

EVERYBODY = ("leilani", "anouk", "marit", "tomasz", "rafael", "ines")


@pytest.fixture
def sheet(world):
    ((_, revision_id),) = world.file(name())
    return revision_id


def _company(world, who):
    return world.actor(who).company_id


def ink_for(world, sheet, *drawn, kind="company", group="", who="leilani"):
    group = group or (_company(world, who) if kind == "company" else "")
    command = InkMarks(marks={each.id: each.version for each in drawn}, readers=kind, group=group)
    return mark_threads.ink_marks(world.context, world.actor(who), sheet, command)


def open_to(world, sheet, mark, kind="everybody", group="", who="leilani", version=None):
    command = OpenMarks(marks={mark.id: mark.version if version is None else version}, readers=kind, group=group)
    return mark_threads.open_marks(world.context, world.actor(who), sheet, command)


def _who_sees(world, sheet):
    return {who for who in EVERYBODY if world.marks(sheet, who)}


def test_is_there_for_the_company_and_for_nobody_else_not_even_leads(world, sheet):
    (mark,) = ink_for(world, sheet, world.draw(sheet, text="We have left this out before"))
    assert _who_sees(world, sheet) == {"leilani"}
    assert [each.words for each in mark.readers] == ["PLS"]
    for who in ("anouk", "marit", "rafael"):
        with pytest.raises(NotFound):
            world.reply(mark, "guessed", who)
        with pytest.raises(NotFound):
            open_to(world, sheet, mark, who=who)


def _rows(tmp_path, taken):
    path = tmp_path / "taken.xlsx"
    path.write_bytes(taken.content)
    return read_table(path).rows


def test_comes_up_nowhere_else(world, sheet, press, tmp_path):
    before = live.last_seq(world.context)
    ink_for(world, sheet, world.draw(sheet, text="Quinceblossom"))
    for who in ("anouk", "marit"):
        actor = world.actor(who)
        assert search.search(world.context, actor, world.project_id, "Quinceblossom", 10).marks == []
        entries = trail.read_log(world.context, actor, TrailView(project_id=world.project_id)).entries
        assert not [each for each in entries if "Quinceblossom" in str(each)]
        assert heard(world, actor, before) == []
        taken = mark_files.export_marks(world.context, press, actor, sheet, "xlsx", with_some=True)
        assert len(_rows(tmp_path, taken)) == 1
    mine = world.actor("leilani")
    assert len(search.search(world.context, mine, world.project_id, "Quinceblossom", 10).marks) == 1
    entries = trail.read_log(world.context, mine, TrailView(project_id=world.project_id)).entries
    assert [each.kind for each in entries if "Quinceblossom" in str(each)] == ["mark_inked", "mark_drawn"]


def test_who_reads_one_mark_reads_no_other_for_it(world, sheet):
    """Anouk's company reads one mark on the sheet, and its review another: not the pencil and the ink beside them."""
    for who, words in (("leilani", "Quinceblossom in pencil"), ("tomasz", "Quinceblossom in pencil too")):
        world.draw(sheet, who, text=words)
    ink_for(world, sheet, world.draw(sheet, text="Quinceblossom for Pellmore"))
    ink_for(world, sheet, world.draw(sheet, "anouk", text="Quinceblossom for Brockhouse"), who="anouk")
    actor = world.actor("anouk")
    assert [each.text for each in world.marks(sheet, "anouk")] == ["Quinceblossom for Brockhouse"]
    assert len(search.search(world.context, actor, world.project_id, "Quinceblossom", 10).marks) == 1
    entries = trail.read_log(world.context, actor, TrailView(project_id=world.project_id)).entries
    told = [each.kind for each in entries if "Quinceblossom" in str(each)]
    assert told == ["mark_inked", "mark_drawn"]


def test_live_each_is_told_what_a_fetch_would_show(world, sheet):
    drawn = world.draw(sheet)
    before = live.last_seq(world.context)
    (mark,) = ink_for(world, sheet, drawn)
    # To Leilani alone.
    assert [who for who in PEOPLE if heard(world, world.actor(who), before)] == ["leilani"]
    assert check_as_fetched(world, sheet, before) == 1
    before = live.last_seq(world.context)
    open_to(world, sheet, mark)
    assert check_as_fetched(world, sheet, before) == len(PEOPLE)


def test_goes_along_with_files_only_where_that_is_asked_for(world, sheet, press, tmp_path):
    ink_for(world, sheet, world.draw(sheet, text="for us"))
    world.ink(sheet, world.draw(sheet, text="for all"))
    leilani = world.actor("leilani")

    def texts(**more):
        taken = mark_files.export_marks(world.context, press, leilani, sheet, "xlsx", **more)
        return [row[3] for row in _rows(tmp_path, taken)[1:]]

    assert texts() == ["for all"]
    assert sorted(texts(with_some=True)) == ["for all", "for us"]
    after = world.sql("SELECT body FROM audit_entry WHERE kind = 'marks_exported' ORDER BY seq")
    assert b'"not for everybody":1' in after[1][0]
    assert b"not for everybody" not in after[0][0]
    prints.print_sheet(world.context, press, leilani, sheet, "A3", with_marks=True)
    printed = world.sql("SELECT body FROM audit_entry WHERE kind = 'sheet_printed'")
    assert b'"marks":1' in printed[0][0]


def test_is_opened_to_more_and_that_is_recorded(world, sheet):
    (mark,) = ink_for(world, sheet, world.draw(sheet, text="for @Anouk Ferreira"))
    assert not world.sql("SELECT 1 FROM notice")
    with pytest.raises(Stale):
        open_to(world, sheet, mark, version=mark.version - 1)
    with pytest.raises(RuleBroken) as refused:
        open_to(world, sheet, mark, kind="company", group=_company(world, "leilani"))
    assert refused.value.code == "read_already"
    (mark,) = open_to(world, sheet, mark)
    assert mark.readers == []
    assert _who_sees(world, sheet) == set(EVERYBODY)
    anouk = world.actor("anouk")
    entries = trail.read_log(world.context, anouk, TrailView(project_id=world.project_id)).entries
    opened = next(each for each in entries if each.kind == "mark_opened")
    assert (opened.before, opened.after) == ({"readers": "PLS"}, {"readers": "everybody"})
    # Whom it names is told when it is there for them.
    assert world.sql("SELECT 1 FROM notice WHERE person_id = ?", anouk.person_id)
    with pytest.raises(RuleBroken):
        open_to(world, sheet, mark)


def test_is_opened_by_its_author_alone_in_the_company(world, sheet):
    (mark,) = ink_for(world, sheet, world.draw(sheet, "tomasz"), who="tomasz")
    with pytest.raises(NotAllowed) as refused:
        open_to(world, sheet, mark, who="saoirse")
    assert refused.value.code == "not_your_mark"
    assert [each.may_open for each in world.marks(sheet, "saoirse")] == [False]
    assert [each.may_open for each in world.marks(sheet, "tomasz")] == [True]


def test_one_inks_for_ones_own_company_alone(world, sheet):
    drawn = world.draw(sheet)
    for kind, group in (("company", _company(world, "anouk")), ("review", "x"), ("nonsense", ""), ("company", "")):
        with pytest.raises(NotFound):
            command = InkMarks(marks={drawn.id: drawn.version}, readers=kind, group=group)
            mark_threads.ink_marks(world.context, world.actor("leilani"), sheet, command)
    assert world.marks(sheet, "leilani")[0].inked_at is None


def test_a_mark_for_somebody_who_would_not_read_it_is_not_inked_so(world, sheet):
    drawn = world.change_mark(world.draw(sheet), meant_for=world.cast.people["anouk"])
    with pytest.raises(RuleBroken) as refused:
        ink_for(world, sheet, drawn)
    assert refused.value.code == "person_sees_not"
    assert world.marks(sheet, "leilani")[0].inked_at is None
    world.ink(sheet, drawn)


def test_files_stay_with_the_document_so_they_wait_until_it_is_open(world, sheet):
    (mark,) = ink_for(world, sheet, world.draw(sheet))
    with pytest.raises(RuleBroken) as refused:
        command = WriteReply(text="see this", attachments=["x"])
        mark_threads.write_reply(world.context, world.actor("leilani"), mark.id, command)
    assert refused.value.code == "files_for_all"


def test_carrying_forward_takes_what_one_reads(world, sheet, press):
    ink_for(world, sheet, world.draw(sheet, text="for us"))
    world.ink(sheet, world.draw(sheet, text="for all"))
    ((_, after),) = world.file(name(revision="P02"))

    def offered(who):
        found = carried_marks.list_carriable(world.context, press, world.actor(who), after)
        return sorted(each.mark.text for each in found.marks)

    assert offered("anouk") == ["for all"]
    assert offered("leilani") == ["for all", "for us"]
    found = carried_marks.list_carriable(world.context, press, world.actor("leilani"), after)
    ids = [each.mark.id for each in found.marks]
    hidden = next(each.mark.id for each in found.marks if each.mark.text == "for us")
    with pytest.raises(NotFound):
        command = carried_marks.CarryMarks(marks=[hidden])
        carried_marks.carry_marks(world.context, press, world.actor("anouk"), after, command)
    command = carried_marks.CarryMarks(marks=ids)
    carried_marks.carry_marks(world.context, press, world.actor("leilani"), after, command)
    assert sorted(each.text for each in world.marks(after, "leilani")) == ["for all", "for us"]
    assert [each.text for each in world.marks(after, "anouk")] == ["for all"]


def test_a_file_taken_in_changes_nothing_of_what_one_does_not_read(world, sheet, press):
    ink_for(world, sheet, world.draw(sheet, text="for us"))
    leilani = world.actor("leilani")
    taken = mark_files.export_marks(world.context, press, leilani, sheet, "xfdf", with_some=True)
    changed = taken.content.replace(b"for us", b"for them")
    marks_in.take_in_marks(world.context, press, world.actor("anouk"), sheet, "marks.xfdf", [changed])
    assert {each.text for each in world.marks(sheet, "anouk")} <= {"for them"}
    (kept,) = [each for each in world.marks(sheet, "leilani") if each.readers]
    assert kept.text == "for us"


def test_who_sees_through_anothers_eyes_reads_nothing_of_it(world, sheet):
    ink_for(world, sheet, world.draw(sheet))
    borrowed = replace(world.actor("leilani"), looker=world.actor("rafael").witness())
    assert list_marks(world.context, borrowed, sheet) == []


GROUPS = ("PLS", "BHT", "review")


@pytest.mark.parametrize("groups", [[], *([each] for each in GROUPS), ["PLS", "BHT"], ["BHT", "review"], None])
@pytest.mark.parametrize("inked", [True, False])
def test_the_query_and_the_rule_agree(world, sheet, groups, inked):
    """For everybody and every kind of readers (None: all): what the condition brings is what `is_seen` says."""
    review = world.start(world.document(NUMBER), who="rafael")
    drawn = world.draw(sheet)
    for who in EVERYBODY:  # what lies beside it says nothing of it
        ink_for(world, sheet, world.draw(sheet, who), who=who)
    if inked:
        world.ink(sheet, drawn)
    ids = {"PLS": _company(world, "leilani"), "BHT": _company(world, "anouk"), "review": review}
    world.written_by_hand = True
    with world.context.database.write() as session:
        thread = session.scalars(select(ThreadRow).where(ThreadRow.id == drawn.thread_id)).one()
        thread.readers = "everybody" if groups is None else "some"
        for each in groups or ():
            kind = "review" if each == "review" else "company"
            session.add(ThreadReaderRow(thread_id=thread.id, kind=kind, group_id=ids[each]))
    with world.context.database.read() as session:
        audience = audience_of(session, THREAD.audience, drawn.thread_id)
        seen = set()
        for who in EVERYBODY:
            for actor in (world.actor(who), replace(world.actor(who), looker=world.actor("rafael").witness())):
                seat = take_seat(session, actor, world.project_id)
                query = select(ThreadRow.id).where(ThreadRow.id == drawn.thread_id, is_read_by(seat))
                found = session.scalar(query) is not None
                assert found == is_seen(audience, seat.eyes), who
                seen |= {who} if found and actor.looker is None else set()
    asked = {"rafael"} | {who for who in EVERYBODY if world.sql(
        "SELECT 1 FROM step_place JOIN review_step ON id = step_id WHERE person_id = ?", world.cast.people[who]
    )}  # fmt: skip
    wanted = {"leilani"}
    if inked and groups is None:
        wanted = set(EVERYBODY)
    elif inked:
        wanted |= {"anouk"} if "BHT" in groups else set()
        wanted |= asked | {"marit", "tomasz", "rafael", "ines"} if "review" in groups else set()
    assert seen == wanted
