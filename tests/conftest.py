"""A small world for every test: its own copy of a project, its own clock, a press that is shared."""

import gc
import itertools
import shutil
from contextlib import contextmanager
from datetime import UTC, datetime

import pytest
from hypothesis import HealthCheck, settings
from sqlalchemy.util import LRUCache

from nod.clock import SetClock
from nod.demo.people import set_up
from nod.services import features
from nod.services.acts.context import open_context
from nod.services.acts.replays import table_faults
from nod.services.press.press import Press
from nod.settings import Settings
from nod.store.database import LONG_HOLD_SECONDS
from tests import plans
from tests.speed import how_slow
from tests.world import World

# How fast the machine is at the moment is not what these tests are about.
settings.register_profile("nod", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("nod")

NOW = datetime(2027, 3, 9, 8, 30, tzinfo=UTC)


def settings_for(path, **more):
    return Settings(data_dir=path, password_cost=1, demo=True, **more)


_COMPILED = LRUCache(3000)
_SHARED = {}


def keep_compiled(database):
    """What a statement is in SQL is worked out once for all worlds: that is a good part of what tests take."""
    dialect = _SHARED.setdefault("dialect", database._engine.dialect)
    for engine in (database._engine, database._writer):
        engine.dialect, engine._compiled_cache = dialect, _COMPILED


_worlds = itertools.count()


@contextmanager
def no_collecting():
    """The collector looks through all that the tests are made of, which takes longer than what is measured here."""
    if next(_worlds) % 40 == 0:
        gc.collect()
    gc.disable()
    try:
        yield
    finally:
        gc.enable()


@pytest.fixture(scope="session")
def template(tmp_path_factory):
    """A data directory with the project and its people, made once."""
    path = tmp_path_factory.mktemp("template")
    context = open_context(settings_for(path), SetClock(NOW))
    context.database.migrate()
    cast = set_up(context, ())
    context.database.close()
    return path, cast


@pytest.fixture(scope="session")
def press():
    press = Press(1, 20)
    yield press
    press.close()


@pytest.fixture
def world(template, press, tmp_path):
    path, cast = template
    shutil.copytree(path, tmp_path / "data")
    clock = SetClock(NOW)
    context = open_context(settings_for(tmp_path / "data"), clock)
    keep_compiled(context.database)
    with no_collecting():
        world = World(context, clock, press, cast, keeps=True)
        yield world
    held = context.database.longest_hold
    # Everybody else waits meanwhile. What the machine was busy with besides is not counted, up to where it waited for
    # something that takes long by itself, say another process. On a shared machine, work takes a few times as long.
    most = 2 * LONG_HOLD_SECONDS
    assert held.worked < most or held.worked < most * how_slow(), f"{held.worked:.2f} s of work held the database"
    assert held.seconds < 20, f"the database was held for {held.seconds:.1f} s"
    found, plans.slow_ways[:] = list(plans.slow_ways), []
    assert found == []
    # Whatever a test did, its entries make the tables as they are; one that writes by hand says so.
    if not world.written_by_hand:
        features.load()
        assert list(table_faults(context.database)) == []
    context.database.close()
