"""Mail taken apart: what is quoted, what comes along, what a page may show, and what hostile mail does not do."""

import time
from datetime import UTC, datetime
from email import message_from_bytes, policy
from email.message import EmailMessage
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from nod.core.threads.threads import unfolded
from nod.formats.mail.arrived import read_arrived
from nod.formats.mail.cleaned import clean
from nod.formats.mail.compose import Letter, compose
from nod.formats.mail.folds import folds_of
from tests.outside import shared_data

REPLIES = {
    # What its sender wrote, by reading each; two of the files are the text alone.
    "android.eml": "Hello\n02.04.2012",  # its line of introduction is in Russian, and stays
    "aol.eml": "Hello", "apple_mail.eml": "Hello", "apple_mail_2.eml": "Hello", "comcast.eml": "Hello",
    "gmail.eml": "Hello", "hotmail.eml": "Hello", "iphone.eml": "Hello", "outlook.eml": "Hello",
    "sparrow.eml": "Hello", "thunderbird.eml": "On 04/02/2012 06:26 PM, Megan One wrote:\n", "yahoo.eml": "Hello",
}  # fmt: skip


def read(tmp_path, raw, **more):
    path = tmp_path / "mail.eml"
    path.write_bytes(raw)
    return read_arrived(path, **more)


@pytest.mark.parametrize("name", sorted(REPLIES))
def test_what_was_written_just_now_is_left_to_read_and_nothing_is_cut(name):
    mail = read_arrived(shared_data("mail/talon-replies") / name)
    left = unfolded(mail.text, mail.folds)
    assert left.startswith(REPLIES[name].strip())
    assert "Hello" in left
    assert len(left) < 100
    body = message_from_bytes((shared_data("mail/talon-replies") / name).read_bytes(), policy=policy.default)
    assert mail.text == body.get_body(("plain",)).get_content().replace("\r\n", "\n")


@settings(max_examples=60, deadline=None)
@given(st.text(alphabet="ab >\n-:Onwrote,", max_size=200))
def test_folds_are_in_order_and_leave_something(text):
    folds = folds_of(text)
    assert list(folds) == sorted(folds)
    assert all(0 <= begin < end <= len(text) for begin, end in folds)
    assert all(first[1] <= second[0] for first, second in pairwise(folds))
    assert unfolded(text, folds) or not folds


def test_answers_between_the_lines_stay():
    text = "> Is it wet?\nYes.\n> Is it deep?\nNo.\n"
    assert unfolded(text, folds_of(text)) == "Yes.\nNo."


@pytest.mark.parametrize(
    "page",
    [
        "<script>alert(1)</script>x", "<img src='http://t.example/1.gif'>x", "<a href='javascript:x'>x</a>",
        "<form action=/api/sign-out><button>x</button></form>", "<style>*{display:none}</style>x",
        "<div style='position:fixed;inset:0' onclick=x id=root class=y>x</div>", "<iframe src=//e.example>x</iframe>",
        "<svg onload=x><a>x</a></svg>x", "<base href=//e.example><meta http-equiv=refresh content=0>x",
        "<math><mi//xlink:href='data:x'>x</math>x", "<p><table background='http://t.example'><td>x",
    ],
)  # fmt: skip
def test_a_page_keeps_words_alone(page):
    cleaned = clean(page)
    assert "x" in cleaned
    for bad in ("script", "<img", "javascript", "<form", "<button", "style", "onclick", "id=", "class", "iframe", "svg",
                "base", "meta", "onload", "xlink", "background"):  # fmt: skip
        assert bad not in cleaned


def test_links_tell_nobody_where_they_were_followed_from():
    assert clean("<a href='https://x.example'>y</a>").count("noreferrer") == 1


def nested(depth, kind):
    raw = b"Subject: deep\nFrom: a@b.example\n"
    for place in range(depth):
        if kind == "multipart":
            raw += f"Content-Type: multipart/mixed; boundary=b{place}\n\n--b{place}\n".encode()
        else:
            raw += b"Content-Type: message/rfc822\n\n"
    return raw + b"Content-Type: text/plain\n\nhello\n"


HOSTILE = {
    "parts in parts": nested(10_000, "multipart"),
    "mails in mails": nested(10_000, "message"),
    "a few in one another": nested(60, "multipart"),
    "a thousand parts": b"Content-Type: multipart/mixed; boundary=b\n\n" + b"--b\n\nx\n" * 3000 + b"--b--\n",
    "nothing": b"",
    "no headers": b"\n\n\nhello",
    "nul": b"From: a@b.example\nSubject: a\0b\n\nhel\0lo",
    "only nul": b"\0" * 100_000,
    "charset": b"From: a@b.example\nContent-Type: text/plain; charset=utf-99\n\n\xff\xfe",
    "bad base64": b"Content-Transfer-Encoding: base64\nContent-Type: text/plain\n\n!!!!====",
    "bad words": b"Subject: =?utf-8?b?////?= =?x?q?=\nFrom: =?utf-8?q?=ff?= <a@b>\nDate: yesterday\n\nx",
    "injection": b"Subject: =?utf-8?q?a=0D=0ABcc:_x=40y.example?=\nFrom: a@b.example\n\nx",
    "long header": b"Subject: " + b"x" * 2_000_000 + b"\nFrom: a@b.example\n\nx",
    "many headers": b"X: y\n" * 200_000 + b"\nx",
    "many senders": b"From: " + b"a@b.example, " * 20_000 + b"\n\nx",
    "file name": b"Content-Type: application/pdf; name=\"../../x\"\nContent-Disposition: attachment\n\nx",
    "broken boundary": b"Content-Type: multipart/mixed; boundary=\n\n--\n\nx",
    "report of nothing": b"Content-Type: multipart/report; report-type=delivery-status; boundary=b\n\n--b--",
    "report of rubbish": b"Content-Type: multipart/report; report-type=delivery-status; boundary=b\n\n--b\n"
    b"Content-Type: message/delivery-status\n\nAction: failed\n\nAction: exploded\nFinal-Recipient: x\n--b--",
}  # fmt: skip


@pytest.mark.parametrize("name", sorted(HOSTILE))
def test_hostile_mail_is_read_or_says_why_not(tmp_path, name):
    (tmp_path / "into").mkdir()
    began = time.monotonic()
    mail = read(tmp_path, HOSTILE[name], into=tmp_path / "into")
    assert time.monotonic() - began < 30
    assert mail.fault == "" or mail.fault.endswith(".")
    for words in (mail.subject, mail.message_id, *(each.name for each in mail.files)):
        assert not set(words) & {"\n", "\r", "\0"}
    assert "\0" not in mail.text
    assert all((tmp_path / "into" / each.place).is_file() for each in mail.files)
    assert sorted(path.name for path in tmp_path.iterdir()) == ["into", "mail.eml"]
    if name in ("parts in parts", "mails in mails", "a thousand parts"):
        assert mail.fault


@settings(max_examples=150, deadline=None)
@given(st.binary(max_size=600))
def test_any_bytes_are_read(tmp_path_factory, raw):
    read(tmp_path_factory.mktemp("any"), b"From: a@b.example\nContent-Type: multipart/mixed; boundary=b\n\n--b\n" + raw)


def test_a_name_or_subject_brings_no_header_along():
    letter = Letter(
        "Nod\r\nBcc: x@y.example", "nod@b.example", "Eve\nBcc: x@y.example", "eve@b.example", "Hi\r\nBcc: z@y.example",
        "text", datetime(2027, 3, 9, tzinfo=UTC), "<1@b.example>",
    )  # fmt: skip
    message = compose(letter)
    assert isinstance(message, EmailMessage)
    assert message["Bcc"] is None
    assert b"\nBcc:" not in message.as_bytes()
