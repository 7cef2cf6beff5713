"""The installation that stands here: its folder, its database by two roles, its key."""

from __future__ import annotations

import os
import secrets
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from sqlalchemy.engine import make_url
from sqlalchemy.exc import ArgumentError
from sqlalchemy.orm import Session

from plentar.core.errors import PlentarError
from plentar.store.cluster import Cluster, project_cluster
from plentar.store.database import connect
from plentar.store.private import alone, write_once
from plentar.store.rights import Addresses
from plentar.web.config import LEAST_KEY, from_environment
from plentar.words import phrase

#: The names of the databases of an installation's own server.
SHOPS, DEMO = "plentar", "plentar_demo"
URL, OWNER_URL, KEY = "PLENTAR_DATABASE_URL", "PLENTAR_OWNER_URL", "PLENTAR_SECRET_KEY"


class NotSet(PlentarError):
    """What the environment says of an installation can't be."""


@dataclass(frozen=True, slots=True)
class Installation:
    home: Path
    addresses: Addresses
    #: Its own database server; None where a URL names another.
    cluster: Cluster | None

    @property
    def run(self) -> Path:
        return run_folder(self.home)

    @property
    def backups(self) -> Path:
        return self.run / "backups"

    def key(self) -> str:
        """What cookies and links are signed with: the environment's, else one that is made once."""
        return os.environ.get(KEY) or write_once(self.run / "secret", secrets.token_hex(32))


def check_settings() -> None:
    """The environment's settings but for the database's address, which is looked at where it is used; what is
    not given is made later, and is right. Raises BadConfiguration."""
    given = {name: value for name, value in os.environ.items() if name != URL}
    from_environment({URL: "postgresql+psycopg://", KEY: "x" * LEAST_KEY} | given)


def home() -> Path:
    """The folder in which an installation keeps what is its own."""
    if given := os.environ.get("PLENTAR_HOME"):
        return Path(given)
    state = os.environ.get("XDG_STATE_HOME") or Path.home() / ".local" / "state"
    return Path(state) / "plentar"


def run_folder(at: Path) -> Path:
    run = at / ".run"
    run.mkdir(parents=True, exist_ok=True)
    return run


@contextmanager
def installed(
    name: str = SHOPS,
    first: Callable[[Cluster], None] | None = None,
    meanwhile: Callable[[], object] = lambda: None,
) -> Iterator[Installation]:
    """The installation, its database server running for as long as this is open. ``first`` is done on it before
    its database is looked for, ``meanwhile`` beside all of that. Raises NotSet, ClusterError."""
    at = home()
    run_folder(at)
    if given := os.environ.get(URL):
        rows = address(URL, given)
        owner = os.environ.get(OWNER_URL)
        yield Installation(at, Addresses(rows, address(OWNER_URL, owner) if owner else rows), None)
        return
    cluster = project_cluster(at, "postgres")
    found: list[Addresses] = []

    def look() -> None:
        if first is not None:
            first(cluster)
        found.append(cluster.addresses(name))

    with cluster.held(look, meanwhile):
        yield Installation(at, found[0], cluster)


def address(name: str, url: str) -> str:
    """A database's URL as SQLAlchemy wants it; raises NotSet, with the name of what it was given in."""
    try:
        found = make_url(url.strip())
    except ArgumentError:
        raise NotSet(phrase("operate.no-url", name=name)) from None
    if found.drivername not in ("postgresql", "postgres", "postgresql+psycopg") or not found.database:
        raise NotSet(phrase("operate.no-url", name=name))
    return found.set(drivername="postgresql+psycopg").render_as_string(hide_password=False)


@contextmanager
def session_on(url: str) -> Iterator[Session]:
    """A session on a database, and no connection to it afterwards."""
    sessions = connect(url)
    try:
        with sessions() as session:
            yield session
    finally:
        sessions.kw["bind"].dispose()


@contextmanager
def starting(at: Path) -> Iterator[None]:
    """Two that start at once do it one after the other."""
    with alone(run_folder(at) / "start.lock"):
        yield
