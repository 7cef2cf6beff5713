"""Who may do what in a database: one role owns it and migrates it, another reads and writes its rows and
nothing else, and neither is a superuser."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from psycopg import sql
from sqlalchemy import text
from sqlalchemy.engine import make_url
from sqlalchemy.exc import OperationalError

from plentar.store.database import engine_on

OWNER, ROWS = "plentar_owner", "plentar_rows"
_KINDS = {"r": "table", "p": "table", "v": "view", "S": "sequence"}


@dataclass(frozen=True, slots=True)
class Addresses:
    """One database by two URLs: as the role that reads and writes its rows, and as its owner."""

    rows: str
    owner: str


def make_roles(server_url: str, passwords: dict[str, str]) -> None:
    """The two roles, with their passwords; ``server_url`` is a superuser's."""
    with engine_on(server_url, isolation_level="AUTOCOMMIT") as engine, engine.connect() as connection:
        known = set(connection.scalars(text("select rolname from pg_roles")))
        for role, password in passwords.items():
            verb = "alter" if role in known else "create"
            what = "role {} login nosuperuser nocreatedb nocreaterole noreplication password {}"
            _run(connection, f"{verb} {what}", sql.Identifier(role), sql.Literal(password))


def is_handed_over(addresses: Addresses) -> bool:
    """Whether both roles can sign in, and all that is in the database is its owner's."""
    strange = (
        "select exists (select from pg_database where datname = current_database() and datdba <> {me})"
        " or exists (select from pg_class where relnamespace = {public} and relowner <> {me})"
        " or exists (select from pg_proc p where pronamespace = {public} and proowner <> {me} and not exists"
        " (select from pg_depend d where d.objid = p.oid and d.deptype = 'e'))"
    ).format(me="current_user::regrole", public="'public'::regnamespace")
    try:
        with engine_on(addresses.rows) as engine, engine.connect():
            pass
        with engine_on(addresses.owner) as engine, engine.connect() as connection:
            return not connection.scalar(text(strange))
    except OperationalError:
        return False


def hand_over(database_url: str, owner: str = OWNER) -> None:
    """Give a database, and what is in it, to its owner, and take from everybody else what PostgreSQL lets
    everybody do; ``database_url`` is a superuser's."""
    name = sql.Identifier(str(make_url(database_url).database))
    to = sql.Identifier(owner)
    with engine_on(database_url) as engine, engine.begin() as connection:
        _run(connection, "alter database {} owner to {}", name, to)
        _run(connection, "revoke all on database {} from public", name)
        _run(connection, "revoke all on schema public from public")
        found = connection.execute(
            text(
                "select relname, relkind::text from pg_class where relnamespace = 'public'::regnamespace"
                " and relkind::text = any(:kinds) and pg_get_userbyid(relowner) <> :owner"
                " and not exists (select from pg_depend d where d.objid = pg_class.oid and"
                " d.deptype in ('a', 'i', 'e'))"
            ),
            {"kinds": list(_KINDS), "owner": owner},
        ).all()
        for relation, kind in found:
            _run(connection, f"alter {_KINDS[kind]} public.{{}} owner to {{}}", sql.Identifier(relation), to)
        functions = connection.scalars(
            text(
                "select oid::regprocedure::text from pg_proc where pronamespace = 'public'::regnamespace"
                " and pg_get_userbyid(proowner) <> :owner and not exists"
                " (select from pg_depend d where d.objid = pg_proc.oid and d.deptype = 'e')"
            ),
            {"owner": owner},
        ).all()
        for signature in functions:  # as PostgreSQL writes it, names quoted
            _run(connection, f"alter function {signature} owner to {{}}", to)


def grant_rows(addresses: Addresses) -> None:
    """The rows of every table to the role that reads and writes them; the owner's own are its anyway."""
    role, owner = (str(make_url(url).username) for url in (addresses.rows, addresses.owner))
    if role == owner:
        return
    to = sql.Identifier(role)
    with engine_on(addresses.owner) as engine, engine.begin() as connection:
        name = sql.Identifier(str(make_url(addresses.owner).database))
        _run(connection, "grant connect on database {} to {}", name, to)
        for what in (
            "usage on schema public",
            "select, insert, update, delete on all tables in schema public",
            "usage on all sequences in schema public",
        ):
            _run(connection, f"grant {what} to {{}}", to)
        _run(connection, "revoke insert, update, delete on alembic_version from {}", to)


def is_superuser(url: str) -> bool:
    """Whether the role of a URL may do anything at all."""
    with engine_on(url) as engine, engine.connect() as connection:
        return bool(connection.scalar(text("select rolsuper from pg_roles where rolname = current_user")))


def _run(connection: Any, statement: str, *names: sql.Composable) -> None:
    raw = connection.connection.driver_connection
    raw.execute(sql.SQL(statement).format(*names))
