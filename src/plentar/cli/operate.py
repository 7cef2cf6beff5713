"""plentar backup, restore, upgrade, downgrade, part-demo: what an operator does beside serving."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import BinaryIO

import click

from plentar.cli.command import Failed, command, failing
from plentar.cli.serve import prepare
from plentar.operate import upgrade as versions
from plentar.operate.backup import backup_to_folder, write_backup
from plentar.operate.doctor import BAD, GOOD, LOOK, examine
from plentar.operate.installation import installed, session_on
from plentar.operate.restore import Restored, check_backup
from plentar.operate.restore import restore as put_back
from plentar.store.demo.part import part_demo as part
from plentar.words import phrase

_MARKS = {GOOD: "ok  ", LOOK: "look", BAD: "BAD "}
backup_option = click.option(
    "--backup/--no-backup", default=True, show_default=True, help="Make a backup first."
)


@command("backup --out /srv/backups --keep 30")
@click.option("--out", default="", help="A folder, or - for standard output. Default: .run/backups")
@click.option("--keep", type=click.IntRange(min=0), default=0, help="So many stay in the folder; 0 for all.")
@click.option("--with-key", is_flag=True, help="With the key that cookies and links are signed with.")
def backup(out: str, keep: int, with_key: bool) -> None:
    """Everything of this installation as one archive, as it is at one moment, while people write."""
    with failing(), installed() as installation:
        if out == "-":
            write_backup(installation, sys.stdout.buffer, _say, with_key=with_key)
            sys.stdout.buffer.flush()
            return
        folder = Path(out) if out else installation.backups
        made = backup_to_folder(installation, folder, _say, with_key=with_key, keep=keep)
    click.echo(f"{made}")


@command("restore plentar-20270102T030405.000000Z.tar")
@click.argument("file", metavar="FILE")
@click.option("--check", is_flag=True, help="Restore it elsewhere, compare, and throw that away.")
def restore(file: str, check: bool) -> None:
    """Put a backup FILE (- for standard input) into an empty database, and compare what came of it."""
    with failing(), installed() as installation:
        opened = sys.stdin.buffer if file == "-" else _open(file)
        with opened:
            if check:
                if installation.cluster is None:
                    raise Failed(phrase("cli.restore.no-check"))
                done = check_backup(installation.cluster, opened)
            else:
                done = put_back(installation, opened)
    _say_restored(done, check=check)


def _open(file: str) -> BinaryIO:
    try:
        return Path(file).open("rb")
    except OSError as error:
        raise Failed(f"{file}: {error.strerror}") from None


def _say_restored(done: Restored, *, check: bool) -> None:
    rows = f"{sum(done.manifest.rows.values()):,}"
    click.echo(
        phrase(
            "cli.restore.same",
            rows=rows,
            events=f"{done.manifest.rows.get('visit_event', 0):,}",
            n=done.judged,
        )
    )
    if not check and not done.same_key:
        click.echo(phrase("cli.restore.other-key"))


@command("upgrade")
@backup_option
def upgrade(backup: bool) -> None:
    """Bring the database to this program: looked at, backed up, migrated, one at a time."""
    with failing(), installed() as installation:
        versions.upgrade(installation, _say, backup=backup)


@command("downgrade 0.1.0")
@click.argument("release")
@backup_option
def downgrade(release: str, backup: bool) -> None:
    """Bring the database back to an earlier RELEASE, before that program is installed again."""
    with failing(), installed() as installation:
        versions.downgrade(installation, release, _say, backup=backup)


@command("part-demo")
@backup_option
def part_demo(backup: bool) -> None:
    """Take the demo out of a database that a shop shares with it."""
    with failing(), installed() as installation:
        prepare(installation)
        if backup:
            _say(
                phrase(
                    "operate.upgrade.backed-up",
                    made=str(backup_to_folder(installation, installation.backups, _say)),
                )
            )
        with session_on(installation.addresses.rows) as session:
            gone = part(session)
            session.commit()
    click.echo(
        phrase("cli.part-demo.gone", rows=f"{sum(gone.values()):,}") if gone else phrase("cli.part-demo.none")
    )


@command("doctor")
@click.option("--backups", type=click.Path(path_type=Path), help="Where backups are. Default: .run/backups")
@click.option(
    "--port", type=click.IntRange(1, 65535), default=8000, show_default=True, help="Where it serves."
)
def doctor(backups: Path | None, port: int) -> None:
    """Look at the installation: program, database and rights, disk, backups, limits, clock, proxy."""
    levels = set()
    with failing(), installed() as installation:
        for found in examine(installation, backups or installation.backups, port):
            levels.add(found.level)
            click.echo(f"{_MARKS[found.level]}  {found.what}")
            if found.do:
                click.echo(f"      {found.do}")
    if BAD in levels:
        raise click.exceptions.Exit(1)


def _say(line: str) -> None:
    click.echo(f"plentar: {line}", err=True)
