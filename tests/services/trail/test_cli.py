"""The command line's first steps on a new server."""

import re

from typer.testing import CliRunner

from nod.cli import main
from nod.services.acts.context import open_context
from nod.services.people import key_links, sign_in
from nod.settings import Settings

RUN = CliRunner()


def _user(path, monkeypatch, email, *more):
    monkeypatch.setenv("NOD_DATA_DIR", str(path))
    return RUN.invoke(main, ["user", email, "--name", "First Steward", "--code", "OWN", *more])


def test_the_first_steward_goes_in_by_the_printed_link(tmp_path, monkeypatch):
    told = _user(tmp_path, monkeypatch, "first@own.example", "--company", "Own Company")
    assert told.exit_code == 0, told.output
    token = re.search(r"/k/(\S+)", told.output)[1]
    context = open_context(Settings(data_dir=tmp_path, password_cost=1))
    use = key_links.UseKeyLink(password="quiet tidal estuary")
    signed_in = sign_in.who_is(context, key_links.use_link(context, token, use, "here"))
    assert (signed_in.actor.name, signed_in.actor.company_code, signed_in.actor.steward) == (
        "First Steward",
        "OWN",
        True,
    )
    assert sign_in.read_me(context, signed_in).projects == []
    context.database.close()


def test_a_wrong_address_is_named_and_nothing_is_made(tmp_path, monkeypatch):
    told = _user(tmp_path, monkeypatch, "not an address")
    assert told.exit_code == 1
    context = open_context(Settings(data_dir=tmp_path))
    with context.database.read() as session:
        from nod.store.tables import CompanyRow, PersonRow

        assert session.query(PersonRow).count() == session.query(CompanyRow).count() == 0
    context.database.close()
