"""What is amiss with an installation, and what to do about it. Nothing is changed by looking."""

from __future__ import annotations

import http.client
import os
import platform
import resource
import shutil
import ssl
import subprocess
import time
from collections.abc import Callable, Iterator
from contextlib import closing
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from sqlalchemy import text
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

import plentar
from plentar.core.errors import PlentarError
from plentar.operate.backup import backups_in
from plentar.operate.bring_up import revision_of, where
from plentar.operate.demoted import own_user
from plentar.operate.installation import KEY, Installation, check_settings
from plentar.store.database import engine_on, newest_revision
from plentar.store.room import WARNS_AT, database_bytes
from plentar.words import phrase

GOOD, LOOK, BAD = "good", "look", "bad"
LEAST_SERVER, LEAST_FILES, LEAST_MEMORY = 150000, 4096, 2_000_000_000
MOST_CLOCK_S, MOST_BACKUP_H = 2.0, 26.0
_ASK_S, _READY = 5.0, 200


@dataclass(frozen=True, slots=True)
class Found:
    """One line: how it is (``good``, ``look``, ``bad``), what was looked at, what to do."""

    level: str
    what: str
    do: str = ""


def examine(installation: Installation, backups: Path, port: int) -> Iterator[Found]:
    """All that is looked at, one after the other."""
    yield Found(
        GOOD, phrase("operate.doctor.program", version=plentar.__version__, python=platform.python_version())
    )
    yield _user()
    yield from _settings()
    yield from _database(installation)
    yield from _disk(installation)
    yield _backups(backups)
    yield _key(installation)
    yield from _limits()
    yield _time_kept()
    yield _answers(port)
    yield from _proxy()


def _judged(good: bool, what: str, do: str, otherwise: str = BAD) -> Found:
    return Found(GOOD, what) if good else Found(otherwise, what, do)


def _user() -> Found:
    try:
        user = own_user()
    except PlentarError as bad:
        return Found(BAD, phrase("operate.doctor.user"), str(bad))
    name = user.pw_name if user is not None else str(os.geteuid())
    return Found(GOOD, phrase("operate.doctor.runs-as", name=name))


def _settings() -> Iterator[Found]:
    try:
        check_settings()
    except PlentarError as bad:
        yield Found(BAD, phrase("operate.doctor.settings"), str(bad))


def _database(installation: Installation) -> Iterator[Found]:
    url = installation.addresses.rows
    try:
        found = revision_of(url)
    except PlentarError as bad:
        yield Found(BAD, phrase("operate.doctor.database", where=where(url)), str(bad))
        return
    newest = newest_revision()
    yield _judged(
        found == newest,
        phrase("operate.doctor.migration", found=found or "0000", newest=newest),
        phrase("operate.doctor.upgrade"),
    )
    if found != newest:
        return
    try:
        with engine_on(url) as engine, Session(engine) as session:
            yield from _server(session)
    except SQLAlchemyError as error:
        yield Found(BAD, phrase("operate.doctor.write"), str(error).splitlines()[0])


def _server(session: Session) -> Iterator[Found]:
    version = int(session.scalar(text("show server_version_num")) or 0)
    yield _judged(
        version >= LEAST_SERVER,
        phrase("operate.doctor.server", version=str(session.scalar(text("show server_version")))),
        phrase("operate.doctor.newer-server"),
    )
    superuser, owns = session.execute(
        text(
            "select rolsuper, exists (select from pg_class where relnamespace = 'public'::regnamespace"
            " and relowner = pg_roles.oid) from pg_roles where rolname = current_user"
        )
    ).one()
    yield _judged(not superuser, phrase("operate.doctor.superuser"), phrase("operate.doctor.two-roles"))
    yield _judged(not owns, phrase("operate.doctor.owns"), phrase("operate.doctor.two-roles"), LOOK)
    theirs_s = float(session.scalar(text("select extract(epoch from clock_timestamp())")) or 0)
    apart_s = abs(theirs_s - time.time())
    yield _judged(
        apart_s <= MOST_CLOCK_S,
        phrase("operate.doctor.clocks", apart=f"{apart_s:.1f}"),
        phrase("operate.doctor.set-clocks"),
    )
    yield Found(GOOD, phrase("operate.doctor.size", megabytes=f"{database_bytes(session) / 1e6:,.0f}"))
    session.execute(text("update heartbeat set at = now()"))
    session.commit()
    yield Found(GOOD, phrase("operate.doctor.write"))


def _disk(installation: Installation) -> Iterator[Found]:
    cluster = installation.cluster
    for folder in {installation.home, cluster.folder if cluster is not None else installation.home}:
        disk = shutil.disk_usage(folder)
        used = (disk.total - disk.free) / disk.total
        yield _judged(
            used < WARNS_AT,
            phrase(
                "operate.doctor.disk", folder=str(folder), used=f"{used:.0%}", free=f"{disk.free / 1e9:.1f}"
            ),
            phrase("operate.doctor.make-room"),
            LOOK,
        )


def _backups(folder: Path) -> Found:
    there = backups_in(folder) if folder.is_dir() else []
    if not there:
        return Found(
            BAD, phrase("operate.doctor.no-backup", folder=str(folder)), phrase("operate.doctor.back-up")
        )
    hours = (time.time() - there[0].stat().st_mtime) / 3600
    return _judged(
        hours <= MOST_BACKUP_H,
        phrase("operate.doctor.backup", hours=f"{hours:.0f}", n=len(there)),
        phrase("operate.doctor.back-up"),
        LOOK,
    )


def _key(installation: Installation) -> Found:
    if os.environ.get(KEY):
        return Found(GOOD, phrase("operate.doctor.key-given"))
    kept = installation.run / "secret"
    if not kept.exists():
        return Found(GOOD, phrase("operate.doctor.key-later"))
    alone = kept.stat().st_mode & 0o077 == 0
    return _judged(alone, phrase("operate.doctor.key", kept=str(kept)), phrase("operate.doctor.close-key"))


def _limits() -> Iterator[Found]:
    files = resource.getrlimit(resource.RLIMIT_NOFILE)[1]
    yield _judged(
        files == resource.RLIM_INFINITY or files >= LEAST_FILES,
        phrase("operate.doctor.files", files=files),
        phrase("operate.doctor.raise-files", least=LEAST_FILES),
        LOOK,
    )
    memory = os.sysconf("SC_PHYS_PAGES") * os.sysconf("SC_PAGE_SIZE")
    yield _judged(
        memory >= LEAST_MEMORY,
        phrase("operate.doctor.memory", gigabytes=f"{memory / 1e9:.1f}", cores=os.cpu_count() or 1),
        phrase("operate.doctor.more-memory"),
        LOOK,
    )


def _time_kept() -> Found:
    now = f"{datetime.now(UTC):%Y-%m-%d %H:%M:%S} UTC"
    program = shutil.which("timedatectl")
    if program is None:
        return Found(LOOK, phrase("operate.doctor.clock", now=now), phrase("operate.doctor.compare-clock"))
    said = subprocess.run(
        [program, "show", "-p", "NTPSynchronized", "--value"], check=False, capture_output=True, text=True
    )
    kept = said.stdout.strip() == "yes"
    return _judged(
        kept, phrase("operate.doctor.clock", now=now), phrase("operate.doctor.compare-clock"), LOOK
    )


def _answers(port: int) -> Found:
    said = _asked(lambda: http.client.HTTPConnection("127.0.0.1", port, timeout=_ASK_S), "127.0.0.1")
    what = phrase("operate.doctor.answers", port=port)
    return Found(GOOD, what) if said == "" else Found(LOOK, what, said)


def _proxy() -> Iterator[Found]:
    names = [name.strip() for name in os.environ.get("PLENTAR_HOSTS", "").split(",") if name.strip()]
    if not names:
        yield Found(LOOK, phrase("operate.doctor.no-hosts"), phrase("operate.doctor.set-hosts"))
        return
    proxied = bool(os.environ.get("PLENTAR_PROXIES"))
    yield _judged(proxied, phrase("operate.doctor.proxies"), phrase("operate.doctor.set-proxies"))
    secure = os.environ.get("PLENTAR_SECURE_COOKIES") == "1"
    yield _judged(secure, phrase("operate.doctor.cookies"), phrase("operate.doctor.set-cookies"))
    trusting = ssl.create_default_context()  # it is asked on loopback, whatever its certificate
    trusting.check_hostname, trusting.verify_mode = False, ssl.CERT_NONE
    for name in names:
        said = _asked(
            lambda: http.client.HTTPSConnection("127.0.0.1", timeout=_ASK_S, context=trusting), name
        )
        what = phrase("operate.doctor.through-proxy", name=name)
        yield Found(GOOD, what) if said == "" else Found(LOOK, what, said)


def _asked(connect: Callable[[], http.client.HTTPConnection], host: str) -> str:
    """What is wrong with the answer; nothing where it is ready."""
    try:
        with closing(connect()) as asked:
            asked.request("GET", "/health/ready", headers={"Host": host})
            answer = asked.getresponse()
            return "" if answer.status == _READY else f"{answer.status}: {answer.read(200).decode()}"
    except (OSError, http.client.HTTPException) as error:
        return phrase("operate.doctor.nobody", why=str(error))
