"""People write while processes are killed, the database freezes or restarts, its disk fills up, and
slow clients hang on. What was acknowledged is there once, afterwards; what was not may be.
"""

from __future__ import annotations

import http.client
import os
import random
import signal
import socket
import subprocess
import threading
import time
import uuid
from collections import Counter
from collections.abc import Callable
from functools import partial
from pathlib import Path

from sqlalchemy import select, text

from benchmarks.attack.place import Counted, Place, new_visit
from benchmarks.browser import Browser
from plentar.store.cluster import as_postgres
from plentar.store.models import VisitEvent

HANDS, PER_VISIT = 4, 60
#: What a blow may take before writing goes on, s.
REST_S = 1.0


class Writer(threading.Thread):
    """Posts readings one after the other until told to stop; sends again what was not answered."""

    def __init__(self, there: Place, number: int, seed: int) -> None:
        super().__init__(daemon=True)
        self.browser, self._units = there.somebody(f"writer{number}", 60)
        self._rng = random.Random(f"{seed}/{number}")
        self.acknowledged: list[str] = []
        self.refused: Counter[int] = Counter()
        self.crashed: list[str] = []
        self.enough = threading.Event()

    def run(self) -> None:
        for unit in self._units * 1000:
            bench = self._opened(unit)
            for _ in range(PER_VISIT):
                if self.enough.is_set():
                    return
                self._write(bench)
            close = partial(self.browser.post, f"{bench}/close", outcome="left-off", left_note="done")
            self._patiently(close)

    def _opened(self, unit: uuid.UUID) -> str:
        bench = ""
        while not bench and not self.enough.is_set():
            self._patiently(lambda: self.browser.ask("GET", "/health/ready"))
            try:
                bench = new_visit(self.browser, unit)
            except (OSError, http.client.HTTPException):
                time.sleep(0.1)
        return bench

    def _patiently(self, act: Callable[[], object]) -> None:
        for _ in range(100):
            try:
                act()
            except (OSError, http.client.HTTPException):
                time.sleep(0.2)
            else:
                return

    def _write(self, bench: str) -> None:
        entry = str(uuid.uuid4())
        again = self._rng.random() < 0.1  # a hand that presses twice
        while not self.enough.is_set():
            try:
                status, page = self.browser.try_to_read(bench, "C1", "volts", "241", entry)
            except (OSError, http.client.HTTPException):
                time.sleep(0.05)
                continue
            if status == http.client.OK:
                if not again:
                    self.acknowledged.append(entry)
                    return
                again = False
            elif status == http.client.SERVICE_UNAVAILABLE:
                self.refused[status] += 1
                time.sleep(0.1)
            else:
                self.crashed.append(f"{status} while writing: {page[:200]}")
                return


def blows(there: Place, entries: int, seed: int) -> Counted:
    """So many acknowledged entries, blow after blow, then the count."""
    writers = [Writer(there, number, seed) for number in range(HANDS)]
    for writer in writers:
        writer.start()
    said: list[str] = []
    falling = (
        _kill_worker,
        _kill_backend,
        _freeze,
        _slow_clients,
        _kill_postmaster,
        _restart_server,
        _full_disk,
    )
    share = entries // (len(falling) + 1)
    began_s = time.monotonic()
    for number, blow in enumerate(falling, start=1):
        _until(writers, number * share)
        said.append(blow(there))
        there.wait_until_ready()
        time.sleep(REST_S)
    _until(writers, entries)
    for writer in writers:
        writer.enough.set()
    for writer in writers:
        writer.join(60)
    took_s = time.monotonic() - began_s
    return _count(there, writers, said, took_s)


def _until(writers: list[Writer], entries: int) -> None:
    until_s = time.monotonic() + 600
    while sum(len(w.acknowledged) for w in writers) < entries and time.monotonic() < until_s:
        time.sleep(0.1)


def _count(there: Place, writers: list[Writer], said: list[str], took_s: float) -> Counted:
    acknowledged = [entry for writer in writers for entry in writer.acknowledged]
    with there.sessions() as session:
        stored = Counter(map(str, session.scalars(select(VisitEvent.client_id))))
    lost = [entry for entry in acknowledged if stored[entry] == 0]
    doubled = [entry for entry in acknowledged if stored[entry] > 1]
    crashed = [text for writer in writers for text in writer.crashed]
    refused = sum(writer.refused.total() for writer in writers)
    lines = [
        *said,
        f"acknowledged entries: {len(acknowledged):,} in {took_s:.0f} s; lost {len(lost)}, doubled"
        f" {len(doubled)}; told to wait {refused:,} times; crashes {len(crashed)}",
    ]
    wrong = [f"lost {entry}" for entry in lost] + [f"doubled {entry}" for entry in doubled]
    return Counted(lines, wrong + crashed)


def _kill_worker(there: Place) -> str:
    for pid in there.workers():
        os.kill(pid, signal.SIGKILL)
    return "blow: kill -9 of both workers"


def _kill_backend(there: Place) -> str:
    os.kill(_backends(there)[0], signal.SIGKILL)
    return "blow: kill -9 of a database backend"


def _backends(there: Place) -> list[int]:
    with there.sessions() as session:
        query = text(
            "select pid from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()"
        )
        return list(session.scalars(query))


def _freeze(there: Place) -> str:
    """Every process of the database stands still: whoever asks is told so within five seconds."""
    pidfile = there.cluster.folder / "data" / "postmaster.pid"
    frozen = [*_backends(there), int(pidfile.read_text().splitlines()[0])]
    slowest_s = 0.0
    for pid in frozen:
        os.kill(pid, signal.SIGSTOP)
    try:
        browser = Browser(there.port, 60)
        for _ in range(3):
            began_s = time.monotonic()
            browser.ask("GET", "/health/ready")
            slowest_s = max(slowest_s, time.monotonic() - began_s)
    finally:
        for pid in frozen:
            os.kill(pid, signal.SIGCONT)
    return f"blow: a frozen database; the slowest of three answers took {slowest_s:.1f} s"


def _slow_clients(there: Place) -> str:
    """More half-sent requests than threads, and many that say nothing, while people write."""
    half = b"POST /sign-in HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 900\r\n\r\nx"
    held = []
    for number in range(600):
        wire = socket.create_connection(("127.0.0.1", there.port))
        if number < 20:
            wire.sendall(half)
        held.append(wire)
    began_s = time.monotonic()
    Browser(there.port, 60).ask("GET", "/health/live")
    took_s = time.monotonic() - began_s
    for wire in held:
        wire.close()
    return f"blow: 20 half-sent requests and 580 idle connections; a page came after {took_s:.1f} s"


def _kill_postmaster(there: Place) -> str:
    pidfile = there.cluster.folder / "data" / "postmaster.pid"
    postmaster = int(pidfile.read_text().splitlines()[0])
    children = subprocess.run(
        ["pgrep", "-P", str(postmaster)], check=False, capture_output=True, text=True
    ).stdout.split()
    os.kill(postmaster, signal.SIGKILL)
    for pid in children:
        try:
            os.kill(int(pid), signal.SIGKILL)
        except ProcessLookupError:
            continue
    _gone(postmaster)
    before = there.cluster.usual_port()
    same = there.cluster.start() == before
    return f"blow: kill -9 of the postmaster; back at the {'same' if same else 'OTHER'} port"


def _gone(pid: int) -> None:
    """Until a process that was killed is dead, buried or not."""
    status = Path(f"/proc/{pid}/stat")
    while status.exists() and status.read_text().rpartition(") ")[2][:1] != "Z":
        time.sleep(0.05)


def _restart_server(there: Place) -> str:
    there.stop(signal.SIGTERM)
    there.start()
    return "blow: SIGTERM of the server, started again"


def _full_disk(there: Place) -> str:
    """The cluster may write no more: its processes are held to the size that files have."""
    pidfile = there.cluster.folder / "data" / "postmaster.pid"
    postmaster = pidfile.read_text().splitlines()[0]
    try:
        for pid in [postmaster, *map(str, _backends(there))]:
            subprocess.run(
                [*as_postgres(), "prlimit", "--pid", pid, "--fsize=8192:unlimited"],
                check=pid == postmaster,
                capture_output=True,
            )
    except (OSError, subprocess.CalledProcessError):
        return "blow: full disk NOT TRIED (prlimit is missing or not allowed)"
    time.sleep(4)
    for pid in [postmaster, *(p.name for p in Path("/proc").iterdir() if p.name.isdigit())]:
        if _is_of(pid, postmaster):
            subprocess.run(
                [*as_postgres(), "prlimit", "--pid", pid, "--fsize=unlimited:unlimited"],
                check=False,
                capture_output=True,
            )
    there.cluster.start()
    return "blow: the database may write no more for four seconds"


def _is_of(pid: str, postmaster: str) -> bool:
    if pid == postmaster:
        return True
    try:
        return f"PPid:\t{postmaster}\n" in Path(f"/proc/{pid}/status").read_text()
    except OSError:
        return False
