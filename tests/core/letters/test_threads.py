"""Letters: numbers, kinds, states and days, as handbook §11 has them."""

from dataclasses import replace
from datetime import date

import pytest

from nod.core.acts.refusals import NotAllowed, RuleBroken
from nod.core.acts.working_days import Calendar, Counting, days_late, due_on
from nod.core.letters.days import days_open
from nod.core.letters.kinds import (
    DEFAULT_KINDS,
    LetterKind,
    NumberedBy,
    check_kinds,
    kept_kinds,
    kind_named,
    kinds_read,
    usual_kind,
)
from nod.core.letters.mailed import is_answer
from nod.core.letters.numbers import next_letter_number, number_start
from nod.core.letters.sight import Sight, added_from
from nod.core.letters.states import RULES, Deed, Part, State, after_writing, check, may

RFI = kind_named(DEFAULT_KINDS, "RFI")
LETTER = kind_named(DEFAULT_KINDS, "L")


def test_numbers_are_those_of_the_handbook():
    """`TRA-RFI-0007` by kind and company, `HBC-TRA-L-0012` by sender and recipient (handbook §11)."""
    taken = ["TRA-RFI-0006", "TRA-RFI-0002", "HBC-TRA-L-0011", "TRA-HBC-L-0040", "HBC-TRA-L-X", "HBC-TRA-L-00"]
    assert next_letter_number(number_start(RFI, "TRA", "HBC"), taken) == "TRA-RFI-0007"
    assert next_letter_number(number_start(LETTER, "HBC", "TRA"), taken) == "HBC-TRA-L-0012"
    assert next_letter_number(number_start(LETTER, "HBC", ""), taken) == "HBC-L-0001"
    assert next_letter_number("HBC-L", ["HBC-L-9999"]) == "HBC-L-10000"


def test_what_counts_as_open_and_late_is_that_of_the_handbook():
    """Sent Fri 12 Mar, open on 31 Mar 19 days; due in 7 calendar days Fri 19 Mar, 12 late (handbook §11)."""
    sent, today = date(2027, 3, 12), date(2027, 3, 31)
    due = due_on(sent, RFI.answer_days, RFI.counting, Calendar())
    assert (days_open(sent, today), due, days_late(due, today, RFI.counting, Calendar())) == (19, date(2027, 3, 19), 12)


def test_kinds_are_kept_and_read_as_they_were():
    given = (*DEFAULT_KINDS, LetterKind("SI", "site instruction", NumberedBy.COMPANY, 3, Counting.WORKING, asks=True))
    assert kinds_read(kept_kinds(given)) == given
    assert kinds_read(None) == DEFAULT_KINDS


@pytest.mark.parametrize(
    ("kind", "code"),
    [
        (LetterKind("l", "letter"), "code_invalid"),
        (LetterKind("L", "again"), "code_twice"),
        (LetterKind("X", ""), "words_missing"),
        (LetterKind("X", "x", answer_days=400), "days_unfit"),
    ],
)
def test_a_kind_that_cannot_be_is_named(kind, code):
    with pytest.raises(RuleBroken) as refused:
        check_kinds([*DEFAULT_KINDS, kind])
    assert refused.value.code == code


def test_one_kind_at_least_is_in_use_and_the_usual_one_begins_by_mail():
    assert usual_kind(DEFAULT_KINDS) is LETTER
    assert usual_kind([replace(LETTER, out_of_use=True), RFI]) is RFI
    with pytest.raises(RuleBroken):
        check_kinds([replace(each, out_of_use=True) for each in DEFAULT_KINDS])
    with pytest.raises(RuleBroken):
        kind_named([replace(LETTER, out_of_use=True)], "L")


MAY = {
    Deed.WRITE: ("began", "asked", "named", "runs"), Deed.ANSWER: ("asked", "runs"), Deed.CLOSE: ("began", "runs"),
    Deed.REOPEN: ("began", "runs"), Deed.PRIVACY: ("began",), Deed.REMIND: ("began", "runs"),
}  # fmt: skip
"""Written down beside the rules: who may, in handbook §11 and decision 0066."""


@pytest.mark.parametrize("deed", Deed)
def test_each_deed_is_for_whom_it_is(deed):
    state = RULES[deed].when[0]
    for place in ("began", "asked", "named", "runs"):
        part = Part(**{place: True})
        assert may(state, part, deed) == (place in MAY[deed]), place
        if place not in MAY[deed]:
            with pytest.raises(NotAllowed):
                check(state, part, deed)
    for other in set(State) - set(RULES[deed].when):
        with pytest.raises(RuleBroken):
            check(other, Part(began=True, asked=True, runs=True), deed)


def test_where_a_thread_stands_once_something_is_written():
    assert after_writing(State.DRAFT, is_answer=False, wants_answer=True) is State.WANTED
    assert after_writing(State.DRAFT, is_answer=False, wants_answer=False) is State.OPEN
    assert after_writing(State.WANTED, is_answer=False, wants_answer=False) is State.WANTED
    assert after_writing(State.WANTED, is_answer=True, wants_answer=False) is State.ANSWERED
    assert after_writing(State.ANSWERED, is_answer=False, wants_answer=True) is State.WANTED
    assert after_writing(State.CLOSED, is_answer=False, wants_answer=True) is State.CLOSED


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("ANSWER\n\nGrade 8.8", True),
        ("answer:\nYes", True),
        ("\n  Answer.\nYes", True),
        ("ANSWER", True),
        ("The ANSWER is yes", False),
        ("Answer follows on Friday", False),
        ("Answers are below\n", False),
        ("", False),
    ],
)
def test_a_mail_is_the_answer_only_where_it_says_so(text, said):
    assert is_answer(text) is said


def test_who_is_added_sees_from_there_on_or_all():
    assert [Sight(added_from(3, all_of_it=False)).sees(each) for each in (1, 2, 3, 4)] == [False, False, True, True]
    assert Sight(added_from(3, all_of_it=True)).sees(1)
    assert [Sight(0, 2).sees(each) for each in (1, 2, 3)] == [True, True, False]
