"""What gunicorn calls: the figures of a process that has ended count no longer as present."""

from __future__ import annotations

import os
from typing import Any

from prometheus_client.multiprocess import mark_process_dead


def child_exit(_server: Any, worker: Any) -> None:
    """One of its workers has ended."""
    if "PROMETHEUS_MULTIPROC_DIR" in os.environ:
        mark_process_dead(worker.pid)  # type: ignore[no-untyped-call]


def worker_exit(_server: Any, worker: Any) -> None:
    """One of its workers ends: so do the processes beside it, where it came so far."""
    if getattr(worker, "wsgi", None) is None:
        return
    for name in ("plentar_judge", "plentar_sheets"):
        worker.wsgi.extensions[name].close()
