"""Connecting, and bringing a database to the newest migration."""

from __future__ import annotations

from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine, text
from sqlalchemy.orm import Session, sessionmaker

MIGRATIONS = Path(__file__).parent / "migrations"


def connect(url: str) -> sessionmaker[Session]:
    """A session factory on a database; sessions keep their rows after commit."""
    engine = create_engine(url, pool_size=8, max_overflow=4, pool_pre_ping=False)
    return sessionmaker(engine, expire_on_commit=False)


def migrate(url: str, revision: str = "head") -> None:
    """Bring the database up to the newest migration, or as far as one."""
    command.upgrade(_config(url), revision)


def downgrade(url: str, revision: str) -> None:
    """Bring the database down to an earlier migration; ``base`` is before the first."""
    command.downgrade(_config(url), revision)


def _config(url: str) -> Config:
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    config.attributes["url"] = url
    return config


def ensure_database(server_url: str, name: str) -> None:
    """Create a database on the server if it is not there; ``server_url`` names another one."""
    engine: Engine = create_engine(server_url, isolation_level="AUTOCOMMIT")
    try:
        with engine.connect() as connection:
            query = text("select 1 from pg_database where datname = :name")
            if connection.execute(query, {"name": name}).first() is None:
                quoted = engine.dialect.identifier_preparer.quote_identifier(name)
                connection.execute(text(f"create database {quoted}"))
    finally:
        engine.dispose()
