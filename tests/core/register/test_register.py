"""Columns, filters in words, numbers as they are remembered, typed values, promised days."""

import re
from datetime import date, datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from nod.core.access.levels import Level
from nod.core.acts import list_columns
from nod.core.acts.refusals import RuleBroken
from nod.core.register import planned
from nod.core.register.columns import COLUMNS, USUAL, Kind, field_column
from nod.core.register.filters import OPS, Filter, Sort, check_filters, check_sorts, words_of
from nod.core.register.number_shapes import fold, shapes
from nod.core.register.revisions import next_statuses
from nod.core.register.typed_values import check_value

BY_KEY = {column.key: column for column in COLUMNS}
PARTS = st.lists(st.text("ABCOI019", min_size=1, max_size=4), min_size=1, max_size=7)


def test_each_column_is_there_once_and_the_usual_ones_are_among_them():
    assert len(BY_KEY) == len(COLUMNS)
    assert set(USUAL) <= set(BY_KEY)
    # Handbook §4: what a line of the register has, as far as it is no revision's.
    wanted = {"number", "title", "kind", "discipline", "originator", "form", "zone", "level", "scale", "sheet_size",
              "folder", "sets"}  # fmt: skip
    assert wanted <= set(BY_KEY)
    assert {"revision", "status", "purpose", "file_name", "size_bytes", "sha256", "filed_by"} <= set(BY_KEY)
    assert BY_KEY["number"].change is Level.NONE
    assert BY_KEY["folder"].change is Level.KEEP


@given(PARTS, st.sampled_from("-_. /"), st.data())
def test_a_number_is_found_from_the_beginning_of_any_of_its_parts(parts, separator, data):
    number = separator.join(parts)
    start = data.draw(st.integers(0, len(parts) - 1))
    typed = data.draw(st.sampled_from(["".join(parts[start:]), "-".join(parts[start:])]))
    typed = typed.replace("O", data.draw(st.sampled_from("O0"))).replace("1", data.draw(st.sampled_from("1I")))
    typed = typed[: data.draw(st.integers(1, len(typed)))]
    folded = fold(typed)
    assert any(each.startswith(folded) for each in shapes(number).split()) or not folded


@given(st.text(max_size=40))
def test_whatever_is_typed_folds_to_letters_and_figures(text):
    assert re.search(r"[\WOI_]", fold(text)) is None


def test_look_alikes_of_other_alphabets_fold_too():
    # Cyrillic А and О, a full-width 1, and a typographic hyphen.
    assert fold("АО-１‑о") == "A01" + fold("о")


def _say(_column, value):
    return {"A": "A Architecture", "S": "S Structure"}.get(value, value)


@pytest.mark.parametrize(
    ("said", "words"),
    [
        (("discipline", "is", "A"), "Discipline is A Architecture"),
        (("discipline", "is", "A", "S", ""), "Discipline is A Architecture, S Structure or none"),
        (("discipline", "not", "A", "S"), "Discipline is not A Architecture or S Structure"),
        (("title", "has", "quay"), "Title has “quay”"),
        (("filed_at", "from", "2027-03-01"), "Filed from 2027-03-01"),
        (("due_on", "none"), "Due is empty"),
        (("verdict", "some"), "Verdict is not empty"),
        (("withdrawn", "yes"), "Withdrawn"),
        (("withdrawn", "no"), "not withdrawn"),
        (("withdrawn", "any"), "Withdrawn or not"),
    ],
)
def test_a_filter_says_itself(said, words):
    each = Filter(said[0], said[1], tuple(said[2:]))
    assert words_of(each, BY_KEY[each.column], _say) == words


@pytest.mark.parametrize("column", COLUMNS, ids=lambda column: column.key)
def test_every_act_of_every_column_has_words_and_no_other_act_is_taken(column):
    values = {Kind.DATE: "2027-03-01", Kind.NUMBER: "3"}
    for op in OPS[column.kind]:
        given_values = () if op in ("none", "some", "yes", "no", "any") else (values.get(column.kind, "x"),)
        (each,) = check_filters([Filter(column.key, op, given_values)], BY_KEY)
        assert column.head.lower() in words_of(each, column, _say).lower()
    for op in {op for ops in OPS.values() for op in ops} - set(OPS[column.kind]):
        with pytest.raises(RuleBroken):
            check_filters([Filter(column.key, op, ("x",))], BY_KEY)


@pytest.mark.parametrize(
    "each",
    [
        Filter("title", "has"), Filter("title", "has", ("a", "b")), Filter("due_on", "none", ("x",)),
        Filter("title", "is", tuple("ab" * 150)), Filter("title", "has", ("x" * 201,)),
        Filter("due_on", "from", ("2027-02-30",)), Filter("size_bytes", "to", ("1,000 kB",)),
    ],
)  # fmt: skip
def test_a_filter_with_values_that_do_not_fit_is_refused(each):
    with pytest.raises(RuleBroken) as refused:
        check_filters([each], BY_KEY)
    assert refused.value.code == "filter_unknown"


def test_too_many_filters_are_refused_and_a_column_sorts_once():
    with pytest.raises(RuleBroken):
        check_filters([Filter("verdict", "none")] * 41, BY_KEY)
    sorts = [Sort("title"), Sort("number", True), Sort("title", True)]
    assert check_sorts(sorts, BY_KEY) == (Sort("title"), Sort("number", True))


AREA, DAY, RATED, RATING, NOTE = (
    field_column("f1", "It", kind, choices)
    for kind, choices in (
        ("number", ()), ("date", ()), ("yes_no", ()), ("choice", ("EI 30", "EI 60")), ("text", ()),
    )
)  # fmt: skip


@pytest.mark.parametrize(
    ("column", "typed", "kept"),
    [
        (AREA, " 90,5 ", "90.5"), (AREA, "+12", "12"), (AREA, "-0.25", "-0.25"), (DAY, "2027-03-09", "2027-03-09"),
        (DAY, "20270309", "2027-03-09"),
            (DAY, "9.3.2027", "2027-03-09"), (DAY, "9 Mar 2027", "2027-03-09"), (DAY, "09 March 2027", "2027-03-09"),
            (RATED, "TRUE", "yes"), (RATED, "n", "no"), (RATING, "ei 60", "EI 60"),
        (NOTE, "  two   words ", "two words"), (NOTE, "   ", ""), (AREA, "", ""),
    ],
)  # fmt: skip
def test_a_typed_value_is_kept_in_one_form(column, typed, kept):
    assert check_value(column, typed, column.choices or ()) == kept
    assert check_value(column, kept, column.choices or ()) == kept


@pytest.mark.parametrize(
    ("column", "typed"),
    [(AREA, "1e5"), (AREA, "90 m²"), (AREA, "1.2.3"), (DAY, "09/03/2027"), (DAY, "2027-13-01"), (RATED, "maybe"),
     (RATING, "EI 90"), (NOTE, "x" * 201)],
)  # fmt: skip
def test_a_value_of_another_kind_is_refused_by_its_column(column, typed):
    with pytest.raises(RuleBroken) as refused:
        check_value(column, typed, column.choices or ())
    assert refused.value.about == "It"


@pytest.mark.parametrize(
    ("said", "day_first", "month_first"),
    [
        ("2027-04-03", date(2027, 4, 3), date(2027, 4, 3)),
        ("2027-04-03 00:00:00", date(2027, 4, 3), date(2027, 4, 3)),
        ("03/04/2027", date(2027, 4, 3), date(2027, 3, 4)),
        ("3.4.27", date(2027, 4, 3), date(2027, 3, 4)),
        ("31/12/2027", date(2027, 12, 31), None),
        ("3 Apr 2027", date(2027, 4, 3), date(2027, 4, 3)),
        ("03-April-27", date(2027, 4, 3), date(2027, 4, 3)),
        (datetime(2027, 4, 3, 12, 0), date(2027, 4, 3), date(2027, 4, 3)),  # noqa: DTZ001 - as a spreadsheet gives it
        (date(2027, 4, 3), date(2027, 4, 3), date(2027, 4, 3)),
        ("soon", None, None), ("30/02/2027", None, None), ("", None, None), (None, None, None), (45_000, None, None),
    ],
)  # fmt: skip
def test_a_promised_day_is_read_as_people_write_it(said, day_first, month_first):
    assert list_columns.read_day(said, day_first=True) == day_first
    assert list_columns.read_day(said, day_first=False) == month_first


@pytest.mark.parametrize(
    ("said", "either"), [("03/04/2027", True), ("13/04/2027", False), ("04/04/2027", False), ("2027-03-04", False)]
)
def test_only_a_day_that_reads_either_way_is_asked_about(said, either):
    assert list_columns.is_either_way(said) is either


@pytest.mark.parametrize(
    ("heads", "found"),
    [
        (["Document Number", "Title", "By", "Due"], {"number": 0, "title": 1, "company": 2, "planned_on": 3}),
        (["Date", "No.", "Description"], {"planned_on": 0, "number": 1, "title": 2}),
        (["colour", None, 7], {}),
    ],
)
def test_columns_of_a_list_are_guessed_by_their_heads(heads, found):
    assert list_columns.guess_columns(heads, planned.HEADS) == found


@given(st.integers(0, 500), st.integers(0, 500))
def test_hundred_percent_means_all(received, more):
    share = planned.percent(received, received + more)
    assert (share == 100) == (more == 0 and received > 0)
    assert 0 <= share <= 100


def test_what_is_due_today_is_not_late():
    today = date(2027, 3, 9)
    assert planned.state_of(today, False, today) == "planned"
    assert planned.state_of(date(2027, 3, 8), False, today) == "late"
    assert planned.state_of(date(2027, 3, 8), True, today) == "received"


def test_the_next_status_begins_with_the_present_one_unless_only_a_review_gives_it():
    statuses = ("S0", "S3", "S4", "A1")
    assert next_statuses("S3", statuses, ()) == ("S3", "S0", "S4", "A1")
    assert next_statuses("A1", statuses, ("A1",)) == ("S0", "S3", "S4")
