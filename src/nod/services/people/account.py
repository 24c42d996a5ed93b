"""One's own account: password, sign-ins, time zone, notices (handbook §13)."""

from __future__ import annotations

from datetime import datetime
from zoneinfo import available_timezones

from sqlalchemy import select

from nod.core.acts.refusals import NotFound, RuleBroken
from nod.core.notices import HOW, KINDS, check_setting, ways
from nod.core.people.passwords import check_password
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.answers import Answered, Command
from nod.services.acts.context import Context, acting
from nod.services.acts.tries import forgive, key_of, take_one
from nod.services.people import recovery_codes, sign_in
from nod.services.people.ending import end_all
from nod.services.people.sign_in import SignedIn, token_hash
from nod.store.tables import PersonRow, SignInRow


class SignInShown(Answered):
    """A browser that is signed in."""

    id: str
    came_from: str
    began_at: datetime
    ends_at: datetime
    this_one: bool


class NoticeKind(Answered):
    """`hows` are the ways in which it may be told."""

    code: str
    words: str
    how: str
    hows: list[str]


class HowTold(Answered):
    code: str
    words: str


class Account(Answered):
    """`notices` says for each kind how one wants to be told; empty where one leaves it to each project."""

    email: str
    second_factor_on: bool
    recovery_codes_left: int
    sign_ins: list[SignInShown]
    notices: list[NoticeKind]
    hows: list[HowTold]
    summary_hour: int
    time_zone: str
    time_zones: list[str]


class ChangePassword(Command):
    present: str
    password: str


class SetNotices(Command):
    """`hows` maps a kind of notice to how it is told; what is left out is told as each project sets it.

    `time_zone` empty for each project's own.
    """

    hows: dict[str, str]
    summary_hour: int
    time_zone: str


def _allowed(kind: str, how: str) -> str:
    """As it is told: what was silenced before that was not to be any more is in the summary."""
    return how if how in ("", *ways(kind)) else "daily"


def read_account(context: Context, signed_in: SignedIn, token: str) -> Account:
    with context.database.read() as session:
        person = session.get_one(PersonRow, signed_in.own.person_id)
        rows = session.scalars(
            select(SignInRow)
            .where(SignInRow.person_id == person.id, SignInRow.ends_at > context.clock.now())
            .order_by(SignInRow.began_at.desc())
        )
        return Account(
            email=person.email,
            second_factor_on=person.second_factor_on,
            recovery_codes_left=recovery_codes.left(session, person.id),
            sign_ins=[
                SignInShown(
                    id=row.id, came_from=row.came_from, began_at=row.began_at, ends_at=row.ends_at,
                    this_one=row.token_sha256 == token_hash(token),
                )
                for row in rows
            ],
            notices=[
                NoticeKind(
                    code=code, words=kind.words, how=_allowed(code, person.notices.get(code, "")), hows=list(ways(code))
                )
                for code, kind in KINDS.items()
            ],
            hows=[HowTold(code=code, words=words) for code, words in HOW.items()],
            summary_hour=person.summary_hour,
            time_zone=person.time_zone,
            time_zones=sorted(available_timezones()),
        )  # fmt: skip


def change_password(context: Context, signed_in: SignedIn, token: str, command: ChangePassword) -> None:
    """Ends all other sign-ins. Raises RuleBroken if the present one is not right or the new one not good.

    Raises TooMany after wrong ones: whoever finds a browser open must not find out the password there.
    """
    key = key_of("present password", signed_in.own.person_id)
    with context.database.write() as session:
        take_one(session, key, sign_in.MOST_WRONG_PER_NAME, context.clock.now())
        person = session.get_one(PersonRow, signed_in.own.person_id)
        session.expunge(person)
    if not sign_in.fits(context, command.present, person.password_hash):
        raise RuleBroken("wrong_present_password", "The present password is not right.")
    check_password(command.password, person.email)
    password_hash = sign_in.hasher(context).hash(command.password)
    with acting(context, signed_in.own) as act:
        person = act.session.get_one(PersonRow, signed_in.own.person_id)
        person.password_hash = password_hash
        forgive(act.session, [], key)
        this = act.session.get(SignInRow, token_hash(token))
        end_all(act, person.id, but=this.id if this else "")
        subject = Subject("person", person.id)
        act.record("", Fact(FactKind.PASSWORD_SET, subject, person.name, after={"by": "oneself"}, private_to=person.id))


def end_sign_in(context: Context, signed_in: SignedIn, sign_in_id: str) -> None:
    """Ends one of one's own. Raises NotFound for anything else."""
    with acting(context, signed_in.own) as act:
        query = select(SignInRow).where(SignInRow.id == sign_in_id, SignInRow.person_id == signed_in.own.person_id)
        row = act.session.scalars(query).one_or_none()
        if row is None:
            raise NotFound(sign_in_id)
        act.session.delete(row)
        subject = Subject("person", signed_in.own.person_id)
        fact = Fact(
            FactKind.SIGN_IN_ENDED, subject, signed_in.own.name, after={"from": row.came_from}, private_to=subject.id
        )
        act.record("", fact)


def set_notices(context: Context, signed_in: SignedIn, command: SetNotices) -> None:
    """Raises RuleBroken for an hour, a zone or a setting that is none."""
    if not 0 <= command.summary_hour <= 23:
        raise RuleBroken("hour_invalid", "The hour of the summary is from 0 to 23.", str(command.summary_hour))
    check_zone(command.time_zone, empty=True)
    for kind, how in command.hows.items():
        check_setting(kind, how)
    with acting(context, signed_in.own) as act:
        person = act.session.get_one(PersonRow, signed_in.own.person_id)
        before = {"notices": person.notices, "hour": person.summary_hour, "zone": person.time_zone}
        person.notices = dict(command.hows)
        person.summary_hour, person.time_zone = command.summary_hour, command.time_zone
        after = {"notices": person.notices, "hour": person.summary_hour, "zone": person.time_zone}
        subject = Subject("person", person.id)
        act.record(
            "", Fact(FactKind.NOTICES_SET, subject, person.name, before=before, after=after, private_to=person.id)
        )


def check_zone(time_zone: str, *, empty: bool = False) -> None:
    """Raises RuleBroken for a name that is not in the IANA time zone database."""
    if not (empty and not time_zone) and time_zone not in available_timezones():
        raise RuleBroken(
            "zone_unknown", f"“{time_zone}” is not a time zone. It should read like Europe/London.", time_zone
        )
