"""plentar serve [--port N] and plentar demo: start the database, migrate, serve until stopped."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager, suppress
from pathlib import Path
from typing import Any, TypeVar

import click
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session

from plentar.cli.command import Failed, command, failing
from plentar.operate.bring_up import bring_up, revision_of
from plentar.operate.demoted import own_user
from plentar.operate.installation import (
    DEMO,
    KEY,
    SHOPS,
    URL,
    Installation,
    check_settings,
    home,
    installed,
    session_on,
    starting,
)
from plentar.operate.running import end_all, on_record
from plentar.operate.supervise import Serving, Stop, listen, own_folder, stoppable
from plentar.operate.supervise import load as load_server
from plentar.store.cluster import Cluster, free_port, is_free, project_cluster
from plentar.store.database import databases, newest_revision, rename_database
from plentar.store.demo.load import holds_demo, holds_only_demo, load_demo
from plentar.store.digests import fill_missing
from plentar.store.rights import is_superuser
from plentar.words import phrase

USUAL_PORT = 8000
LOOPBACK = "127.0.0.1"
F = TypeVar("F", bound=Callable[..., Any])


def _where(function: F) -> F:
    for option in (
        click.option(
            "--port",
            type=click.IntRange(0, 65535),
            default=0,
            help=f"Default: {USUAL_PORT} if free, else any.",
        ),
        click.option(
            "--host",
            default=LOOPBACK,
            envvar="PLENTAR_LISTEN",
            show_default=True,
            help="The address to listen at.",
        ),
        click.option(
            "--metrics-port",
            type=click.IntRange(0, 65535),
            default=0,
            envvar="PLENTAR_METRICS_PORT",
            help="Figures for Prometheus, on a port of their own; 0 for none.",
        ),
    ):
        function = option(function)
    return function


@command("serve --port 8000")
@_where
def serve(port: int, host: str, metrics_port: int) -> None:
    """Start the database, migrate, and serve the application until stopped."""
    with _begun(SHOPS, host, port, metrics_port) as (installation, serving):
        with session_on(installation.addresses.rows) as session:
            if holds_demo(session):
                raise Failed(phrase("cli.serve.this-database-holds-demos"))
        serving.serve()


@command("demo --port 8000")
@_where
def demo(port: int, host: str, metrics_port: int) -> None:
    """The same with demo data in a database of their own, loaded once: a lane of fourteen homes,
    its round half done."""
    os.environ["PLENTAR_DEMO"] = "1"
    os.environ.setdefault("PLENTAR_LOG_LEVEL", "warning")
    with _begun(DEMO, host, port, metrics_port, load_demo) as (_, serving):
        serving.serve()


@command("stop")
def stop() -> None:
    """End what serves here, and the database server that it left if it was killed."""
    with failing():
        ended = end_all(home())
        cluster = project_cluster(home(), "postgres")
        left = cluster.lives()
        if left:
            cluster.stop()
    if ended:
        click.echo(phrase("cli.stop.ended", n=ended))
    if left:
        click.echo(phrase("cli.stop.database"))
    if not ended and not left:
        click.echo(phrase("cli.stop.nothing"))


@contextmanager
def _begun(
    name: str, host: str, port: int, metrics_port: int, load: Callable[[Session], bool] | None = None
) -> Iterator[tuple[Installation, Serving]]:
    """The installation and its server, ready to serve. What can't be is said before anything is begun."""
    with failing(), suppress(Stop), stoppable():
        user = own_user()
        check_settings()
        if metrics_port:
            listen(LOOPBACK, metrics_port).close()
        with (
            closing(listen(host, port or _port())) as listening,
            on_record(home(), "serve"),
            own_folder(user),
            installed(name, part_demo_database if load else None, load_server) as installation,
        ):
            prepare(installation, load)
            env = {
                URL: installation.addresses.rows,
                KEY: installation.key(),
                "PLENTAR_ADDRESS": f"http://{host}:{listening.getsockname()[1]}/",
            }
            cluster = installation.cluster
            disk = _disk_of(cluster.folder if cluster is not None else installation.home)
            if cluster is not None:
                env["PLENTAR_DISK"] = str(disk)
            yield installation, Serving(installation, user, listening, env, disk, metrics_port)


def _disk_of(folder: Path) -> Path:
    """Where the disk that a folder lies on is mounted, which anybody may ask about."""
    while folder != folder.parent and folder.parent.stat().st_dev == folder.stat().st_dev:
        folder = folder.parent
    return folder


def prepare(installation: Installation, load: Callable[[Session], bool] | None = None) -> None:
    """The database at the newest migration and loaded. Raises NotReady; one that somebody else looks after
    is not migrated here."""
    with starting(installation.home):
        addresses = installation.addresses
        if installation.cluster is not None:
            bring_up(addresses)
        elif (found := revision_of(addresses.rows)) != newest_revision():
            raise Failed(phrase("cli.serve.older", found=str(found), newest=newest_revision()))
        elif is_superuser(addresses.rows):
            raise Failed(phrase("cli.serve.superuser"))
        with session_on(addresses.rows) as session:
            if load is not None and load(session):
                click.echo(phrase("cli.serve.plentar-demo-data-loaded"))
            fill_missing(session)


def part_demo_database(cluster: Cluster) -> None:
    """A demo of before, which lay where shops do now, gets a database of its own."""
    server = cluster.url("postgres")
    if DEMO in (there := databases(server)) or SHOPS not in there:
        return
    with session_on(cluster.url(SHOPS)) as session:
        alone_there = holds_only_demo(session)
    if alone_there:
        with suppress(OperationalError):  # in use: it stays, and the demo begins anew
            rename_database(server, SHOPS, DEMO)


def _port() -> int:
    return USUAL_PORT if is_free(USUAL_PORT) else free_port()
