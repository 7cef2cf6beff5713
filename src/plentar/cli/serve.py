"""plentar serve [--port N] and plentar demo: start the database, migrate, serve on loopback."""

from __future__ import annotations

import os
import secrets
import socket
from pathlib import Path

import click

from plentar.cli.command import command
from plentar.store.cluster import free_port, project_cluster
from plentar.store.database import connect, ensure_database, migrate
from plentar.store.demo.load import load_demo
from plentar.web.server import gunicorn_command

USUAL_PORT = 8000
port_option = click.option(
    "--port", type=int, default=0, help=f"Default: {USUAL_PORT} if free, else any."
)


@command("serve --port 8000")
@port_option
def serve(port: int) -> None:
    """Start the database, migrate, and serve the application on loopback until stopped."""
    _prepare()
    _serve(port)


@command("demo --port 8000")
@port_option
def demo(port: int) -> None:
    """The same with demo data, loaded once: a lane of fourteen homes, its round half done."""
    url = _prepare()
    os.environ["PLENTAR_DEMO"] = "1"
    with connect(url)() as session:
        if load_demo(session):
            click.echo("plentar: demo data loaded")
    _serve(port)


def home() -> Path:
    """The project's folder, which the executable names."""
    return Path(os.environ.get("PLENTAR_HOME", Path.cwd()))


def own_database(name: str, cluster_name: str = "postgres") -> str:
    """The URL of a database on the project's own server, both made when missing."""
    cluster = project_cluster(home(), cluster_name)
    cluster.start()
    ensure_database(cluster.url("postgres"), name)
    return cluster.url(name)


def _prepare() -> str:
    """The database, at the newest migration; its URL, in the environment too."""
    url = os.environ.get("PLENTAR_DATABASE_URL") or own_database("plentar")
    os.environ["PLENTAR_DATABASE_URL"] = url
    os.environ.setdefault("PLENTAR_SECRET_KEY", _secret())
    migrate(url)
    return url


def _serve(port: int) -> None:
    port = port or _port()
    print(f"plentar: http://127.0.0.1:{port}/  (stop with Ctrl-C)", flush=True)
    line = gunicorn_command(port)
    os.execv(line[0], line)


def _secret() -> str:
    """The key that signs cookies, made once."""
    path = home() / ".run" / "secret"
    path.parent.mkdir(exist_ok=True)
    if not path.exists():
        path.touch(mode=0o600)
        path.write_text(secrets.token_hex(32), encoding="ascii")
    return path.read_text(encoding="ascii")


def _port() -> int:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", USUAL_PORT))
        except OSError:
            return free_port()
    return USUAL_PORT
