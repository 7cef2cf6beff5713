"""plentar shop NAME --login LOGIN --person NAME: make a shop with its lead's account."""

from __future__ import annotations

import argparse
import getpass
import os
import sys

from plentar.cli.serve import own_database
from plentar.core.errors import BadInput

EXAMPLE = 'plentar shop "Example Heating" --login sam --person "Sam Example"'


def add(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Declare the command."""
    parser = commands.add_parser(
        "shop", help="make a shop and its first account", description=__doc__,
        epilog=f"example: {EXAMPLE}",
    )  # fmt: skip
    parser.add_argument("name")
    parser.add_argument("--login", required=True)
    parser.add_argument("--person", required=True)
    parser.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    """Ask for the password (or read it from a pipe), then store both."""
    from plentar.store.accounts import make_account, make_shop  # noqa: PLC0415
    from plentar.store.database import connect, migrate  # noqa: PLC0415

    password = getpass.getpass() if sys.stdin.isatty() else sys.stdin.readline().rstrip("\n")
    url = os.environ.get("PLENTAR_DATABASE_URL") or own_database("plentar")
    migrate(url)
    with connect(url)() as session:
        try:
            shop = make_shop(session, args.name)
            make_account(session, shop, args.login, args.person, password, "lead")
        except BadInput as bad:
            print(f"{bad.path}: {bad.reason}", file=sys.stderr)
            return 2
        session.commit()
    print(f"{args.name}: sign in as {args.login.lower()}")
    return 0
