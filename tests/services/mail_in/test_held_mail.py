"""Mail that is held: by whom it can be seen, filed, let go, and what adding its sender does."""

import pytest

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken, Stale
from nod.core.trail.entries import Subject
from nod.services.mail_in import held_mail
from nod.services.mail_in.held_mail import AddSender, FileMail, LetGo, MailVersion
from nod.services.mail_in.reading import TOO_SLOW
from nod.services.people.newcomers import ContactToAdd, NewCompany
from nod.services.press.press import PressStopped
from nod.services.register import search
from nod.services.things.things import may_know
from nod.services.trail import trail
from tests.services.mail_in.letters import (
    address,
    answer_address,
    became,
    came_in,
    dated,
    email_of,
    last_id,
    letter,
    line_of,
    said,
    without_letters,
)
from tests.world import NUMBER, pdf

OTTO = "Otto Brenner <otto@kestrelpiling.example>"


@pytest.fixture
def held(world):
    world.file(f"{NUMBER}_P01_S3_Quay hall plan.pdf")
    raw = letter(OTTO, "Pile tests attached.", subject="Pile tests", files=[("tests.pdf", pdf("tests"))],
                 headers=dated(world))  # fmt: skip
    assert came_in(world, raw) == ("held", "Its sender is nobody in this project.", "")
    return last_id(world)


def act(world, name, mail, *arguments, who="marit"):
    doing = getattr(held_mail, name)
    more = (world.press,) if name in ("file_mail", "read_mail") else ()
    return doing(world.context, *more, world.actor(who), mail, *arguments)


def box(world, tab="held", who="marit"):
    return held_mail.read_mailbox(world.context, world.actor(who), world.project_id, tab)


def test_it_is_there_for_those_who_run_the_project(world, held):
    assert [line.id for line in box(world).mails] == [held]
    assert box(world, who="rafael").held == 1
    for who in ("leilani", "paolo", "junpei"):
        with pytest.raises(NotAllowed):
            box(world, who=who)
        with pytest.raises(NotAllowed):
            act(world, "read_mail", held, who=who)
        with pytest.raises(NotFound):
            held_mail.download_mail(world.context, world.actor(who), held)
        found = search.search(world.context, world.actor(who), world.project_id, "Pile tests", 9)
        assert [each.kind for each in found.others] == []
        entries = trail.read_log(world.context, world.actor(who), trail.TrailView(project_id=world.project_id)).entries
        assert [each for each in entries if each.kind.startswith("mail")] == []
    assert search.search(world.context, world.actor("marit"), world.project_id, "Pile tests", 9).others
    assert world.send() == []  # its sender learns nothing


def test_it_is_filed_with_a_document_in_its_senders_name(world, held):
    ((document,),) = world.sql("SELECT id FROM document WHERE number = ?", NUMBER)
    read = act(world, "read_mail", held)
    assert (read.text.strip(), read.names, read.sender_known) == ("Pile tests attached.", ["tests.pdf"], False)
    command = FileMail(version=read.version, kind="document", target=document)
    act(world, "file_mail", held, command)
    (reply,) = said(world, "document", document)
    assert (reply.author.name, reply.author.way, reply.author.id) == ("Otto Brenner", "mail", "")
    assert [each.name for each in reply.attachments] == ["tests.pdf"]
    assert box(world).mails == []
    (line,) = box(world, "taken").mails
    assert (line.state, line.thing.number) == ("answer", NUMBER)
    with pytest.raises(Stale):
        act(world, "file_mail", held, command)
    with pytest.raises(RuleBroken):
        act(world, "file_mail", held, FileMail(version=2, kind="document", target=document))
    assert held_mail.download_mail(world.context, world.actor("leilani"), held).name.endswith(".eml")


def test_it_can_be_filed_with_nothing_elsewhere_or_hidden(world, held):
    for kind, target in (("document", "a" * 16), ("mail", held), ("folder", world.cast.folders[""]), ("x", "y")):
        with pytest.raises(NotFound):
            act(world, "file_mail", held, FileMail(version=1, kind=kind, target=target))
    assert became(world, held)[0] == "held"


def test_adding_its_sender_has_it_judged_again(world, sent):
    email = email_of(world, "yusuf")
    state, why, _ = came_in(world, letter(OTTO, headers=dated(world)), answer_address(world, email))
    assert (state, why) == ("held", "Its sender is nobody in this project.")
    company = NewCompany(name="Kestrel Piling", code="KPL", part="subcontractor")
    contact = ContactToAdd(name="Otto Brenner", company=company)
    act(world, "add_sender", last_id(world), AddSender(version=1, contact=contact))
    assert world.kinds().count("mail_judged_again") == 1
    world.look()
    assert became(world, last_id(world))[:2] == ("held", "Its sender may not answer there.")
    ((state,),) = world.sql(
        "SELECT m.state FROM membership m JOIN person p ON p.id = m.person_id WHERE p.email LIKE 'otto%'"
    )
    assert state == "contact"
    command = FileMail(version=2, kind="transmittal", target=sent.id)
    act(world, "file_mail", last_id(world), command)
    assert said(world, "transmittal", sent.id)[0].author.company == "KPL"
    assert line_of(world, sent, "yusuf").acknowledged_at is None


def test_filing_a_recipients_mail_acknowledges_for_them_and_says_who_filed_it(world, sent):
    without_letters(world)
    email = email_of(world, "yusuf")
    came_in(world, letter(f"Yusuf <{email}>", headers=dated(world)), address(world))
    act(world, "file_mail", last_id(world), FileMail(version=1, kind="transmittal", target=sent.id))
    assert line_of(world, sent, "yusuf").acknowledged_how == "mail"
    view = trail.TrailView(project_id=world.project_id, subject_id=sent.id, kind="transmittal_acknowledged")
    (entry,) = trail.read_log(world.context, world.actor("marit"), view).entries
    assert (entry.who, entry.after["for"]) == ("Marit Osei", "Yusuf Haldane")


def test_it_is_let_go_and_held_again(world, held):
    act(world, "let_go", held, LetGo(version=1, why="Advertising"))
    assert became(world, held)[0] == "let_go"
    assert box(world).held == 0
    assert box(world, "taken").mails[0].state == "let_go"
    with pytest.raises(RuleBroken):
        act(world, "let_go", held, LetGo(version=2))
    act(world, "hold_again", held, MailVersion(version=2))
    assert box(world).held == 1


def test_two_controllers_in_the_same_second(world, held):
    act(world, "let_go", held, LetGo(version=1), who="tomasz")
    with pytest.raises(Stale):
        act(world, "let_go", held, LetGo(version=1))


def test_leads_alone_know_of_it(world, held):
    with world.context.database.read() as session:
        assert may_know(session, world.project_id, world.cast.people["rafael"], [Subject("mail", held)])
        assert not may_know(session, world.project_id, world.cast.people["leilani"], [Subject("mail", held)])


def test_a_forgery_that_was_let_go_keeps_the_true_mail_not_out(world, sent):
    without_letters(world)
    email = email_of(world, "yusuf")
    forged = b"X-Forged: yes\n" + letter(f"Yusuf <{email}>", headers=dated(world))
    assert came_in(world, forged, address(world))[0] == "held"
    act(world, "let_go", last_id(world), LetGo(version=1))
    true = letter(f"Yusuf <{email}>", headers=dated(world))
    assert came_in(world, true, answer_address(world, email))[0] == "answer"


def test_a_mail_that_takes_too_long_is_held_and_not_tried_at_each_look(world, monkeypatch):
    tried = []

    def never(*asked):
        tried.append(asked)
        raise PressStopped("too long")

    monkeypatch.setattr(world.press, "mail", never)
    state, why, _ = came_in(world, letter(OTTO))
    assert (state, why) == ("held", TOO_SLOW)
    assert act(world, "read_mail", last_id(world)).fault == TOO_SLOW
    ((document, _),) = world.file(f"{NUMBER}_P01_S3_Quay hall plan.pdf")
    act(world, "file_mail", last_id(world), FileMail(version=1, kind="document", target=document))
    assert [each.name for each in said(world, "document", document)[0].attachments] == ["mail.eml"]
    assert len(tried) == 1
