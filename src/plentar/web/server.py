"""How the application is served: gunicorn, for the environment that is set."""

from __future__ import annotations

import sys

WORKERS, THREADS = 2, 16
APPLICATION = "plentar.web.wsgi:application()"


def gunicorn_command(port: int, application: str = APPLICATION) -> list[str]:
    """The server's command line, on loopback."""
    return [
        sys.executable, "-m", "gunicorn", application, "--bind", f"127.0.0.1:{port}",
        "--workers", str(WORKERS), "--threads", str(THREADS), "--keep-alive", "30",
        "--log-level", "warning",
    ]  # fmt: skip
