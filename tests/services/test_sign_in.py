from datetime import timedelta

import pytest

from nod.core.refusals import NotAllowed, NotSignedIn, TooMany
from nod.services import sign_in
from nod.services.sign_in import DEMO_PASSWORD, SignIn

MARIT = "marit@hollinbrook.example"


def _try(world, email=MARIT, password=DEMO_PASSWORD, address="10.0.0.1"):
    return sign_in.sign_in(world.context, SignIn(email=email, password=password), address)


def test_a_cookie_leads_to_the_person_until_it_ends(world):
    token = _try(world, email=" Marit@Hollinbrook.example ")
    signed_in = sign_in.who_is(world.context, token)
    assert signed_in.actor.name == "Marit Osei"
    assert [project.level for project in sign_in.read_me(world.context, signed_in).projects] == ["keep"]
    world.clock.advance(timedelta(hours=13))
    with pytest.raises(NotSignedIn):
        sign_in.who_is(world.context, token)


def test_after_signing_out_the_cookie_is_worth_nothing(world):
    token = _try(world)
    sign_in.sign_out(world.context, token)
    with pytest.raises(NotSignedIn):
        sign_in.who_is(world.context, token)
    assert world.kinds()[-2:] == ["signed_in", "signed_out"]


@pytest.mark.parametrize(
    ("email", "password"),
    [(MARIT, "wrong"), ("nobody@example.com", DEMO_PASSWORD), ("yusuf@sparrowgate.example", ""), ("", "")],
)
def test_every_wrong_pair_gets_the_same_words(world, email, password):
    with pytest.raises(NotAllowed) as refused:
        _try(world, email, password)
    assert refused.value.code == "wrong_password"


def test_guessing_is_slowed_down_and_locks_nobody_else_out(world):
    for _ in range(sign_in.MOST_WRONG_PER_NAME):
        with pytest.raises(NotAllowed):
            _try(world, password="guess")
    with pytest.raises(TooMany):
        _try(world)
    assert _try(world, address="10.0.0.2")
    world.clock.advance(sign_in.WINDOW + timedelta(seconds=1))
    assert _try(world)


def test_one_address_cannot_try_many_names(world):
    for place in range(sign_in.MOST_WRONG_PER_ADDRESS):
        with pytest.raises(NotAllowed):
            _try(world, email=f"{place}@example.com", password="guess")
    with pytest.raises(TooMany):
        _try(world)


def test_nothing_secret_is_kept_in_the_clear(world):
    token = _try(world)
    whole = (world.context.settings.data_dir / "nod.db").read_bytes()
    whole += (world.context.settings.data_dir / "nod.db-wal").read_bytes()
    assert token.encode() not in whole
    assert DEMO_PASSWORD.encode() not in whole
    assert b"$argon2id$" in whole


def test_a_removed_person_is_out_at_once(world):
    token = _try(world)
    with world.context.database.write() as session:
        from nod.store.tables import PersonRow

        session.get_one(PersonRow, world.cast.people["marit"]).state = "removed"
    with pytest.raises(NotSignedIn):
        sign_in.who_is(world.context, token)
    with pytest.raises(NotAllowed):
        _try(world)


def test_the_demos_people_are_shown_in_the_demo_only(world):
    assert len(sign_in.demo_people(world.context).people) == 11
    assert sign_in.demo_people(world.with_settings(demo=False)).people == []
