"""The same SQL in bare Flask routes on the same server, to measure Nod's own against."""

import multiprocessing
import shutil
import socket
import sqlite3
import tempfile
from contextlib import contextmanager
from pathlib import Path
from types import SimpleNamespace

from flask import Flask, jsonify, request
from tests.ports import free_port

from nod.web.server import Size, serve_app


def bare_app(database, aside):
    """One route that runs the statements it is asked by name; rows go out as JSON."""
    app = Flask("bare")
    app.extensions["nod_context"] = SimpleNamespace(settings=SimpleNamespace(data_dir=aside))
    app.extensions["nod_largest_body"] = lambda *_: (1_000_000, True)
    local = {}

    def raw():
        if "line" not in local:
            local["line"] = sqlite3.connect(database, check_same_thread=False)
        return local["line"]

    @app.post("/sql")
    def run():
        asked = request.get_json()
        return jsonify([raw().execute(statement, values).fetchall() for statement, values in asked])

    return app


@contextmanager
def bare_routes(database):
    """Yields what sends statements with their values to the bare route: one thread, as Nod is asked by one, too."""
    port, aside = free_port(), Path(tempfile.mkdtemp())
    listening = socket.create_server(("127.0.0.1", port), backlog=128)
    process = multiprocessing.get_context("fork").Process(
        target=serve_app, args=(lambda: bare_app(database, aside), listening, Size("bare", 1, grace_seconds=1))
    )
    process.start()
    listening.close()
    try:
        yield f"http://127.0.0.1:{port}/sql"
    finally:
        process.terminate()
        process.join()
        shutil.rmtree(aside)
