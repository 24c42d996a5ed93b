"""What is taken away of transmittals: the log as a table, and one of them as evidence, read back by poppler."""

import hashlib
import io
from datetime import timedelta

import openpyxl
import pytest

from nod.core.acts.refusals import NotFound
from nod.services.transmittals import evidence, guest_sheets, guests, log_taken, voiding
from nod.services.transmittals.guests import Acknowledge
from nod.services.transmittals.log import AskedLog
from tests.services.reviews.test_record import read
from tests.services.transmittals.test_recipients_page import _visit
from tests.services.transmittals.test_transmittals import _send, closed  # noqa: F401
from tests.world import NUMBER, name, pdf


@pytest.fixture
def sent(world, closed):  # noqa: F811
    found = _send(world, closed, note="For the <pour> & more.")
    world.send()
    _visit(world, 1)
    visit, first = _visit(world), closed[1][0][1]
    guests.read_as_guest(world.context, visit)
    world.clock.advance(timedelta(minutes=7))
    guest_sheets.download_file(world.context, visit, first)
    world.clock.advance(timedelta(minutes=1))
    guests.acknowledge(world.context, visit, Acknowledge(note="Thank you, Ünal."))
    return found


def _lines(world, who, **more):
    asked = AskedLog(world.project_id, **more)
    made = log_taken.take_log(world.context, world.actor(who), asked, "xlsx")
    sheet = openpyxl.load_workbook(io.BytesIO(made.content)).active
    heads, *rows = sheet.iter_rows(values_only=True)
    return [dict(zip(heads, row, strict=True)) for row in rows]


def test_the_log_has_a_line_for_each_recipient_with_their_times(world, sent):
    yusuf, anouk = _lines(world, "marit")
    assert (yusuf["Number"], yusuf["Recipient"]) == ("HBC-T-0001", "Yusuf Haldane (SGS)")
    assert (yusuf["Files one by one"], yusuf["Note"]) == (1, "Thank you, Ünal.")
    assert yusuf["Acknowledged"].strftime("%H:%M") == "08:38"
    assert (anouk["Recipient"], anouk["Acknowledged"]) == ("Anouk Ferreira (BHT)", None)
    assert "transmittal_log_taken" in world.kinds()
    assert _lines(world, "marit", state="acknowledged") == []


def test_another_company_takes_its_own_times_alone(world, sent):
    yusuf, anouk = _lines(world, "anouk")
    assert (yusuf["Opened"], yusuf["Acknowledged"], yusuf["Note"]) == (None, None, None)
    assert anouk["Opened"]
    assert _lines(world, "leilani") == []


def test_the_evidence_has_every_time_hash_and_the_seal(world, sent, tmp_path):
    made = evidence.take_evidence(world.context, world.actor("marit"), sent.id)
    assert made.name == "HBC-T-0001_evidence.pdf"
    text, _, _ = read(made, tmp_path)
    flat = " ".join(text.split())
    leaves = {leaf.hex() for (leaf,) in world.sql("SELECT leaf_sha256 FROM audit_entry WHERE body LIKE '%HBC-T-0001%'")}
    (note,) = (row[0] for row in world.sql("SELECT note FROM seal ORDER BY size DESC LIMIT 1"))
    for words in (
        "Evidence of transmittal HBC-T-0001", "Marit Osei, Hollinbrook Contracting", "“For the <pour> & more.”",
        "yusuf@sparrowgate.example", "9 Mar 2027, 08:38:00 GMT", "“Thank you, Ünal.”", "1 of 2 documents",
        f"{NUMBER} P01", f"{NUMBER}_P01_S3.pdf", "Downloaded one by one: Yusuf Haldane (SGS)", "not yet",
        "Marit Osei (HBC) sent a transmittal", "Nod packed a transmittal", "opened a transmittal",
        f"downloaded a transmittal: {NUMBER}_P01_S3.pdf", "took the evidence of a transmittal",
    ):  # fmt: skip
        assert words in flat, words
    assert all(line in text for line in note.strip().splitlines() if line)
    # Hashes are broken over no lines, so that they can be looked for.
    assert all(leaf in text for leaf in leaves)
    assert hashlib.sha256(pdf(name())).hexdigest() in text
    assert {row[0] for row in world.sql("SELECT pack_sha256 FROM transmittal")} < set(text.split())


def test_a_recipient_has_evidence_of_their_own_times_and_others_none(world, sent, tmp_path):
    text, _, _ = read(evidence.take_evidence(world.context, world.actor("anouk"), sent.id), tmp_path)
    assert "for them and the sender" in text
    assert "Thank you" not in text
    assert "yusuf@sparrowgate.example" not in text
    assert "acknowledged a transmittal" not in text
    with pytest.raises(NotFound):
        evidence.take_evidence(world.context, world.actor("leilani"), sent.id)


def test_the_evidence_of_a_void_one_says_so(world, sent, tmp_path):
    voiding.void_transmittal(world.context, world.actor("marit"), sent.id, voiding.VoidTransmittal(reason="Wrong set"))
    text, _, _ = read(evidence.take_evidence(world.context, world.actor("marit"), sent.id), tmp_path)
    assert "Wrong set" in text
    assert "voided a transmittal" in text
