"""Which servers of an installation run: each keeps a locked file for as long as it does."""

from __future__ import annotations

import fcntl
import os
import signal
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from plentar.operate.installation import run_folder

_END_S = 40.0


@contextmanager
def on_record(at: Path, name: str) -> Iterator[None]:
    """This process serves, as long as this is open."""
    kept = run_folder(at) / f"{name}-{os.getpid()}.pid"
    with os.fdopen(
        os.open(kept, os.O_CREAT | os.O_TRUNC | os.O_WRONLY | os.O_NOFOLLOW, 0o600), "w", encoding="ascii"
    ) as file:
        fcntl.flock(file, fcntl.LOCK_EX)
        file.write(str(os.getpid()))
        file.flush()
        try:
            yield
        finally:
            kept.unlink(missing_ok=True)


def serving(at: Path) -> list[int]:
    """The processes that serve. A file that nobody holds was left by one that was killed, and goes."""
    found = []
    for kept in run_folder(at).glob("*.pid"):
        with kept.open(encoding="ascii") as file:
            try:
                fcntl.flock(file, fcntl.LOCK_SH | fcntl.LOCK_NB)
            except BlockingIOError:
                found.append(int(file.read() or 0))
            else:
                kept.unlink(missing_ok=True)
    return [pid for pid in found if pid]


def end_all(at: Path) -> int:
    """End those that serve, and wait until they have; how many there were."""
    there = serving(at)
    for pid in there:
        os.kill(pid, signal.SIGTERM)
    until_s = time.monotonic() + _END_S
    while serving(at) and time.monotonic() < until_s:
        time.sleep(0.1)
    return len(there)
