"""Letters: written and kept as drafts, sent, answered, closed; who sees what of a thread (handbook §11)."""

from datetime import date, timedelta

import pytest

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken, Stale
from nod.services.attachments.attachments import download_attachment
from nod.services.desk import read_desk
from nod.services.letters import deeds, drafts, thread
from nod.services.letters.written import ContactGiven, PartyGiven, ReferenceGiven
from nod.services.trail.trail import TrailView, read_log
from tests.services.letters.acts import (
    add,
    ask,
    begin,
    close,
    company,
    draft,
    keep,
    listed,
    mark_answer,
    person,
    read,
    reopen,
    reply,
    send,
    set_private,
    state,
    subjects,
    texts,
    version,
    write,
)
from tests.world import NUMBER, name


def test_a_letter_is_numbered_by_sender_and_recipient_and_kept_for_its_people(world):
    letter = write(world, to=("ottilie",), copied=("saoirse",))
    shown = read(world, letter, "ottilie")
    hbc, pls = (world.actor(each).company_code for each in ("marit", "ottilie"))
    assert shown.line.number == f"{hbc}-{pls}-L-0001"
    assert [each.text for each in shown.messages] == ["Please see below."]
    assert [(each.name, each.how) for each in shown.parties] == [
        ("Ottilie Vestergaard", "to"),
        ("Saoirse Tanaka", "copied"),
    ]
    assert subjects(world, "saoirse") == subjects(world, "marit") == ["Bollards on the quay"]
    assert subjects(world, "leilani") == []
    with pytest.raises(NotFound):
        read(world, letter, "leilani")
    assert read(world, write(world), "ottilie").line.number == f"{hbc}-{pls}-L-0002"


def test_a_draft_is_there_for_its_author_alone_and_is_kept_as_it_is_typed(world):
    begun = begin(world)
    keep(world, begun, subject="Half a", page="<p>Only <b>half</b> a <script>alert(1)</script>sentence</p>")
    there = draft(world, begun)
    assert there.written.subject == "Half a"
    assert there.written.page == "<p>Only <b>half</b> a sentence</p>"
    assert [line.id for line in listed(world).drafts] == [begun]
    assert listed(world, "rafael").drafts == []
    for other in ("rafael", "ottilie"):
        with pytest.raises(NotFound):
            draft(world, begun, other)
    with pytest.raises(NotFound):
        read(world, there.letter_id, "rafael")
    with pytest.raises(Stale):
        drafts.keep_draft(
            world.context, world.actor("marit"), begun, drafts.KeepLetterDraft(version=1, written=there.written)
        )


def test_a_draft_that_is_dropped_is_gone_with_its_files(world):
    begun = begin(world)
    add(world, begun)
    drafts.drop_draft(
        world.context, world.actor("marit"), begun, drafts.LetterDraftVersion(version=draft(world, begun).version)
    )
    assert world.sql("SELECT count(*) FROM letter")[0][0] == 0
    assert world.sql("SELECT count(*) FROM attachment")[0][0] == 0


@pytest.mark.parametrize(
    ("written", "code"),
    [
        ({"to": []}, "nobody_named"),
        ({"subject": " "}, "subject_missing"),
        ({"page": "<p> </p>"}, "text_missing"),
        ({"kind": "XYZ"}, "letter_kind_unknown"),
        ({"kind": "RFI"}, "nobody_asked"),
    ],
)
def test_what_is_missing_is_said_and_nothing_is_sent(world, written, code):
    with pytest.raises(RuleBroken) as refused:
        begun = begin(world)
        keep(
            world, begun, **{"subject": "Bollards", "to": [person(world, "ottilie")], "page": "<p>See.</p>", **written}
        )
        send(world, begun)
    assert refused.value.code == code
    assert world.sql("SELECT count(*) FROM letter WHERE state != 'draft'")[0][0] == 0
    assert len(listed(world).drafts) == 1


def test_it_goes_to_people_of_the_project_alone(world):
    with pytest.raises(NotFound):
        write(world, to=(PartyGiven(kind="person", id="nobody"),))
    with pytest.raises(NotFound):
        write(world, to=(PartyGiven(kind="company", id="nobody"),))


def test_a_company_is_written_to_through_its_people(world):
    letter = write(world, to=(company(world, "ottilie"),))
    assert subjects(world, "ottilie") == ["Bollards on the quay"]
    assert read(world, letter).line.to == "Gannet Marine Engineering"


def test_a_question_is_with_whom_it_is_asked_of_until_the_official_answer(world):
    letter = ask(world, due_on=date(2027, 3, 12))
    line = read(world, letter).line
    assert line.number == f"{world.actor('marit').company_code}-RFI-0001"
    assert (line.state, line.standing.with_whom, line.standing.due_on) == (
        "answer wanted", "Ottilie Vestergaard", date(2027, 3, 12)
    )  # fmt: skip
    desk = read_desk(world.context, world.actor("ottilie"), world.project_id)
    assert [(each.name, each.act) for each in desk.yours_now if "bolt" in each.name] == [
        ("Which grade of bolt?", "Answer")
    ]
    answer = reply(world, letter, is_answer=True)
    shown = read(world, letter)
    assert shown.line.state == "answered"
    assert [(each.id, each.is_answer) for each in shown.messages if each.is_answer] == [(answer, True)]
    assert shown.line.standing.with_whom == "Marit Osei"
    close(world, letter)
    assert state(world, letter) == "closed"
    reopen(world, letter)
    assert state(world, letter) == "answered"


def test_by_when_is_as_the_kind_says(world):
    """Seven calendar days from Tuesday 9 March."""
    assert read(world, ask(world)).due_on == date(2027, 3, 16)


def test_days_open_and_lateness_are_those_of_the_handbook(world):
    """Sent Fri 12 Mar, due in 7 calendar days Fri 19 Mar; on 31 Mar it is 19 days open, and 12 late (handbook §11)."""
    world.clock.advance(timedelta(days=3))
    letter = ask(world)
    world.clock.advance(timedelta(days=19))
    line = read(world, letter).line
    assert (line.standing.due_on, line.days_open, line.standing.days_late) == (date(2027, 3, 19), 19, 12)
    assert listed(world, late=True).total == 1


def test_only_who_is_asked_or_runs_the_project_says_what_the_answer_is(world):
    letter = ask(world, who="saoirse", to=("ottilie", "leilani"))
    said = reply(world, letter, "leilani")
    for other in ("leilani", "saoirse"):
        with pytest.raises(NotAllowed):
            mark_answer(world, letter, said, other)
        with pytest.raises(NotAllowed):
            reply(world, letter, other, is_answer=True)
    mark_answer(world, letter, said, "ottilie")
    assert state(world, letter) == "answered"


def test_who_is_added_sees_it_from_there_on_or_all_of_it(world):
    letter = write(world, page="<p>The price is 100.</p>")
    both = [person(world, "ottilie"), person(world, "leilani")]
    reply(world, letter, "marit", page="<p>Leilani, please see.</p>", to=both)
    assert texts(world, letter, "leilani") == ["Leilani, please see."]
    assert read(world, letter, "leilani").from_here
    assert subjects(world, "leilani", words="price") == []
    assert subjects(world, "ottilie", words="price") == ["Bollards on the quay"]
    three = [*both, person(world, "saoirse")]
    reply(world, letter, "marit", page="<p>And Saoirse.</p>", to=three, all_of_it=True)
    assert texts(world, letter, "saoirse") == ["The price is 100.", "Leilani, please see.", "And Saoirse."]


def test_who_is_taken_out_keeps_what_was_there_and_sees_no_more(world):
    letter = write(world, to=("ottilie", "leilani"))
    reply(world, letter, "marit", page="<p>Without Leilani.</p>", to=[person(world, "ottilie")])
    assert texts(world, letter, "leilani") == ["Please see below."]
    with pytest.raises(NotAllowed):
        reply(world, letter, "leilani")
    reply(
        world, letter, "marit", page="<p>Again with her.</p>", to=[person(world, "ottilie"), person(world, "leilani")]
    )
    assert texts(world, letter, "leilani") == ["Please see below.", "Again with her."]


def test_whom_another_lets_in_or_takes_out_while_one_writes_stays_so(world):
    """Two write at the same time: neither undoes what the other has changed."""
    letter = write(world, to=("ottilie", "leilani"))
    mine = drafts.begin_reply(world.context, world.actor("ottilie"), letter).message_id
    reply(world, letter, "marit", to=[person(world, "ottilie"), person(world, "paolo")])
    keep(world, mine, "ottilie", page="<p>Anouk too.</p>", copied=[person(world, "anouk")])
    send(world, mine, "ottilie")
    there = {(each.name, each.how) for each in read(world, letter).parties}
    assert there == {("Ottilie Vestergaard", "to"), ("Paolo Marchetti", "to"), ("Anouk Ferreira", "copied")}
    with pytest.raises(NotAllowed):
        reply(world, letter, "leilani")


def test_who_is_let_in_later_does_not_see_what_was_proposed(world):
    letter = ask(world, proposed="Grade 8.8")
    reply(world, letter, "marit", to=[person(world, "ottilie"), person(world, "leilani")])
    assert read(world, letter, "ottilie").proposed == "Grade 8.8"
    assert read(world, letter, "leilani").proposed == ""


def test_files_are_there_for_whoever_sees_the_message(world):
    begun = begin(world)
    file = add(world, begun, name="price.pdf")
    keep(world, begun, subject="Price", to=[person(world, "ottilie")], page="<p>See it.</p>", files=[file])
    letter = send(world, begun)
    reply(world, letter, "marit", page="<p>Leilani?</p>", to=[person(world, "ottilie"), person(world, "leilani")])
    assert [each.name for each in read(world, letter, "ottilie").messages[0].files] == ["price.pdf"]
    download_attachment(world.context, world.actor("ottilie"), file)
    with pytest.raises(NotFound):
        download_attachment(world.context, world.actor("leilani"), file)
    assert subjects(world, "ottilie", words="price.pdf") == ["Price"]


def test_nobody_adds_files_to_the_draft_of_another(world):
    begun = begin(world)
    with pytest.raises(NotFound):
        add(world, begun, "rafael")


def test_what_is_unread_is_counted_for_those_in_it(world):
    letter = write(world)
    assert [line.unread for line in listed(world, "ottilie").lines] == [1]
    assert [line.unread for line in listed(world, "marit").lines] == [0]
    assert listed(world, "ottilie", unread=True).total == 1
    thread.note_seen(world.context, world.actor("ottilie"), letter, thread.SeenUpTo(place=99))
    assert listed(world, "ottilie", unread=True).total == 0
    reply(world, letter)
    assert listed(world, "marit", unread=True).total == 1
    assert [line.unread for line in listed(world, "rafael").lines] == [0]


def test_a_letter_speaks_of_things_which_show_it(world):
    world.file(name())
    document = world.document(NUMBER)[0]
    begun = begin(world, about=[("document", document)])
    keep(world, begun, subject="The plan", to=[person(world, "ottilie")], page="<p>See it.</p>")
    letter = send(world, begun)
    assert [each.number for each in read(world, letter).about] == [NUMBER]
    about = thread.letters_about(world.context, world.actor("marit"), world.project_id, "document", document)
    assert [each.id for each in about.letters] == [letter]
    found = thread.letters_about(world.context, world.actor("leilani"), world.project_id, "document", document)
    assert found.letters == []
    with pytest.raises(NotFound):
        keep(world, begin(world), references=[ReferenceGiven(kind="document", target="none")])


def test_a_new_address_becomes_a_contact_as_the_letter_is_sent(world):
    new = ContactGiven(name="Pia Lund", email="pia@lund.example", company_id=world.actor("ottilie").company_id)
    letter = write(world, to=(), contacts=[new])
    assert [(each.name, each.contact) for each in read(world, letter).parties] == [("Pia Lund", True)]
    with pytest.raises(NotAllowed):
        write(world, "saoirse", to=("ottilie",), contacts=[new.model_copy(update={"email": "b@lund.example"})])


def test_what_is_in_a_thread_is_in_the_trail_for_those_who_see_it(world):
    letter = write(world, page="<p>The price is 100.</p>")
    reply(world, letter, "marit", page="<p>Leilani?</p>", to=[person(world, "ottilie"), person(world, "leilani")])
    seen = trail(world, "leilani", letter)
    assert "letter_written" in seen
    assert "letter_sent" not in seen
    assert trail(world, "ottilie", letter) == {"letter_sent", "letter_written"}


def trail(world, who, letter):
    asked = TrailView(project_id=world.project_id, subject_id=letter)
    return {each.kind for each in read_log(world.context, world.actor(who), asked).entries}


def test_a_private_thread_is_there_for_its_people_alone(world):
    letter = write(world, "saoirse", to=("ottilie",), subject="Between us", private=True)
    number = read(world, letter, "ottilie").line.number
    for other in ("marit", "rafael", "leilani"):
        assert subjects(world, other) == []
        assert listed(world, other, words="between").total == 0
        assert sum(each.count for each in listed(world, other).states) == 0
        with pytest.raises(NotFound):
            read(world, letter, other)
        assert trail(world, other, letter) == set()
    with pytest.raises(NotAllowed):
        set_private(world, letter, "ottilie", private=False)
    second = write(world, "saoirse", to=("ottilie",), subject="For all who run it")
    assert int(read(world, second, "marit").line.number[-4:]) == int(number[-4:]) + 1
    set_private(world, letter, "saoirse", private=False)
    assert subjects(world, "marit", words="between") == ["Between us"]


def test_who_runs_the_project_and_writes_in_a_thread_is_in_it_from_then_on(world):
    letter = write(world, "saoirse", to=("ottilie",))
    reply(world, letter, "marit")
    assert "Marit Osei" in [each.name for each in read(world, letter, "ottilie").parties]


def test_two_who_close_it_in_the_same_second(world):
    letter = write(world)
    seen = version(world, letter)
    close(world, letter)
    with pytest.raises((Stale, RuleBroken)):
        deeds.close(world.context, world.actor("rafael"), letter, deeds.CloseLetter(version=seen))
