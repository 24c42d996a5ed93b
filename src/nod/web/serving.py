"""The web server around an app: processes that answer, each with its own app, under one that starts them again."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from flask import Flask
from gunicorn.app.base import BaseApplication  # type: ignore[import-untyped]

# Views of the register stand in addresses, which may be long.
_LONGEST_LINE_BYTES = 8190


@dataclass(frozen=True)
class Size:
    """How many processes of how many threads each; how long they may take to end."""

    processes: int
    threads: int
    grace_seconds: int


class _Server(BaseApplication):
    def __init__(self, make_app: Callable[[], Flask], settings: dict[str, Any]) -> None:
        self._make_app, self._settings = make_app, settings
        super().__init__()

    def load_config(self) -> None:
        for name, value in self._settings.items():
            self.cfg.set(name, value)

    def load(self) -> Flask:
        return self._make_app()


def serve_app(make_app: Callable[[], Flask], host: str, port: int, size: Size) -> None:
    """Until told to stop by SIGTERM. Each process makes its own app, after it has become one."""
    settings = {
        "bind": f"{host}:{port}", "workers": size.processes, "threads": size.threads, "worker_class": "gthread",
        "graceful_timeout": size.grace_seconds, "timeout": 0, "limit_request_line": _LONGEST_LINE_BYTES,
        "control_socket_disable": True,
    }  # fmt: skip
    _Server(make_app, settings).run()
