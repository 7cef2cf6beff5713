"""How the application is served: gunicorn, for the environment that is set."""

from __future__ import annotations

import os
import sys

WORKERS, THREADS = 2, 16
APPLICATION = "plentar.web.wsgi:application()"


def gunicorn_command(bind: int | str, application: str = APPLICATION) -> list[str]:
    """The server's command line: on this port of loopback, or where gunicorn's words for an address say."""
    return [
        sys.executable,
        "-m",
        "gunicorn",
        application,
        "--bind",
        f"127.0.0.1:{bind}" if isinstance(bind, int) else bind,
        # As whoever starts it, also where gunicorn was loaded by somebody else.
        "--user",
        str(os.geteuid()),
        "--group",
        str(os.getegid()),
        "--worker-class",
        "plentar.web.worker.PatientWorker",
        "--workers",
        str(WORKERS),
        "--threads",
        str(THREADS),
        "--config",
        "python:plentar.web.watch.hooks",
        "--preload",
        "--no-control-socket",
        "--chdir",
        "/",
        "--graceful-timeout",
        "10",
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
        os.environ.get("PLENTAR_LOG_LEVEL", "warning"),
    ]
