"""The post room's outsiders: what they send is what mail programs and servers send, and Nod takes it."""

import base64
import json

import pytest

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.mail_door import open_door
from nod.services.acts.work import Job
from nod.services.mail import mails, post_room
from nod.services.mail.post_room import Bounce, OutsideFile, OutsideMail
from nod.standins.post_room import open_post_room
from tests.ports import free_port
from tests.services.mail_in.letters import address, email_of, last_id, line_of, said


@pytest.fixture
def outside(world, sent):
    """The mails of a transmittal have been delivered to the post room, and Nod's door is open."""
    ports = {"smtp_port": free_port(), "mail_in_port": free_port()}
    world.context = world.with_settings(**ports)
    room = open_post_room(world.context.settings.mail_dir, world.clock, "127.0.0.1", ports["smtp_port"])
    listening = open_door(world.context, "127.0.0.1", ports["mail_in_port"])
    query = "SELECT key, payload FROM outbox WHERE key LIKE 'mail:recipient%'"
    for key, payload in world.sql(query):
        mails.send_mail(Job(world.context, world.press, key), json.loads(payload))
    yield {mail.to[0]: mail for mail in post_room.list_mail(world.context)}
    listening.stop()
    room.stop()


def test_a_mail_is_answered_with_a_file(world, sent, outside):
    mail = outside[email_of(world, "yusuf")]
    assert mail.files == ["HBC-T-0001_cover.pdf"]
    file = OutsideFile(name="note.txt", content=base64.b64encode(b"in good order").decode())
    command = OutsideMail(
        answers=mail.id, to=mail.answer_to, from_name="Yusuf", from_email=mail.to[0], subject=f"Re: {mail.subject}",
        text="Thank you", files=[file],
    )  # fmt: skip
    assert post_room.send_from_outside(world.context, command).said.startswith("250")
    world.look()
    assert line_of(world, sent, "yusuf").acknowledged_how == "mail"
    assert [each.name for each in said(world, "transmittal", sent.id)[0].attachments] == ["note.txt"]


@pytest.mark.parametrize(
    ("why", "words"), [("no_mailbox", "no such mailbox"), ("full", "full"), ("too_large", "large")]
)
def test_a_mail_comes_back(world, sent, outside, why, words):
    mail = outside[email_of(world, "yusuf")]
    assert post_room.bounce_mail(world.context, mail.id, Bounce(why=why)).said.startswith("250")
    world.look()
    assert words in line_of(world, sent, "yusuf").bounced_why
    assert line_of(world, sent, "anouk").bounced_why == ""


def test_what_nod_does_not_take_is_told(world, outside):
    def send(**more):
        command = {"to": address(world), "from_email": "a@b.example", "subject": "x", "text": "y", **more}
        return post_room.send_from_outside(world.context, OutsideMail(**command))

    for more, code in (({"to": "x@elsewhere.example"}, "mail_not_taken"), ({"from_email": "nobody"}, "email_invalid"),
                       ({"files": [OutsideFile(name="x", content="%")]}, "file_broken")):  # fmt: skip
        with pytest.raises(RuleBroken) as refused:
            send(**more)
        assert refused.value.code == code
    with pytest.raises(NotFound):
        send(answers="../../nod")
    send(subject="a\r\nBcc: x@y.example")
    world.look()
    assert world.sql("SELECT subject FROM mail_in WHERE id = ?", last_id(world)) == [("a Bcc: x@y.example",)]


def test_there_is_none_outside_the_demo(world):
    context = world.with_settings(demo=False)
    for act in (
        lambda: post_room.list_mail(context),
        lambda: post_room.bounce_mail(context, "x", Bounce(why="full")),
        lambda: post_room.send_from_outside(context, OutsideMail(to="x", from_email="y", subject="", text="")),
    ):
        with pytest.raises(NotFound):
            act()
