"""The optional second factor: an authenticator app's time-based code (RFC 6238), and codes on paper beside it."""

from __future__ import annotations

from datetime import datetime

import pyotp
import segno

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Act, Context, acting
from nod.services.acts.seats import Actor, need_steward
from nod.services.acts.tries import forgive, key_of, take_one
from nod.services.mail.mails import write_mail
from nod.services.people import recovery_codes
from nod.services.people.ending import end_all
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


class RecoveryCodes(Answered):
    """Shown this once, to be printed or written down."""

    codes: list[str]


class ResetSecondFactor(Command):
    why: str


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


def confirm(context: Context, actor: Actor, command: ConfirmSecondFactor) -> RecoveryCodes:
    """From now on a code is asked for; with the recovery codes for when the app is lost."""
    _take_try(context, actor)
    with acting(context, actor) as act:
        person = _shown(act, command.code, on=False)
        person.second_factor_on = True
        _note(act, person, FactKind.SECOND_FACTOR_SET, {"on": True})
        return RecoveryCodes(codes=recovery_codes.renew(act, person))


def switch_off(context: Context, actor: Actor, command: ConfirmSecondFactor) -> None:
    _take_try(context, actor)
    with acting(context, actor) as act:
        person = _shown(act, command.code, on=True)
        _forget(act, person)
        _note(act, person, FactKind.SECOND_FACTOR_SET, {"on": False})


def draw_codes(context: Context, actor: Actor, command: ConfirmSecondFactor) -> RecoveryCodes:
    """Ten new recovery codes, in place of those from before."""
    _take_try(context, actor)
    with acting(context, actor) as act:
        person = _shown(act, command.code, on=True)
        _note(act, person, FactKind.RECOVERY_CODES_MADE, {})
        return RecoveryCodes(codes=recovery_codes.renew(act, person))


def reset(context: Context, actor: Actor, person_id: str, command: ResetSecondFactor) -> None:
    """By a steward, for somebody who has lost the app and the codes; with a reason, and they are told by mail.

    All their sign-ins end: whoever holds what was lost is out.
    """
    need_steward(actor)
    why = " ".join(command.why.split())[:500]
    if not why:
        raise RuleBroken("reason_missing", "Say why, and how you made sure that it is they who ask.")
    if person_id == actor.person_id:
        raise RuleBroken("not_ones_own", "Another steward resets yours: nobody takes their own second factor away so.")
    with acting(context, actor) as act:
        person = act.session.get(PersonRow, person_id)
        if person is None:
            raise NotFound(person_id)
        if not person.second_factor_on:
            raise RuleBroken("second_factor_state", f"{person.name} has no second factor.", person.name)
        _forget(act, person)
        end_all(act, person.id)
        before, after = {"on": True}, {"on": False}
        fact = Fact(
            FactKind.SECOND_FACTOR_RESET, Subject("person", person.id), person.name, why=why, before=before, after=after
        )
        act.record("", fact)
        lines = [
            f"{actor.name} has switched your second factor for Nod off.",
            f"Why: {why}",
            "",
            "You were signed out everywhere. Sign in with your password, and set the second factor up anew.",
            "If you did not ask for it, tell another steward of the workspace at once.",
        ]
        key = f"second_factor_reset:{person.id}:{act.at.isoformat()}"
        write_mail(act, key, person.id, "Your second factor was switched off", lines)


def _take_try(context: Context, actor: Actor) -> None:
    """Counted before the code is looked at, and in a transaction of its own. Raises TooMany after wrong ones."""
    with context.database.write() as session:
        take_one(session, key_of("second factor", actor.person_id), _MOST_WRONG, context.clock.now())


def _shown(act: Act, code: str, *, on: bool) -> PersonRow:
    """Raises RuleBroken unless `code` shows that the app and its owner are here, and the second factor is on or not."""
    person = act.session.get_one(PersonRow, act.actor.person_id)
    if person.second_factor_on is not on or not person.second_factor:
        raise RuleBroken("second_factor_state", "The second factor is not waiting for this.")
    if not _fits(person, code, act.at):
        raise RuleBroken("wrong_code", "This code is not, or no longer, the one your app shows.")
    forgive(act.session, [], key_of("second factor", person.id))
    return person


def _forget(act: Act, person: PersonRow) -> None:
    person.second_factor_on, person.second_factor = False, ""
    recovery_codes.drop(act.session, person.id)


def _note(act: Act, person: PersonRow, kind: FactKind, after: dict[str, bool]) -> None:
    act.record("", Fact(kind, Subject("person", person.id), person.name, after=after, private_to=person.id))


def take_code(context: Context, person_id: str, code: str, now: datetime) -> bool:
    """Whether the code is right now, of the app or on paper; it is spent by this, so that nobody uses it again."""
    with context.database.write() as session:
        person = session.get_one(PersonRow, person_id)
        return _fits(person, code, now) or recovery_codes.spend(context, session, person, code)


def _fits(person: PersonRow, code: str, now: datetime) -> bool:
    """One step of 30 s before and after is allowed for clocks that differ (RFC 6238 §5.2)."""
    step = int(now.timestamp()) // _STEP_SECONDS
    app = pyotp.TOTP(person.second_factor)
    for each in (step - 1, step, step + 1):
        if each > person.last_code and pyotp.utils.strings_equal(app.generate_otp(each), "".join(code.split())):
            person.last_code = each
            return True
    return False
