"""plentar password LOGIN: a new password for an account, where no lead can make a link for it."""

from __future__ import annotations

import click

from plentar.cli.command import command, refusing, typed_password
from plentar.cli.installation import shops
from plentar.store.people import choose_password, person_named
from plentar.words import phrase


@command("password sam")
@click.argument("login")
def password(login: str) -> None:
    """Set the password of LOGIN; it is asked for, or read from a pipe. Every session of theirs ends."""
    with shops() as session, refusing("password"):
        person = person_named(session, login)
        choose_password(session, person, typed_password())
        session.commit()
    click.echo(phrase("cli.password.signs-new-password-from", person=person.name, login=person.login))
