"""Planned documents: a list tried cell by cell, kept, and what of it is received or late."""

import io
from datetime import date

import pytest
from openpyxl import Workbook

from nod.core.acts.refusals import NotAllowed, RuleBroken, Stale
from nod.services.files.lists_in import ListAsked
from nod.services.register import planned, planned_list
from nod.services.register.planned import PutPlanned, RemovePlanned
from tests.world import NUMBER, OTHER_NUMBER, name, pdf

NUMBERS = [f"BFT-TRA-Z1-01-D-A-010{place}" for place in range(1, 6)]


def _as(world, who="marit"):
    return world.context, world.actor(who)


HEAD = ["Drawing No", "Drawing title", "Originator", "Trade", "Planned date"]


def _xlsx(*rows, head=HEAD):
    book = Workbook()
    for row in (head, *rows):
        book.active.append(row)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def _plan(world, content, who="marit", keep=False, day_first=True, columns=None):
    return planned_list.read_list(*_as(world, who), ListAsked(world.project_id, columns, day_first, keep), [content])


def test_a_list_is_tried_cell_by_cell_before_anything_is_kept(world):
    content = _xlsx(
        [NUMBER, "Quay hall plan", "TRA", "Architecture", date(2027, 3, 1)],
        ["BFT-XXX-Z1-01-D-A-0101", "Wrong", "TRA", "A", date(2027, 3, 1)],
        [NUMBER, "Again", "TRA", "A", date(2027, 3, 1)],
        [NUMBERS[1], "No day", "Tallow Reed Architects", "A", "soon"],
        [NUMBERS[2], "Nobody", "Unheard Of Ltd", "Z9", "2027-04-01"],
        [None, None, None, None, None],
        [NUMBERS[3], "Fine", "Tallow Reed Architects", "A", "14.4.27"],
    )
    read = _plan(world, content)
    assert read.taken == {"number": 0, "title": 1, "company": 2, "discipline": 3, "planned_on": 4}
    assert (read.new, read.changed, read.kept) == (2, 0, False)
    assert [each.cell for each in read.troubles] == ["A3", "A4", "E5", "C6", "D6"]
    assert world.sql("SELECT count(*) FROM planned_document") == [(0,)]
    assert _plan(world, content, keep=True).kept
    assert world.sql("SELECT number, company, discipline, planned_on FROM planned_document ORDER BY number") == [
        (NUMBER, "TRA", "A", "2027-03-01"), (NUMBERS[3], "TRA", "A", "2027-04-14"),
    ]  # fmt: skip
    again = _plan(world, content, keep=True)
    assert (again.new, again.changed, again.same) == (0, 0, 2)


def test_days_that_read_either_way_are_told_and_read_as_said(world):
    content = f"Number;Planned\n{NUMBER};03/04/2027\n{NUMBERS[1]};13/04/2027\n".encode("cp1252")
    assert _plan(world, content).either_way == 1
    _plan(world, content, keep=True)
    assert world.sql("SELECT planned_on FROM planned_document ORDER BY number") == [("2027-04-03",), ("2027-04-13",)]
    month_first = _plan(world, content, day_first=False)
    assert (month_first.changed, [each.cell for each in month_first.troubles]) == (1, ["B3"])


def test_planned_received_and_late_are_counted_by_company_and_discipline(world):
    world.file(name())
    rows = [[NUMBER, "a", "", "", date(2027, 2, 1)], [NUMBERS[1], "b", "", "", date(2027, 3, 5)]]
    rows += [[NUMBERS[2], "c", "", "", date(2027, 3, 9)], [OTHER_NUMBER, "d", "", "", date(2027, 3, 8)]]
    _plan(world, _xlsx(*rows), keep=True)
    found = planned.list_planned(*_as(world), world.project_id)
    states = {line.number: (line.state, line.days_late) for line in found.lines}
    # 9 March 2027 is a Tuesday: from Friday the 5th two working days, from Monday the 8th one.
    assert states == {
        NUMBER: ("received", 0), NUMBERS[1]: ("late", 2), NUMBERS[2]: ("planned", 0), OTHER_NUMBER: ("late", 1),
    }  # fmt: skip
    counts = [
        (each.company, each.discipline, each.all, each.received, each.late, each.percent) for each in found.counts
    ]
    assert counts == [("PLS", "S", 1, 0, 1, 0), ("TRA", "A", 3, 1, 1, 33)]
    assert (found.total.all, found.total.percent) == (4, 25)
    received = next(line for line in found.lines if line.state == "received")
    assert (received.revision, received.received_on) == ("P01", date(2027, 3, 9))
    own = planned.list_planned(*_as(world, "leilani"), world.project_id)
    assert ([line.number for line in own.lines], own.may_change) == ([OTHER_NUMBER], False)
    planned.remove_planned(*_as(world), RemovePlanned(project_id=world.project_id, number=OTHER_NUMBER, version=1))
    assert len(planned.list_planned(*_as(world), world.project_id).lines) == 3
    back = PutPlanned(
        project_id=world.project_id, number=OTHER_NUMBER, title="d", company="PLS", discipline="S",
        planned_on=date(2027, 3, 20), version=0,
    )  # fmt: skip
    planned.put_planned(*_as(world), back)
    (line,) = planned.list_planned(*_as(world, "leilani"), world.project_id).lines
    assert (line.planned_on, line.state) == (date(2027, 3, 20), "planned")
    with pytest.raises(Stale):
        planned.put_planned(*_as(world), back)
    with pytest.raises(RuleBroken):
        planned.put_planned(*_as(world), back.model_copy(update={"number": "X-1"}))


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"", "empty"),
        (b"PK\x03\x04 not a spreadsheet", "can be read, or it is broken"),
        (b"\x89PNG\0\0\0", "neither a spreadsheet"),
        (b"Number," * 200, "columns"),
        (pdf(), "neither a spreadsheet"),
    ],
)
def test_a_list_that_is_none_is_told_in_words(world, content, words):
    with pytest.raises(RuleBroken) as refused:
        _plan(world, content)
    assert refused.value.code == "table_broken"
    assert words in refused.value.words


def test_a_list_without_its_two_columns_is_not_kept(world):
    with pytest.raises(RuleBroken) as refused:
        _plan(world, b"a,b\n1,2\n", keep=True)
    assert refused.value.code == "columns_wanted"
    with pytest.raises(NotAllowed):
        _plan(world, b"a,b\n1,2\n", who="paolo")
    found = _plan(world, f"x,y\n{NUMBER},2027-04-01\n".encode(), columns={"number": 0, "planned_on": 1, "title": 99})
    assert (found.new, found.taken) == (1, {"number": 0, "planned_on": 1})


def _book(*sheets):
    book = Workbook()
    book.remove(book.active)
    for title, rows in sheets:
        sheet = book.create_sheet(title)
        for row in rows:
            sheet.append(row)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


TITLED = [["Brackwater Ferry Terminal"], [], ["Status", "9 March 2027"], HEAD]
LINE = [NUMBER, "Quay hall plan", "TRA", "A", date(2027, 3, 1)]


def test_heads_are_found_below_a_title_and_can_be_chosen(world):
    content = _book(("List", [*TITLED, LINE]))
    read = _plan(world, content)
    assert (read.heads, read.rows, read.new, len(read.taken)) == (4, 1, 1, 5)
    assert read.before[:3] == ["Brackwater Ferry Terminal", "", "Status, 9 March 2027"]
    asked = ListAsked(world.project_id, None, True, False, heads=1)
    other = planned_list.read_list(*_as(world, "marit"), asked, [content])
    assert (other.heads, other.taken) == (1, {})
    wrong = _book(("List", [*TITLED, ["BFT-XXX", "x", "TRA", "A", date(2027, 3, 1)]]))
    assert [each.cell for each in _plan(world, wrong).troubles] == ["A5"]


def test_a_sheet_of_the_book_is_chosen(world):
    content = _book(("Notes", [["Read me"]]), ("List", [HEAD, LINE]))
    read = _plan(world, content)
    assert (read.sheet, read.sheets, read.taken) == ("Notes", ["Notes", "List"], {})
    asked = ListAsked(world.project_id, None, True, False, sheet="List")
    assert planned_list.read_list(*_as(world, "marit"), asked, [content]).new == 1
    with pytest.raises(RuleBroken, match="no sheet"):
        planned_list.read_list(*_as(world, "marit"), ListAsked(world.project_id, None, True, False, "None"), [content])


def test_keeping_nothing_is_no_success(world):
    content = _xlsx([NUMBER, "Quay hall plan", "TRA", "A", None], [NUMBERS[1], "Roof", "TRA", "A", 0])
    read = _plan(world, content)
    assert [(each.cell, each.words) for each in read.troubles] == [
        ("E2", "No day is given."), ("E3", "“0” is no day."),
    ]  # fmt: skip
    with pytest.raises(RuleBroken) as refused:
        _plan(world, content, keep=True)
    assert refused.value.code == "nothing_to_keep"
    assert world.sql("SELECT count(*) FROM planned_document") == [(0,)]
