"""How often something may be tried in a short time: wrong passwords, codes, links."""

from __future__ import annotations

import hashlib
from datetime import datetime, timedelta

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from nod.core.acts.refusals import TooMany
from nod.store.tables import FailedSignInRow

WINDOW = timedelta(minutes=10)


def key_of(*parts: str) -> str:
    return hashlib.sha256("\n".join(parts).encode(errors="surrogatepass")).hexdigest()


def check_tries(session: Session, most_by_key: dict[str, int], now: datetime) -> None:
    """Raises TooMany if one of the keys has been tried so often within `WINDOW`."""
    for key, most in most_by_key.items():
        wrong = select(func.count()).where(FailedSignInRow.key == key, FailedSignInRow.at > now - WINDOW)
        if (session.scalar(wrong) or 0) >= most:
            raise TooMany(int(WINDOW.total_seconds()))


def count_tries(session: Session, keys: list[str], now: datetime) -> list[int]:
    """Returns the numbers of the tries, to forgive them. Older ones count no more, and are forgotten."""
    session.execute(delete(FailedSignInRow).where(FailedSignInRow.at < now - WINDOW))
    rows = [FailedSignInRow(key=key, at=now) for key in keys]
    session.add_all(rows)
    session.flush()
    return [row.seq for row in rows]


def forgive(session: Session, counted: list[int], key: str = "") -> None:
    """These tries, and all under `key`."""
    session.execute(delete(FailedSignInRow).where(FailedSignInRow.seq.in_(counted) | (FailedSignInRow.key == key)))


def take_one(session: Session, key: str, most: int, now: datetime) -> None:
    """Counts one try, right or wrong. Raises TooMany."""
    check_tries(session, {key: most}, now)
    count_tries(session, [key], now)
