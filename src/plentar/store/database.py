"""Connecting, and bringing a database to the newest migration."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from functools import cache
from pathlib import Path
from types import MappingProxyType
from typing import Any

from sqlalchemy import Engine, create_engine, text
from sqlalchemy.orm import Session, sessionmaker

from plentar.store.connection import engine_for

#: Connections that a process keeps.
POOL = 8
MIGRATIONS = Path(__file__).parent / "migrations"


@contextmanager
def engine_on(url: str, **options: Any) -> Iterator[Engine]:
    """An engine without the guards of ``connect``, for what an operator does; no connection to it afterwards."""
    engine = create_engine(url, **options)
    try:
        yield engine
    finally:
        engine.dispose()


def connect(url: str, info: Mapping[str, Any] = MappingProxyType({})) -> sessionmaker[Session]:
    """A session factory on a database; sessions keep their rows after commit, and know ``info``."""
    return sessionmaker(engine_for(url, POOL), expire_on_commit=False, info=dict(info))


def migrate(url: str, revision: str = "head") -> None:
    """Bring the database up to the newest migration, or as far as one."""
    _alembic("upgrade", url, revision)


@cache
def newest_revision() -> str:
    """The newest migration that this program knows."""
    return max(known_revisions())


@cache
def known_revisions() -> frozenset[str]:
    """Every migration that this program knows."""
    return frozenset(file.name.partition("_")[0] for file in MIGRATIONS.glob("versions/[0-9]*.py"))


def downgrade(url: str, revision: str) -> None:
    """Bring the database down to an earlier migration; ``base`` is before the first."""
    _alembic("downgrade", url, revision)


def _alembic(what: str, url: str, revision: str) -> None:
    from alembic import command  # noqa: PLC0415  (a third of a second, and hardly ever needed)
    from alembic.config import Config  # noqa: PLC0415

    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    config.attributes["url"] = url
    getattr(command, what)(config, revision)


def ensure_database(server_url: str, name: str) -> None:
    """Create a database on the server if it is not there; ``server_url`` names another one."""
    if name not in databases(server_url):
        _on_server(server_url, "create database {}", name)


def rename_database(server_url: str, name: str, to: str) -> None:
    """Give a database that nobody uses another name."""
    _on_server(server_url, "alter database {} rename to {}", name, to)


def drop_database(server_url: str, name: str) -> None:
    _on_server(server_url, "drop database if exists {} with (force)", name)


def databases(server_url: str) -> set[str]:
    """The names of the databases on the server."""
    with engine_on(server_url) as engine, engine.connect() as connection:
        return set(connection.scalars(text("select datname from pg_database")))


def _on_server(server_url: str, command: str, *names: str) -> None:
    with engine_on(server_url, isolation_level="AUTOCOMMIT") as engine, engine.connect() as connection:
        quote = engine.dialect.identifier_preparer.quote_identifier
        connection.execute(text(command.format(*map(quote, names))))
