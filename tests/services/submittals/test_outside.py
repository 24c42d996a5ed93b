"""Outside contacts in submittals: they send in and answer by link or by mail, and see nothing else (handbook §9)."""

from datetime import timedelta

import pytest

from nod.core.acts.once import Once
from nod.core.acts.refusals import DoneAlready, NotAllowed, NotFound, RuleBroken, Stale
from nod.services.desk import read_desk
from nod.services.mail.mails import SecretLink
from nod.services.submittals import by_link
from nod.services.submittals.by_link import GuestAnswers
from nod.services.submittals.sending_in import AskFor, NewContact, RemindOf, SendIn, ask_for, remind
from tests.services.links.visiting import enter
from tests.services.mail_in.letters import answer_address, came_in, dated, email_of, letter, said
from tests.services.submittals.acts import (
    ask,
    change,
    company_of,
    copy_in,
    give,
    listed,
    make,
    seen,
    send_in,
    state,
    version,
    versions,
    void,
)
from tests.world import bytes_of, made_once, pdf


def mails_to(world, who="yusuf"):
    to = email_of(world, who)
    return [payload for key, payload in world.send() if key.startswith("mail:") and payload["to_email"] == to]


def visit(world, mail):
    return enter(world, SecretLink(**mail["link"]).token(world.context))


def look(world, secret):
    return by_link.read_submittal(world.context, secret)


def add(world, secret, name="bollards.pdf"):
    return by_link.add_file(world.context, secret, name, [pdf(name)]).id


@made_once
def asked(world):
    """Asked of an outside contact: the submittal, and their mail."""
    made = make(world, by="yusuf")
    ask(world, made, whom="yusuf", note="For the quay.")
    (mail,) = mails_to(world)
    return made, mail


@made_once
def to_answer(world):
    """Sent in by a company of the project, and given to an outside contact to answer."""
    made = make(world)
    ask(world, made)
    send_in(world, made, note="As agreed.")
    give(world, made, "yusuf", note="Please check the anchors.")
    (mail,) = mails_to(world)
    return made, mail


def test_who_is_asked_gets_all_details_and_a_link_that_needs_no_account(world, asked):
    made, mail = asked
    assert "For the quay." in mail["text"]
    for words in (
        "Number: ",
        "Title: Mooring bollards, 100 t",
        "Section: 35 59 13 2.02.A",
        "Required on site: Fri 30 July",
    ):
        assert words in mail["text"]
    assert "without a sign-in:\n{link}" in mail["text"]
    shown = look(world, visit(world, mail))
    assert (shown.wanted, shown.state, shown.title) == ("send in", "asked for", "Mooring bollards, 100 t")
    assert shown.due_on == seen(world, made).line.latest_on
    assert seen(world, made).line.standing.with_whom == "Yusuf Haldane"


def test_a_contact_sends_in_by_the_link(world, asked):
    made, mail = asked
    guest = visit(world, mail)
    added = [add(world, guest, name) for name in ("../../bollards.pdf", "anchors.pdf")]
    command = SendIn(version=look(world, guest).version, note="As built before.", files=added)
    once = Once("a" * 20, "f" * 64)
    by_link.send_in(world.context, guest, command, once)
    (only,) = seen(world, made).rounds
    assert (only.sent_by.name, only.note) == ("Yusuf Haldane", "As built before.")
    assert [each.name for each in only.files] == ["bollards.pdf", "anchors.pdf"]
    assert state(world, made) == "sent in"
    assert made in [each.id for each in read_desk(world.context, world.actor("marit"), world.project_id).yours_now]
    with pytest.raises(DoneAlready):
        by_link.send_in(world.context, guest, command, Once("a" * 20, "f" * 64))
    entry = world.sql("SELECT body FROM audit_entry ORDER BY seq DESC LIMIT 1")[0][0]
    assert b"link " in entry
    assert b"Yusuf" in entry
    shown = look(world, guest)
    assert (shown.wanted, [len(each.files) for each in shown.rounds]) == ("", [2])
    with pytest.raises(RuleBroken, match="It is sent in"):
        add(world, guest)


def test_a_contact_answers_by_the_link(world, to_answer):
    made, mail = to_answer
    assert "begin with the letter of the verdict" in mail["text"]
    guest = visit(world, mail)
    shown = look(world, guest)
    assert (shown.wanted, shown.due_on) == ("answer", seen(world, made).line.standing.due_on)
    (sent,) = shown.rounds
    (file,) = sent.files
    assert bytes_of(by_link.download_file(world.context, guest, file.id)) == pdf("file 0.pdf")
    with pytest.raises(RuleBroken, match="attached"):
        by_link.answer(world.context, guest, GuestAnswers(version=shown.version, verdict="B"))
    with pytest.raises(Stale):
        by_link.answer(world.context, guest, GuestAnswers(version=0, verdict="B", files=["x"]))
    answer = GuestAnswers(version=shown.version, verdict="B", note="Longer bolts.", files=[add(world, guest)])
    by_link.answer(world.context, guest, answer)
    (only,) = seen(world, made).rounds
    assert (only.verdict.code, only.answered_by.name, only.answered_for) == ("B", "Yusuf Haldane", False)
    assert state(world, made) == "answered"


def test_files_that_are_not_theirs_are_not_there(world, asked, to_answer):
    mine, theirs = visit(world, asked[1]), visit(world, to_answer[1])
    (file,) = look(world, theirs).rounds[0].files
    unsaid = add(world, theirs)
    for guest, id in ((mine, file.id), (mine, unsaid), (theirs, unsaid)):
        with pytest.raises(NotFound):
            by_link.download_file(world.context, guest, id)
    with pytest.raises(NotFound):
        by_link.remove_file(world.context, mine, unsaid)
    with pytest.raises(NotFound):
        by_link.remove_file(world.context, theirs, file.id)
    by_link.remove_file(world.context, theirs, unsaid)
    shown = look(world, theirs)
    with pytest.raises(NotFound):
        by_link.answer(world.context, theirs, GuestAnswers(version=shown.version, verdict="B", files=[unsaid]))


def test_a_link_ends_with_the_part(world, asked):
    made, mail = asked
    guest = visit(world, mail)
    change(world, made, company_id=company_of(world, "ottilie"))
    with pytest.raises(NotFound):
        look(world, guest)
    with pytest.raises(RuleBroken, match="does not open anything any more"):
        visit(world, mail)


def test_too_many_files_are_refused_before_they_fill_anything(world, asked):
    guest = visit(world, asked[1])
    for place in range(20):
        add(world, guest, f"{place}.pdf")
    with pytest.raises(RuleBroken, match="Up to 20 files"):
        add(world, guest, "one more.pdf")


def test_a_contact_is_reminded_with_the_same_link(world, asked):
    made, mail = asked
    command = RemindOf(submittals=versions(world, made), note="By Friday?")
    remind(world.context, world.actor("marit"), command)
    (again,) = mails_to(world)
    assert again["link"] == mail["link"]
    assert "By Friday?" in again["text"]


def test_who_is_copied_in_by_name_is_told_and_looks_alone(world):
    made = make(world)
    copy_in(world, made, ("person", world.cast.people["yusuf"]))
    (mail,) = mails_to(world)
    guest = visit(world, mail)
    assert look(world, guest).wanted == ""
    with pytest.raises(NotAllowed):
        add(world, guest)
    with pytest.raises(NotAllowed):
        by_link.send_in(world.context, guest, SendIn(version=version(world, made), files=["x"]))
    ask(world, made)
    (told,) = mails_to(world)
    assert told["link"] == mail["link"]
    copy_in(world, made)
    with pytest.raises(NotFound):
        look(world, guest)


def test_with_their_company_contacts_are_not_copied_in(world):
    made = make(world)
    copy_in(world, made, ("company", world.actor("yusuf").company_id))
    assert mails_to(world) == []


def test_the_link_shows_a_void_one_as_void(world, asked):
    made, mail = asked
    guest = visit(world, mail)
    void(world, made)
    assert (look(world, guest).state, look(world, guest).wanted) == ("void", "")


def test_a_contact_cannot_answer_what_their_company_sent_in(world, asked):
    made, mail = asked
    guest = visit(world, mail)
    files = [add(world, guest)]
    by_link.send_in(world.context, guest, SendIn(version=look(world, guest).version, files=files))
    with pytest.raises(RuleBroken, match="cannot answer it"):
        give(world, made, "yusuf")


def by_mail(world, text, files=(), **headers):
    raw = letter(f"Yusuf <{email_of(world, 'yusuf')}>", text, files=files, headers=dated(world, **headers))
    return came_in(world, raw, answer_address(world, email_of(world, "yusuf"), thing_kind="submittal"))


MARKED = ("marked.pdf", pdf("marked"))


def test_an_approver_without_an_account_answers_by_mail(world, to_answer):
    made, _ = to_answer
    assert by_mail(world, "B\n\nLonger bolts, please.\n\nOn Tue, Nod wrote:\n> C\n", [MARKED])[0] == "answer"
    (only,) = seen(world, made).rounds
    assert (only.verdict.code, only.answer_note) == ("B", "Longer bolts, please.")
    assert [each.name for each in only.answer_files] == ["marked.pdf"]
    assert (only.answered_by.name, state(world, made)) == ("Yusuf Haldane", "answered")
    entry = world.sql("SELECT body FROM audit_entry WHERE kind = 'submittal_answered'")[0][0]
    assert b'"mail sha256"' in entry
    assert any("answered B" in payload["subject"] for _, payload in world.send())


@pytest.mark.parametrize(
    ("text", "files", "missing"),
    [
        ("B", [], "needs what was answered, attached"),
        ("Looks fine to me", [MARKED], "No verdict was found"),
    ],
)
def test_what_is_half_an_answer_is_kept_and_said_what_is_missing(world, to_answer, text, files, missing):
    made, mail = to_answer
    assert by_mail(world, text, files)[0] == "answer"
    assert state(world, made) == "under review"
    (told,) = said(world, "submittal", made)
    assert (told.text.strip(), len(told.attachments)) == (text, len(files))
    (back,) = mails_to(world)
    assert missing in back["text"]
    assert back["link"] == mail["link"]


def test_a_question_is_said_in_its_talk_and_answered_by_nobody_for_them(world, to_answer):
    made, _ = to_answer
    assert by_mail(world, "A few words: which anchors are meant?")[0] == "answer"
    assert [each.text.strip() for each in said(world, "submittal", made)] == ["A few words: which anchors are meant?"]
    sent = {(payload["to_email"], payload["subject"].rpartition(": ")[2]) for _, payload in world.send()}
    assert (email_of(world, "marit"), "wrote about it by mail") in sent
    assert email_of(world, "yusuf") not in {email for email, _ in sent}


def test_an_answer_to_an_earlier_round_does_not_answer_this_one(world, to_answer):
    made, mail = to_answer
    old = answer_address(world, email_of(world, "yusuf"), thing_kind="submittal")
    guest = visit(world, mail)
    answer = GuestAnswers(version=look(world, guest).version, verdict="C", files=[add(world, guest)])
    by_link.answer(world.context, guest, answer)
    world.clock.advance(timedelta(hours=30))
    send_in(world, made)
    give(world, made, "yusuf")
    world.send()
    raw = letter(f"Yusuf <{email_of(world, 'yusuf')}>", "A", files=[MARKED], headers=dated(world))
    assert came_in(world, raw, old)[0] == "answer"
    assert state(world, made) == "under review"
    (back,) = mails_to(world)
    assert "an earlier mail" in back["text"]


def test_files_by_mail_are_kept_and_not_sent_in(world, asked):
    made, _ = asked
    assert by_mail(world, "Here they are.", [MARKED])[0] == "answer"
    assert state(world, made) == "asked for"
    (back,) = mails_to(world)
    assert "Files are sent in under the address" in back["text"]


def test_the_log_says_who_outside_has_it(world, asked):
    (line,) = listed(world).lines
    assert (line.standing.with_whom, line.person.name) == ("Yusuf Haldane", "Yusuf Haldane")


def test_a_new_address_becomes_a_contact_as_it_is_asked(world):
    """In the same act: what is refused leaves nobody behind."""
    submittal = make(world)
    contact = NewContact(name="Nell Okonkwo", email="nell@gannetmarine.example")
    command = AskFor(submittals={submittal: 99}, contact=contact)
    with pytest.raises(Stale):
        ask_for(world.context, world.actor("marit"), command)
    assert world.sql("SELECT count(*) FROM person WHERE email = ?", contact.email)[0][0] == 0
    command = AskFor(submittals=versions(world, submittal), contact=contact)
    ask_for(world.context, world.actor("marit"), command)
    line = seen(world, submittal).line
    assert (line.person.name, line.person.company, line.state) == ("Nell Okonkwo", "GME", "asked for")
    state = "SELECT m.state FROM membership m JOIN person p ON p.id = m.person_id WHERE p.email = ?"
    assert world.sql(state, contact.email) == [("contact",)]
    again = AskFor(submittals=versions(world, submittal), contact=contact)
    with pytest.raises(RuleBroken, match="is in this project already"):
        ask_for(world.context, world.actor("marit"), again)
