"""What is waited for after everything was killed: from the command to the first answer, beside a process that loads
the same packages and nothing of ours."""

from __future__ import annotations

import http.client
import os
import signal
import statistics
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import closing, suppress
from pathlib import Path
from tempfile import TemporaryDirectory

from plentar.operate.demoted import own_user
from plentar.store.cluster import free_port

TURNS, STARTS_S, WANTED_S = 8, 60.0, 3.0
PACKAGES = "import numpy, sqlalchemy.orm, psycopg, flask, pydantic, wtforms, PIL, gunicorn.app.wsgiapp"


def measure() -> Iterator[str]:
    """The server killed with its database, and started again, by turns with the floor."""
    own_user()
    with TemporaryDirectory(dir="/var/tmp") as made:
        Path(made).chmod(0o755)
        env = os.environ | {"PLENTAR_HOME": made}
        _killed(_started(env)[0], Path(made))
        floors, starts = [], []
        for _ in range(TURNS):
            floors.append(_floor())
            process, taken_s = _started(env)
            starts.append(taken_s)
            _killed(process, Path(made))
    floor_s, start_s = statistics.median(floors), statistics.median(starts)
    yield f"floor, the packages loaded: {floor_s:.2f} s"
    yield (
        f"start after a kill: {start_s:.2f} s, at most {max(starts):.2f} s (wanted: {WANTED_S:.0f} s),"
        f" {start_s / floor_s:.1f} × the floor"
    )


def _floor() -> float:
    begun_s = time.monotonic()
    subprocess.run([sys.executable, "-c", PACKAGES], check=True)
    return time.monotonic() - begun_s


def _started(env: dict[str, str]) -> tuple[subprocess.Popen[bytes], float]:
    port = free_port()
    command = [sys.executable, "-m", "plentar", "serve", "--port", str(port)]
    begun_s = time.monotonic()
    process = subprocess.Popen(command, env=env, stdout=subprocess.DEVNULL)
    while time.monotonic() < begun_s + STARTS_S:
        with suppress(OSError), closing(http.client.HTTPConnection("127.0.0.1", port)) as asked:
            asked.request("GET", "/health/live")
            asked.getresponse().read()
            return process, time.monotonic() - begun_s
        time.sleep(0.01)
    raise RuntimeError("it does not start")


def _killed(process: subprocess.Popen[bytes], home: Path) -> None:
    """Everything that it has started, at once, and the database server with it."""
    below = {process.pid}
    processes = {int(p.name): _parent(p) for p in Path("/proc").iterdir() if p.name.isdigit()}
    while more := {pid for pid, parent in processes.items() if parent in below} - below:
        below |= more
    below |= {int(file.read_text().split()[0]) for file in home.glob(".run/*/data/postmaster.pid")}
    for pid in below:
        with suppress(ProcessLookupError):
            os.kill(pid, signal.SIGKILL)
    process.wait()
    time.sleep(1)


def _parent(process: Path) -> int:
    try:
        return int((process / "stat").read_text().rpartition(") ")[2].split()[1])
    except OSError:
        return 0
