"""The entries that the web server loads; settings come from the environment."""

from __future__ import annotations

from flask import Flask
from werkzeug.middleware.proxy_fix import ProxyFix

from nod.services.acts.context import open_context
from nod.services.press.press import Press
from nod.settings import Settings
from nod.web.app import create_app
from nod.web.live import create_live_app


def make_web() -> Flask:
    settings = Settings()
    press = Press(2, settings.page_timeout_seconds)
    press.begin()
    app: Flask = create_app(open_context(settings), press)
    return behind_proxies(app, settings)


def make_live() -> Flask:
    settings = Settings()
    return behind_proxies(create_live_app(open_context(settings)), settings)


def behind_proxies(app: Flask, settings: Settings) -> Flask:
    """Where requests come from is what so many proxies in front say; without any, nobody's word is taken for it."""
    if settings.trusted_proxies:
        app.wsgi_app = ProxyFix(app.wsgi_app, x_for=settings.trusted_proxies)  # type: ignore[method-assign]
    return app
