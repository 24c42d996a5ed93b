"""One's own account: passwords, sign-ins, the second factor, notices and the daily summary."""

import json
from datetime import timedelta

import pyotp
import pytest

from nod.core.acts.refusals import NotAllowed, NotFound, NotSignedIn, RuleBroken, TooMany
from nod.core.notices import KINDS
from nod.services.notices import summaries
from nod.services.people import account, key_links, second_factor, sign_in
from nod.services.people.key_links import link_token
from nod.services.people.sign_in import DEMO_PASSWORD, Browser, SignIn
from nod.services.setup import setup, setup_view
from tests.world import name

MARIT, LEILANI = "marit@hollinbrook.example", "leilani@plinthwork.example"
PASSWORD = "quiet tidal estuary"


def _in(world, email=MARIT, password=DEMO_PASSWORD, code=""):
    token = sign_in.sign_in(world.context, SignIn(email=email, password=password, code=code), Browser("here"))[0]
    return token, sign_in.who_is(world.context, token)


def _mails(world):
    return [json.loads(row[0]) for row in world.sql("SELECT payload FROM outbox WHERE kind = 'mail' ORDER BY seq")]


def test_a_new_password_ends_the_other_sign_ins(world):
    other, _ = _in(world)
    token, marit = _in(world)
    command = account.ChangePassword(present=DEMO_PASSWORD, password=PASSWORD)
    account.change_password(world.context, marit, token, command)
    assert sign_in.who_is(world.context, token)
    with pytest.raises(NotSignedIn):
        sign_in.who_is(world.context, other)
    with pytest.raises(NotAllowed):
        _in(world)
    assert _in(world, password=PASSWORD)


@pytest.mark.parametrize(
    ("present", "password", "code"),
    [
        ("wrong", PASSWORD, "wrong_present_password"),
        (DEMO_PASSWORD, "short", "password_short"),
        (DEMO_PASSWORD, "x" * 200, "password_long"),
        (DEMO_PASSWORD, "ababababababab", "password_weak"),
        (DEMO_PASSWORD, "marit marit marit", "password_weak"),
    ],
)
def test_a_password_that_does_not_do(world, present, password, code):
    token, marit = _in(world)
    with pytest.raises(RuleBroken) as refused:
        command = account.ChangePassword(present=present, password=password)
        account.change_password(world.context, marit, token, command)
    assert refused.value.code == code


def test_a_forgotten_password_is_set_by_mail(world):
    other, _ = _in(world)
    key_links.ask_for_password(world.context, key_links.AskForPassword(email=f" {MARIT.upper()} "), "here")
    (mail,) = _mails(world)
    link = link_token(world.context, mail["link"]["of"].removeprefix("key link:"))
    assert mail["to_email"] == MARIT
    assert link not in json.dumps(_mails(world))
    token = key_links.use_link(world.context, link, key_links.UseKeyLink(password=PASSWORD), "here")
    assert sign_in.who_is(world.context, token).actor.name == "Marit Osei"
    with pytest.raises(NotSignedIn):
        sign_in.who_is(world.context, other)


@pytest.mark.parametrize("email", ["nobody@x.example", "yusuf@sparrowgate.example", "", "x" * 500])
def test_nobody_learns_who_has_a_sign_in(world, email):
    assert key_links.ask_for_password(world.context, key_links.AskForPassword(email=email), "here") is None
    assert _mails(world) == []


def test_asking_for_passwords_is_slowed_down(world):
    for _ in range(10):
        key_links.ask_for_password(world.context, key_links.AskForPassword(email="a@b.example"), "here")
    with pytest.raises(TooMany):
        key_links.ask_for_password(world.context, key_links.AskForPassword(email=MARIT), "here")
    key_links.ask_for_password(world.context, key_links.AskForPassword(email=MARIT), "elsewhere")


def test_sign_ins_are_listed_and_ended(world):
    first, _ = _in(world)
    token, marit = _in(world)
    shown = account.read_account(world.context, marit, token)
    assert [each.this_one for each in shown.sign_ins].count(True) == 1
    other = next(each.id for each in shown.sign_ins if not each.this_one)
    _, leilani = _in(world, LEILANI)
    with pytest.raises(NotFound):
        account.end_sign_in(world.context, leilani, other)
    account.end_sign_in(world.context, marit, other)
    with pytest.raises(NotSignedIn):
        sign_in.who_is(world.context, first)


def _with_app(world):
    token, marit = _in(world)
    begun = second_factor.begin(world.context, marit.actor)
    assert set("".join(begun.picture)) == {"0", "1"}
    app = pyotp.TOTP(begun.secret)
    command = second_factor.ConfirmSecondFactor(code=app.at(world.clock.now()))
    shown = second_factor.confirm(world.context, marit.actor, command)
    assert len(set(shown.codes)) == 10
    world.clock.advance(timedelta(seconds=90))
    return token, marit, app


def test_the_second_factor_is_asked_for_and_each_code_works_once(world):
    _, _, app = _with_app(world)
    with pytest.raises(NotAllowed) as refused:
        _in(world)
    assert refused.value.code == "code_wanted"
    code = app.at(world.clock.now())
    assert _in(world, code=f"{code[:3]} {code[3:]}")
    with pytest.raises(NotAllowed) as refused:
        _in(world, code=code)
    assert refused.value.code == "wrong_code"
    with pytest.raises(NotAllowed) as refused:
        _in(world, password="wrong", code=app.at(world.clock.now()))
    assert refused.value.code == "wrong_password"


def test_a_code_of_long_ago_does_not_do_and_guessing_is_slowed_down(world):
    _, _, app = _with_app(world)
    old = app.at(world.clock.now())
    world.clock.advance(timedelta(minutes=3))
    for _ in range(sign_in.MOST_WRONG_PER_NAME):
        with pytest.raises(NotAllowed):
            _in(world, code=old)
    with pytest.raises(TooMany):
        _in(world, code=app.at(world.clock.now()))


def test_the_second_factor_is_switched_off_with_a_code(world):
    _, marit, app = _with_app(world)
    for code, refusal in (("000000", "wrong_code"),):
        with pytest.raises(RuleBroken) as refused:
            second_factor.switch_off(world.context, marit.actor, second_factor.ConfirmSecondFactor(code=code))
        assert refused.value.code == refusal
    with pytest.raises(RuleBroken):
        second_factor.begin(world.context, marit.actor)
    command = second_factor.ConfirmSecondFactor(code=app.at(world.clock.now()))
    second_factor.switch_off(world.context, marit.actor, command)
    assert _in(world)


def _drawn(world, marit, app):
    command = second_factor.ConfirmSecondFactor(code=app.at(world.clock.now()))
    codes = second_factor.draw_codes(world.context, marit.actor, command).codes
    world.clock.advance(timedelta(seconds=90))
    return codes


def test_a_recovery_code_signs_in_once_and_its_owner_is_told(world):
    token, marit, app = _with_app(world)
    codes = _drawn(world, marit, app)
    assert _in(world, code=codes[3].upper().replace("-", " "))
    with pytest.raises(NotAllowed) as refused:
        _in(world, code=codes[3])
    assert refused.value.code == "wrong_code"
    assert account.read_account(world.context, marit, token).recovery_codes_left == 9
    assert "recovery_code_used" in world.kinds()
    (mail,) = [each for _, each in world.send() if each.get("subject") == "A recovery code was used"]
    assert "9 of them are left" in mail["text"]
    assert codes[3] not in mail["text"]
    # None is kept as it is.
    kept = world.sql("SELECT hash FROM recovery_code")
    assert len(kept) == 10
    assert not {row[0] for row in kept} & set(codes)


def test_new_recovery_codes_take_the_place_of_the_old_and_end_with_the_factor(world):
    token, marit, app = _with_app(world)
    old, new = _drawn(world, marit, app), _drawn(world, marit, app)
    with pytest.raises(NotAllowed):
        _in(world, code=old[0])
    assert _in(world, code=new[0])
    with pytest.raises(RuleBroken):
        second_factor.draw_codes(world.context, marit.actor, second_factor.ConfirmSecondFactor(code=new[1]))
    command = second_factor.ConfirmSecondFactor(code=app.at(world.clock.now()))
    second_factor.switch_off(world.context, marit.actor, command)
    assert account.read_account(world.context, marit, token).recovery_codes_left == 0


def test_wrong_recovery_codes_count_as_wrong_tries(world):
    _, marit, app = _with_app(world)
    codes = _drawn(world, marit, app)
    for _ in range(sign_in.MOST_WRONG_PER_NAME):
        with pytest.raises(NotAllowed):
            _in(world, code="22222-22222")
    with pytest.raises(TooMany):
        _in(world, code=codes[0])


def test_a_steward_resets_a_lost_second_factor_with_a_reason(world):
    token, marit, _ = _with_app(world)
    ines = world.actor("ines")
    reset = second_factor.ResetSecondFactor
    for who, whom, why, refusal in (
        (world.actor("rafael"), marit.actor.person_id, "Lost", NotAllowed),
        (ines, marit.actor.person_id, "  ", RuleBroken),
        (ines, ines.person_id, "Mine", RuleBroken),
        (ines, "nobody", "Lost", NotFound),
        (ines, world.actor("rafael").person_id, "Has none", RuleBroken),
    ):
        with pytest.raises(refusal):
            second_factor.reset(world.context, who, whom, reset(why=why))
    second_factor.reset(world.context, ines, marit.actor.person_id, reset(why="Telephone lost at sea, seen in person"))
    with pytest.raises(NotSignedIn):
        sign_in.who_is(world.context, token)
    assert _in(world)
    ((body, private),) = world.sql("SELECT body, private_to FROM audit_entry WHERE kind = 'second_factor_reset'")
    assert b"Telephone lost at sea, seen in person" in body
    assert private == ""
    assert any("Telephone lost at sea" in each.get("text", "") for _, each in world.send())


def test_the_codes_are_those_of_rfc_6238():
    """Appendix B of the RFC, the SHA-1 column, cut to six figures."""
    app = pyotp.TOTP("GEZDGNBVGY3TQOJQGEZDGNBVGY3TQOJQ")
    assert [app.at(second) for second in (59, 1111111109, 2000000000)] == ["287082", "081804", "279037"]


def _notices(world, email, zone="", hour=7, **hows):
    token, who = _in(world, email)
    account.set_notices(world.context, who, account.SetNotices(hows=hows, summary_hour=hour, time_zone=zone))
    return account.read_account(world.context, who, token)


def _answered(world):
    """Anouk answers Leilani's mark."""
    revision = world.file(name())[0][1]
    (mark,) = world.ink(revision, world.draw(revision))
    world.reply(mark, "Agreed.")
    return mark


def test_an_answer_goes_into_the_daily_summary_at_the_persons_hour_and_zone(world):
    _notices(world, LEILANI, zone="America/Halifax", hour=9, answer="daily")
    _answered(world)
    assert _mails(world) == []
    # 08:30 UTC is 04:30 in Halifax, four hours behind before the change of 14 March 2027.
    assert summaries.send_summaries(world.context) == 0
    world.clock.advance(timedelta(hours=4, minutes=29))
    assert summaries.send_summaries(world.context) == 0
    world.clock.advance(timedelta(minutes=1))
    assert summaries.send_summaries(world.context) == 1
    (mail,) = _mails(world)
    assert mail["to_email"] == LEILANI
    assert "Anouk Ferreira answered your mark on BFT-TRA-Z1-01-D-A-0101" in mail["text"]
    assert summaries.send_summaries(world.context) == 0


def test_a_second_summary_waits_for_the_next_day(world):
    _notices(world, LEILANI, answer="daily")
    mark = _answered(world)
    assert summaries.send_summaries(world.context) == 1
    world.reply(mark, "Me too.", who="saoirse")
    assert summaries.send_summaries(world.context) == 0
    world.clock.advance(timedelta(days=1))
    assert summaries.send_summaries(world.context) == 1
    assert "Saoirse" in _mails(world)[-1]["text"]
    assert "Anouk" not in _mails(world)[-1]["text"]


def test_what_is_hidden_since_is_not_in_the_summary(world):
    from nod.core.access.levels import Grantee, Level, To
    from nod.services.acts import projects
    from nod.services.acts.context import acting

    _notices(world, LEILANI, answer="daily")
    _answered(world)
    with acting(world.context, world.actor("rafael")) as act:
        to = Grantee(To.PERSON, world.cast.people["leilani"])
        projects.give(act, world.project_id, world.cast.folders[""], to, Level.NONE)
    summaries.send_summaries(world.context)
    assert _mails(world) == []


@pytest.mark.parametrize(("how", "mails"), [("now", 1), ("never", 0)])
def test_each_is_told_as_they_set_it(world, how, mails):
    shown = _notices(world, LEILANI, answer=how)
    others = dict.fromkeys(set(KINDS) - {"answer"}, "")
    assert {each.code: each.how for each in shown.notices} == {**others, "answer": how}
    _answered(world)
    assert len(_mails(world)) == mails
    world.clock.advance(timedelta(days=1))
    assert summaries.send_summaries(world.context) == 0


def test_nobody_is_told_of_their_own_act(world):
    revision = world.file(name())[0][1]
    (mark,) = world.ink(revision, world.draw(revision))
    world.reply(mark, "I mean the door.", who="leilani")
    assert world.sql("SELECT count(*) FROM summary_line") == [(0,)]


def test_a_lead_sets_notices_for_a_group(world):
    version = setup_view.read_setup(world.context, world.actor("rafael"), world.project_id).version
    command = setup.SetGroupNotices(version=version, hows={"reviewer": {"answer": "nod"}})
    setup.set_group_notices(world.context, world.actor("rafael"), world.project_id, command)
    _answered(world)
    assert _mails(world) == []


@pytest.mark.parametrize(
    ("change", "code"),
    [({"hour": 24}, "hour_invalid"), ({"zone": "Moon"}, "zone_unknown"), ({"step": "often"}, "notice_unknown")],
)
def test_wrong_notice_settings(world, change, code):
    with pytest.raises(RuleBroken) as refused:
        _notices(world, LEILANI, **change)
    assert refused.value.code == code
