"""Sessions: made, opened, marked in, closed; whom they let in to what; what is checked out meanwhile (handbook §7)."""

import io
import zipfile
from datetime import timedelta

import pytest
from icalendar import Calendar
from pypdf import PdfReader

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken, Stale
from nod.formats.files.spreadsheet import read_table
from nod.services.acts import live
from nod.services.acts.seats import take_seat
from nod.services.marks import marks_view
from nod.services.register import check_outs, documents
from nod.services.register.check_outs import EndCheckOut
from nod.services.sessions import calendars, happened, invitations, making, opening, records
from nod.services.sessions.invitations import ChangeParties
from nod.services.sessions.kind import SESSION
from nod.services.sessions.making import ChangeSession, CheckSession
from nod.services.sessions.opening import OpenAgain, SeenSession, TakeSheetOut
from nod.services.sheet import sheets
from nod.services.things.things import find_things
from tests.services.sessions.meeting import (
    be_here,
    close,
    company,
    draw,
    listed,
    make,
    person,
    seen,
    work,
)
from tests.world import NUMBER, OTHER_NUMBER, name, pdf


@pytest.fixture
def sheet(world):
    ((_, revision_id),) = world.file(name())
    return revision_id


@pytest.fixture
def pair(world):
    found = world.file(name(), name(OTHER_NUMBER, title="Foundations"))
    return [revision_id for _, revision_id in found]


def test_is_made_and_seen_by_those_who_take_part(world, sheet):
    id = make(world, sheet, parties=[person(world, "leilani"), company(world, "anouk", "comment")])
    shown = seen(world, id)
    assert (shown.line.number, shown.line.state, shown.line.sheets) == ("S-0001", "open", 1)
    assert [(each.kind, each.may) for each in shown.parties] == [("company", "comment"), ("person", "mark")]
    assert seen(world, id, "leilani").level == "mark"
    assert seen(world, id, "anouk").level == "comment"
    # Of the same company as Anouk; a lead who was not invited acts as the host could.
    assert seen(world, id, "junpei").level == "comment"
    assert "close" in seen(world, id, "rafael").may
    for who in ("saoirse", "ottilie", "kwabena"):
        with pytest.raises(NotFound):
            seen(world, id, who)
        assert listed(world, who).lines == []
    assert [each.id for each in listed(world, "leilani", mine=True).lines] == [id]
    assert listed(world, "rafael", mine=True).total == 0
    assert listed(world, "rafael", state="open", words="level", document="0101").total == 1
    assert listed(world, "rafael", state="closed").total == 0


def _document(world):
    document_id, _ = world.document(NUMBER)[:2]
    return documents.read_document(world.context, world.actor("marit"), document_id)


def _see(world, revision_id, who):
    return sheets.read_sheet(world.context, world.actor(who), revision_id)


def test_lets_in_to_these_revisions_and_no_further_while_it_is_open(world, sheet):
    world.ink(sheet, world.draw(sheet, text="Said before, among those who see the sheet"))
    with pytest.raises(NotFound):
        _see(world, sheet, "kwabena")
    id = make(world, sheet, parties=[person(world, "kwabena", "look")])
    shown = _see(world, sheet, "kwabena")
    assert [each.id for each in shown.revisions] == [sheet]
    assert (shown.in_force, shown.standing.kind, shown.may_mark) == ("", "", False)
    said = draw(world, id, sheet, "marit", "Said in the session")
    heard = [each.text for each in marks_view.list_marks(world.context, world.actor("kwabena"), sheet)]
    assert heard == ["Said in the session"]
    assert {each.text for each in marks_view.list_marks(world.context, world.actor("leilani"), sheet)} == {
        "Said before, among those who see the sheet", "Said in the session"
    }  # fmt: skip
    # Nothing else of the project: not the document, its trail, its place in lists.
    document_id = shown.document_id
    with pytest.raises(NotFound):
        documents.read_document(world.context, world.actor("kwabena"), document_id)
    assert world.list("kwabena").total == 0
    # Who may only look writes nothing.
    with pytest.raises(NotAllowed):
        draw(world, id, sheet, "kwabena")
    with pytest.raises(NotAllowed):
        world.reply(said, "May I?", "kwabena")
    close(world, id)
    with pytest.raises(NotFound):
        _see(world, sheet, "kwabena")
    assert seen(world, id, "kwabena").sheets[0].seen is False


def test_who_may_comment_answers_and_sets_states_and_draws_nothing(world, sheet):
    id = make(world, sheet, parties=[person(world, "kwabena", "comment")])
    said = draw(world, id, sheet, "marit")
    assert world.reply(said, "As on site", "kwabena").replies[-1].text == "As on site"
    with pytest.raises(NotAllowed) as refused:
        draw(world, id, sheet, "kwabena")
    assert refused.value.code == "session_level"
    # By the ordinary way there is nothing for them either.
    with pytest.raises(NotFound):
        world.draw(sheet, who="kwabena")


def test_ink_of_a_session_is_heard_by_its_people_at_once(world, sheet):
    for invited, words in (("leilani", "Pipe here"), ("kwabena", "Cable here")):
        id = make(world, sheet, parties=[person(world, invited)])
        before = live.last_seq(world.context)
        draw(world, id, sheet, invited, words)
        hears = {"marit": True, "leilani": True, "kwabena": invited == "kwabena"}
        for who, does in hears.items():
            hearing = live.hearing_of(world.context, world.actor(who))
            told = hearing.told(live.read_news(world.context, before).events)
            assert any(words in data for _, data in told) is does, (invited, who)
        close(world, id)


def test_ink_for_the_people_of_a_session_alone(world, sheet):
    id = make(world, sheet, parties=[person(world, "kwabena"), person(world, "anouk")])
    draw(world, id, sheet, "kwabena", "Between us", readers="session", group=id)

    def reads(who):
        return bool(marks_view.list_marks(world.context, world.actor(who), sheet))

    assert [reads(who) for who in ("kwabena", "anouk", "marit", "leilani")] == [True, True, True, False]
    close(world, id)
    # Whoever sees the sheet by themselves goes on reading it.
    assert reads("anouk")
    assert not reads("leilani")


def test_pencil_in_a_session_stays_its_authors(world, sheet):
    id = make(world, sheet, parties=[person(world, "leilani"), person(world, "anouk")])
    draw(world, id, sheet, "leilani", "Not sure", ink=False)
    assert marks_view.list_marks(world.context, world.actor("anouk"), sheet) == []
    assert len(marks_view.list_marks(world.context, world.actor("leilani"), sheet)) == 1


def test_documents_are_checked_out_to_it(world, sheet):
    id = make(world, sheet, parties=[person(world, "leilani")])
    read = _document(world)
    assert read.checked_out_note == "In session S-0001, Quay hall, level 1"
    assert not {"revise", "put_back", "check_out", "withdraw", "rename"} & set(read.may)
    with pytest.raises(RuleBroken) as refused:
        end = EndCheckOut(version=read.line.version, reason="mine")
        check_outs.end_check_out(world.context, world.actor("marit"), read.line.id, end)
    assert refused.value.code == "in_a_session"
    batch = world.arrive({name(revision="P02"): pdf("Changed")})
    (arrival,) = world.arrivals(batch).values()
    assert [each.code for each in arrival.findings if each.weight == "stop"] == ["in_a_session"]
    assert "S-0001, hosted by Marit Osei" in arrival.findings[0].words
    close(world, id)
    assert _document(world).checked_out_by is None


def test_a_document_is_in_one_open_session_at_a_time(world, pair):
    first = make(world, pair[0])
    with pytest.raises(RuleBroken) as refused:
        make(world, *pair, name="Both")
    assert "It is in session S-0001 now" in refused.value.words
    second = make(world, *pair, name="Both", opens_in=1)
    world.clock.set(world.clock.now() + timedelta(hours=1))
    work(world)
    assert seen(world, first).line.state == "open"
    out = {each.number: each.out_why for each in seen(world, second).sheets}
    assert out[NUMBER] == "It was in session S-0001 when this one opened."
    assert out[OTHER_NUMBER] == ""
    with pytest.raises(NotFound):
        draw(world, second, pair[0], "marit")


def test_opens_and_closes_at_its_times(world, sheet):
    id = make(world, sheet, parties=[person(world, "leilani")], opens_in=3, hours=1)
    work(world)
    assert seen(world, id).line.state == "to come"
    with pytest.raises(RuleBroken) as refused:
        draw(world, id, sheet)
    assert refused.value.code == "session_to_come"
    world.clock.set(world.clock.now() + timedelta(hours=3))
    work(world)
    assert seen(world, id).line.state == "open"
    # The host puts the time off: the first time passes, and it stays open.
    later = world.clock.now() + timedelta(hours=2)
    command = ChangeSession(version=seen(world, id).version, closes_at=later)
    making.change_session(world.context, world.actor("marit"), id, command)
    world.clock.set(world.clock.now() + timedelta(hours=1, minutes=1))
    work(world)
    assert seen(world, id).line.state == "open"
    world.clock.set(later)
    work(world)
    assert seen(world, id).line.state == "closed"


def test_the_record_is_made_once_and_read_by_other_programs(world, pair, tmp_path):
    id = make(world, *pair, parties=[person(world, "leilani"), person(world, "anouk")])
    be_here(world, id, pair[0], "leilani")
    cloud = draw(world, id, pair[0], "leilani", "Wall missing", kind="cloud", points=((50, 50), (90, 50), (90, 90)))
    draw(world, id, pair[0], "leilani", "In pencil", ink=False)
    draw(world, id, pair[1], "anouk", "For us alone", readers="company", group=world.actor("anouk").company_id)
    world.reply(cloud, "It comes with P02")
    close(world, id, open_becomes="agreed")
    with pytest.raises(RuleBroken):
        records.download_record(world.context, world.actor("marit"), id, 1)
    work(world)
    (made,) = seen(world, id).records
    sent = records.download_record(world.context, world.actor("leilani"), id, 1)
    with sent.content as path, zipfile.ZipFile(path) as archive:
        names = archive.namelist()
        assert archive.testzip() is None
        by_end = {each.rsplit("/", 1)[-1]: archive.read(each) for each in names}
    assert all(each.startswith("S-0001_record/") for each in names)
    pdfs = {each: content for each, content in by_end.items() if each.endswith(".pdf")}
    assert len(pdfs) == 2
    first = next(content for each, content in pdfs.items() if NUMBER in each)
    notes = [each.get_object() for each in PdfReader(io.BytesIO(first)).pages[0].get("/Annots", [])]
    said = [str(each.get("/Contents", "")) for each in notes]
    assert "Wall missing" in said
    assert "It comes with P02" in said
    assert not [each for each in said if "pencil" in each or "alone" in each]
    book = tmp_path / "record.xlsx"
    book.write_bytes(by_end["S-0001.xlsx"])
    table = read_table(book, whole=True, sheet="Marks")
    assert "Wall missing" in str(table.rows)
    assert "agreed" in str(table.rows)
    assert "Leilani" in str(read_table(book, whole=True, sheet="People").rows)
    assert world.sql("SELECT sha256 FROM session_record") == [(made.sha256,)]
    # Anouk was invited and never came.
    with pytest.raises(NotAllowed):
        records.download_record(world.context, world.actor("anouk"), id, 1)


def test_opened_again_it_makes_a_second_part(world, sheet):
    id = make(world, sheet)
    draw(world, id, sheet, "marit", "First")
    close(world, id)
    work(world)
    (first,) = seen(world, id).records
    again = OpenAgain(version=seen(world, id).version, closes_at=world.clock.now() + timedelta(hours=1))
    opening.open_again(world.context, world.actor("marit"), id, again)
    assert seen(world, id).sheets[0].held
    draw(world, id, sheet, "marit", "Second")
    close(world, id)
    work(world)
    kept, second = seen(world, id).records
    assert kept.sha256 == first.sha256 != second.sha256


def test_opened_again_checks_out_nothing_that_has_a_newer_revision(world, sheet):
    id = make(world, sheet)
    close(world, id)
    world.file(name(revision="P02"), content=pdf("Changed"))
    again = OpenAgain(version=seen(world, id).version, closes_at=world.clock.now() + timedelta(hours=1))
    opening.open_again(world.context, world.actor("marit"), id, again)
    (shown,) = seen(world, id).sheets
    assert (shown.held, shown.not_held_why) == (False, "There is a newer revision, P02.")
    assert draw(world, id, sheet, "marit").text == "What is this?"


def test_a_lead_breaks_it_for_one_document_and_its_host_is_told(world, pair):
    id = make(world, *pair)
    take = TakeSheetOut(version=seen(world, id).version)
    with pytest.raises(RuleBroken) as refused:
        opening.take_sheet_out(world.context, world.actor("rafael"), id, pair[0], take)
    assert refused.value.code == "reason_missing"
    take = TakeSheetOut(version=seen(world, id).version, reason="P02 must be filed today")
    opening.take_sheet_out(world.context, world.actor("rafael"), id, pair[0], take)
    assert seen(world, id).sheets[0].out_why == "P02 must be filed today"
    assert _document(world).checked_out_by is None
    assert any("took" in payload["subject"] for key, payload in world.send() if key.startswith("mail:session:"))


def test_says_who_would_see_more(world, pair):
    parties = [person(world, "kwabena"), person(world, "leilani"), person(world, "rafael")]
    asked = CheckSession(project_id=world.project_id, revisions=pair, parties=parties)
    checked = making.check_session(world.context, world.actor("marit"), asked)
    assert checked.widened == (
        "Kwabena Lindqvist (HBC) will see 2 sheets that they could not see otherwise, at these revisions, "
        "while it is open."
    )
    assert [each.stop for each in checked.sheets] == ["", ""]
    mine = making.check_session(world.context, world.actor("leilani"), asked)
    assert all("may not file" in each.stop for each in mine.sheets)
    with pytest.raises(NotAllowed):
        make(world, *pair, who="leilani")


def test_an_invitation_brings_a_calendar_file(world, sheet):
    id = make(world, sheet, parties=[person(world, "leilani")], opens_in=24)
    (sent,) = [payload for key, payload in world.send() if key.startswith("mail:invited:")]
    assert "invited to S-0001" in sent["subject"]
    (enclosed,) = sent["enclosed"]
    with world.context.blobs.local(enclosed["sha256"]) as path:
        content = path.read_bytes()
    assert content == calendars.calendar_file(world.context, world.actor("leilani"), id)[0]
    (event,) = Calendar.from_ical(content).walk("VEVENT")
    assert event["summary"] == "S-0001 Quay hall, level 1"
    assert event.decoded("dtstart") == world.clock.now() + timedelta(hours=24)


def test_what_happened_is_told_as_far_as_one_reads_it(world, sheet):
    id = make(world, sheet, parties=[person(world, "leilani"), person(world, "anouk")])
    be_here(world, id, sheet, "leilani")
    be_here(world, id, sheet, "leilani")
    mark = draw(world, id, sheet, "leilani", "Wall missing")
    world.reply(mark, "It comes")
    draw(world, id, sheet, "leilani", "Ours", readers="company", group=world.actor("leilani").company_id)
    told = happened.read_happenings(world.context, world.actor("anouk"), id)
    assert sorted((each.did, each.text) for each in told.happened) == [
        ("answered", "It comes"), ("came", ""), ("marked", "Wall missing")
    ]  # fmt: skip
    assert world.kinds().count("session_joined") == 1


def test_parties_come_and_go(world, sheet):
    id = make(world, sheet, parties=[person(world, "kwabena", "look")])
    more = ChangeParties(version=seen(world, id).version, invited=[person(world, "kwabena"), person(world, "anouk")])
    invitations.change_parties(world.context, world.actor("marit"), id, more)
    assert seen(world, id, "kwabena").level == "mark"
    with pytest.raises(NotAllowed):
        invitations.change_parties(world.context, world.actor("kwabena"), id, more)
    with pytest.raises(Stale):
        invitations.change_parties(world.context, world.actor("marit"), id, more)
    gone = ChangeParties(version=seen(world, id).version, taken_out=[world.actor("kwabena").person_id])
    invitations.change_parties(world.context, world.actor("marit"), id, gone)
    with pytest.raises(NotFound):
        seen(world, id, "kwabena")


def test_is_handed_over_to_who_may_file(world, sheet):
    id = make(world, sheet)
    with pytest.raises(RuleBroken) as refused:
        command = ChangeSession(version=seen(world, id).version, host_id=world.actor("anouk").person_id)
        making.change_session(world.context, world.actor("marit"), id, command)
    assert refused.value.code == "host_cannot"
    command = ChangeSession(version=seen(world, id).version, host_id=world.actor("tomasz").person_id)
    making.change_session(world.context, world.actor("marit"), id, command)
    assert seen(world, id).line.host.name == "Tomasz Adeyemi"
    assert _document(world).checked_out_by.name == "Tomasz Adeyemi"


@pytest.mark.parametrize(
    ("values", "code"),
    [({"name": " "}, "name_missing"), ({"hours": -1}, "session_times"), ({"hours": 24 * 90}, "session_times")],
)
def test_what_makes_no_sense_is_refused(world, sheet, values, code):
    with pytest.raises(RuleBroken) as refused:
        make(world, sheet, **values)
    assert refused.value.code == code
    assert listed(world).total == 0


def test_is_found_by_its_name(world, sheet):
    make(world, sheet)
    with world.context.database.read() as session:
        for who, count in (("marit", 1), ("saoirse", 0)):
            seat = take_seat(session, world.actor(who), world.project_id)
            assert len(find_things(session, seat, SESSION, "level 1", 5)) == count


def test_opens_before_its_time_by_hand(world, sheet):
    id = make(world, sheet, opens_in=5)
    opening.open_now(world.context, world.actor("marit"), id, SeenSession(version=seen(world, id).version))
    assert seen(world, id).line.state == "open"
