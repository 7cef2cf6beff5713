"""plentar serve [--port N] and plentar demo: start the database, migrate, serve on loopback."""

from __future__ import annotations

import argparse
import os
import secrets
import sys
from pathlib import Path

from plentar.store.cluster import free_port, project_cluster

EXAMPLE = "plentar demo --port 8000"
WORKERS, THREADS = 2, 8


def add(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Declare both commands."""
    for name, said in (("serve", "serve the application"), ("demo", "serve it with demo data")):
        parser = commands.add_parser(
            name, help=said, description=__doc__, epilog=f"example: {EXAMPLE}"
        )
        parser.add_argument("--port", type=int, default=0, help="default: 8000 if free, else any")
        parser.set_defaults(run=run, demo=name == "demo")


def home() -> Path:
    """The project's folder, which the executable names."""
    return Path(os.environ.get("PLENTAR_HOME", Path.cwd()))


def run(args: argparse.Namespace) -> int:
    """Prepare, then serve until stopped."""
    url = os.environ.get("PLENTAR_DATABASE_URL") or own_database("plentar")
    os.environ["PLENTAR_DATABASE_URL"] = url
    os.environ.setdefault("PLENTAR_SECRET_KEY", _secret())
    from plentar.store.database import connect, migrate  # noqa: PLC0415  (fast --help)

    migrate(url)
    if args.demo:
        os.environ["PLENTAR_DEMO"] = "1"
        from plentar.store.demo.load import load_demo  # noqa: PLC0415

        with connect(url)() as session:
            if load_demo(session):
                print("plentar: demo data loaded", flush=True)
    port = args.port or _port()
    print(f"plentar: http://127.0.0.1:{port}/  (stop with Ctrl-C)", flush=True)
    command = gunicorn_command(port)
    os.execv(command[0], command)
    return 0


def gunicorn_command(port: int) -> list[str]:
    """The server's command line, for the environment that is set."""
    bind = f"127.0.0.1:{port}"
    return [
        sys.executable, "-m", "gunicorn", "plentar.web.wsgi:application()", "--bind", bind,
        "--workers", str(WORKERS), "--threads", str(THREADS), "--keep-alive", "30",
        "--log-level", "warning",
    ]  # fmt: skip


def own_database(name: str, cluster_name: str = "postgres") -> str:
    """The URL of a database on the project's own server, both made when missing."""
    from plentar.store.database import ensure_database  # noqa: PLC0415

    cluster = project_cluster(home(), cluster_name)
    cluster.start()
    ensure_database(cluster.url("postgres"), name)
    return cluster.url(name)


def _secret() -> str:
    """The key that signs cookies, made once."""
    path = home() / ".run" / "secret"
    path.parent.mkdir(exist_ok=True)
    if not path.exists():
        path.touch(mode=0o600)
        path.write_text(secrets.token_hex(32), encoding="ascii")
    return path.read_text(encoding="ascii")


def _port() -> int:
    import socket  # noqa: PLC0415

    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", 8000))
        except OSError:
            return free_port()
    return 8000
