"""The entries that the web server loads; settings come from the environment."""

from __future__ import annotations

from flask import Flask

from nod.services.context import open_context
from nod.services.press import Press
from nod.settings import Settings
from nod.web.app import create_app
from nod.web.live import create_live_app


def make_web() -> Flask:
    settings = Settings()
    press = Press(2, settings.page_timeout_seconds)
    press.begin()
    app: Flask = create_app(open_context(settings), press)
    return app


def make_live() -> Flask:
    return create_live_app(open_context(Settings()))
