"""Mail that did not reach its reader: the mail server's refusal, and what servers tell later."""

import json
import smtplib
from email import message_from_bytes, policy

import pytest

from nod.core.acts.refusals import RuleBroken
from nod.services.acts.work import Job
from nod.services.mail import mails
from nod.services.mail_in import held_mail
from nod.services.notices import unread
from nod.services.threads import talk
from nod.services.transmittals import sending_again
from nod.services.transmittals.sending_again import SendAgain
from tests.services.mail_in.letters import address, answer_address, came_in, email_of, letter, line_of
from tests.world import NUMBER

DSN = """From: Mail Delivery System <mailer-daemon@mail.example>
Subject: Undelivered Mail Returned to Sender
Message-ID: <back-{status}@mail.example>
MIME-Version: 1.0
Content-Type: multipart/report; report-type=delivery-status; boundary="b"

--b
Content-Type: text/plain

It could not be delivered.
--b
Content-Type: message/delivery-status

Reporting-MTA: dns; mail.example

Final-Recipient: rfc822; {email}
Action: {action}
Status: {status}
Diagnostic-Code: smtp; {said}
--b
Content-Type: text/rfc822-headers

Message-ID: {of}
Subject: x
--b--
"""


def report(world, email, of="<none@x.example>", action="failed", status="5.1.1", said="550 5.1.1 User unknown"):
    return DSN.format(email=email, of=of, action=action, status=status, said=said).encode()


def message_id(world, email):
    return world.sql("SELECT message_id FROM mail_out WHERE email = ?", email)[0][0]


def test_a_report_marks_the_recipient_and_tells_the_sender(world, sent):
    email = email_of(world, "yusuf")
    raw = report(world, email, message_id(world, email))
    assert came_in(world, raw, address(world), "<>") == ("bounce", "", "transmittal")
    line = line_of(world, sent, "yusuf")
    assert (line.bounced_at, line.bounced_why) == (world.clock.now(), "there is no such mailbox")
    assert line_of(world, sent, "anouk").bounced_at is None
    notices = unread.read_bell(world.context, world.actor("marit"), world.project_id).notices
    assert [(each.words, each.because, each.unread) for each in notices] == [
        (f"HBC-T-0001 did not reach {email}", "you sent it", True),
    ]
    (back,) = held_mail.read_mailbox(world.context, world.actor("marit"), world.project_id, "back").back
    assert (back.email, back.why, back.thing.number) == (email, "there is no such mailbox", "HBC-T-0001")
    assert came_in(world, raw, address(world), "<>")[0] == "duplicate"
    assert world.kinds().count("mail_bounced") == 1


def test_a_report_that_names_no_mail_is_known_by_the_address_it_came_back_to(world, sent):
    email = email_of(world, "yusuf")
    raw = report(world, email, status="5.2.2", said="552 Mailbox full")
    assert came_in(world, raw, answer_address(world, email), "<>")[0] == "bounce"
    assert line_of(world, sent, "yusuf").bounced_why == "the mailbox is full"


def test_a_report_of_somebody_elses_mail_is_held(world, sent):
    state, why, _ = came_in(world, report(world, "x@y.example"), address(world), "<>")
    assert (state, why) == ("held", "It tells of a mail that did not leave from here.")


def test_late_is_not_lost(world, sent):
    email = email_of(world, "yusuf")
    raw = report(world, email, message_id(world, email), "delayed", "4.4.1")
    state, why, _ = came_in(world, raw, address(world), "<>")
    assert state == "news"
    assert why.startswith("It is late, and tried again: HBC-T-0001")
    assert line_of(world, sent, "yusuf").bounced_at is None


def test_it_is_sent_again_to_another_address(world, sent):
    email = email_of(world, "yusuf")
    came_in(world, report(world, email, message_id(world, email)), address(world), "<>")
    people = world.cast.people
    for who, to, code in (("yusuf", "no address", "email_invalid"), ("yusuf", email_of(world, "anouk"), "email_taken"),
                          ("anouk", "anouk@elsewhere.example", "has_account")):  # fmt: skip
        with pytest.raises(RuleBroken) as refused:
            sending_again.send_again(world.context, world.actor("marit"), sent.id, people[who], SendAgain(email=to))
        assert refused.value.code == code
    command = SendAgain(email="Yusuf.Haldane@coldharbour.example ")
    sending_again.send_again(world.context, world.actor("marit"), sent.id, people["yusuf"], command)
    mailed = [payload for key, payload in world.send() if key.startswith("mail:recipient")]
    assert [each["to_email"] for each in mailed] == ["yusuf.haldane@coldharbour.example"]
    line = line_of(world, sent, "yusuf")
    assert (line.email, line.bounced_at) == ("yusuf.haldane@coldharbour.example", None)
    to = answer_address(world, line.email)
    assert came_in(world, letter(f"Yusuf <{line.email}>"), to)[0] == "answer"


def test_a_notice_that_comes_back_is_listed_and_nobody_is_told_who_did_not_send_it(world, sent):
    ((document_id,),) = world.sql("SELECT id FROM document WHERE number = ?", NUMBER)
    talk.say(world.context, world.actor("leilani"), "document", document_id, talk.Say(text="@Marit Osei, look"))
    world.send()
    email = email_of(world, "marit")
    to = answer_address(world, email, thing_kind="document")
    assert came_in(world, report(world, email), to, "<>")[0] == "bounce"
    assert unread.read_bell(world.context, world.actor("leilani"), world.project_id).notices == []
    (back,) = held_mail.read_mailbox(world.context, world.actor("marit"), world.project_id, "back").back
    assert back.thing.number == NUMBER


class Refusing:
    """A mail server that refuses: `code` for the recipient, or for the content."""

    def __init__(self, code, at):
        self.code, self.at, self.sent = code, at, []

    def __call__(self, *_arguments, **_more):
        return self

    def __enter__(self):
        return self

    def __exit__(self, *_):
        return None

    def send_message(self, message, from_addr, to_addrs):
        self.sent.append((message, from_addr, to_addrs))
        if self.at == "recipient":
            raise smtplib.SMTPRecipientsRefused({to_addrs[0]: (self.code, b"5.1.1 User unknown")})
        if self.at == "content":
            raise smtplib.SMTPDataError(self.code, b"spam")
        return {}


def hand_over(world, server, monkeypatch):
    monkeypatch.setattr(smtplib, "SMTP", server)
    ((key, payload),) = world.sql(
        "SELECT key, payload FROM outbox WHERE key LIKE 'mail:recipient%' ORDER BY seq LIMIT 1"
    )
    mails.send_mail(Job(world.context, world.press, key), json.loads(payload))
    world.send()


@pytest.mark.parametrize(
    ("at", "why"), [("recipient", "there is no such mailbox"), ("content", "the server took it for unwanted mail")]
)
def test_what_the_mail_server_refuses_for_good_is_told_at_once(world, sent, monkeypatch, at, why):
    hand_over(world, Refusing(550, at), monkeypatch)
    assert line_of(world, sent, "yusuf").bounced_why == why


def test_what_it_refuses_for_now_is_tried_again(world, sent, monkeypatch):
    with pytest.raises(smtplib.SMTPResponseException):
        hand_over(world, Refusing(451, "recipient"), monkeypatch)
    assert line_of(world, sent, "yusuf").bounced_at is None


def test_a_mail_says_where_answers_go_and_keeps_its_identifier(world, sent, monkeypatch):
    server = Refusing(0, "")
    hand_over(world, server, monkeypatch)
    hand_over(world, server, monkeypatch)
    (first, envelope, _), (second, _, _) = server.sent
    assert first["Message-ID"] == second["Message-ID"] == message_id(world, email_of(world, "yusuf"))
    assert first["Reply-To"] == envelope == answer_address(world, email_of(world, "yusuf"))
    assert first["References"]
    assert first["Auto-Submitted"] == "auto-generated"
    read = message_from_bytes(first.as_bytes(), policy=policy.default)
    assert [each.get_content_type() for each in read.walk()] == [
        "multipart/mixed", "multipart/alternative", "text/plain", "text/html", "application/pdf",
    ]  # fmt: skip
    assert read.get_body(("plain",)).get_content().split("\n")[0] in read.get_body(("html",)).get_content()
