"""The database: how it is opened, read and written. Nothing outside `store` knows which one it is."""

from __future__ import annotations

import sqlite3
import threading
from collections.abc import Callable, Hashable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any, TypeVar, cast

import structlog
from sqlalchemy import Connection, Engine, create_engine, event, insert
from sqlalchemy.exc import DatabaseError, OperationalError
from sqlalchemy.orm import Session

from nod.clock import steady_seconds, worked_seconds
from nod.core.acts.refusals import DiskFull
from nod.store.tables import Base, CompanyRow, LiveEventRow, MembershipRow, PersonRow, ProjectRow

MIGRATIONS = Path(__file__).parent / "migrations"
_BUSY_MS = 20_000
_MOST_REMEMBERED = 5000
LONG_HOLD_SECONDS = 0.5
_EPOCH = "SELECT number FROM access_epoch"
_ASKED_OFTEN = (PersonRow, MembershipRow, ProjectRow, CompanyRow)
AT_END = "nod_at_end"
"""Functions of a session that is written with: what they gather, they put down before it commits, in their order."""
TOLD = "nod_told"
"""What a session has told live: rows of `LiveEventRow`, written at its end, all at once."""

_ADD_TOLD = insert(Base.metadata.tables[LiveEventRow.__tablename__])

DATABASE_FAULTS = (DatabaseError, sqlite3.DatabaseError)
"""What reading a database may raise that is none, or was spoiled."""

Found = TypeVar("Found")

log = structlog.get_logger()


@dataclass(frozen=True)
class Hold:
    """For how long a write kept all others out, and how much of that its thread worked."""

    seconds: float
    worked: float


class Database:
    """One database. Reads see one moment; writes are taken one at a time and commit whole or not at all."""

    def __init__(self, url: str) -> None:
        self.url = url
        self._engine = _open_engine(url)
        self._writer = self._engine.execution_options(nod_write=True)
        self._write_lock = threading.Lock()
        self.longest_hold = Hold(0.0, 0.0)
        self._people: tuple[int, dict[Hashable, Any]] = (0, {})
        self.on_told: Callable[[], None] = lambda: None
        """Called after a commit that told something live; must not raise, nor take long."""

    @contextmanager
    def read(self) -> Iterator[Session]:
        with Session(self._engine, autoflush=False) as session:
            yield session

    def remember(self, session: Session, key: tuple[Hashable, ...], find: Callable[[], Found]) -> Found:
        """What `find` found under `key`, for as long as nothing at all is written to the database, by whomever.

        For plain values that many requests in a row ask for and that follow from the database alone, not from the
        time. SQLite tells of other connections' commits (PRAGMA data_version) and of this one's own (total_changes).
        """
        connection = session.connection()
        raw: Any = connection.connection.dbapi_connection
        state = (raw.execute("PRAGMA data_version").fetchone()[0], raw.total_changes)
        kept: tuple[Any, dict[Hashable, Any]] | None = connection.info.get("nod_remembered")
        if kept is None or kept[0] != state or len(kept[1]) >= _MOST_REMEMBERED:
            kept = connection.info["nod_remembered"] = (state, {})
        if key not in kept[1]:
            kept[1][key] = find()
        return cast(Found, kept[1][key])

    def remember_people(self, session: Session, key: Hashable, find: Callable[[], Found]) -> Found:
        """What `find` found under `key`, until somebody's access changes, or who is who (see `AccessEpochRow`).

        For plain values that follow from these tables alone, not from the time; kept for all threads of the process.
        """
        connection = session.connection()
        if connection.get_execution_options().get("nod_write"):
            # What is not committed may never be.
            return find()
        raw: Any = connection.connection.dbapi_connection
        epoch = raw.execute(_EPOCH).fetchone()[0]
        kept = self._people
        if epoch > kept[0] or len(kept[1]) >= _MOST_REMEMBERED:
            kept = self._people = (epoch, {})
        if epoch < kept[0]:
            # This transaction sees a moment that is over for others.
            return find()
        if key not in kept[1]:
            kept[1][key] = find()
        return cast(Found, kept[1][key])

    @contextmanager
    def write(self) -> Iterator[Session]:
        """Commits at the end; anything raised leaves nothing behind. Raises DiskFull where there is no room for it.

        The lock in front spares SQLite's busy waiting between the threads of one process.
        """
        writing = Session(self._writer, expire_on_commit=False)
        with self._write_lock, _room(), writing as session, session.begin():
            event.listen(session, "loaded_as_persistent", _keep)
            session.connection()
            began, worked = steady_seconds(), worked_seconds()
            yield session
            session.flush()
            for put_down in session.info.get(AT_END, ()):
                put_down(session)
            if told := session.info.get(TOLD):
                session.connection().execute(_ADD_TOLD, told)
            self._note_hold(Hold(steady_seconds() - began, worked_seconds() - worked))
        if session.info.get(TOLD):
            self.on_told()

    def _note_hold(self, hold: Hold) -> None:
        """Everybody else's acts wait meanwhile, so what took long is told."""
        longest = self.longest_hold
        self.longest_hold = Hold(max(longest.seconds, hold.seconds), max(longest.worked, hold.worked))
        if hold.seconds > LONG_HOLD_SECONDS:
            log.warning("held the database long", seconds=round(hold.seconds, 2), worked=round(hold.worked, 2))

    def migrate(self) -> None:
        """Bring the tables to the newest form."""
        # Only here: loading it takes longer than all that the other processes do before their first answer.
        from alembic import command
        from alembic.config import Config

        config = Config()
        config.set_main_option("script_location", str(MIGRATIONS))
        with self._writer.connect() as connection, _tables_made_anew(connection), connection.begin():
            config.attributes["connection"] = connection
            before = connection.exec_driver_sql("PRAGMA schema_version").scalar()
            command.upgrade(config, "head")
            if connection.exec_driver_sql("PRAGMA schema_version").scalar() != before:
                _check_references(connection)

    def close(self) -> None:
        self._engine.dispose()


def _keep(session: Session, row: object) -> None:
    """An act asks for the same people again and again; a session alone forgets what nobody holds."""
    if isinstance(row, _ASKED_OFTEN):
        session.info.setdefault("nod_kept", []).append(row)


def while_access_stands(session: Session, key: Hashable, find: Callable[[], Found]) -> Found:
    """What `find` found under `key` in this session, until its own transaction changes somebody's access.

    For what follows from the tables of `AccessEpochRow` alone.
    """
    session.flush()
    raw: Any = session.connection().connection.dbapi_connection
    epoch = raw.execute(_EPOCH).fetchone()[0]
    kept: tuple[int, dict[Hashable, Any]] | None = session.info.get("nod_access")
    if kept is None or kept[0] != epoch:
        kept = session.info["nod_access"] = (epoch, {})
    if key not in kept[1]:
        kept[1][key] = find()
    return cast(Found, kept[1][key])


@contextmanager
def _tables_made_anew(connection: Connection) -> Iterator[None]:
    """A table that is dropped to be made anew takes with it nothing that refers to it, see `_check_references`.

    SQLite takes this only outside of a transaction (https://www.sqlite.org/pragma.html#pragma_foreign_keys).
    """
    raw: Any = connection.connection.dbapi_connection
    raw.execute("PRAGMA foreign_keys=OFF")
    try:
        yield
    finally:
        raw.execute("PRAGMA foreign_keys=ON")


def _check_references(connection: Connection) -> None:
    """Raises RuntimeError where a row refers to one that is not there, which undoes the whole move."""
    lost = connection.exec_driver_sql("PRAGMA foreign_key_check").first()
    if lost:
        raise RuntimeError(f"a row of {lost[0]} refers to one of {lost[2]} that is not there")


@contextmanager
def _room() -> Iterator[None]:
    try:
        yield
    except OperationalError as error:
        if getattr(error.orig, "sqlite_errorcode", None) == sqlite3.SQLITE_FULL:
            raise DiskFull from error
        raise


def _open_engine(url: str) -> Engine:
    engine = create_engine(url, connect_args={"isolation_level": None, "check_same_thread": False})
    event.listen(engine, "connect", _prepare)
    event.listen(engine, "begin", _begin)
    return engine


def _prepare(raw: Any, _record: object) -> None:
    for pragma in ("journal_mode=WAL", "foreign_keys=ON", "synchronous=FULL", f"busy_timeout={_BUSY_MS}"):
        raw.execute(f"PRAGMA {pragma}")


def _begin(connection: Connection) -> None:
    # The driver's own transactions are switched off; a write claims the lock at once instead of on its first write.
    write = connection.get_execution_options().get("nod_write")
    connection.exec_driver_sql("BEGIN IMMEDIATE" if write else "BEGIN")
