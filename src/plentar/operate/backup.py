"""A backup: one archive of the whole database as it was at one moment, with the figures by which a
restored one is held against it.

PostgreSQL's own pg_dump writes it, in a snapshot that the figures are taken in as well, so that both are of
the same moment while people write.
"""

from __future__ import annotations

import hashlib
import io
import os
import shutil
import subprocess
import tarfile
import tempfile
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from typing import BinaryIO

from pydantic import BaseModel, ConfigDict
from sqlalchemy import text
from sqlalchemy.engine import make_url
from sqlalchemy.orm import Session

import plentar
from plentar.core.errors import PlentarError
from plentar.operate.bring_up import revision_of
from plentar.operate.contents import counts, events_hash, judgements
from plentar.operate.installation import Installation
from plentar.store.cluster import BINARIES
from plentar.store.database import engine_on, newest_revision
from plentar.words import phrase

MANIFEST, README, DUMP, SECRET = "manifest.json", "README.txt", "database.dump", "secret"
_CHUNK, _SAID_EVERY = 1 << 20, 8 << 20


class BackupFailed(PlentarError):
    """A backup could not be made, or is not what it says."""


class Manifest(BaseModel):
    """What a backup says of itself."""

    model_config = ConfigDict(extra="forbid", strict=True)
    plentar: str
    made_at: str
    migration: str
    database_bytes: int
    rows: dict[str, int]
    events_sha256: str
    #: Of the newest visits, by id; empty where the database was not at the program's own migration.
    judgements_sha256: dict[str, str]
    #: Of the key that cookies and links are signed with, so that a restored one can be told from it.
    key_sha256: str


Say = Callable[[str], None]


def write_backup(installation: Installation, to: BinaryIO, say: Say, *, with_key: bool = False) -> Manifest:
    """Write the archive; ``say`` is told how far it is. Raises BackupFailed, NotReady."""
    url = installation.addresses.owner
    migration = revision_of(url)
    if migration is None:
        raise BackupFailed(phrase("operate.backup.empty"))
    with tempfile.TemporaryDirectory(prefix="plentar-backup-") as folder:
        dump = Path(folder) / DUMP
        with engine_on(url, isolation_level="REPEATABLE READ") as engine, Session(engine) as session:
            snapshot = str(session.scalar(text("select pg_export_snapshot()")))
            manifest = Manifest(
                plentar=plentar.__version__,
                made_at=datetime.now(UTC).isoformat(timespec="seconds"),
                migration=migration,
                database_bytes=session.scalar(text("select pg_database_size(current_database())")) or 0,
                rows=counts(session),
                events_sha256=events_hash(session),
                judgements_sha256=judgements(session) if migration == newest_revision() else {},
                key_sha256=hashlib.sha256(installation.key().encode()).hexdigest(),
            )
            say(phrase("operate.backup.counted", rows=f"{sum(manifest.rows.values()):,}"))
            _dump(url, snapshot, dump, say)
        with tarfile.open(fileobj=to, mode="w|") as archive:
            _put(archive, README, phrase("operate.backup.readme", version=plentar.__version__).encode())
            _put(archive, MANIFEST, manifest.model_dump_json(indent=2).encode())
            if with_key:
                _put(archive, SECRET, installation.key().encode())
            archive.add(dump, DUMP, filter=_plain)
    return manifest


def backup_to_folder(
    installation: Installation, folder: Path, say: Say, *, with_key: bool = False, keep: int = 0
) -> Path:
    """A new backup in a folder, whole or not there at all; of older ones the newest ``keep`` stay, 0 for
    all. Raises BackupFailed, NotReady."""
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    made = folder / f"plentar-{datetime.now(UTC):%Y%m%dT%H%M%S.%fZ}.tar"
    part = made.with_suffix(".part")
    try:
        opened = os.open(part, os.O_CREAT | os.O_EXCL | os.O_WRONLY | os.O_NOFOLLOW, 0o600)
        with os.fdopen(opened, "wb") as file:
            write_backup(installation, file, say, with_key=with_key)
            file.flush()
            os.fsync(file.fileno())
        part.rename(made)
    except OSError as error:
        raise BackupFailed(
            phrase("operate.backup.cant-write", to=str(folder), why=error.strerror or "")
        ) from None
    finally:
        part.unlink(missing_ok=True)
    if keep:
        for old in backups_in(folder)[keep:]:
            old.unlink()
    return made


def backups_in(folder: Path) -> list[Path]:
    """The backups of a folder, the newest first."""
    return sorted(folder.glob("plentar-*.tar"), reverse=True)


def postgres_program(name: str) -> str:
    """One of PostgreSQL's programs; raises BackupFailed where it is not here."""
    own = BINARIES / name
    found = str(own) if own.exists() else shutil.which(name)
    if found is None:
        raise BackupFailed(phrase("operate.backup.no-program", name=name))
    return found


def postgres_env(url: str) -> dict[str, str]:
    """Which database its programs work on, and as whom: a command line would show the password."""
    at = make_url(url)
    given = {
        "PGHOST": at.host,
        "PGPORT": str(at.port) if at.port else None,
        "PGUSER": at.username,
        "PGPASSWORD": at.password,
        "PGDATABASE": at.database,
    }
    return os.environ | {name: str(value) for name, value in given.items() if value is not None}


def _dump(url: str, snapshot: str, dump: Path, say: Say) -> None:
    line = [postgres_program("pg_dump"), "-Fc", "--no-owner", "--no-privileges", f"--snapshot={snapshot}"]
    written, said = 0, 0
    with (
        tempfile.TemporaryFile("w+") as complaints,
        dump.open("wb") as file,
        subprocess.Popen(line, env=postgres_env(url), stdout=subprocess.PIPE, stderr=complaints) as dumping,
    ):
        assert dumping.stdout is not None
        while chunk := dumping.stdout.read(_CHUNK):
            file.write(chunk)
            written += len(chunk)
            if written - said >= _SAID_EVERY:
                said = written
                say(phrase("operate.backup.written", megabytes=f"{written / 1e6:,.0f}"))
        if dumping.wait() != 0:
            complaints.seek(0)
            raise BackupFailed(
                phrase("operate.backup.failed", name="pg_dump", why=complaints.read().strip()[-400:])
            )


def _put(archive: tarfile.TarFile, name: str, raw: bytes) -> None:
    info = tarfile.TarInfo(name)
    info.size, info.mode, info.mtime = len(raw), 0o600, int(datetime.now(UTC).timestamp())
    archive.addfile(info, io.BytesIO(raw))


def _plain(info: tarfile.TarInfo) -> tarfile.TarInfo:
    info.uid = info.gid = 0
    info.uname = info.gname = ""
    info.mode = 0o600
    return info
