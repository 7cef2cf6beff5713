"""How the application is served: gunicorn, for the environment that is set."""

from __future__ import annotations

import sys

WORKERS, THREADS = 2, 16
APPLICATION = "plentar.web.wsgi:application()"


def gunicorn_command(port: int, application: str = APPLICATION) -> list[str]:
    """The server's command line, on loopback."""
    return [
        sys.executable,
        "-m",
        "gunicorn",
        application,
        "--bind",
        f"127.0.0.1:{port}",
        "--worker-class",
        "plentar.web.worker.PatientWorker",
        "--workers",
        str(WORKERS),
        "--threads",
        str(THREADS),
        "--keep-alive",
        "30",
        # A net under what is bounded anyway: memory that a library holds on to.
        "--max-requests",
        "20000",
        "--max-requests-jitter",
        "2000",
        "--worker-connections",
        "4000",
        "--limit-request-line",
        "4094",
        "--limit-request-fields",
        "60",
        "--forwarder-headers",
        "",
        "--log-level",
        "warning",
    ]
