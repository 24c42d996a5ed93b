from datetime import UTC, datetime, timedelta
from pathlib import Path

from nod.settings import Settings


def test_a_relative_data_directory_is_made_absolute(tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    settings = Settings(data_dir=Path("data/demo"))
    assert settings.data_dir == tmp_path / "data" / "demo"
    assert settings.resolved_database_url == f"sqlite:///{tmp_path}/data/demo/nod.db"


def test_ports_follow_the_first(monkeypatch):
    monkeypatch.setenv("NOD_PORT", "9000")
    settings = Settings()
    assert (settings.resolved_live_port, settings.resolved_smtp_port) == (9001, 9002)
    assert settings.resolved_public_url == "http://127.0.0.1:9000"


def test_the_clock_begins_where_it_is_told_and_ticks_on_over_restarts(tmp_path):
    start = datetime(2027, 3, 9, 8, 30, tzinfo=UTC)
    first = Settings(data_dir=tmp_path, clock_start=start).clock.now()
    assert timedelta(0) <= first - start < timedelta(seconds=5)
    again = Settings(data_dir=tmp_path, clock_start=start).clock.now()
    assert again >= first
    assert Settings(data_dir=tmp_path).clock.now() >= again


def test_safe_without_any_setting():
    settings = Settings()
    assert settings.host == "127.0.0.1"
    assert not settings.demo
    assert settings.password_cost >= 2
