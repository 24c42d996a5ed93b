"""Submittals from planned to closed: each act, each refusal, who is told and who sees them (handbook §9)."""

from concurrent.futures import ThreadPoolExecutor
from datetime import date, timedelta

import pytest

from nod.core.acts.refusals import NotAllowed, NotFound, RuleBroken, Stale
from nod.services.acts import projects
from nod.services.acts.context import acting
from nod.services.desk import read_desk
from nod.services.people import members
from nod.services.submittals import making, sending_in
from nod.services.things.things import find_things
from tests.services.submittals.acts import (
    answer,
    ask,
    change,
    close,
    company_of,
    copy_in,
    deliver,
    give,
    listed,
    make,
    numbers,
    seen,
    send_in,
    state,
    version,
    versions,
    void,
)
from tests.world import made_once


@made_once
def planned(world):
    return make(world)


@made_once
def under_review(world):
    made = make(world)
    ask(world, made)
    send_in(world, made)
    give(world, made)
    return made


def refused(code, kind=RuleBroken):
    return pytest.raises(kind, check=lambda error: error.code == code)


def mailed(world):
    return {(payload["to_email"].split("@")[0], payload["subject"]) for _, payload in world.send()}


def test_a_new_one_is_planned_and_says_by_when(world, planned):
    shown = seen(world, planned)
    line = shown.line
    assert (line.number, line.state, line.standing.with_whom) == ("GME-0001", "planned", "Marit Osei")
    # The first example of the handbook, with the project's buffer of 5.
    assert (line.latest_on, line.float_days, line.forecast_on) == (date(2027, 4, 30), 38, date(2027, 6, 1))
    assert shown.arithmetic.latest == (
        "required 30 Jul 2027 − lead 30 − review 2 × 10 − preparation 10 − buffer 5 = 30 Apr 2027, "
        "38 working days from today"
    )
    assert shown.line.may == ["edit", "ask", "send in", "void", "copy in", "send on"]
    assert (shown.next, seen(world, planned, "ottilie").line.may) == ("ask", ["send in", "copy in", "send on"])


def test_the_way_through_with_a_second_round(world, planned):
    ask(world, planned, note="For the quay wall.")
    assert state(world, planned) == "asked for"
    assert mailed(world) == {("ottilie", "BFT: GME-0001 Mooring bollards, 100 t: you are asked for it")}
    sending_in.prepare(
        world.context, world.actor("ottilie"), planned, sending_in.SeenSubmittal(version=version(world, planned))
    )
    assert state(world, planned) == "in preparation"
    send_in(world, planned, files=2, note="Two sheets.")
    assert seen(world, planned).line.standing.with_whom == "Marit Osei"
    give(world, planned, note="Please.")
    line = seen(world, planned, "saoirse").line
    assert (line.state, line.standing.with_whom, line.standing.due_on) == (
        "under review", "Saoirse Tanaka", date(2027, 3, 23)
    )  # fmt: skip
    world.clock.advance(timedelta(days=3))
    answer(world, planned, "C", note="The base plate is missing.")
    shown = seen(world, planned)
    assert (shown.line.shown, shown.line.state, shown.line.verdict) == ("GME-0001 rev 1", "asked for", "C")
    assert shown.line.standing.with_whom == "Ottilie Vestergaard"
    send_in(world, planned)
    give(world, planned)
    answer(world, planned, "B")
    close(world, planned)
    shown = seen(world, planned)
    assert (shown.line.state, shown.line.verdict, shown.line.standing.with_whom) == ("closed", "B", "")
    assert [(each.revision, each.verdict.code, len(each.files)) for each in shown.rounds] == [(1, "B", 1), (0, "C", 2)]
    assert (shown.rounds[1].days_taken, shown.rounds[1].answer_note) == (3, "The base plate is missing.")
    assert (shown.line.may, shown.next) == (["deliver", "send on"], "")
    assert [each for each in world.kinds() if each.startswith("submittal")] == [
        "submittal_made", "submittal_asked", "submittal_prepared", "submittal_sent_in", "submittal_given",
        "submittal_answered", "submittal_sent_in", "submittal_given", "submittal_answered", "submittal_closed",
    ]  # fmt: skip


def test_what_is_delivered_moves_no_more(world, under_review):
    answer(world, under_review, "A")
    with refused("delivered_later"):
        deliver(world, under_review, date(2027, 3, 10))
    deliver(world, under_review, date(2027, 3, 8), who="ottilie")
    line = seen(world, under_review).line
    assert (line.forecast_on, line.rail) == (date(2027, 3, 8), None)
    deliver(world, under_review, None)
    assert seen(world, under_review).line.forecast_on == date(2027, 4, 20)


@pytest.mark.parametrize(
    ("code", "more"),
    [
        ("submittal_unnamed", {"title": " x"}),
        ("submittal_kind", {"kind": "XX"}),
        ("section_unfit", {"section": "35-5"}),
        ("text_too_long", {"title": "x" * 201}),
        ("rounds_unfit", {"rounds": 0}),
        ("days_unfit", {"lead": -1}),
        ("days_unfit", {"review_days": 0}),
        ("number_unfit", {"number": "../x"}),
        ("company_missing", {"company_id": ""}),
    ],
)
def test_what_makes_no_sense_is_said_and_leaves_nothing(world, code, more):
    with refused(code):
        make(world, **more)
    assert listed(world).total == 0


def test_numbers_follow_the_highest_of_their_company(world):
    make(world)
    make(world, number="GME-0041")
    with refused("number_taken"):
        make(world, number="GME-0041")
    make(world, by="paolo")
    make(world)
    assert sorted(numbers(world)) == ["GME-0001", "GME-0041", "GME-0042", "OHS-0001"]


def test_what_is_sent_in_and_answered_has_a_file_and_a_verdict(world, under_review):
    with refused("verdict_missing"):
        answer(world, under_review, "Z")
    with refused("answer_empty"):
        answer(world, under_review, "A", files=0)
    other = make(world)
    with refused("submittal_empty"):
        send_in(world, other, who="marit", files=0)
    with refused("submittal_state"):
        close(world, under_review)


def test_whose_act_it_is(world, under_review):
    for who in ("marit", "ottilie", "rafael"):
        with refused("submittal_party", NotAllowed):
            answer(world, under_review, "A", who=who)
    with refused("submittal_party", NotAllowed):
        give(world, under_review, who="ottilie")
    other = make(world)
    for whom in ("leilani", "yusuf"):
        with refused("not_responsible"):
            ask(world, other, whom=whom)
    ask(world, other)
    send_in(world, other)
    with refused("answers_own"):
        give(world, other, whom="ottilie")


def test_an_answer_on_behalf_says_so(world, under_review):
    answer(world, under_review, "B", who="marit", on_behalf=True)
    (round_,) = seen(world, under_review).rounds
    assert (round_.answered_for, round_.approver.name, round_.answered_by.name) == (
        True, "Saoirse Tanaka", "Marit Osei"
    )  # fmt: skip


def test_an_act_on_what_has_changed_meanwhile_is_refused(world, planned):
    old = making.SubmittalChange(id=planned, version=version(world, planned), details=making.Details(title="Other"))
    change(world, planned, title="Bollards")
    with pytest.raises(Stale):
        making.change_submittals(world.context, world.actor("marit"), making.ChangeSubmittals(changes=[old]))


def test_who_sees_it(world, planned):
    """The company concerned, who runs the project, who is copied in; all once it is under review."""
    for who in ("marit", "rafael", "ottilie"):
        assert numbers(world, who) == ["GME-0001"]
    for who in ("saoirse", "leilani", "kwabena"):
        assert numbers(world, who) == []
        with pytest.raises(NotFound):
            seen(world, planned, who)
    copy_in(world, planned, ("person", world.cast.people["leilani"]), ("company", company_of(world, "anouk")))
    assert numbers(world, "leilani", view="copied") == numbers(world, "junpei", view="copied") == ["GME-0001"]
    ask(world, planned)
    send_in(world, planned)
    assert numbers(world, "kwabena") == []
    give(world, planned)
    assert numbers(world, "kwabena") == ["GME-0001"]
    void(world, planned)
    assert numbers(world, "kwabena") == []


def test_those_copied_in_are_told_of_each_step(world, planned):
    copy_in(world, planned, ("person", world.cast.people["leilani"]))
    assert {who for who, _ in mailed(world)} == {"leilani"}
    ask(world, planned)
    assert {who for who, _ in mailed(world)} == {"leilani", "ottilie"}
    copy_in(world, planned)
    assert mailed(world) == set()
    send_in(world, planned)
    assert {who for who, _ in mailed(world)} == {"marit"}


def test_several_are_changed_and_that_is_undone(world, planned):
    other = make(world, by="paolo", required_on=None)
    done = change(world, planned, other, required_on=date(2027, 9, 1), location="Berth 2")
    assert {each.required_on for each in listed(world).lines} == {date(2027, 9, 1)}
    making.change_submittals(world.context, world.actor("marit"), making.ChangeSubmittals(changes=done.undo))
    assert seen(world, planned).line.required_on == date(2027, 7, 30)
    assert (seen(world, other).line.required_on, seen(world, other).line.location) == (None, "")
    assert change(world, planned, location="").undo == []


def test_all_or_none_are_asked_for(world, planned):
    other = make(world, by="paolo")
    with refused("not_responsible"):
        ask(world, planned, other)
    assert state(world, planned) == "planned"
    assert mailed(world) == set()


def test_what_is_not_known_is_said_in_place_of_a_float(world):
    made = make(world, required_on=None, lead=None)
    line = seen(world, made).line
    assert (line.float_days, line.rail) == (None, None)
    assert line.unknown == "the day required on site and the lead time are not known"
    change(world, made, lead=10)
    assert seen(world, made).line.unknown == "the day required on site is not known"


def test_a_reminder_is_told_again_and_kept(world, planned):
    command = sending_in.RemindOf(submittals=versions(world, planned))
    with refused("submittal_state"):
        sending_in.remind(world.context, world.actor("marit"), command)
    ask(world, planned)
    mailed(world)
    for _ in range(2):
        command = sending_in.RemindOf(submittals=versions(world, planned))
        assert sending_in.remind(world.context, world.actor("marit"), command).people == 1
        assert [who for who, _ in mailed(world)] == ["ottilie"]
    assert world.kinds()[-2:] == ["submittal_reminded"] * 2 or world.kinds().count("submittal_reminded") == 2


def test_the_desk_has_it_where_it_is(world, planned):
    def desk(who):
        found = read_desk(world.context, world.actor(who), world.project_id)
        return [(each.number, each.act) for each in found.yours_now if each.kind == "submittal"]

    assert desk("marit") == []
    ask(world, planned)
    assert desk("ottilie") == [("GME-0001", "Send in")]
    send_in(world, planned)
    assert (desk("ottilie"), desk("marit")) == ([], [("GME-0001", "Give on")])
    give(world, planned)
    assert desk("saoirse") == [("GME-0001", "Answer")]
    answer(world, planned, "A")
    assert (desk("saoirse"), desk("marit")) == ([], [("GME-0001", "Close")])


def test_what_is_for_information_is_received_and_closed(world):
    made = make(world, kind="CE")
    ask(world, made)
    send_in(world, made)
    with refused("submittal_for_information"):
        give(world, made)
    assert "close" in seen(world, made).line.may
    assert seen(world, made).next == "close"
    close(world, made)
    assert state(world, made) == "closed"


def test_it_is_found_by_words_where_it_is_there(world, planned):
    from nod.services.acts.seats import take_seat
    from nod.services.submittals.kind import SUBMITTAL

    def found(who):
        with world.context.database.read() as session:
            seat = take_seat(session, world.actor(who), world.project_id)
            return [each.words for each in find_things(session, seat, SUBMITTAL, "bollards", 5)]

    assert found("ottilie") == ["GME-0001 Mooring bollards, 100 t"]
    assert found("leilani") == []


def remove(world, who, heir):
    key = world.cast.people[who]
    ((seen_,),) = world.sql("SELECT version FROM membership WHERE person_id = ?", key)
    command = members.RemoveMember(version=seen_, heir_id=world.cast.people[heir] if heir else "")
    members.remove_member(world.context, world.actor("rafael"), world.project_id, key, command)


def test_who_leaves_hands_over_what_is_with_them(world, planned, under_review):
    with refused("open_work"):
        remove(world, "saoirse", "")
    with refused("answers_own"):
        remove(world, "saoirse", "ottilie")
    remove(world, "saoirse", "anouk")
    assert seen(world, under_review).line.standing.with_whom == "Anouk Ferreira"
    assert ("anouk", "BFT: GME-0002 Mooring bollards, 100 t: it is with you now") in mailed(world)
    ask(world, planned)
    # Nobody else of her company is in the project: it is with the company.
    remove(world, "ottilie", "leilani")
    assert seen(world, planned).line.standing.with_whom == "Gannet Marine Engineering"
    remove(world, "marit", "leilani")
    assert seen(world, planned, "rafael").keeper.name == "Rafael Nwosu"


def test_details_are_changed_while_it_is_under_review_and_the_approver_is_not(world, under_review):
    own = world.cast.people["saoirse"]
    change(world, under_review, approver_id=own, company_id=company_of(world, "ottilie"), required_on=date(2027, 8, 2))
    assert seen(world, under_review).line.required_on == date(2027, 8, 2)
    with refused("submittal_state"):
        change(world, under_review, approver_id=world.cast.people["anouk"])
    with refused("submittal_state"):
        change(world, under_review, company_id=company_of(world, "paolo"))


def test_another_company_is_asked_anew(world, planned):
    ask(world, planned)
    change(world, planned, company_id=company_of(world, "paolo"))
    assert seen(world, planned).line.standing.with_whom == "Ohmfield Services"


def test_a_company_that_has_nobody_in_the_project_is_not_there(world, planned):
    with acting(world.context, world.actor("ines")) as act:
        elsewhere = projects.add_company(act, "Osprey Locks", "OSL", "contractor")
    with pytest.raises(NotFound):
        make(world, company_id=elsewhere)
    with pytest.raises(NotFound):
        copy_in(world, planned, ("company", elsewhere))


def test_nothing_is_voided_without_a_reason(world, planned):
    with refused("reason_missing"):
        void(world, planned, reason=" \n ")


def test_a_company_that_is_copied_in_already_is_not_told_again(world, planned):
    copy_in(world, planned, ("company", company_of(world, "anouk")))
    assert {who for who, _ in mailed(world)} == {"anouk", "junpei"}
    parties = (("company", company_of(world, "anouk")), ("person", world.cast.people["leilani"]))
    copy_in(world, planned, *parties)
    assert {who for who, _ in mailed(world)} == {"leilani"}


def test_two_in_the_same_second_are_two_numbers(world):
    with ThreadPoolExecutor(4) as hands:
        list(hands.map(lambda _: make(world), range(8)))
    assert sorted(numbers(world)) == [f"GME-{place:04d}" for place in range(1, 9)]


def test_an_answer_that_is_late_is_said(world, under_review):
    world.clock.advance(timedelta(days=21))
    forecast = seen(world, under_review).arithmetic.forecast
    # Sent in on 9 March, expected on the 23rd, and it is the 30th.
    assert forecast.startswith("answer 5 working days late, answer expected 30 Mar 2027 + 1 × ")
