"""The server's worker: as gunicorn's with threads, and it waits for no client for long.

A proxy in front does this better (``plentar proxy``); without one, a connection that says
nothing costs no thread, and a request that is half sent gives its own back after a while.
"""

from __future__ import annotations

import selectors
import time
from functools import partial
from typing import Any

from gunicorn.workers.gthread import ThreadWorker

#: How long a client may take for the next part of what it sends or reads, s.
PATIENCE_S = 8.0


class PatientWorker(ThreadWorker):  # type: ignore[misc]  # gunicorn has no types
    """Threads that wait for a client's next bytes, and for its reading of ours, so long."""

    def enqueue_req(self, conn: Any) -> None:
        """A connection that has sent nothing yet waits in the poller, where it costs no thread."""
        if conn.initialized or conn.data_ready:
            super().enqueue_req(conn)
            return
        conn.sock.setblocking(False)
        conn.timeout = time.monotonic() + PATIENCE_S
        self.pending_conns.append(conn)
        readable = partial(self.on_pending_socket_readable, conn)
        self.poller.register(conn.sock, selectors.EVENT_READ, readable)

    def handle(self, conn: Any) -> Any:
        begin = conn.init

        def begin_with_patience() -> None:
            begin()
            conn.sock.settimeout(PATIENCE_S)

        conn.init = begin_with_patience
        try:
            return super().handle(conn)
        finally:
            conn.init = begin
