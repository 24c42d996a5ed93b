"""Delivery status mails of many servers, against a table that was written by reading each file."""

import pytest

from nod.core.mail.statuses import status_words
from nod.formats.mail.arrived import read_arrived
from tests.outside import shared_data

BOUNCES = shared_data("mail/bounces")

NO_MAILBOX, UNWANTED = "there is no such mailbox", "the server took it for unwanted mail"
TABLE = {
    # name: (address, action, status, words), or what it is instead of a report
    "autoreply.msg": "automatic",  # Precedence: bulk, empty Return-Path: thanks for your e-mail
    "comcast-via-sendmail.unknown.msg": ("recipient@example.net", "failed", "5.1.6", "moved"),
    "exchange.unknown.msg": ("recipient@example.net", "failed", "", NO_MAILBOX),  # before RFC 3464
    "long-smtp.msg": ("recipient@example.net", "failed", "4.4.7", "too long"),
    "message-too-large-4.msg": ("john.smith@example2.co.za", "failed", "5.0.0", "too large"),
    "no-message-collected.msg": "unclear",  # a report with nothing in it
    "polish-autoreply.msg": "automatic",  # Precedence: junk
    "postfix.msg": ("bounce@dest.example.com", "failed", "5.0.0", "not taken"),  # relay access denied
    "quota-7.msg": ("john.smith@sample.com", "failed", "5.7.0", "the mailbox is full"),
    "spam-bogus-email-in-report.msg": "mail",  # advertising, and no report at all
    "spam-rejection13.msg": ("recipient@example.net", "failed", "5.7.1", UNWANTED),
    "spam-rejection19.msg": ("ws@sample.net", "failed", "5.7.1", UNWANTED),
    "spam-rejection24.msg": ("fred.bloggs@test.co.ug", "failed", "5.0.0", UNWANTED),
    "spam-rejection3.msg": ("aaa@b.c", "failed", "5.7.1", UNWANTED),
    "spam-rejection35.msg": ("john.smith@example.ac.uk", "failed", "5.0.0", UNWANTED),
    "spam-rejection40.msg": ("fred.bloggs@sample.uk.com", "failed", "5.7.1", UNWANTED),
    "spam-rejection7.msg": ("recipient@example.net", "failed", "5.0.0", UNWANTED),
    "surfcontrol-extra-newline.msg": ("recipient@example.net", "failed", "5.0.0", "not taken"),
    "user-unknown-polish.msg": ("recipient@example.net", "failed", "5.1.3", "not written right"),
    "warning-6.msg": "automatic",  # AUTO: … is out of the office, and no header that says so
    "yahoo-via-sendmail.unknown.msg": ("recipient@example.net", "failed", "5.0.0", "switched off"),
}  # fmt: skip


@pytest.mark.parametrize("name", sorted(TABLE))
def test_each_says_what_its_reader_finds_in_it(name):
    mail = read_arrived(BOUNCES / name)
    expected = TABLE[name]
    assert mail.fault == ""
    if isinstance(expected, str):
        report = mail.report.outcome if mail.report else ""
        assert (report or ("automatic" if mail.automatic else "mail")) == expected
        return
    (line,) = mail.report.lines
    assert (line.email, line.action, line.status) == expected[:3]
    assert expected[3] in status_words(line.status, line.said)
    assert mail.report.of_id.startswith("<")


def test_none_is_left_out():
    assert {path.name for path in BOUNCES.iterdir()} == set(TABLE)
