"""From one version to the next and back: looked at, backed up, migrated under a lock in the database."""

from __future__ import annotations

from pathlib import Path

from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from plentar.operate.backup import Say, backup_to_folder
from plentar.operate.bring_up import NotReady, bring_up, first_line, revision_of
from plentar.operate.contents import counts
from plentar.operate.installation import Installation
from plentar.operate.releases import migration_of
from plentar.store.database import downgrade as migrate_down
from plentar.store.database import engine_on, newest_revision
from plentar.store.rights import grant_rows
from plentar.words import phrase


def upgrade(installation: Installation, say: Say, *, backup: bool = True) -> None:
    """To this program's newest migration. Raises NotReady, BackupFailed."""
    found = revision_of(installation.addresses.owner)
    newest = newest_revision()
    if found == newest:
        bring_up(installation.addresses)  # what may be missing of the rights
        say(phrase("operate.upgrade.there", newest=newest))
        return
    if found is not None and backup:
        _back_up(installation, say)
    bring_up(installation.addresses)
    say(phrase("operate.upgrade.done", found=found or "0000", newest=newest, rows=f"{_rows(installation):,}"))


def downgrade(installation: Installation, named: str, say: Say, *, backup: bool = True) -> None:
    """To the migration of an earlier release, or of this number. Raises NoSuchRelease, NotReady,
    BackupFailed."""
    target = migration_of(named)
    found = revision_of(installation.addresses.owner)
    if found is None or found <= target:
        say(phrase("operate.upgrade.not-above", found=found or "0000", target=target))
        return
    if backup:
        _back_up(installation, say)
    try:
        migrate_down(installation.addresses.owner, target)
    except SQLAlchemyError as error:
        raise NotReady(phrase("operate.upgrade.stays", found=found, why=first_line(error))) from None
    grant_rows(installation.addresses)
    say(phrase("operate.upgrade.done", found=found, newest=target, rows=f"{_rows(installation):,}"))


def _back_up(installation: Installation, say: Say) -> Path:
    made = backup_to_folder(installation, installation.backups, say)
    say(phrase("operate.upgrade.backed-up", made=str(made)))
    return made


def _rows(installation: Installation) -> int:
    with engine_on(installation.addresses.owner) as engine, Session(engine) as session:
        return sum(counts(session).values())
