"""A database brought to this program: looked at, migrated as its owner, its rows granted."""

from __future__ import annotations

from sqlalchemy import text
from sqlalchemy.engine import make_url
from sqlalchemy.exc import OperationalError, ProgrammingError

from plentar.core.errors import PlentarError
from plentar.store.database import engine_on, known_revisions, migrate, newest_revision
from plentar.store.rights import Addresses, grant_rows
from plentar.words import phrase

CONNECT_S = 5


class NotReady(PlentarError):
    """The database does not answer, or is not one for this program."""


def revision_of(url: str) -> str | None:
    """The migration that a database is at; None before the first. Raises NotReady where it does not answer,
    or is at one that this program does not know."""
    try:
        with (
            engine_on(url, connect_args={"connect_timeout": CONNECT_S}) as engine,
            engine.connect() as connection,
        ):
            has = connection.scalar(text("select to_regclass('public.alembic_version') is not null"))
            found = connection.scalar(text("select version_num from alembic_version")) if has else None
    except OperationalError as error:
        raise NotReady(phrase("operate.no-answer", where=where(url), why=first_line(error))) from None
    except ProgrammingError as error:
        raise NotReady(phrase("operate.no-rights", where=where(url), why=first_line(error))) from None
    if found is not None and found not in known_revisions():
        raise NotReady(phrase("operate.newer", found=found, newest=newest_revision()))
    return found


def bring_up(addresses: Addresses) -> None:
    """Migrate to the newest, and grant. Raises NotReady."""
    if revision_of(addresses.owner) != newest_revision():
        migrate(addresses.owner)
    grant_rows(addresses)


def where(url: str) -> str:
    """Which database a URL names, without its password."""
    found = make_url(url)
    return f"{found.host or 'localhost'}:{found.port or 5432}/{found.database}"


def first_line(error: Exception) -> str:
    """What the database says of it, without what it was asked."""
    said = str(getattr(error, "orig", error)).strip()
    return said.splitlines()[0].rpartition("failed: ")[2].removeprefix("FATAL:").strip() if said else ""
