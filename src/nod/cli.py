"""`nod serve | demo | user | worker | mail-door | mail-in | post-room | verify | seal | prove | check | openapi`."""

from __future__ import annotations

import json
import os
from pathlib import Path
from typing import Annotated

import typer

from nod.clock import Clock
from nod.services.acts.context import Context, open_context
from nod.services.press.press import Press
from nod.settings import Settings

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


@main.command("try")
def try_files(folder: Annotated[Path, typer.Argument(help="Any folder; what is in it stays as it is.")]) -> None:
    """Put every file of a folder through a project of its own, and print what became of each."""
    from nod.demo.try_folder import lines_of, summary, try_folder

    if not folder.is_dir():
        typer.echo(f"There is no folder {folder}.", err=True)
        raise typer.Exit(1)
    found = []
    for each in try_folder(folder):
        found.append(each)
        for line in lines_of(each):
            typer.echo(line)
    typer.echo(summary(found))


@main.command()
def worker(data: DataOption = None) -> None:
    """The worker process; `serve` starts it."""
    from nod.worker import run

    run(_settings(data))


@main.command("post-room")
def post_room(data: DataOption = None) -> None:
    """The stand-in mail server; `demo` starts it."""
    from nod.standins.post_room import run

    run(_settings(data))


@main.command("mail-door")
def mail_door(data: DataOption = None) -> None:
    """The SMTP server that takes mail in; `serve` starts it."""
    from nod.mail_door import run

    run(_settings(data))


@main.command("mail-in")
def mail_in(
    to: Annotated[str, typer.Option(help="The address that it came to; otherwise its headers are asked.")] = "",
    sender: Annotated[str, typer.Option("--from", help="The sender of the envelope; empty for none.")] = "",
    data: DataOption = None,
) -> None:
    """Take in one mail from standard input. Exit 0: kept; 67: no such address; 75: try again later."""
    import sys

    from nod.mail_door import EX_TEMPFAIL, pipe

    try:
        context = open_context(_settings(data))
    except OSError as error:
        typer.echo(f"The data directory cannot be opened: {error}", err=True)
        raise typer.Exit(EX_TEMPFAIL) from None
    code = pipe(context, sys.stdin.buffer.read(), to, sender)
    context.database.close()
    if code:
        raise typer.Exit(code)


@main.command()
def verify(
    data: DataOption = None,
    files: Annotated[bool, typer.Option("--files", help="Read all stored files and compare their hashes.")] = False,
    tables: Annotated[bool, typer.Option("--tables", help="Compare the tables with what the entries say.")] = False,
    root: Annotated[str, typer.Option(help="A root that you have from before; with --size.")] = "",
    size: Annotated[int, typer.Option(help="How many entries the trail had then.")] = 0,
    seal: Annotated[Path | None, typer.Option(help="A file with seals that you have from before.")] = None,
    key: Annotated[str, typer.Option(help="The key of these seals, as it was handed to you.")] = "",
) -> None:
    """Recompute the audit trail from the database; exit 1 and name what is not sound."""
    from nod.services import features
    from nod.services.trail.check_reports import verify_all

    features.load()
    told = verify_all(_settings(data), files=files, root=root, size=size, seal=seal, key=key, tables=tables)
    _tell(told)


@main.command()
def seal(data: DataOption = None) -> None:
    """Sign the head of the trail as it is now, and print the seal and the key that it is checked with."""
    from nod.services.trail.seals import make_seal

    context = _ready(_settings(data))
    made = make_seal(context)
    context.database.close()
    typer.echo(made.note)
    typer.echo(made.key)


@main.command()
def prove(
    entry: Annotated[int, typer.Argument(help="The number of the entry.")],
    data: DataOption = None,
    hash_only: Annotated[bool, typer.Option("--hash-only", help="Show the entry's hash and not its content.")] = False,
    since: Annotated[int, typer.Option(help="Prove besides that it grew out of the tree of so many entries.")] = 0,
) -> None:
    """Print a proof that an entry stands under a seal; anybody can check it without this server."""
    from nod.core.acts.refusals import NotFound
    from nod.services.trail.seals import prove_entry

    context = _ready(_settings(data))
    try:
        proof, key = prove_entry(context, entry, hash_only=hash_only, since=since)
    except NotFound:
        typer.echo(f"There is no entry {entry}, or not so many as {since}.", err=True)
        raise typer.Exit(1) from None
    finally:
        context.database.close()
    typer.echo(proof.as_json())
    typer.echo(f"The key to check it with: {key}", err=True)


@main.command()
def check(
    proof: Annotated[Path, typer.Argument(help="The file with the proof.")],
    key: Annotated[str, typer.Option(help="The key, as it was handed to you.")],
    seal: Annotated[Path | None, typer.Option(help="A seal that you have from before.")] = None,
) -> None:
    """Check a proof. Needs no server, no database and no network."""
    from nod.services.trail.check_reports import check_files

    _tell(check_files(proof, key, seal))


def _tell(found: tuple[list[str], bool]) -> None:
    """Each line, and exit 1 unless it is sound."""
    lines, sound = found
    for line in lines:
        typer.echo(line)
    if not sound:
        raise typer.Exit(1)


@main.command()
def user(
    email: Annotated[str, typer.Argument(help="The e-mail address of the steward.")],
    name: Annotated[str, typer.Option(help="The person's name, if they are new.")] = "",
    company: Annotated[str, typer.Option(help="The company's name, if it is new.")] = "My company",
    code: Annotated[str, typer.Option(help="The company's code: 2 to 6 capitals.")] = "OWN",
    data: DataOption = None,
) -> None:
    """Make a steward of the workspace, and print a link to set a password: the first step on a new server."""
    from nod.core.acts.refusals import Refusal
    from nod.services.people.key_links import link_token
    from nod.services.setup.workspace import make_steward

    settings = _settings(data)
    context = _ready(settings)
    try:
        link_id = make_steward(context, name, email, (code, company, "main contractor"))
    except Refusal as refused:
        typer.echo(refused.words, err=True)
        raise typer.Exit(1) from None
    typer.echo(f"{email} is a steward. Set a password here, once, within 14 days:")
    typer.echo(f"{settings.resolved_public_url}/k/{link_token(context, link_id)}")


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
