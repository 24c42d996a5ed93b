"""Letters and mailboxes: sent by mail, answered from one, begun and forwarded by one (handbook §11)."""

from datetime import UTC, datetime

import pytest

from nod.core.acts.refusals import NotFound
from nod.services.mail_in import held_mail
from tests.services.letters.acts import ask, company, listed, read, reply, set_private, state, subjects, texts, write
from tests.services.mail_in.letters import address, answer_address, came_in, dated, email_of, last_id, letter
from tests.world import pdf


def mails(world):
    """By address, what is to be sent."""
    return {payload["to_email"]: payload for key, payload in world.send() if key.startswith("mail:")}


def answer_of(world, who):
    return answer_address(world, email_of(world, who), thing_kind="letter")


def written(world, who, text, **more):
    return letter(f"{who} <{email_of(world, who)}>", text, **more)


def test_who_is_in_it_gets_a_mail_with_its_words_and_files_under_one_thread(world):
    sent = write(world, to=("ottilie", "yusuf"), copied=("saoirse",), page="<p>Please see:</p><ul><li>one</li></ul>")
    found = mails(world)
    assert set(found) == {email_of(world, each) for each in ("ottilie", "yusuf", "saoirse")}
    for each in found.values():
        assert "Please see:\n\n- one" in each["text"]
        assert "To: Ottilie Vestergaard (GME), Yusuf Haldane (SGS)" in each["text"]
        assert f"Number: {read(world, sent).line.number}" in each["text"]
    assert "/letters/" in found[email_of(world, "ottilie")]["text"]
    assert "{link}" in found[email_of(world, "yusuf")]["text"]


def test_an_outsider_answers_from_their_mailbox_with_a_file(world):
    asked = ask(world, whom="yusuf", page="<p>Which grade?</p>")
    text = mails(world)[email_of(world, "yusuf")]["text"]
    assert "begin yours with ANSWER" in text
    raw = written(
        world, "yusuf", "ANSWER\n\nGrade 8.8.\n\nOn Tue, Nod wrote:\n> Which grade?", files=[("bolt.pdf", pdf())]
    )
    assert came_in(world, raw, answer_of(world, "yusuf")) == ("answer", "", "letter")
    shown = read(world, asked)
    assert shown.line.state == "answered"
    answer = shown.messages[1]
    assert (answer.author.name, answer.way, answer.is_answer) == ("Yusuf Haldane", "mail", True)
    assert "> Which grade?" in answer.text
    assert answer.folds
    assert [each.name for each in answer.files] == ["bolt.pdf"]
    assert "> Which grade?" not in mails(world)[email_of(world, "marit")]["text"]


def test_a_mail_that_does_not_say_so_is_no_answer(world):
    asked = ask(world, whom="yusuf")
    came_in(world, written(world, "yusuf", "We shall look into it."), answer_of(world, "yusuf"))
    assert state(world, asked) == "answer wanted"
    assert texts(world, asked)[1] == "We shall look into it."


def test_who_is_not_asked_cannot_give_the_answer_by_mail(world):
    asked = ask(world, whom="ottilie", to=("ottilie", "yusuf"))
    came_in(world, written(world, "yusuf", "ANSWER\n\nGrade 8.8."), answer_of(world, "yusuf"))
    assert state(world, asked) == "answer wanted"


def test_whoever_is_not_in_it_is_held(world):
    write(world, to=("yusuf",))
    raw = written(world, "leilani", "May I join?")
    assert came_in(world, raw, answer_of(world, "yusuf"))[:2] == ("held", "Its sender may not answer there.")


def test_others_of_the_project_who_are_copied_on_the_answer_are_in_it_from_there_on(world):
    sent = write(world, to=("yusuf",), page="<p>The price is 100.</p>")
    headers = {"Cc": f"Saoirse <{email_of(world, 'saoirse')}>"}
    came_in(world, written(world, "yusuf", "Saoirse knows.", headers=headers), answer_of(world, "yusuf"))
    assert texts(world, sent, "saoirse") == ["Saoirse knows."]
    assert email_of(world, "saoirse") not in mails(world)


def test_a_mail_to_the_project_begins_a_thread(world):
    headers = dated(world, To=f"{address(world)}, {email_of(world, 'ottilie')}, stranger@example.com")
    raw = written(world, "yusuf", "The bolts are late.", subject="Bolts", headers=headers, files=[("list.pdf", pdf())])
    assert came_in(world, raw) == ("begun", "", "letter")
    (line,) = listed(world).lines
    assert (line.subject, line.company, line.to, line.state) == ("Bolts", "SGS", "Ottilie Vestergaard (GME)", "open")
    assert line.number == "SGS-GME-L-0001"
    assert [each.name for each in read(world, line.id, "ottilie").messages[0].files] == ["list.pdf"]
    again = letter(f"<{email_of(world, 'yusuf')}>", "And the nuts.", subject="Another subject", headers={
        "In-Reply-To": "<one@plinthworks.example>", "Message-ID": "<two@plinthworks.example>"
    })  # fmt: skip
    assert came_in(world, again) == ("answer", "", "letter")
    assert texts(world, line.id) == ["The bolts are late.", "And the nuts."]


def test_a_mail_to_nobody_but_the_project_is_for_its_controllers(world):
    came_in(world, written(world, "yusuf", "The bolts are late.", subject="Bolts", headers=dated(world)))
    assert {email_of(world, each) for each in ("marit", "tomasz")} == set(mails(world))
    assert [line.unread for line in listed(world, "marit").lines] == [1]
    assert {each.name for each in read(world, listed(world).lines[0].id).parties} == {"Marit Osei", "Tomasz Adeyemi"}


def test_the_subject_alone_joins_nothing(world):
    came_in(world, written(world, "yusuf", "One.", subject="Bolts", headers=dated(world)))
    came_in(
        world, written(world, "yusuf", "Two.", subject="Re: Bolts", headers=dated(world, **{"Message-ID": "<x@y.z>"}))
    )
    assert len(listed(world).lines) == 2


def test_a_stranger_is_held_and_filed_by_hand_under_their_own_name(world):
    raw = letter("Kit Vale <kit@vale.example>", "A quote.", subject="Quote", headers=dated(world))
    assert came_in(world, raw)[0] == "held"
    mail_id = last_id(world)
    version = held_mail.read_mail(world.context, world.press, world.actor("marit"), mail_id).version
    command = held_mail.FileMail(version=version, kind="", target="")
    held_mail.file_mail(world.context, world.press, world.actor("marit"), mail_id, command)
    (line,) = listed(world).lines
    message = read(world, line.id).messages[0]
    assert (message.author, message.author_name, message.author_email) == (None, "Kit Vale", "kit@vale.example")
    assert line.began_by.name == "Marit Osei"


FORWARDED = """For your files.

---------- Forwarded message ---------
From: Kit Vale <kit@vale.example>
Date: Mon, 1 Mar 2027 at 16:05
Subject: Fenders, price
To: Yusuf Haldane <yusuf@sparrowgate.example>

The fenders are 4,100 each.
"""


def test_a_forwarded_mail_is_filed_under_its_own_sender_and_date(world):
    raw = written(world, "yusuf", FORWARDED, subject="Fwd: Fenders, price", headers=dated(world))
    came_in(world, raw)
    (line,) = listed(world).lines
    message = read(world, line.id).messages[0]
    assert line.subject == "Fenders, price"
    assert (message.author_name, message.author_email, message.author) == ("Kit Vale", "kit@vale.example", None)
    assert message.forwarded_by.name == "Yusuf Haldane"
    assert message.written_at == datetime(2027, 3, 1, 16, 5, tzinfo=UTC)
    assert "The fenders are 4,100 each." in message.text
    assert line.began_by.name == "Yusuf Haldane"


def test_a_mail_about_a_private_thread_is_kept_from_those_who_run_the_project(world):
    sent = write(world, "saoirse", to=("yusuf",), private=True)
    came_in(world, written(world, "yusuf", "Between us."), answer_of(world, "yusuf"))
    mail_id = last_id(world)
    with pytest.raises(NotFound):
        held_mail.read_mail(world.context, world.press, world.actor("marit"), mail_id)
    held_mail.download_mail(world.context, world.actor("saoirse"), mail_id)
    set_private(world, sent, "saoirse", private=False)
    held_mail.read_mail(world.context, world.press, world.actor("marit"), mail_id)


def test_who_was_removed_is_in_no_thread_that_is_filed_for_them(world):
    world.write("UPDATE membership SET state = 'removed' WHERE person_id = '" + world.cast.people["yusuf"] + "'")
    assert came_in(world, written(world, "yusuf", "Once more.", headers=dated(world)))[0] == "held"
    command = held_mail.FileMail(version=1, kind="", target="")
    held_mail.file_mail(world.context, world.press, world.actor("marit"), last_id(world), command)
    assert [each.name for each in read(world, listed(world).lines[0].id).parties] == ["Tomasz Adeyemi"]


def test_without_the_tool_a_mail_that_answers_nothing_is_held(world):
    world.write("UPDATE project SET rules = json_set(rules, '$.tools', json('[\"reviews\"]'))")
    assert came_in(world, written(world, "yusuf", "Hello", headers=dated(world)))[0] == "held"


def test_a_letter_that_does_not_reach_somebody_is_told_to_its_author(world):
    sent = write(world, to=(company(world, "ottilie"), "yusuf"))
    mails(world)
    raw = bounce(world, email_of(world, "yusuf"))
    assert came_in(world, raw, answer_of(world, "yusuf"), sender="<>")[0] == "bounce"
    assert "did not reach" in mails(world)[email_of(world, "marit")]["subject"]
    kinds = {row[0] for row in world.sql("SELECT json_extract(body, '$.kind') FROM audit_entry")}
    assert "letter_bounced" in kinds
    assert state(world, sent) == "open"


def bounce(world, to):
    return f"""From: postmaster@mail.example
To: nod@bft.example
Subject: Undelivered
Date: Tue, 9 Mar 2027 09:00:00 +0000
Message-ID: <bounce@mail.example>
MIME-Version: 1.0
Content-Type: multipart/report; report-type=delivery-status; boundary=b

--b
Content-Type: text/plain

No.
--b
Content-Type: message/delivery-status

Reporting-MTA: dns; mail.example

Final-Recipient: rfc822; {to}
Action: failed
Status: 5.1.1
Diagnostic-Code: smtp; 550 5.1.1 no such user

--b--
""".encode()


def test_the_same_answer_twice_is_there_once(world):
    sent = write(world, to=("yusuf",))
    raw = written(world, "yusuf", "Fine.", headers=dated(world))
    came_in(world, raw, answer_of(world, "yusuf"))
    assert came_in(world, raw, answer_of(world, "yusuf"))[0] == "duplicate"
    assert texts(world, sent) == ["Please see below.", "Fine."]


def test_an_automatic_reply_says_nothing(world):
    sent = write(world, to=("yusuf",))
    raw = written(world, "yusuf", "I am away.", headers={"Auto-Submitted": "auto-replied"})
    assert came_in(world, raw, answer_of(world, "yusuf"))[0] == "automatic"
    assert len(texts(world, sent)) == 1


def test_a_large_file_is_at_the_link(world):
    from tests.services.letters.acts import add, begin, keep, person, send

    begun = begin(world)
    files = [add(world, begun, name="big.bin", content=b"x" * 11_000_000), add(world, begun, name="small.pdf")]
    keep(world, begun, subject="Files", to=[person(world, "yusuf")], page="<p>Two.</p>", files=files)
    send(world, begun)
    mail = mails(world)[email_of(world, "yusuf")]
    assert [each["name"] for each in mail["enclosed"]] == ["small.pdf"]
    assert "Files at the link: big.bin" in mail["text"]


def test_who_is_told_of_the_answer_is_told_once(world):
    asked = ask(world)
    mails(world)
    reply(world, asked, is_answer=True)
    assert sorted(mails(world)) == sorted({email_of(world, "marit")})
    assert subjects(world, "marit", state="answered") == ["Which grade of bolt?"]
