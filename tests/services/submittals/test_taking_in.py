"""A log, or the days of a schedule, out of a spreadsheet: tried cell by cell, kept in one act, out and in again."""

import io
from datetime import date

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from openpyxl import Workbook, load_workbook

from nod.core.acts.refusals import NotAllowed, RuleBroken
from nod.core.submittals.columns import LABELS
from nod.services.acts.replays import table_faults
from nod.services.files.lists_in import ListAsked
from nod.services.submittals import log_taken, taking_in
from nod.services.submittals.log import AskedSubmittals
from tests.outside import shared_data
from tests.services.submittals.acts import answer, ask, change, give, make, numbers, seen, send_in, void
from tests.services.submittals.test_log import set_rules, several  # noqa: F401 - a fixture

HEADS = ["Submittal No", "Title", "Type", "Spec section", "Company", "Required date", "Lead time"]
ROWS = [
    ["GME-0007", "Bollards", "shop drawing", "35 59 13", "GME", date(2027, 7, 30), 30],
    ["", "Fenders", "SD", "35 59 33", "gme", "30.7.2027", "6 weeks"],
]


def xlsx(*rows, heads=HEADS):
    book = Workbook()
    for row in (heads, *rows):
        book.active.append(row)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def take(world, content, who="marit", purpose="log", keep=False, **asked):
    given = ListAsked(world.project_id, asked.pop("columns", None), asked.pop("day_first", True), keep, **asked)
    return taking_in.take_in(world.context, world.actor(who), given, purpose, [content])


def cells(tried):
    return [each.cell for each in tried.troubles]


def taken(world, form="xlsx"):
    return log_taken.take_log(world.context, world.actor("marit"), AskedSubmittals(world.project_id), form).content


def all_rows(world):
    """All that a list can carry, by number; and with whom each is."""
    return world.sql(
        "SELECT number, title, kind, section, paragraph, description, reference, category, location, milestone,"
        " company_id, approver_id, required_on, planned_on, lead, lead_in, review_days, rounds, preparation,"
        " latest_on, forecast_on, float_days, state FROM submittal ORDER BY number"
    )


def test_a_log_is_tried_and_then_kept_in_one_act(world):
    tried = take(world, xlsx(*ROWS))
    assert tried.taken == {
        "number": 0, "title": 1, "kind": 2, "section": 3, "company": 4, "required_on": 5, "lead": 6,
    }  # fmt: skip
    assert (tried.new, tried.changed, tried.troubles, tried.kept) == (2, 0, [], False)
    assert numbers(world) == []
    assert take(world, xlsx(*ROWS), keep=True).kept
    # The number that came stays, and the counter follows the highest.
    assert sorted(numbers(world)) == ["GME-0007", "GME-0008"]
    rows = world.sql("SELECT number, kind, lead, lead_in, required_on, float_days FROM submittal ORDER BY number")
    assert rows == [
        ("GME-0007", "SD", 30, "working days", "2027-07-30", tried.lines[0].float_after),
        ("GME-0008", "SD", 6, "weeks", "2027-07-30", tried.lines[1].float_after),
    ]
    assert world.sql("SELECT count(*) FROM open_work WHERE kind LIKE 'submittal%'") == [(2,)]
    again = take(world, xlsx(ROWS[0], ["GME-0008", *ROWS[1][1:]]))
    assert (again.new, again.changed, again.same) == (0, 0, 2)


def test_each_cell_that_cannot_be_is_told_and_its_row_left_out(world, several):  # noqa: F811
    tried = take(
        world,
        xlsx(
            ["GME-0100", "Fine", "SD", "35 59 13", "GME", date(2027, 7, 30), 30],
            ["GME-0101", "A kind", "sausage", "", "GME", "", ""],
            ["GME-0102", "A section", "SD", "355913", "GME", "", ""],
            ["GME-0103", "A section", "SD", "35 59", "GME", "", ""],
            ["GME-0104", "A company", "SD", "", "Nobody Ltd", "", ""],
            ["GME-0105", "A day", "SD", "", "GME", "30/02/2027", ""],
            ["GME-0106", "A lead", "SD", "", "GME", "", "soon"],
            ["GME-0100", "Twice", "SD", "", "GME", "", ""],
            ["G*E", "A number", "SD", "", "GME", "", ""],
            ["", "Fenders", "SD", "35 59 33", "GME", "", ""],
            ["GME-0107", "", "SD", "", "", "", ""],
            ["GME-0108", "Too long", "SD", "", "GME", "", 4000],
        ),
    )
    assert cells(tried) == ["C3", "D5", "E6", "F7", "G8", "A9", "A10", "B11", "B12", "E12", "G13"]
    assert [line.number for line in tried.lines] == ["GME-0100", "GME-0102"]
    assert "GME-0002" in next(each.words for each in tried.troubles if each.cell == "B11")


def test_an_update_says_what_it_changes_and_what_that_does_to_float(world, several):  # noqa: F811
    before = seen(world, several[0]).line.float_days
    content = xlsx(
        ["GME-0001", "Mooring bollards, 100 t", "SD", "35 59 13", "GME", date(2027, 8, 6), 40],
        ["OHS-0001", "Ladders", "PD", "", "", "", ""],
    )
    tried = take(world, content)
    assert (tried.new, tried.changed, tried.same) == (0, 1, 1)
    (line,) = tried.lines
    assert [(each.field, each.before, each.after) for each in line.changes] == [
        ("Required on site", "30 Jul 2027", "6 Aug 2027"), ("Lead time", "30", "40"),
    ]  # fmt: skip
    assert (line.float_before, line.float_after) == (before, before - 5)
    take(world, content, keep=True)
    assert seen(world, several[0]).line.float_days == before - 5
    # What was asked of somebody is due by the new day.
    due = world.sql("SELECT due_on FROM open_work WHERE thing_id = ?", several[0])
    assert due == world.sql("SELECT latest_on FROM submittal WHERE id = ?", several[0])
    assert list(table_faults(world.context.database)) == []


def test_what_its_state_does_not_allow_is_told(world, several):  # noqa: F811
    bollards, fenders, ladders = several
    send_in(world, bollards)
    give(world, bollards)
    void(world, fenders)
    tried = take(
        world,
        xlsx(
            ["GME-0001", "", "", "", "OHS", "", "", ""],
            ["GME-0002", "Fenders again", "", "", "", "", "", ""],
            ["OHS-0001", "", "", "", "GME", "", "", "Saoirse Tanaka"],
            heads=[*HEADS, "Approver"],
        ),
    )
    assert cells(tried) == ["E2", "A3"]
    assert [line.number for line in tried.lines] == ["OHS-0001"]
    take(world, xlsx(["OHS-0001", "", "", "", "GME", "", ""]), keep=True)
    shown = seen(world, ladders).line
    assert (shown.company, shown.standing.with_whom) == ("GME", "Marit Osei")


def test_a_schedule_moves_days_and_makes_nothing(world, several):  # noqa: F811
    change(world, several[2], milestone="A1040")
    content = xlsx(
        ["A1010", "Fenders", "6 Aug 2027"], ["A1040", "Ladders to quay", "2027-09-01"], ["A2000", "Paint", "1.9.27"],
        ["A1050", "Mooring bollards, 100 T", "soon"],
        heads=["Activity code", "Name", "Start"],
    )  # fmt: skip
    tried = take(world, content, purpose="dates")
    assert (tried.changed, tried.new, tried.unmatched, cells(tried)) == (2, 0, 1, ["C5"])
    fenders = next(line for line in tried.lines if line.number == "GME-0002")
    assert fenders.float_before < 0 < fenders.float_after
    assert (tried.late_before, tried.late_after) == (1, 0)
    take(world, content, purpose="dates", keep=True)
    assert world.sql("SELECT number, milestone, required_on FROM submittal ORDER BY number")[1:] == [
        ("GME-0002", "A1010", "2027-08-06"), ("OHS-0001", "A1040", "2027-09-01"),
    ]  # fmt: skip
    with pytest.raises(RuleBroken, match="day required"):
        take(world, xlsx(["A1", "Fenders"], heads=["Activity", "Name"]), purpose="dates", keep=True)


@pytest.mark.parametrize("form", ["xlsx", "csv"])
def test_what_is_taken_out_changes_nothing_when_it_is_taken_in_again(world, several, form):  # noqa: F811
    change(
        world, several[0], description='=1+1\n"two", lines', reference="0012", location="-3", category="@b",
        milestone="A1", planned_on=date(2027, 4, 1), lead_in="weeks", approver_id=world.cast.people["saoirse"],
    )  # fmt: skip
    send_in(world, several[0])
    tried = take(world, taken(world, form))
    assert (tried.new, tried.changed, tried.same, tried.troubles) == (0, 0, 3, [])


_TEXT = st.text(st.characters(categories=("L", "N", "P", "S", "Zs")), min_size=2, max_size=40).filter(
    lambda text: len(" ".join(text.split())) >= 2
)


@settings(max_examples=15, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(title=_TEXT, location=_TEXT, number=st.from_regex(r"0{0,3}[0-9A-Z]{1,6}(-0{0,3}[0-9]{1,3})?", fullmatch=True))
def test_texts_and_numbers_come_back_as_they_went(world, title, location, number):
    """Zeros, signs and marks of any language."""
    there = {each.casefold() for each in numbers(world)}
    if number.casefold() in there:
        return
    make(world, number=number, title=title, location=location)
    for form in ("xlsx", "csv"):
        tried = take(world, taken(world, form))
        assert (tried.new, tried.changed, tried.troubles) == (0, 0, []), form


def test_the_log_of_one_project_makes_the_same_in_another(world, several):  # noqa: F811
    content, before = taken(world), all_rows(world)
    world.written_by_hand = True
    for table in (
        "open_work_holder",
        "open_work",
        "submittal_round",
        "submittal_copied",
        "submittal_float",
        "submittal",
    ):
        with world.context.database.write() as session:
            session.connection().exec_driver_sql(f"DELETE FROM {table}")
    take(world, content, keep=True)
    asked = {row[0]: row[:-1] for row in all_rows(world)}
    assert asked == {row[0]: row[:-1] for row in before}


def test_the_template_offers_what_the_project_has_and_is_taken_in(world):
    made = taking_in.read_template(world.context, world.actor("marit"), world.project_id)
    book = load_workbook(io.BytesIO(made.content))
    sheet = book["Submittals"]
    assert [cell.value for cell in sheet[1]] == list(LABELS.values())
    offered = {str(rule.sqref).split(":")[0]: rule.formula1 for rule in sheet.data_validations.dataValidation}
    for column, head in ((3, "Kind"), (6, "Responsible"), (7, "To answer it"), (10, "Lead time is in")):
        assert sheet.cell(1, column).value == head
        address = offered[f"{sheet.cell(2, column).coordinate}"].split("!")[1].replace("$", "")
        choices = [row[0].value for row in book["Choices"][address]]
        assert choices, head
        sheet.cell(2, column).value = choices[0]
    sheet["A2"], sheet["B2"], sheet["D2"] = "0042", "Sample", "084413"
    out = io.BytesIO()
    book.save(out)
    assert take(world, out.getvalue(), keep=True).new == 1
    assert world.sql("SELECT number, section, kind FROM submittal") == [("0042", "08 44 13", "PD")]


def test_only_who_runs_the_project_takes_a_list_in(world, several):  # noqa: F811
    for who in ("ottilie", "kwabena"):
        with pytest.raises(NotAllowed):
            take(world, xlsx(*ROWS), who)
        with pytest.raises(NotAllowed):
            taking_in.read_template(world.context, world.actor(who), world.project_id)
    with pytest.raises(RuleBroken, match="can be kept"):
        take(world, xlsx(heads=HEADS), keep=True)


def test_columns_are_matched_by_hand_and_a_lead_in_weeks_by_its_head(world):
    content = xlsx(["Sheave", 6, "PD", "OHS"], heads=["Wanted", "Lead (weeks)", "Sort", "Firm"])
    assert take(world, content).taken == {"lead": 1}
    tried = take(world, content, keep=True, columns={"title": 0, "lead": 1, "kind": 2, "company": 3, "evil": 2})
    assert tried.new == 1
    assert world.sql("SELECT title, lead, lead_in FROM submittal") == [("Sheave", 6, "weeks")]


@pytest.mark.parametrize("name", ["test.xlsx", "test_sheets.xlsx"])
def test_spreadsheets_of_others_are_taken_row_by_row_or_told(world, name):
    tried = take(world, (shared_data("spreadsheets") / name).read_bytes(), columns={"title": 0})
    told = {each.cell.strip("ABCDEFGHIJKLMNOPQRSTUVWXYZ row") for each in tried.troubles}
    assert len(told) + tried.new == tried.rows


def test_two_answers_and_a_revision_later_a_list_still_changes_only_what_it_says(world, several):  # noqa: F811
    bollards = several[0]
    for verdict in ("C", "B"):
        ask(world, bollards)
        send_in(world, bollards)
        give(world, bollards)
        answer(world, bollards, verdict)
    take(world, xlsx(["GME-0001", "Bollards, 120 t", "", "", "", "", ""]), keep=True)
    shown = seen(world, bollards)
    assert (shown.line.title, shown.line.state, shown.line.verdict) == ("Bollards, 120 t", "answered", "B")


def test_of_one_product_there_is_one_submittal_of_each_kind(world, several):  # noqa: F811
    rows = [["", "Fenders", kind, "355933", "GME", "", ""] for kind in ("sample", "PD", "SD", "Sample")]
    tried = take(world, xlsx(*rows))
    assert (tried.new, cells(tried)) == (2, ["B4", "B5"])
    assert "GME-0002" in tried.troubles[0].words
    take(world, xlsx(*rows), keep=True)
    assert take(world, xlsx(*rows)).new == 0


def test_where_sections_make_the_numbers_a_row_without_one_is_told(world):
    set_rules(world, numbered_by="section")
    content = xlsx(["", "Rails", "SD", "", "GME", "", ""], ["", "Doors", "SD", "08 11 13", "GME", "", ""])
    tried = take(world, content)
    assert (tried.new, cells(tried)) == (1, ["D2"])
    take(world, content, keep=True)
    assert numbers(world) == ["081113-001"]
