"""A server of its own for a measurement or for pictures."""

from __future__ import annotations

import http.client
import os
import signal
import subprocess
import time
from collections.abc import Iterator
from contextlib import closing, contextmanager

from plentar.operate.installation import home
from plentar.store.cluster import free_port, project_cluster
from plentar.store.database import ensure_database, migrate
from plentar.web.server import gunicorn_command


def fresh_database(name: str) -> str:
    """A database on the project's test server, at the newest migration; its URL as its superuser, for what a
    measurement lays in."""
    cluster = project_cluster(home(), "test-postgres")
    cluster.start()
    ensure_database(cluster.url("postgres"), name)
    migrate(cluster.url(name))
    return cluster.url(name)


@contextmanager
def server(application: str, env: dict[str, str]) -> Iterator[int]:
    """A gunicorn as ``plentar serve`` starts it; its port."""
    port = free_port()
    command = gunicorn_command(port, application)
    process = subprocess.Popen(command, env=os.environ | env, start_new_session=True)
    try:
        for _ in range(200):
            try:
                with closing(http.client.HTTPConnection("127.0.0.1", port, timeout=20)) as asked:
                    asked.request("GET", "/health")
                    asked.getresponse()
                break
            except OSError:
                time.sleep(0.05)
        yield port
    finally:
        os.killpg(process.pid, signal.SIGTERM)
        process.wait()
