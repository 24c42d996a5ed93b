"""The record of a review, read back by another program (poppler): every stamp's name, time and verdict, on A4."""

import re
import subprocess

import pytest

from nod.core.acts.refusals import NotFound
from nod.services.press.press import PressStopped
from nod.services.reviews import review_record, reviews
from nod.services.reviews.changing import PutIn, put_in
from tests.services.reviews.test_route_editing import beside, make, start_on, step
from tests.world import NUMBER, OTHER_NUMBER, name


def read(made, tmp_path):
    """Its words, and the sizes of its pages in points."""
    path = tmp_path / made.name
    path.write_bytes(made.content)
    text = subprocess.run(["pdftotext", "-layout", path, "-"], capture_output=True, check=True, text=True).stdout
    info = subprocess.run(["pdfinfo", "-l", "99", path], capture_output=True, check=True, text=True).stdout
    return text, set(re.findall(r"size:\s+([\d.]+ x [\d.]+)", info)), int(re.search(r"Pages:\s+(\d+)", info)[1])


def test_every_stamp_verdict_and_comment_is_in_it(world, tmp_path):
    filed = world.file(name(), name(number=OTHER_NUMBER))
    row = beside(
        step(world, "leilani", act="decide", named="Structure"),
        step(world, "anouk", act="decide", named="Client"),
        step(world, "rafael", act="decide", named="Sum up", sums_up=True),
        C="back",
    )
    review = start_on(world, make(world, row), *filed)
    world.ink(filed[0][1], world.draw(filed[0][1], text="Move the <door> & frame"))
    world.hand_in(review, "leilani", "A", comment="Beam is fine")
    command = PutIn(gone_id=world.cast.people["anouk"], person_id=world.cast.people["dede"], reason="On leave")
    put_in(world.context, world.actor("rafael"), review, world.step(review, "anouk"), command)
    world.hand_in(review, "dede", "B", comment="Ünusual: “quotes” & <tags>")
    world.hand_in(review, "rafael", **{f"n{NUMBER[-4:]}": "C", f"n{OTHER_NUMBER[-4:]}": "B"})
    made = review_record.take_record(world.context, world.press, world.actor("leilani"), review)
    assert made.name == "RV-0001_record.pdf"
    text, sizes, _ = read(made, tmp_path)
    assert sizes == {"595.276 x 841.89"}
    flat = " ".join(text.split())
    for words in (
        "RV-0001", "Leilani Brandt (PLS)", "Dede Okonkwo (NFA), for Anouk Ferreira", "Rafael Nwosu (HBC)",
        "9 Mar 2027, 08:30", "Beam is fine", "Ünusual: “quotes” & <tags>", "Move the <door> & frame", NUMBER,
        OTHER_NUMBER, "Taken by Leilani Brandt on 9 Mar 2027", "Page 1",
    ):  # fmt: skip
        assert words in flat, words
    stamps = re.findall(r"\b([A-D](?: [A-D])*) handed in", flat)
    assert stamps == ["A", "B", "B C"]
    assert "back to its author" in flat
    assert "review_record_taken" in world.kinds()


def test_a_long_one_goes_over_pages_and_none_is_cut(world, tmp_path):
    (filed,) = world.file(name())
    row = beside(*(step(world, "leilani", "anouk", named=f"Look {place}", quota="all") for place in range(9)))
    review = start_on(world, make(world, row), filed)
    long = "word " * 700
    for place in range(9):
        for who in ("leilani", "anouk"):
            shown = world.review(review, who)
            at = shown.slip[place]
            answers = [reviews.DocumentAnswer(document_id=filed[0], comment=f"{long}{who}{place}")]
            command = reviews.HandIn(answers=answers, note=f"note {who} {place}")
            reviews.hand_in(world.context, world.actor(who), review, at.id, command)
    text, _, pages = read(review_record.take_record(world.context, world.press, world.actor("marit"), review), tmp_path)
    assert pages > 3
    for place in range(9):
        for who in ("leilani", "anouk"):
            assert f"{who}{place}" in text
            assert f"note {who} {place}" in text


def test_who_does_not_see_the_review_takes_no_record(world):
    (filed,) = world.file(name())
    review = world.start(filed)
    before = world.kinds()
    with pytest.raises(NotFound):
        review_record.take_record(world.context, world.press, world.actor("yusuf"), review)
    assert world.kinds() == before


def _pictures(made, tmp_path):
    """Of the pictures in it, by poppler: width and height in pixels."""
    path = tmp_path / made.name
    path.write_bytes(made.content)
    listed = subprocess.run(["pdfimages", "-list", path], capture_output=True, check=True, text=True).stdout
    return [tuple(map(int, line.split()[3:5])) for line in listed.splitlines()[2:] if " image " in line]


def test_each_mark_has_a_picture_of_its_place_and_pencil_has_none(world, tmp_path):
    (filed,) = world.file(name())
    review = start_on(world, make(world, step(world, "leilani")), filed)
    world.ink(filed[1], world.draw(filed[1], text="Here"), world.draw(filed[1], kind="cloud", text="And here"))
    world.draw(filed[1], text="Only mine")
    made = review_record.take_record(world.context, world.press, world.actor("leilani"), review)
    text, sizes, _ = read(made, tmp_path)
    assert sizes == {"595.276 x 841.89"}
    assert "Only mine" not in text
    assert _pictures(made, tmp_path) == [(700, 500)] * 2


def test_many_marks_have_words_and_the_first_of_them_pictures(world, tmp_path, monkeypatch):
    monkeypatch.setattr(review_record, "MOST_CLIPS", 3)
    filed = world.file(name(), name(number=OTHER_NUMBER))
    review = start_on(world, make(world, step(world, "leilani")), *filed)
    for _, revision in filed:
        drawn = world.draw_all(
            revision, *({"kind": "pin", "points": [(50, 50)], "text": f"No {at}"} for at in range(2))
        )
        world.ink(revision, *drawn)
    made = review_record.take_record(world.context, world.press, world.actor("leilani"), review)
    assert len(_pictures(made, tmp_path)) == 3
    text, _, _ = read(made, tmp_path)
    assert text.count("No 0") == text.count("No 1") == 2


def test_a_sheet_that_cannot_be_drawn_has_its_words(world, tmp_path, monkeypatch):
    (filed,) = world.file(name())
    review = start_on(world, make(world, step(world, "leilani")), filed)
    world.ink(filed[1], world.draw(filed[1], text="Still said"))

    def stopped(*_):
        raise PressStopped("clips")

    monkeypatch.setattr(world.press, "clips", stopped)
    made = review_record.take_record(world.context, world.press, world.actor("leilani"), review)
    assert "Still said" in read(made, tmp_path)[0]
    assert _pictures(made, tmp_path) == []
