"""Ten codes on paper beside the authenticator app; kept as hashes, spent one by one, drawn anew when asked for."""

from __future__ import annotations

import hashlib
import hmac
import secrets

from sqlalchemy import delete, func, select, update
from sqlalchemy.orm import Session

from nod.core.people.recovery_codes import make_codes, tidied
from nod.core.trail.entries import Fact, FactKind, Subject
from nod.services.acts.context import Act, Context
from nod.services.acts.seats import actor_of
from nod.services.mail.mails import write_mail
from nod.store.ids import new_id
from nod.store.tables import PersonRow, RecoveryCodeRow


def renew(act: Act, person: PersonRow) -> list[str]:
    """Ten new ones, to be shown once; those from before are worth nothing from now on."""
    drop(act.session, person.id)
    codes = make_codes(secrets.choice)
    act.session.add_all(
        RecoveryCodeRow(id=new_id(), person_id=person.id, hash=_hash(act.context, person.id, code), made_at=act.at)
        for code in codes
    )
    return codes


def drop(session: Session, person_id: str) -> None:
    session.execute(delete(RecoveryCodeRow).where(RecoveryCodeRow.person_id == person_id))


def left(session: Session, person_id: str) -> int:
    query = select(func.count()).where(RecoveryCodeRow.person_id == person_id, RecoveryCodeRow.used_at.is_(None))
    return session.scalar(query) or 0


def spend(context: Context, session: Session, person: PersonRow, typed: str) -> bool:
    """Whether this is one that was not used yet; it is from now on, and its owner is told by mail."""
    if not tidied(typed):
        return False
    now = context.clock.now()
    spent = update(RecoveryCodeRow).where(
        RecoveryCodeRow.person_id == person.id,
        RecoveryCodeRow.hash == _hash(context, person.id, typed),
        RecoveryCodeRow.used_at.is_(None),
    )
    if not session.execute(spent.values(used_at=now).returning(RecoveryCodeRow.id)).scalar():
        return False
    act, count = Act(context, session, actor_of(session, person.id), now), left(session, person.id)
    subject = Subject("person", person.id)
    after = {"left": count}
    act.record("", Fact(FactKind.RECOVERY_CODE_USED, subject, person.name, after=after, private_to=person.id))
    lines = [
        "Somebody, probably you, signed in to Nod with one of your recovery codes.",
        f"{count} of them are left. Draw new ones under your account, Second factor.",
        "",
        "If it was not you, change your password at once, and tell a steward of the workspace.",
    ]
    write_mail(
        act, f"recovery_code:{person.id}:{count}:{now.isoformat()}", person.id, "A recovery code was used", lines
    )
    return True


def _hash(context: Context, person_id: str, code: str) -> str:
    """Bound to its owner. A slow hash is not needed: the codes are random, 49 bits of it, and tries are counted."""
    return hmac.new(context.secret, f"recovery code:{person_id}:{tidied(code)}".encode(), hashlib.sha256).hexdigest()
