"""The optional second factor: an authenticator app's time-based code (RFC 6238)."""

from __future__ import annotations

from datetime import datetime

import pyotp
import segno

from nod.core.acts.refusals import RuleBroken
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Context, acting
from nod.services.acts.seats import Actor
from nod.services.acts.tries import forgive, key_of, take_one
from nod.store.tables import PersonRow

_STEP_SECONDS = 30
_MOST_WRONG = 5


class SecondFactorBegun(Answered):
    """To be put into the app by hand or from `picture`, rows of dark (1) and light (0) squares.

    It is in force once a code of the app has been shown.
    """

    secret: str
    picture: list[str]


class ConfirmSecondFactor(Command):
    code: str


def begin(context: Context, actor: Actor) -> SecondFactorBegun:
    """A fresh secret. Raises RuleBroken while one is in force: that has to be switched off first."""
    with acting(context, actor) as act:
        person = act.session.get_one(PersonRow, actor.person_id)
        if person.second_factor_on:
            raise RuleBroken("second_factor_on", "The second factor is on already. Switch it off first.")
        person.second_factor = pyotp.random_base32()
        subject = Subject("person", person.id)
        act.record("", Fact(FactKind.SECOND_FACTOR_BEGUN, subject, person.name, private_to=person.id))
        address = pyotp.TOTP(person.second_factor).provisioning_uri(name=person.email, issuer_name="Nod")
        picture = ["".join(map(str, row)) for row in segno.make(address).matrix]
        return SecondFactorBegun(secret=person.second_factor, picture=picture)


def confirm(context: Context, actor: Actor, command: ConfirmSecondFactor) -> None:
    _switch(context, actor, command.code, on=True)


def switch_off(context: Context, actor: Actor, command: ConfirmSecondFactor) -> None:
    _switch(context, actor, command.code, on=False)


def _switch(context: Context, actor: Actor, code: str, *, on: bool) -> None:
    """Raises RuleBroken unless `code` shows that the app and its owner are here, TooMany after wrong ones."""
    key = key_of("second factor", actor.person_id)
    with context.database.write() as session:
        take_one(session, key, _MOST_WRONG, context.clock.now())
    with acting(context, actor) as act:
        person = act.session.get_one(PersonRow, actor.person_id)
        if person.second_factor_on is on or not person.second_factor:
            raise RuleBroken("second_factor_state", "The second factor is not waiting for this.")
        if not _fits(person, code, act.at):
            raise RuleBroken("wrong_code", "This code is not, or no longer, the one your app shows.")
        forgive(act.session, [], key)
        person.second_factor_on = on
        if not on:
            person.second_factor = ""
        subject = Subject("person", person.id)
        act.record("", Fact(FactKind.SECOND_FACTOR_SET, subject, person.name, after={"on": on}, private_to=person.id))


def take_code(context: Context, person_id: str, code: str, now: datetime) -> bool:
    """Whether the code is right now; it is spent by this, so that nobody who watched can use it again."""
    with context.database.write() as session:
        return _fits(session.get_one(PersonRow, person_id), code, now)


def _fits(person: PersonRow, code: str, now: datetime) -> bool:
    """One step of 30 s before and after is allowed for clocks that differ (RFC 6238 §5.2)."""
    step = int(now.timestamp()) // _STEP_SECONDS
    app = pyotp.TOTP(person.second_factor)
    for each in (step - 1, step, step + 1):
        if each > person.last_code and pyotp.utils.strings_equal(app.generate_otp(each), "".join(code.split())):
            person.last_code = each
            return True
    return False
