"""A backup put into an empty database, and held against what it says of itself."""

from __future__ import annotations

import hashlib
import secrets
import subprocess
import tarfile
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

from pydantic import ValidationError
from sqlalchemy import text
from sqlalchemy.orm import Session

from plentar.operate.backup import (
    DUMP,
    MANIFEST,
    SECRET,
    BackupFailed,
    Manifest,
    postgres_env,
    postgres_program,
)
from plentar.operate.contents import counts, events_hash, judgements
from plentar.operate.installation import Installation
from plentar.store.cluster import Cluster
from plentar.store.database import drop_database, engine_on, known_revisions, newest_revision
from plentar.store.private import write_once
from plentar.store.rights import Addresses, grant_rows
from plentar.words import phrase

_MOST_MANIFEST = 10_000_000


@dataclass(frozen=True, slots=True)
class Restored:
    """What came of it: the manifest, how many judgements were held against it, and whether the key that
    cookies and links are signed with is the one of the backup."""

    manifest: Manifest
    judged: int
    same_key: bool


def restore(installation: Installation, archive: BinaryIO) -> Restored:
    """Into the installation's database, which must be empty. Raises BackupFailed, with what differs where
    the restored one is not what the backup says; it is left empty then."""
    with _unpacked(archive) as (folder, manifest):
        _check_empty(installation.addresses.owner)
        judged = _put_in(installation.addresses, folder / DUMP, manifest)
        key = folder / SECRET
        if key.is_file() and not (installation.run / SECRET).exists():
            write_once(installation.run / SECRET, key.read_text(encoding="ascii"))
        same_key = hashlib.sha256(installation.key().encode()).hexdigest() == manifest.key_sha256
        return Restored(manifest, judged, same_key)


def check_backup(cluster: Cluster, archive: BinaryIO) -> Restored:
    """The same in a database that is made for it and goes again."""
    name = f"plentar_check_{secrets.token_hex(4)}"
    with _unpacked(archive) as (folder, manifest):
        try:
            judged = _put_in(cluster.addresses(name), folder / DUMP, manifest)
        finally:
            drop_database(cluster.url("postgres"), name)
        return Restored(manifest, judged, same_key=True)


@contextmanager
def _unpacked(archive: BinaryIO) -> Iterator[tuple[Path, Manifest]]:
    """What is in an archive, under the names that backups have and no others."""
    with tempfile.TemporaryDirectory(prefix="plentar-restore-") as made:
        folder = Path(made)
        try:
            with tarfile.open(fileobj=archive, mode="r|*") as opened:
                for member in opened:
                    if member.name in (MANIFEST, DUMP, SECRET) and member.isfile():
                        read = opened.extractfile(member)
                        assert read is not None
                        with (folder / member.name).open("wb") as file:
                            while chunk := read.read(1 << 20):
                                file.write(chunk)
            raw = (folder / MANIFEST).read_bytes()[:_MOST_MANIFEST]
            manifest = Manifest.model_validate_json(raw)
        except (tarfile.TarError, OSError, EOFError, ValidationError):
            raise BackupFailed(phrase("operate.restore.no-backup")) from None
        if not (folder / DUMP).is_file():
            raise BackupFailed(phrase("operate.restore.no-backup"))
        if manifest.migration not in known_revisions():
            raise BackupFailed(phrase("operate.restore.newer", version=manifest.plentar))
        yield folder, manifest


def _check_empty(url: str) -> None:
    with engine_on(url) as engine, Session(engine) as session:
        if counts(session):
            raise BackupFailed(phrase("operate.restore.not-empty"))


def _put_in(addresses: Addresses, dump: Path, manifest: Manifest) -> int:
    """Restore, compare, grant; how many judgements were compared."""
    line = [postgres_program("pg_restore"), "--no-owner", "--no-privileges", "--single-transaction"]
    env = postgres_env(addresses.owner)
    done = subprocess.run(
        [*line, "--dbname", env["PGDATABASE"], str(dump)],
        env=env,
        check=False,
        capture_output=True,
        text=True,
    )
    if done.returncode != 0:
        raise BackupFailed(phrase("operate.backup.failed", name="pg_restore", why=done.stderr.strip()[-400:]))
    with engine_on(addresses.owner) as engine, Session(engine) as session:
        differs = list(_differences(session, manifest))
        if differs:
            session.rollback()
            session.execute(text("drop schema public cascade"))
            session.execute(text("create schema public"))
            session.commit()
            raise BackupFailed(phrase("operate.restore.differs", what="; ".join(differs[:5])))
    grant_rows(addresses)
    return len(manifest.judgements_sha256) if manifest.migration == newest_revision() else 0


def _differences(session: Session, manifest: Manifest) -> Iterator[str]:
    found = counts(session)
    for table in sorted(found.keys() | manifest.rows.keys()):
        if found.get(table) != manifest.rows.get(table):
            yield f"{table}: {found.get(table)} / {manifest.rows.get(table)}"
    if events_hash(session) != manifest.events_sha256:
        yield phrase("operate.restore.events")
    if manifest.migration == newest_revision():
        again = judgements(session, len(manifest.judgements_sha256))
        for visit, judged in manifest.judgements_sha256.items():
            if again.get(visit) != judged:
                yield phrase("operate.restore.judged", visit=visit)
