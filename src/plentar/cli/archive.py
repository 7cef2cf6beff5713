"""plentar archive: a shop's data out and in, for shops too large for a browser."""

from __future__ import annotations

from pathlib import Path

import click
from sqlalchemy import select
from sqlalchemy.orm import Session

from plentar.cli.command import command, refusing
from plentar.cli.installation import shops
from plentar.core.errors import BadInput
from plentar.store.accounts import SignedIn, find_account
from plentar.store.archive.send import write_archive
from plentar.store.archive.take_in import read_archive
from plentar.store.models import Account
from plentar.words import phrase


@command("archive --login sam --out shop.zip")
@click.option("--login", required=True, help="Of somebody of the shop.")
@click.option("--out", type=click.Path(path_type=Path), help="Write the archive to this file.")
@click.option("--take-in", type=click.Path(path_type=Path), help="Take this archive in.")
@click.option(
    "--photo-mb", type=float, default=500.0, envvar="PLENTAR_PHOTO_MB", help="What photos may take."
)
@click.option("--dry", is_flag=True, help="Say what it would change, and change nothing.")
def archive(login: str, out: Path | None, take_in: Path | None, photo_mb: float, dry: bool) -> None:
    """A shop's data as one archive: out, or in. Interrupted, it is taken in from where it was."""
    if (out is None) == (take_in is None):
        raise click.UsageError("one of --out and --take-in")
    with shops() as session, refusing("archive"):
        somebody = _somebody(session, login)
        if out is not None:
            with out.open("wb") as file:
                write_archive(session, somebody.shop_id, file)
            click.echo(phrase("cli.archive.bytes", out=str(out), st_size=f"{out.stat().st_size:,}"))
        if take_in is not None:
            with take_in.open("rb") as file:
                taken = read_archive(session, somebody, file, int(photo_mb * 1e6), dry=dry)
            for what, new, known in taken.rows:
                click.echo(
                    phrase("cli.archive.new-there-already", what=what, new=f"{new:,}", known=f"{known:,}")
                )


def _somebody(session: Session, login: str) -> SignedIn:
    account_id = session.scalar(select(Account.id).where(Account.login == login.lower()))
    somebody = find_account(session, account_id) if account_id else None
    if somebody is None:
        raise BadInput("login", phrase("cli.archive.nobody-signs"))
    return somebody
