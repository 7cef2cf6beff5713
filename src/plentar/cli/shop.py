"""plentar shop NAME --login LOGIN --person NAME: make a shop with its lead's account."""

from __future__ import annotations

import click

from plentar.cli.command import command, refusing, typed_password
from plentar.cli.installation import shops
from plentar.store.accounts import make_account, make_shop
from plentar.words import phrase


@command('shop "Example Heating" --login sam --person "Sam Example"')
@click.argument("name")
@click.option("--login", required=True, help="What the lead signs in with.")
@click.option("--person", required=True, help="The lead's name.")
def shop(name: str, login: str, person: str) -> None:
    """Make a shop NAME and its lead's account; the password is asked for, or read from a pipe."""
    password = typed_password()
    with shops() as session, refusing("shop"):
        made = make_shop(session, name, begun=False)
        make_account(session, made, login, person, password, "lead")
        session.commit()
    click.echo(phrase("cli.shop.sign", name=name, login=login.lower()))
