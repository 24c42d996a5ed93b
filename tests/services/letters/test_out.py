"""A thread for other programs and for paper, read by others than Nod (handbook §11)."""

import contextlib
import hashlib
import io
import mailbox
import subprocess
from datetime import timedelta
from email import message_from_bytes, policy

import pytest
from pypdf import PdfReader

from nod.core.acts.refusals import NotFound
from nod.services.letters import out
from nod.services.mail_in import held_mail
from nod.services.trail.trail import TrailView, read_log
from tests.services.letters.acts import (
    add,
    ask,
    begin,
    draft,
    half,
    keep,
    person,
    read,
    reply,
    send,
    set_private,
    write,
)
from tests.services.letters.test_by_mail import answer_of, mails, written
from tests.services.mail_in.letters import address, came_in, email_of
from tests.world import pdf


def taken(file):
    with file.content as path:
        return path.read_bytes()


def parsed(raw):
    return message_from_bytes(raw, policy=policy.default)


def answered(world):
    """A question with a file, answered from a mailbox with another."""
    begun = half(
        world, to=("yusuf", "ottilie"), kind="RFI", asked_id=world.cast.people["yusuf"],
        page="<p>Which grade?</p><p>From the detail one cannot say.</p>", proposed="8.8",
    )  # fmt: skip
    keep(world, begun, files=[add(world, begun, name="détail 7.pdf")])
    letter = send(world, begun)
    mails(world)
    world.clock.advance(timedelta(minutes=5))
    raw = written(world, "yusuf", "ANSWER\n\nGrade 8.8.\n\nFrom here on.", files=[("bolt.pdf", pdf("bolt"))])
    assert came_in(world, raw, answer_of(world, "yusuf"))[0] == "answer"
    return letter, raw


def test_a_message_is_a_mail_that_others_read(world):
    letter, raw = answered(world)
    first, second = read(world, letter).messages
    made = out.take_eml(world.context, world.actor("ottilie"), first.id)
    mail = parsed(taken(made).replace(b"\r\n", b"\n"))
    assert mail["From"].addresses[0].display_name == "Marit Osei"
    assert [each.display_name for each in mail["To"].addresses] == ["Yusuf Haldane", "Ottilie Vestergaard"]
    # Who does not run the project is told nobody's address.
    assert {each.addr_spec for each in (*mail["From"].addresses, *mail["To"].addresses)} == {address(world)}
    own = parsed(taken(out.take_eml(world.context, world.actor("marit"), first.id)))
    assert own["From"].addresses[0].addr_spec == email_of(world, "marit")
    assert mail["Subject"] == f"{read(world, letter).line.number} Bollards on the quay"
    assert "Which grade?\n\nFrom the detail" in mail.get_body(("plain",)).get_content()
    assert "<p>Which grade?</p>" in mail.get_body(("html",)).get_content()
    (file,) = mail.iter_attachments()
    assert (file.get_filename(), file.get_content_type()) == ("détail 7.pdf", "application/pdf")
    assert hashlib.sha256(file.get_content()).hexdigest() == first.files[0].sha256
    assert taken(out.take_eml(world.context, world.actor("ottilie"), second.id)) == raw


def test_a_thread_is_one_file_of_mails(world, tmp_path):
    letter, raw = answered(world)
    reply(world, letter, "marit", "<p>From now on, so be it.</p>")
    made = out.take_mbox(world.context, world.actor("ottilie"), letter)
    path = tmp_path / made.name
    path.write_bytes(taken(made))
    with contextlib.closing(mailbox.mbox(str(path), factory=lambda file: parsed(file.read()))) as kept:
        box = list(kept)
    assert [each.get_body(("plain",)).get_content().strip().split("\n")[0] for each in box] == [
        "Which grade?", "ANSWER", ">From now on, so be it.",
    ]  # fmt: skip
    assert box[1]["From"] == parsed(raw)["From"]
    assert [each.get_filename() for mail in box for each in mail.iter_attachments()] == ["détail 7.pdf", "bolt.pdf"]
    assert box[2]["In-Reply-To"].strip("<>").split("@")[0] == read(world, letter).messages[1].id


def test_a_thread_on_paper_has_its_words_and_the_hashes_of_its_files(world, tmp_path):
    letter, _ = answered(world)
    made = out.take_pdf(world.context, world.actor("ottilie"), letter)
    path = tmp_path / "thread.pdf"
    path.write_bytes(taken(made))
    assert subprocess.run(["qpdf", "--check", path], check=False, capture_output=True).returncode == 0
    text = "\n".join(page.extract_text() for page in PdfReader(io.BytesIO(path.read_bytes())).pages)
    for said in ("Which grade?", "Grade 8.8.", "The answer", "Hollinbrook Contracting", "by mail", "Proposed answer"):
        assert said in text
    for message in read(world, letter).messages:
        assert all(each.sha256 in text.replace("\n", "") for each in message.files)


@pytest.mark.parametrize("take", [out.take_pdf, out.take_mbox])
def test_what_is_not_there_for_somebody_is_not_in_what_they_take(world, take):
    letter = write(world, page="<p>Between us two.</p>")
    with pytest.raises(NotFound):
        taken(take(world.context, world.actor("leilani"), letter))
    with pytest.raises(NotFound):
        take(world.context, world.actor("marit"), draft(world, begin(world)).letter_id)
    reply(world, letter, "marit", "<p>Now for three.</p>", to=[person(world, each) for each in ("ottilie", "saoirse")])
    content = taken(take(world.context, world.actor("saoirse"), letter))
    text = content.decode("utf-8", "replace")
    if take is out.take_pdf:
        text = "\n".join(page.extract_text() for page in PdfReader(io.BytesIO(content)).pages)
    assert "Now for three." in text
    assert "Between us two." not in text


def test_each_taking_is_in_the_trail_and_private_ones_are_for_their_people(world):
    letter = ask(world, private=True)
    out.take_pdf(world.context, world.actor("ottilie"), letter)
    log = read_log(world.context, world.actor("marit"), TrailView(project_id=world.project_id, subject_id=letter))
    assert [each.who for each in log.entries if each.kind == "letter_taken_out"] == ["Ottilie Vestergaard"]
    for other in ("rafael", "tomasz", "ines"):
        with pytest.raises(NotFound):
            out.take_mbox(world.context, world.actor(other), letter)
        with pytest.raises(NotFound):
            out.take_eml(world.context, world.actor(other), read(world, letter).messages[0].id)


def test_a_mail_as_it_came_is_there_for_whoever_sees_what_became_of_it(world):
    letter, raw = answered(world)
    mail_id = read(world, letter).messages[1].mail
    set_private(world, letter)
    got = held_mail.download_mail(world.context, world.actor("ottilie"), mail_id)
    assert taken(got) == raw
    people = [person(world, each) for each in ("yusuf", "ottilie", "saoirse")]
    reply(world, letter, "marit", "<p>Now for four.</p>", to=people)
    assert [each.text for each in read(world, letter, "saoirse").messages] == ["Now for four."]
    with pytest.raises(NotFound):
        held_mail.download_mail(world.context, world.actor("saoirse"), mail_id)
