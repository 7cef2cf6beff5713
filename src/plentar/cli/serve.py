"""plentar serve [--port N] and plentar demo: start the database, migrate, serve on loopback."""

from __future__ import annotations

import os
import secrets
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

import click
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session

from plentar.cli.command import command
from plentar.store.cluster import free_port, is_free, project_cluster
from plentar.store.database import connect, databases, ensure_database, migrate, rename_database
from plentar.store.demo.load import holds_demo, holds_only_demo, load_demo
from plentar.store.digests import fill_missing
from plentar.store.private import alone, write_once
from plentar.web.server import gunicorn_command
from plentar.words import phrase

USUAL_PORT = 8000
port_option = click.option("--port", type=int, default=0, help=f"Default: {USUAL_PORT} if free, else any.")


@command("serve --port 8000")
@port_option
def serve(port: int) -> None:
    """Start the database, migrate, and serve the application on loopback until stopped."""
    with session_on(_prepare("plentar")) as session:
        if holds_demo(session):
            raise click.ClickException(phrase("cli.serve.this-database-holds-demos"))
    _serve(port)


@command("demo --port 8000")
@port_option
def demo(port: int) -> None:
    """The same with demo data in a database of their own, loaded once: a lane of fourteen homes,
    its round half done."""
    if "PLENTAR_DATABASE_URL" not in os.environ:
        _part_from_shops()
    url = _prepare("plentar_demo", load_demo)
    os.environ["PLENTAR_DEMO"] = "1"
    os.environ["PLENTAR_DATABASE_URL"] = url
    _serve(port)


def _part_from_shops() -> None:
    """A demo of before, which lay where shops do now, gets a database of its own."""
    cluster = project_cluster(home(), "postgres")
    cluster.start()
    server = cluster.url("postgres")
    if "plentar_demo" in (there := databases(server)) or "plentar" not in there:
        return
    with session_on(cluster.url("plentar")) as session:
        alone_there = holds_only_demo(session)
    if alone_there:
        with suppress(OperationalError):  # in use: it stays, and the demo begins anew
            rename_database(server, "plentar", "plentar_demo")


@contextmanager
def session_on(url: str) -> Iterator[Session]:
    """A session on a database, and no connection to it afterwards."""
    sessions = connect(url)
    try:
        with sessions() as session:
            yield session
    finally:
        sessions.kw["bind"].dispose()


def home() -> Path:
    """The project's folder, which the executable names."""
    return Path(os.environ.get("PLENTAR_HOME", Path.cwd()))


def own_database(name: str, cluster_name: str = "postgres") -> str:
    """The URL of a database on the project's own server, both made when missing."""
    cluster = project_cluster(home(), cluster_name)
    cluster.start()
    ensure_database(cluster.url("postgres"), name)
    return cluster.url(name)


def _prepare(name: str, load: Callable[[Session], bool] | None = None) -> str:
    """The database, at the newest migration and loaded; its URL, in the environment too.

    Two that start at once do it one after the other.
    """
    run = home() / ".run"
    run.mkdir(exist_ok=True)
    with alone(run / "start.lock"):
        url = os.environ.get("PLENTAR_DATABASE_URL") or own_database(name)
        os.environ["PLENTAR_DATABASE_URL"] = url
        os.environ.setdefault("PLENTAR_SECRET_KEY", write_once(run / "secret", secrets.token_hex(32)))
        migrate(url)
        with session_on(url) as session:
            if load is not None and load(session):
                click.echo(phrase("cli.serve.plentar-demo-data-loaded"))
            fill_missing(session)
    return url


def _serve(port: int) -> None:
    port = port or _port()
    print(f"plentar: http://127.0.0.1:{port}/  (stop with Ctrl-C)", flush=True)
    line = gunicorn_command(port)
    os.execv(line[0], line)


def _port() -> int:
    return USUAL_PORT if is_free(USUAL_PORT) else free_port()
