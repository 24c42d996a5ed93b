"""Answers by mail: what they mean to a transmittal and to a document, and who may give them."""

from datetime import timedelta

from nod.core.threads.threads import unfolded
from nod.services.mail_in import door, held_mail
from nod.services.notices import unread
from nod.services.people import members, newcomers
from nod.services.threads import talk
from tests.services.mail_in.letters import (
    address,
    answer_address,
    came_in,
    dated,
    email_of,
    last_id,
    letter,
    line_of,
    said,
)
from tests.world import NUMBER, bytes_of, pdf


def test_answering_the_mail_of_a_transmittal_acknowledges_it_with_a_note(world, sent):
    email = email_of(world, "yusuf")
    text = "Received, thank you.\n\nOn Tue, 9 Mar 2027 at 09:30, Nod wrote:\n> Please build.\n"
    raw = letter(f"Yusuf <{email}>", text, files=[("../../delivery note.pdf", pdf("note"))], headers=dated(world))
    assert came_in(world, raw, answer_address(world, email)) == ("answer", "", "transmittal")
    line = line_of(world, sent, "yusuf")
    assert line.acknowledged_at == world.clock.now()
    assert line.acknowledged_how == "mail"
    assert line_of(world, sent, "anouk").acknowledged_at is None
    (reply,) = said(world, "transmittal", sent.id)
    assert (reply.author.way, reply.author.id) == ("mail", world.cast.people["yusuf"])
    assert unfolded(reply.text, reply.folds) == "Received, thank you."
    assert "> Please build." in reply.text
    assert [each.name for each in reply.attachments] == ["delivery note.pdf"]
    got = bytes_of(held_mail.download_mail(world.context, world.actor("marit"), reply.mail))
    assert got == raw
    words = [each.words for each in unread.read_bell(world.context, world.actor("marit"), world.project_id).notices]
    assert words == ["Yusuf Haldane acknowledged HBC-T-0001 by mail"]


def test_the_mail_that_it_names_as_answered_is_enough(world, sent):
    email = email_of(world, "yusuf")
    ((message_id,),) = world.sql("SELECT message_id FROM mail_out WHERE email = ?", email)
    raw = letter(f"Yusuf <{email}>", headers=dated(world, References=f"<other@x.example> {message_id}"))
    assert came_in(world, raw, address(world)) == ("answer", "", "transmittal")
    assert line_of(world, sent, "yusuf").acknowledged_how == "mail"


def test_a_subject_alone_says_nothing(world, sent):
    raw = letter(f"Yusuf <{email_of(world, 'yusuf')}>", subject="Re: HBC-T-0001", headers=dated(world))
    assert came_in(world, raw, address(world)) == ("begun", "", "letter")
    assert line_of(world, sent, "yusuf").acknowledged_at is None


def test_a_contact_answers_only_what_was_sent_to_them(world, sent):
    other = "ines@coldharbour.example"
    person = newcomers.PersonToAdd(
        name="Ines Vidal", email=other, company_id=world.actor("marit").company_id, contact=True
    )
    command = newcomers.AddPeople(project_id=world.project_id, people=[person])
    newcomers.add_people(world.context, world.actor("rafael"), command)
    raw = letter(f"Ines <{other}>", headers=dated(world))
    state, why, _ = came_in(world, raw, answer_address(world, email_of(world, "yusuf")))
    assert (state, why) == ("held", "Its sender may not answer there.")


def test_an_answer_to_a_notice_is_said_in_the_talk_of_its_thing(world, sent):
    ((document_id,),) = world.sql("SELECT id FROM document WHERE number = ?", NUMBER)
    command = talk.Say(text="@Marit Osei, is this the last one?")
    talk.say(world.context, world.actor("leilani"), "document", document_id, command)
    world.send()
    email = email_of(world, "marit")
    raw = letter(f"Marit <{email}>", "It is.\n\n-- \nMarit Osei\n", headers=dated(world))
    assert came_in(world, raw, answer_address(world, email, thing_kind="document")) == ("answer", "", "document")
    reply = said(world, "document", document_id)[-1]
    assert (reply.author.name, reply.author.way) == ("Marit Osei", "mail")
    assert unfolded(reply.text, reply.folds) == "It is."


def test_who_was_removed_is_held(world, sent):
    to = answer_address(world, email_of(world, "yusuf"))
    command = members.RemoveMember(version=1, heir_id=world.cast.people["anouk"])
    yusuf = world.cast.people["yusuf"]
    members.remove_member(world.context, world.actor("rafael"), world.project_id, yusuf, command)
    state, why, _ = came_in(world, letter(f"Yusuf <{email_of(world, 'yusuf')}>", headers=dated(world)), to)
    assert (state, why) == ("held", "Its sender has been removed from the project.")


def test_a_forged_address_for_answers_is_the_projects_own(world, sent):
    email = email_of(world, "yusuf")
    forged = answer_address(world, email).replace("+", "+a", 1)
    assert came_in(world, letter(f"Yusuf <{email}>", headers=dated(world)), forged)[0] == "begun"
    assert line_of(world, sent, "yusuf").acknowledged_at is None
    assert not door.is_ours(world.context, "other@brackwater.example")
    assert door.take_in(world.context, "x@y.example", ["bft@elsewhere.example"], b"x") == []


def test_the_same_mail_twice_is_one_and_another_with_its_identifier_is_held(world, sent):
    email = email_of(world, "yusuf")
    to = answer_address(world, email)
    raw = letter(f"Yusuf <{email}>", headers=dated(world))
    assert came_in(world, raw, to)[0] == "answer"
    assert came_in(world, raw, to)[0] == "duplicate"
    assert came_in(world, b"Received: from b by c\r\n" + raw, to)[0] == "duplicate"
    assert len(said(world, "transmittal", sent.id)) == 1
    world.clock.advance(timedelta(minutes=5))
    other = letter(f"Yusuf <{email}>", "Something else", subject="Other", headers=dated(world))
    assert came_in(world, other, to)[1] == "It has the identifier of a mail that came before, but says something else."


def test_what_a_machine_wrote_acknowledges_nothing(world, sent):
    email = email_of(world, "yusuf")
    to = answer_address(world, email)
    away = letter(f"Yusuf <{email}>", "I am away.", headers=dated(world, **{"Auto-Submitted": "auto-replied"}))
    assert came_in(world, away, to)[0] == "automatic"
    sick = letter(
        f"Yusuf <{email}>", "I am ill.", subject="Automatic reply: x", headers={"Message-ID": "<2@x.example>"}
    )
    assert came_in(world, sick, to)[0] == "automatic"
    ours = letter(f"Nod <{world.context.settings.mail_from}>", headers={"Message-ID": "<3@x.example>"})
    assert came_in(world, ours, to)[:2] == ("automatic", "It was written by Nod itself.")
    assert line_of(world, sent, "yusuf").acknowledged_at is None
    assert world.send() == []


def test_what_ones_own_server_calls_forged_is_held(world, sent):
    world.context = world.with_settings(mail_server="mx.brackwater.example")
    email = email_of(world, "yusuf")
    to = answer_address(world, email)
    for place, (told, state) in enumerate(
        [
            ("mx.brackwater.example; spf=fail smtp.mailfrom=x", "held"),
            ("mx.brackwater.example; spf=fail; dkim=fail; dmarc=pass", "answer"),
            ("mx.elsewhere.example; dmarc=fail", "answer"),
        ]
    ):
        headers = {"Authentication-Results": told, "Message-ID": f"<{place}@x.example>"}
        assert came_in(world, letter(f"Yusuf <{email}>", headers=headers), to)[0] == state
    assert "SPF fails" in world.sql("SELECT why FROM mail_in WHERE state = 'held'")[0][0]


def test_the_trail_has_the_hash_of_what_came(world, sent):
    email = email_of(world, "yusuf")
    came_in(world, letter(f"Yusuf <{email}>", headers=dated(world)), answer_address(world, email))
    ((sha256,),) = world.sql("SELECT sha256 FROM mail_in WHERE id = ?", last_id(world))
    bodies = [row[0].decode() for row in world.sql("SELECT body FROM audit_entry WHERE kind = 'mail_read'")]
    assert len(bodies) == 1
    assert sha256 in bodies[0]
