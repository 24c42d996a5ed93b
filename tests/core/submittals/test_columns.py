"""What people write into the columns of a log, and numbers given in a row."""

import pytest

from nod.core.acts.list_columns import guess_columns
from nod.core.acts.refusals import RuleBroken
from nod.core.submittals.arithmetic import LeadIn
from nod.core.submittals.columns import HEADS, LABELS, read_count, read_time, read_unit
from nod.core.submittals.numbers import Counter, NumberedBy, next_number


def test_what_nod_writes_over_a_column_is_what_it_knows_it_by():
    assert list(guess_columns(list(LABELS.values()), HEADS)) == list(HEADS)
    assert guess_columns(list(LABELS.values()), HEADS) == {field: list(LABELS).index(field) for field in HEADS}


@pytest.mark.parametrize(
    ("said", "read"),
    [
        (30, (30, None)), (30.0, (30, None)), ("030", (30, None)), ("30,0", (30, None)),
        (" 30 Days ", (30, LeadIn.WORKING_DAYS)),
        ("6 weeks", (6, LeadIn.WEEKS)), ("6wk", (6, LeadIn.WEEKS)), ("12 W", (12, LeadIn.WEEKS)),
    ],
)  # fmt: skip
def test_times_are_read_as_people_write_them(said, read):
    assert read_time(said) == read


@pytest.mark.parametrize("said", ["", "soon", "30.5", "-3", "6 moons", "1e3", "30 40", True, "9" * 6])
def test_what_is_no_time_is_refused(said):
    with pytest.raises(RuleBroken):
        read_time(said)


def test_a_review_is_not_counted_in_weeks():
    assert read_count("10 d") == 10
    with pytest.raises(RuleBroken, match="working days"):
        read_count("2 weeks")
    assert read_unit("Weeks") is LeadIn.WEEKS
    for said in ("", "years"):
        with pytest.raises(RuleBroken):
            read_unit(said)


def test_numbers_in_a_row_follow_the_highest_of_each_beginning():
    taken = ["HBC-0007", "HBC-0002", "HBC-X-0100", "GME-12", "odd"]
    counter = Counter(NumberedBy.COMPANY, taken)
    assert [counter.next(each) for each in ("HBC", "HBC", "GME", "NEW", "HBC-X")] == [
        "HBC-0008", "HBC-0009", "GME-0013", "NEW-0001", "HBC-X-0101",
    ]  # fmt: skip
    assert next_number(NumberedBy.SECTION, "084413", ["084413-009"]) == "084413-010"
