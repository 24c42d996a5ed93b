"""Settings, from the environment (`NOD_…`), with defaults that are safe without any."""

from __future__ import annotations

import json
from datetime import UTC, datetime
from functools import cached_property
from pathlib import Path

from pydantic import field_validator
from pydantic_settings import BaseSettings, SettingsConfigDict

from nod.clock import Clock


class Settings(BaseSettings):
    """Read once at start; `data_dir` holds everything that must be kept."""

    model_config = SettingsConfigDict(env_prefix="NOD_", extra="ignore")

    data_dir: Path = Path("data")
    database_url: str = ""
    host: str = "127.0.0.1"
    port: int = 8000
    live_port: int = 0
    live_url: str = ""
    smtp_host: str = "127.0.0.1"
    smtp_port: int = 0
    mail_from: str = "nod@brackwater.example"
    mail_in_host: str = ""
    mail_in_port: int = 0
    mail_domain: str = ""
    mail_server: str = ""
    largest_mail_bytes: int = 50 * 1024**2
    public_url: str = ""
    demo: bool = False
    secure_cookies: bool = False
    clock_start: datetime | None = None
    password_cost: int = 3
    web_workers: int = 2
    web_threads: int = 4
    page_timeout_seconds: float = 20.0
    ocr_languages: str = "eng"
    largest_file_bytes: int = 4 * 1024**3
    session_hours: int = 12
    layered_cache_bytes: int = 2 * 1024**3
    picture_cache_bytes: int = 20 * 1024**3
    lease_seconds: int = 60
    task_patience_seconds: float = 300.0
    trusted_proxies: int = 0

    @field_validator("data_dir")
    @classmethod
    def _absolute(cls, value: Path) -> Path:
        """Relative to where Nod was started, whatever a library takes relative paths to be relative to."""
        return value.resolve()

    @property
    def resolved_database_url(self) -> str:
        return self.database_url or f"sqlite:///{self.data_dir / 'nod.db'}"

    @property
    def resolved_live_port(self) -> int:
        return self.live_port or self.port + 1

    @property
    def resolved_smtp_port(self) -> int:
        return self.smtp_port or self.port + 2

    @property
    def resolved_mail_in_port(self) -> int:
        return self.mail_in_port or self.port + 3

    @property
    def resolved_mail_domain(self) -> str:
        """Of the addresses for answers; by default that from which mail is sent."""
        return (self.mail_domain or self.mail_from.rpartition("@")[2]).lower()

    @property
    def resolved_public_url(self) -> str:
        return (self.public_url or f"http://{self.host}:{self.port}").rstrip("/")

    @property
    def mail_dir(self) -> Path:
        return self.data_dir / "mail"

    @cached_property
    def clock(self) -> Clock:
        """Ticks on from `clock_start`, also over restarts: the shift is kept beside the data."""
        kept = self.data_dir / "clock.json"
        if kept.is_file():
            return Clock(float(json.loads(kept.read_text())["shift_seconds"]))
        if self.clock_start is None:
            return Clock()
        start = self.clock_start if self.clock_start.tzinfo else self.clock_start.replace(tzinfo=UTC)
        shift = (start - Clock().now()).total_seconds()
        self.data_dir.mkdir(parents=True, exist_ok=True)
        kept.write_text(json.dumps({"shift_seconds": shift}))
        return Clock(shift)
