"""`nod serve | demo | worker | post-room | verify | openapi`."""

from __future__ import annotations

import json
import os
import signal
from pathlib import Path
from typing import Annotated

import typer

from nod.clock import Clock
from nod.services.context import Context, open_context
from nod.services.press import Press
from nod.services.verifying import verify_trail
from nod.settings import Settings
from nod.store.database import Database

main = typer.Typer(add_completion=False, no_args_is_help=True, pretty_exceptions_enable=False)
DataOption = Annotated[Path | None, typer.Option("--data", help="The data directory (otherwise NOD_DATA_DIR).")]


def _settings(data: Path | None) -> Settings:
    """The settings, and the environment for the processes that are started from here."""
    if data:
        os.environ["NOD_DATA_DIR"] = str(data)
    return Settings()


def _ready(settings: Settings) -> Context:
    context = open_context(settings)
    context.database.migrate()
    return context


@main.command()
def serve(data: DataOption = None) -> None:
    """Start Nod and keep it running until Ctrl-C."""
    from nod.supervisor import Supervisor

    settings = _settings(data)
    _ready(settings).database.close()
    typer.echo(f"Nod is at {settings.resolved_public_url}")
    Supervisor(settings).run()


@main.command()
def demo(data: DataOption = None) -> None:
    """Make the demo data if there are none yet, then start Nod with them."""
    from nod.demo.build import build_demo, is_built

    os.environ["NOD_DEMO"] = "true"
    settings = _settings(data)
    context = _ready(settings)
    if not is_built(context):
        typer.echo("Making the demo data (once) …")
        build_demo(context)
    context.database.close()
    serve(data)


@main.command("make-demo")
def make_demo(data: DataOption = None) -> None:
    """Make the demo data and stop."""
    from nod.demo.build import build_demo, is_built

    os.environ["NOD_DEMO"] = "true"
    context = _ready(_settings(data))
    if not is_built(context):
        build_demo(context)
    context.database.close()


@main.command()
def worker(data: DataOption = None) -> None:
    """The worker process; `serve` starts it."""
    from nod.worker import run

    run(_settings(data))


@main.command("post-room")
def post_room(data: DataOption = None) -> None:
    """The stand-in mail server; `demo` starts it."""
    from nod.standins.post_room import open_post_room

    settings = _settings(data)
    room = open_post_room(settings.mail_dir, settings.clock, settings.smtp_host, settings.resolved_smtp_port)
    signal.sigwait({signal.SIGTERM, signal.SIGINT})
    room.stop()


@main.command()
def verify(data: DataOption = None) -> None:
    """Recompute the audit trail from the database; exit 1 and name the first bad entry if it is not sound."""
    found = verify_trail(Database(_settings(data).resolved_database_url))
    if found.fault:
        typer.echo(f"NOT SOUND: {found.fault}")
        raise typer.Exit(1)
    typer.echo(f"{found.entries} entries verified, root {found.root}")


@main.command()
def openapi(target: Annotated[Path, typer.Argument(help="Where to write the description of the API.")]) -> None:
    """Write the OpenAPI description, for generating the client."""
    import tempfile

    from nod.web.app import create_app

    with tempfile.TemporaryDirectory() as aside:
        context = open_context(Settings(data_dir=Path(aside)), Clock())
        app = create_app(context, Press(0, 1))
        target.write_text(json.dumps(app.api_doc, indent=1, sort_keys=True) + "\n")


if __name__ == "__main__":
    main()
