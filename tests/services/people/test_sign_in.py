import threading
from datetime import timedelta

import pytest

from nod.core.acts.refusals import NotAllowed, NotSignedIn, TooMany
from nod.services.acts import tries
from nod.services.people import sign_in
from nod.services.people.sign_in import DEMO_PASSWORD, Browser, SignIn

MARIT = "marit@hollinbrook.example"


def _try(world, email=MARIT, password=DEMO_PASSWORD, address="10.0.0.1"):
    return sign_in.sign_in(world.context, SignIn(email=email, password=password), Browser(address))[0]


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
    world.clock.advance(tries.WINDOW + timedelta(seconds=1))
    assert _try(world)


def test_a_browser_one_has_signed_in_with_is_not_locked_out_by_others(world):
    """Strangers at the same address, and guesses at the account from anywhere, use up tries of their own."""
    mine = SignIn(email=MARIT, password=DEMO_PASSWORD)
    _, known = sign_in.sign_in(world.context, mine, Browser("10.0.0.1"))
    for place in range(sign_in.MOST_WRONG_PER_ACCOUNT):
        with pytest.raises((NotAllowed, TooMany)):
            _try(world, password="guess", address=f"10.0.0.{place % 12}")
    with pytest.raises(TooMany):
        _try(world, address="10.0.0.1")
    assert sign_in.sign_in(world.context, mine, Browser("10.0.0.1", known))
    # What one browser is known by is worth nothing for another person, and guesses with it are limited as well.
    with pytest.raises(TooMany):
        _try(world, email=MARIT, address="10.0.0.1")
    guess = SignIn(email=MARIT, password="guess")
    for _ in range(sign_in.MOST_WRONG_PER_NAME):
        with pytest.raises(NotAllowed):
            sign_in.sign_in(world.context, guess, Browser("10.0.0.1", known))
    with pytest.raises(TooMany):
        sign_in.sign_in(world.context, mine, Browser("10.0.0.1", known))


def test_guesses_at_the_same_moment_are_counted_one_by_one(world):
    """Counted before the password is looked at: not all of a burst go by the same count."""
    seen = []

    def guess():
        try:
            _try(world, password="guess")
        except (NotAllowed, TooMany) as refused:
            seen.append(refused.code)

    threads = [threading.Thread(target=guess) for _ in range(12)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(seen) == ["too_many"] * 7 + ["wrong_password"] * 5


def test_a_name_that_is_not_there_takes_one_hash_like_one_that_is(world):
    """The hash that stands for nobody is made once, and not anew at each try."""
    hashed = sign_in._nobodys_hash(1, 1024)
    sign_in.fits(world.context, "guess", "")
    before = sign_in._nobodys_hash.cache_info().misses
    assert sign_in.fits(world.context, "guess", "") is False
    assert sign_in._nobodys_hash.cache_info().misses == before
    # Even whoever guesses the word behind it is nobody.
    assert sign_in.hasher(world.context).verify(hashed, "nobody")
    assert sign_in.fits(world.context, "nobody", "") is False


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
    assert len(sign_in.demo_people(world.context).people) == 12
    assert sign_in.demo_people(world.with_settings(demo=False)).people == []
