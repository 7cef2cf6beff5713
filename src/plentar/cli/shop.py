"""plentar shop NAME --login LOGIN --person NAME: make a shop with its lead's account."""

from __future__ import annotations

import getpass
import os
import sys

import click

from plentar.cli.command import command, refusing
from plentar.cli.serve import own_database
from plentar.store.accounts import make_account, make_shop
from plentar.store.database import connect, migrate


@command('shop "Example Heating" --login sam --person "Sam Example"')
@click.argument("name")
@click.option("--login", required=True, help="What the lead signs in with.")
@click.option("--person", required=True, help="The lead's name.")
def shop(name: str, login: str, person: str) -> None:
    """Make a shop NAME and its lead's account; the password is asked for, or read from a pipe."""
    password = getpass.getpass() if sys.stdin.isatty() else sys.stdin.readline().rstrip("\n")
    url = os.environ.get("PLENTAR_DATABASE_URL") or own_database("plentar")
    migrate(url)
    with connect(url)() as session, refusing("shop"):
        made = make_shop(session, name)
        make_account(session, made, login, person, password, "lead")
        session.commit()
    click.echo(f"{name}: sign in as {login.lower()}")
