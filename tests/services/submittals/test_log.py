"""The log of submittals: its floats follow the day, the set-up and the pace of companies; filters and counts."""

import csv
import io
import re
from datetime import date, timedelta

import pytest
from pypdf import PdfReader

from nod.core.acts.refusals import RuleBroken
from nod.services.setup import setup_view, submittals, working_days, workspace
from nod.services.submittals import log_report, log_taken
from nod.services.submittals.log import AskedSubmittals
from tests.services.submittals.acts import (
    answer,
    ask,
    give,
    listed,
    make,
    numbers,
    seen,
    send_in,
    void,
)
from tests.world import made_once


@made_once
def several(world):
    """Bollards with time, fenders late, ladders without a day."""
    bollards = make(world)
    fenders = make(world, title="Fenders", required_on=date(2027, 4, 1), section="35 59 33")
    ladders = make(world, by="paolo", title="Ladders", kind="PD", required_on=None, section="05 51 33")
    ask(world, bollards)
    return bollards, fenders, ladders


def test_the_least_float_comes_first_and_what_is_not_known_last(world, several):
    assert numbers(world) == ["GME-0002", "GME-0001", "OHS-0001"]
    assert numbers(world, down=True) == ["GME-0001", "GME-0002", "OHS-0001"]
    assert numbers(world, sort="number") == ["GME-0001", "GME-0002", "OHS-0001"]
    assert numbers(world, sort="section") == ["OHS-0001", "GME-0001", "GME-0002"]
    assert numbers(world, sort="due") == ["GME-0001", "GME-0002", "OHS-0001"]
    assert numbers(world, start=1, limit=1) == ["GME-0001"]


@pytest.mark.parametrize(
    ("asked", "found"),
    [
        ({"words": "fender"}, ["GME-0002"]),
        ({"words": "35 59"}, ["GME-0002", "GME-0001"]),
        ({"state": "planned"}, ["GME-0002", "OHS-0001"]),
        ({"late": True}, ["GME-0002"]),
        ({"kind": "PD"}, ["OHS-0001"]),
        ({"view": "mine"}, ["GME-0002", "OHS-0001"]),
        ({"view": "copied"}, []),
    ],
)
def test_it_is_narrowed(world, several, asked, found):
    assert numbers(world, **asked) == found


def test_states_are_counted_within_the_other_filters(world, several):
    page = listed(world, state="asked for")
    assert {each.state: each.count for each in page.states if each.count} == {"planned": 2, "asked for": 1}
    assert (page.total, page.late) == (1, 0)
    assert listed(world).late == 1
    void(world, several[1])
    page = listed(world)
    assert (page.total, page.states[-1].state, page.states[-1].count) == (2, "void", 1)
    assert numbers(world, state="void") == ["GME-0002"]


def test_my_companys_are_those_it_sends_or_answers(world, several):
    assert numbers(world, "ottilie", view="company") == ["GME-0002", "GME-0001"]
    send_in(world, several[0])
    give(world, several[0])
    assert numbers(world, "tomasz", view="company") == ["GME-0001"]


def test_floats_follow_the_day(world, several):
    first = seen(world, several[0]).line
    world.clock.advance(timedelta(days=7))
    assert listed(world).lines[1].float_days == first.float_days - 5


def test_floats_follow_the_calendar(world, several):
    command = working_days.SetDays(version=_project_version(world), working_weekdays=[0, 1, 2, 3], holidays=[])
    working_days.set_days(world.context, world.actor("rafael"), world.project_id, command)
    line = next(each for each in listed(world).lines if each.number == "GME-0001")
    # 65 days of a week of four before Thursday 29 July are Wednesday 7 April; 17 of them from 9 March on.
    assert (line.latest_on, line.float_days) == (date(2027, 4, 7), 17)


def _project_version(world):
    return world.sql("SELECT version FROM project WHERE id = ?", world.project_id)[0][0]


def test_floats_follow_how_fast_the_approvers_company_answers(world, several):
    """Three answers that took 5 days each: the next of that company is expected after 5, not after the set 10."""
    for place in range(3):
        each = make(world, title=f"Rail {place}")
        send_in(world, each, who="marit")
        give(world, each)
        world.clock.advance(timedelta(days=7))
        answer(world, each, "A")
    waiting = make(world, rounds=1)
    send_in(world, waiting, who="marit")
    before = seen(world, waiting).line.forecast_on
    give(world, waiting)
    shown = seen(world, waiting)
    assert shown.line.forecast_on == date(2027, 5, 18)
    assert (before - shown.line.forecast_on).days == 7
    assert "5 working days an answer, as TRA has taken of late" in shown.arithmetic.forecast


def test_the_rail_shows_what_is_left_before_the_first_block(world, several):
    line = next(each for each in listed(world).lines if each.number == "GME-0001")
    assert (line.rail.span, line.rail.gap) == (103, 38)
    assert [(each.what, each.days) for each in line.rail.blocks] == [
        ("review", 10), ("preparation", 10), ("review", 10), ("buffer", 5), ("lead", 30)
    ]  # fmt: skip


def set_rules(world, **changes):
    shown = setup_view.read_setup(world.context, world.actor("rafael"), world.project_id)
    given = shown.submittals.model_copy(update=changes)
    command = submittals.SetSubmittals(version=shown.version, submittals=given)
    submittals.set_submittals(world.context, world.actor("rafael"), world.project_id, command)


def test_floats_and_days_due_follow_the_projects_buffer(world, several):
    before = seen(world, several[0]).line
    set_rules(world, buffer=15)
    after = seen(world, several[0]).line
    assert (after.float_days, after.standing.due_on) == (before.float_days - 10, date(2027, 4, 16))
    assert before.standing.due_on == before.latest_on == date(2027, 4, 30)


def test_a_kind_in_use_is_renamed_and_stays(world, several):
    kinds = setup_view.read_setup(world.context, world.actor("rafael"), world.project_id).submittals.kinds
    with pytest.raises(RuleBroken, match="SD"):
        set_rules(world, kinds=[each for each in kinds if each.code != "SD"])
    set_rules(world, kinds=[each.model_copy(update={"words": f"{each.words} (new)"}) for each in kinds])
    assert seen(world, several[0]).line.kind_words == "shop drawing (new)"
    assert [each for each in world.kinds() if each == "rules_changed"] == ["rules_changed"]


def test_numbers_by_section(world):
    set_rules(world, numbered_by="section")
    for _ in range(2):
        make(world)
    assert sorted(numbers(world)) == ["355913-001", "355913-002"]
    with pytest.raises(RuleBroken, match="section"):
        make(world, section="")


def test_it_is_taken_away_as_it_is_shown(world, several):
    asked = AskedSubmittals(world.project_id, late=True)
    made = log_taken.take_log(world.context, world.actor("marit"), asked, "csv")
    head, *lines = csv.reader(made.content.decode("utf-8-sig").splitlines())
    (line,) = [dict(zip(head, each, strict=True)) for each in lines if len(each) == len(head)]
    assert (line["Number"], line["Required on site"], line["Float, working days"]) == ("GME-0002", "2027-04-01", "-48")
    assert world.kinds()[-1] == "submittal_log_taken"
    hidden = log_taken.take_log(world.context, world.actor("leilani"), asked, "csv").content.decode()
    assert "GME-0002" not in hidden


def test_a_company_that_was_merged_is_the_one_it_is_now(world, several):
    codes = dict(world.sql("SELECT code, id FROM company"))
    command = workspace.MergeCompanies(from_id=codes["GME"], into_id=codes["NFA"])
    workspace.merge_companies(world.context, world.actor("ines"), command)
    page = listed(world)
    assert {each.company for each in page.lines} == {"NFA", "OHS"}
    assert [each.code for each in page.companies] == ["NFA", "OHS"]
    assert len(numbers(world, company=codes["NFA"])) == len(numbers(world, "ottilie", view="company")) == 2
    assert seen(world, several[0]).company_id == codes["NFA"]


def grouped(world, group, **asked):
    found = listed(world, group=group, **asked)
    return [(each.key, each.words, each.count) for each in found.groups], [each.number for each in found.lines]


def test_it_stands_under_headings_and_shut_ones_have_no_lines(world, several):
    send_in(world, several[0])
    assert grouped(world, "company") == (
        [("GME", "GME Gannet Marine Engineering", 2), ("OHS", "OHS Ohmfield Services", 1)],
        ["GME-0002", "GME-0001", "OHS-0001"],
    )  # fmt: skip
    assert grouped(world, "section", shut=("35 59 13",)) == (
        [("05 51 33", "05 51 33", 1), ("35 59 13", "35 59 13", 1), ("35 59 33", "35 59 33", 1)],
        ["OHS-0001", "GME-0002"],
    )
    assert [each[:2] for each in grouped(world, "kind")[0]] == [("PD", "product data"), ("SD", "shop drawing")]
    assert grouped(world, "state") == (
        [("planned", "planned", 2), ("sent in", "sent in", 1)], ["GME-0002", "OHS-0001", "GME-0001"],
    )  # fmt: skip


def test_what_has_no_section_stands_last(world, several):
    make(world, title="Paint", section="")
    found = listed(world, group="section")
    assert [each.words for each in found.groups][-1] == "no section"
    assert [each.section for each in found.lines] == ["05 51 33", "35 59 13", "35 59 33", ""]
    assert [each.key for each in found.groups] == list(dict.fromkeys(each.section for each in found.lines))


def printed(world, who="marit", paper="A4", **asked):
    made = log_report.take_report(
        world.context, world.actor(who), AskedSubmittals(world.project_id, **asked), paper
    )  # fmt: skip
    pages = PdfReader(io.BytesIO(made.content)).pages
    return " ".join(" ".join(page.extract_text() for page in pages).split()), pages


def test_the_log_is_printed_as_it_is_narrowed_with_counts_and_links(world, several):
    text, pages = printed(world, late=True, kind="SD")
    assert "1 submittal: late, shop drawing; by float" in text
    assert "GME-0002 Fenders shop drawing 35 59 33 GME Marit Osei" in text
    assert "GME-0001" not in text
    assert re.search(r"\d+ d late", text)
    links = [each.get_object()["/A"]["/URI"] for each in pages[0]["/Annots"]]
    assert links == [f"{world.context.settings.resolved_public_url}/submittals/{several[1]}"]
    taken = world.sql("SELECT body FROM audit_entry WHERE kind = 'submittal_log_taken'")
    assert "PDF A4" in str(taken)


def test_it_is_printed_under_headings_and_as_far_as_one_sees_it(world, several):
    text, _ = printed(world, group="company", paper="A3")
    assert "under each company by float" in text
    assert text.index("GME Gannet Marine Engineering, 2") < text.index("GME-0001") < text.index("OHS Ohmfield")
    assert "OHS-0001" not in printed(world, "ottilie")[0]
    assert "0 submittals" in printed(world, "kwabena")[0]
