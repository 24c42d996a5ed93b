"""Mails that were sent on, in the manners of several programs and languages; pages as plain words."""

from datetime import UTC, datetime, timedelta, timezone
from email.message import EmailMessage

import pytest

from nod.formats.mail.arrived import read_arrived
from nod.formats.mail.cleaned import clean
from nod.formats.mail.forwarded import is_sent_on, read_date, read_forwarded, without_mark
from nod.formats.mail.pages import text_of_page

CET = timezone(timedelta(hours=1))

MANNERS = {
    "dashes": (
        "Fwd: Fenders",
        "---------- Forwarded message ---------\nFrom: Kit Vale <kit@vale.example>\nDate: Mon, 1 Mar 2027 at 16:05\n"
        "Subject: Fenders\nTo: <a@b.example>\n\nText",
    ),
    "a bare block": (
        "FW: Fenders",
        "See below.\n\nFrom: Kit Vale <kit@vale.example>\nSent: Monday, March 1, 2027 4:05 PM\nTo: A B\n"
        "Subject: Fenders\n\nText",
    ),
    "an address in brackets": (
        "WG: Fenders",
        "Von: Kit Vale [mailto:kit@vale.example]\nGesendet: Montag, 1. März 2027 16:05\nAn: A\nBetreff: Fenders\n\nJa",
    ),
    "french": (
        "TR: Fenders",
        "De : Kit Vale <kit@vale.example>\nEnvoyé : lundi 1 mars 2027 16:05\nÀ : A B\nObjet : Fenders\n\nText",
    ),
    "quoted and bold": (
        "Fwd: Fenders",
        "> Begin forwarded message:\n>\n> *From:* Kit Vale <kit@vale.example>\n> *Subject:* Fenders\n"
        "> *Date:* 1 March 2027 at 16:05:00 CET\n> *To:* a@b.example\n>\n> Text",
    ),
    "spanish": (
        "RV: Fenders",
        "De: Kit Vale <kit@vale.example>\nEnviado el: lunes, 1 de marzo de 2027 16:05\nPara: A\nAsunto: Fenders\n\nSí",
    ),
}


@pytest.mark.parametrize("manner", MANNERS)
def test_who_wrote_it_and_when_is_read(manner):
    subject, text = MANNERS[manner]
    found = read_forwarded(text, subject, CET)
    assert (found.name, found.email, found.subject) == ("Kit Vale", "kit@vale.example", "Fenders")
    assert f"{found.sent_at:%Y-%m-%d %H:%M}" == "2027-03-01 16:05"


def test_an_answer_that_quotes_is_not_sent_on():
    _, text = MANNERS["a bare block"]
    assert read_forwarded(text, "Re: Fenders", CET) is None
    assert read_forwarded("From: the quay, all is well", "Fwd: News", CET) is None
    assert not is_sent_on("Forward planning")
    assert without_mark("Fwd: WG: Fenders") == "Fenders"


@pytest.mark.parametrize(
    ("words", "on"),
    [
        ("03/04/2027 16:05", None),
        ("13/04/2027 16:05", "2027-04-13 16:05"),
        ("04/04/2027 16:05", "2027-04-04 16:05"),
        ("yesterday", None),
        ("", None),
        ("1 Mar 1027", None),
    ],
)
def test_a_date_that_could_mean_two_days_is_left(words, on):
    found = read_date(words, CET)
    assert (found and f"{found:%Y-%m-%d %H:%M}") == on


def test_a_mail_that_was_sent_on_as_a_file(tmp_path):
    inner, outer = EmailMessage(), EmailMessage()
    inner["From"], inner["Subject"], inner["Date"] = (
        "Kit <kit@vale.example>",
        "Fenders",
        "Mon, 1 Mar 2027 16:05:00 +0000",
    )
    inner.set_content("The fenders are 4,100 each.")
    outer["From"], outer["Subject"] = "Rafael <r@h.example>", "Fwd: Fenders"
    outer.set_content("For the file.")
    outer.add_attachment(inner)
    (tmp_path / "m.eml").write_bytes(outer.as_bytes())
    mail = read_arrived(tmp_path / "m.eml", tmp_path)
    assert (mail.forwarded.email, mail.forwarded.subject) == ("kit@vale.example", "Fenders")
    assert mail.forwarded.sent_at == datetime(2027, 3, 1, 16, 5, tzinfo=UTC)
    assert mail.forwarded.text.strip() == "The fenders are 4,100 each."
    assert [each.media_type for each in mail.files] == ["message/rfc822"]


PAGES = {
    "<p>One</p><p>Two<br>three</p>": "One\n\nTwo\nthree",
    "<ul><li>a</li><li><p>b</p></li></ul>": "- a\n- b",
    "<ol><li>a</li><li>b</li></ol>": "1. a\n2. b",
    "<table><tr><th>Bolt</th><th>Grade</th></tr><tr><td><p>M24</p></td><td><p>8.8</p></td></tr></table>":
        "Bolt | Grade\nM24 | 8.8",
    '<p>See <a href="https://x.example">this</a>, <a href="https://y.example">https://y.example</a></p>':
        "See this (https://x.example), https://y.example",
    "<p>A <strong>bold</strong>  word</p>": "A bold word",
    "": "",
    "<script>alert(1)</script><p>x</p>": "x",
}  # fmt: skip


@pytest.mark.parametrize("page", PAGES)
def test_a_page_as_plain_words(page):
    assert text_of_page(page) == PAGES[page]


def test_a_page_that_is_very_deep_is_read_as_far_as_it_goes():
    assert "x" not in text_of_page("<div>" * 5000 + "x")
    assert clean("<div>" * 300 + "x")
