"""Connections that give up: on a server that is gone, frozen, or holds a lock for too long.

The server's own time-outs help while it runs. One that is frozen says nothing at all, so each
connection also says since when it waits, and one thread of the process shuts those that wait too
long: the statement then fails as it does when the server has gone.
"""

from __future__ import annotations

import os
import select
import socket
import threading
import time
from typing import Any
from weakref import WeakSet

import psycopg
from sqlalchemy import Engine, create_engine, event
from sqlalchemy.engine import make_url
from sqlalchemy.exc import DisconnectionError

CONNECT_S, STATEMENT_S, LOCK_S, POOL_S, FROZEN_S = 3, 3.5, 3, 3, 4.0
_LOOK_S = 0.25
_SERVER = {
    "statement_timeout": int(1000 * STATEMENT_S),
    "lock_timeout": int(1000 * LOCK_S),
    "idle_in_transaction_session_timeout": 600_000,
}


class WatchedConnection(psycopg.Connection[Any]):
    """A connection that says since when it waits for the server; 0 where it does not."""

    waits_since_s = 0.0

    def wait(self, *args: Any, **kwargs: Any) -> Any:
        """Wait for the server, watched."""
        self.waits_since_s = time.monotonic()
        try:
            return super().wait(*args, **kwargs)
        finally:
            self.waits_since_s = 0.0


class _Watch:
    """The thread that shuts what waits too long; one a process, a forked one starts its own."""

    def __init__(self) -> None:
        self.begin_anew()

    def begin_anew(self) -> None:
        """With nothing watched, and a lock that nobody holds: a fork has copied it as it was just then."""
        self._watched: WeakSet[WatchedConnection] = WeakSet()
        self._lock = threading.Lock()
        self._thread: threading.Thread | None = None

    def add(self, connection: WatchedConnection) -> None:
        """Watch a connection for as long as it lives."""
        with self._lock:
            self._watched.add(connection)
            if self._thread is None or not self._thread.is_alive():
                self._thread = threading.Thread(target=self._look, name="frozen", daemon=True)
                self._thread.start()

    def _look(self) -> None:
        while True:
            time.sleep(_LOOK_S)
            now_s = time.monotonic()
            with self._lock:
                watched = list(self._watched)
            for connection in watched:
                since_s = connection.waits_since_s
                if since_s and now_s - since_s > FROZEN_S and not connection.closed:
                    with socket.socket(fileno=socket.dup(connection.fileno())) as wire:
                        wire.shutdown(socket.SHUT_RDWR)


_WATCH = _Watch()
os.register_at_fork(after_in_child=_WATCH.begin_anew)


def engine_for(url: str, size: int) -> Engine:
    """An engine whose statements end: with an answer, or with an error within five seconds."""
    target = make_url(url).set(drivername="postgresql").render_as_string(hide_password=False)
    options = " ".join(f"-c {name}={value}" for name, value in _SERVER.items())

    def connect() -> WatchedConnection:
        made = WatchedConnection.connect(target, connect_timeout=CONNECT_S, options=options)
        _WATCH.add(made)
        return made

    engine = create_engine(
        url, creator=connect, pool_size=size, max_overflow=4, pool_timeout=POOL_S, hide_parameters=True
    )
    event.listen(engine, "checkout", _still_there)
    return engine


def _still_there(connection: WatchedConnection, _record: object, _proxy: object) -> None:
    """An idle connection has nothing to say: one that has was closed by the server."""
    poll = select.poll()
    poll.register(connection.fileno(), select.POLLIN | select.POLLHUP)
    if poll.poll(0):
        raise DisconnectionError("closed by the server while it was idle")
