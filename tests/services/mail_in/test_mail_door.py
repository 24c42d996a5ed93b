"""The port itself: real SMTP, everything that the world sends, and a server that is killed while it takes mail."""

import os
import shutil
import signal
import smtplib
import subprocess
import sys
import threading
import time

import pytest
from sqlalchemy import insert

from nod.formats.mail.arrived import read_arrived
from nod.mail_door import EX_NOUSER, EX_TEMPFAIL, open_door, pipe
from nod.services.mail_in import door
from nod.store.blobs import NoRoom
from nod.store.tables import MembershipRow, PersonRow
from tests.outside import ROOT
from tests.ports import free_port
from tests.services.mail_in.letters import address, letter


@pytest.fixture
def port(world):
    number = free_port()
    listening = open_door(world.context, "127.0.0.1", number)
    yield number
    listening.stop()


def deliver(port, raw, to, sender="someone@example.com"):
    """Returns the answer to the content."""
    with smtplib.SMTP("127.0.0.1", port, timeout=60) as server:
        server.ehlo()
        server.mail(sender)
        code, said = server.rcpt(to)
        return server.data(raw) if code == 250 else (code, said)


def test_what_is_taken_is_on_the_disk_byte_for_byte(world, port):
    raw = letter("Yusuf <yusuf@x.example>").replace(b"\n", b"\r\n") + b"\r\n.dotted\r\n"
    code, said = deliver(port, raw, address(world))
    assert code == 250
    ((mail_id, sha256, sender),) = world.sql("SELECT id, sha256, envelope_from FROM mail_in")
    assert mail_id in said.decode()
    assert sender == "someone@example.com"
    with world.context.blobs.local(sha256) as path:
        assert path.read_bytes() == raw


def test_whose_it_is_is_asked_before_the_content(world, port):
    assert deliver(port, b"x", "nobody@brackwater.example")[0] == 550
    assert deliver(port, b"x", "bft@elsewhere.example")[0] == 550
    assert world.sql("SELECT count(*) FROM mail_in") == [(0,)]


def test_a_thousand_recipients_are_put_off_and_one_row_is_made(world, port):
    with smtplib.SMTP("127.0.0.1", port, timeout=60) as server:
        server.ehlo()
        server.mail("x@example.com")
        codes = [server.rcpt(address(world))[0] for _ in range(1000)]
        assert codes.count(250) == 100
        assert codes.count(452) == 900
        assert server.data(b"Subject: x\r\n\r\nx")[0] == 250
    assert world.sql("SELECT count(*) FROM mail_in") == [(1,)]


@pytest.mark.parametrize("fault", [NoRoom(28, "full"), RuntimeError("odd"), OSError(5, "broken disk")])
def test_what_cannot_be_stored_is_to_be_sent_again(world, port, monkeypatch, fault):
    def fail(*_):
        raise fault

    monkeypatch.setattr(door, "take_in", fail)
    code, _ = deliver(port, b"Subject: x\r\n\r\nx", address(world))
    assert 400 <= code < 500
    assert pipe(world.context, b"x", address(world), "") == EX_TEMPFAIL


def test_a_pipe_finds_whose_it_is_in_the_headers(world):
    for head in (f"To: {address(world)}", f"Delivered-To: {address(world)}\nTo: list@x.example"):
        assert pipe(world.context, f"{head}\nSubject: x\n\nx".encode(), "", "a@b.example") == 0
    assert pipe(world.context, b"To: who@x.example\n\nx", "", "") == EX_NOUSER
    assert world.sql("SELECT count(*) FROM mail_in") == [(2,)]


def test_large_and_long_mail_is_taken(world, port):
    raw = b"From: a@b.example\r\nSubject: large\r\n\r\n" + b"x" * (25 * 1024 * 1024) + b"\r\n"
    assert deliver(port, raw, address(world))[0] == 250
    world.look()
    assert world.sql("SELECT state FROM mail_in") == [("held",)]


def test_all_mail_that_there_is_comes_in_from_known_senders(world, port):
    """Nothing is lost, nothing is refused: each is what its bytes say, and those say it in words."""
    files = sorted(path for path in (ROOT / "mail").rglob("*") if path.is_file()) if (ROOT / "mail").is_dir() else []
    if not files:
        pytest.skip(f"the test files at {ROOT / 'mail'} are absent")
    _make_known(world, {read_arrived(path).senders[0][1] for path in files if read_arrived(path).senders})
    taken = []
    for path in files:
        # SMTP ends lines by CR LF (RFC 5321, 2.3.8).
        raw = path.read_bytes().replace(b"\r\n", b"\n").replace(b"\r", b"\n").replace(b"\n", b"\r\n")
        code, _ = deliver(port, raw, address(world), "" if "bounces" in str(path) else "x@example.com")
        assert code == 250, path
        taken.append(raw)
    world.look()
    rows = world.sql("SELECT sha256, state, why, size_bytes FROM mail_in ORDER BY seq")
    assert len(rows) == len(files)
    assert {state for _, state, _, _ in rows} <= {"begun", "answer", "held", "automatic", "duplicate"}
    assert all(why for _, state, why, _ in rows if state == "held")
    assert [row for row in rows if "breaks the rules" in row[2]] == []
    assert sum(state in ("begun", "answer") for _, state, _, _ in rows) > 60
    assert world.sql("SELECT count(*) FROM outbox WHERE gave_up_at IS NOT NULL") == [(0,)]
    for (sha256, *_), raw in zip(rows, taken, strict=True):
        with world.context.blobs.local(sha256) as kept:
            assert kept.read_bytes().removesuffix(b"\r\n") == raw.removesuffix(b"\r\n")


def _make_known(world, emails):
    world.written_by_hand = True
    company = world.actor("yusuf").company_id
    with world.context.database.write() as session:
        for place, email in enumerate(sorted(emails)):
            person = {"id": f"known{place:011d}", "name": f"Known {place}", "email": email, "company_id": company}
            session.execute(insert(PersonRow).values(**person, password_hash="", job="", notices={}, state="active"))
            session.execute(
                insert(MembershipRow).values(
                    project_id=world.project_id, person_id=person["id"], roles=[], state="contact", version=1
                )
            )


class Sender(threading.Thread):
    """Sends one mail after the other, each again until it is answered by 250."""

    def __init__(self, port, name, to, said_yes, stop):
        super().__init__()
        self.port, self.of, self.to, self.said_yes, self.stop = port, name, to, said_yes, stop

    def run(self):
        count = 0
        while not self.stop.is_set():
            key = f"<{self.of}-{count}@x.example>"
            raw = letter("A <a@x.example>", f"{key} " * 400, headers={"Message-ID": key})
            try:
                if deliver(self.port, raw, self.to)[0] == 250:
                    self.said_yes.append(key)
                    count += 1
            except (OSError, smtplib.SMTPException):
                time.sleep(0.02)


def kill_after(environment, said_yes, more):
    """A door that is killed when so many more mails have been answered."""
    server = subprocess.Popen([sys.executable, "-m", "nod.cli", "mail-door"], env=environment)
    before, until = len(said_yes), time.monotonic() + 60
    while len(said_yes) < before + more and time.monotonic() < until:
        time.sleep(0.01)
    server.send_signal(signal.SIGKILL)
    server.wait()


def test_what_was_answered_250_is_there_once_after_it_was_killed(world):
    """Several senders at once, the server killed at any moment and started again; who got no 250 sends again."""
    number, said_yes, stop = free_port(), [], threading.Event()
    more = {"NOD_DATA_DIR": str(world.context.settings.data_dir), "NOD_MAIL_IN_PORT": str(number), "NOD_DEMO": "true"}
    senders = [Sender(number, each, address(world), said_yes, stop) for each in range(3)]
    for each in senders:
        each.start()
    try:
        for _ in range(4):
            kill_after(os.environ | more, said_yes, 15)
    finally:
        stop.set()
        for each in senders:
            each.join()
    world.look()
    rows = world.sql("SELECT message_id, state FROM mail_in")
    once = [message_id for message_id, state in rows if state != "duplicate"]
    assert len(said_yes) >= 60
    assert set(said_yes) <= set(once)
    assert len(once) == len(set(once))


def test_a_mail_tester_and_a_mail_program_deliver_with_a_file(world, port, tmp_path):
    """swaks and s-nail, as Debian has them."""
    note = tmp_path / "note.txt"
    note.write_text("Delivered in good order.\n")
    to, sender = address(world), "yusuf@coldharbour.example"
    swaks = [
        "swaks",
        "--server",
        "127.0.0.1",
        "--port",
        str(port),
        "--to",
        to,
        "--from",
        sender,
        "--attach",
        f"@{note}",
    ]
    mailx = [
        "s-nail", "-:/", "-Sv15-compat", f"-Smta=smtp://127.0.0.1:{port}", "-Ssmtp-auth=none", f"-Sfrom={sender}",
        "-Ssendwait", "-s", "By hand", "-a", str(note), to,
    ]  # fmt: skip
    for command in (swaks, mailx):
        if shutil.which(command[0]) is None:
            pytest.skip(f"{command[0]} is absent: `make browser` installs it")
        done = subprocess.run(command, input="Hello\n", capture_output=True, text=True, timeout=60, check=False)
        assert done.returncode == 0, done.stdout + done.stderr
    world.look()
    rows = world.sql("SELECT state, sender_email, subject, files FROM mail_in ORDER BY seq")
    assert [(state, email) for state, email, _, _ in rows] == [("held", sender)] * 2
    assert rows[1][2] == "By hand"
    assert all("note.txt" in files for *_, files in rows)
